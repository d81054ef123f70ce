import { useCallback, useEffect, useRef, useState } from "react";
import { client, mayPass, need, Unreachable } from "../api/client";
import type {
  CardLine,
  FieldEvent,
  Job,
  LooseLine,
  OrderLine,
  PastFixView,
  PocketDay,
  PocketOrder,
  RunView,
  SiteAsset,
} from "../api/types";
import { keepOrder, keepView, type Parcel, parcelsOf, takenOrder } from "./device-store";
import { SENT, type Sent, useOutbox } from "./outbox";
import { type JobView, rulesOfPage, screenShown } from "./rules";

/** How often an order that could not be fetched is asked for again, in milliseconds. */
const TRY_AGAIN_MS = 4_000;
/** Parcels that the server has and that are still replayed here; then the order is fetched anew. */
const MOST_REPLAYED = 60;

/** An order as it is carried on here: what was fetched, and the job with all that was recorded since. */
export interface CarriedOrder {
  line: OrderLine;
  job: Job;
  run: RunView;
  loose: LooseLine[];
  pastFixes: PastFixView[];
  /** What its page shows of it first. */
  card: CardLine[];
  /** The equipment at its site. */
  siteAssets: SiteAsset[];
}

export interface Carrying {
  order: CarriedOrder | null;
  /** Why there is nothing to show. */
  error: unknown;
  /** What came down from the office while the order was open, in words. */
  news: string;
  /** Why the last thing was not recorded, in words. */
  refused: string;
  /** Whether the rules run here by now. */
  isReady: boolean;
  /** Record events; false when they are not recorded. */
  record: (...events: FieldEvent[]) => Promise<boolean>;
}

/**
 * Carry an order on: from what is kept on the device, by the rules of the core on the device, whether or not
 * there is a network. Until the rules run, what is already known is shown. `day` tells whether somebody else has
 * changed the order meanwhile.
 */
export function useCarriedOrder(person: string, id: string, day: PocketDay | null): Carrying {
  const { box, isRead, kept } = useOutbox(person);
  const [base, setBase] = useState<PocketOrder | null>(null);
  const [view, setView] = useState<JobView | null>(null);
  const [error, setError] = useState<unknown>(null);
  const [news, setNews] = useState("");
  const [refused, setRefused] = useState("");
  const [isReady, setReady] = useState(rulesOfPage().isReady);
  const turn = useRef<Promise<unknown>>(Promise.resolve());
  const held = useRef<PocketOrder | null>(null);
  /** Whether the rules have the order, and which parcels they have carried it on by. */
  const isOpen = useRef(false);
  const replayed = useRef(new Set<string>());
  const key = `${person} ${id}`;

  /** One after the other: what is recorded, and what is worked out anew. */
  const inTurn = useCallback(<T>(work: () => Promise<T>): Promise<T> => {
    const done = turn.current.then(work, work);
    turn.current = done.catch(() => undefined);
    return done;
  }, []);

  const show = useCallback(
    (found: JobView) => {
      setView(found);
      // Kept for the next time it is opened; where it cannot be, it is worked out then.
      keepView(person, id, found).catch(() => undefined);
    },
    [person, id],
  );

  /** What is gone on from: what was fetched here, or since then by another page of this device. */
  const newest = useCallback(async () => {
    const before = held.current;
    const taken = before && (await takenOrder(person, id).catch(() => undefined))?.order;
    if (before && taken && taken.n_recorded > before.n_recorded) {
      held.current = taken;
      setBase(taken);
      if (before.version !== taken.version) setNews(newsOf(before, taken));
    }
    return held.current;
  }, [person, id]);

  /** Open the order with the rules, from what the server has and what it has not; nothing while they do not run. */
  const open = useCallback(async (): Promise<JobView | null> => {
    const rules = rulesOfPage();
    isOpen.current = false;
    const order = await newest();
    if (!order || !rules.isReady) return null;
    const here = toReplay(await parcelsOf(person), order);
    const { view } = await rules.open(
      key,
      order,
      here.map((p) => p.events),
    );
    replayed.current = new Set(here.map((p) => p.id));
    isOpen.current = true;
    return view;
  }, [key, person, newest]);

  /** Whether the rules carry the order on by all that is on the device. */
  const isCaughtUp = useCallback(async () => {
    const here = toReplay(await parcelsOf(person), held.current);
    return (
      isOpen.current &&
      here.length === replayed.current.size &&
      here.every((parcel) => replayed.current.has(parcel.id))
    );
  }, [person]);

  /** Work the job out anew; `ifBehind` not where the rules have all of it by their turn. */
  const reopen = useCallback(
    ({ ifBehind = false } = {}) =>
      inTurn(async () => {
        if (ifBehind && (await isCaughtUp())) return;
        const found = await open().catch(() => null);
        const order = held.current;
        if (found) show(found);
        else if (order && toReplay(await parcelsOf(person), order).length === 0)
          show({ job: order.job, run: order.run, state: order.line.state });
      }),
    [inTurn, isCaughtUp, open, person, show],
  );

  const take = useCallback(
    async (order: PocketOrder, asked: number | null) => {
      const before = held.current;
      held.current = order;
      setBase(order);
      // What the server worked out is shown at once where nothing was recorded here since: the rules may take long to begin.
      const asSent = { job: order.job, run: order.run, state: order.line.state };
      if (toReplay(await parcelsOf(person), order).length === 0) setView((shown) => shown ?? asSent);
      if (asked !== null) {
        await keepOrder(person, order, asked);
        if (before && before.version !== order.version) setNews(newsOf(before, order));
      }
      await reopen();
    },
    [person, reopen],
  );

  const ask = useCallback(
    () => need(client.GET("/api/v1/pocket/orders/{order_id}", { params: { path: { order_id: id } } })),
    [id],
  );

  const fetchAnew = useCallback(
    async (asked = Date.now(), asking = ask()) => {
      try {
        await take(await asking, asked);
        setError(null);
      } catch (trouble) {
        if (!(trouble instanceof Unreachable) || !held.current) setError(trouble);
      }
    },
    [ask, take],
  );

  // First what the device has, then what the server has; it is asked meanwhile.
  useEffect(() => {
    let here = true;
    const begin = async () => {
      const asked = Date.now();
      const asking = ask();
      asking.catch(() => undefined);
      const known = await takenOrder(person, id).catch(() => undefined);
      if (!here) return;
      if (known) {
        if (known.view) setView(known.view);
        await take(known.order, null);
      }
      await fetchAnew(asked, asking);
    };
    void begin();
    void rulesOfPage().begun.then((runs) => {
      if (!here || !runs) return;
      setReady(true);
      void reopen();
    });
    return () => {
      here = false;
    };
  }, [person, id, ask, take, fetchAnew, reopen]);

  // While there is nothing to show and trying again may help, it is tried again by itself.
  const isWaiting = error !== null && mayPass(error) && base === null;
  useEffect(() => {
    if (!isWaiting) return;
    const again = () => void fetchAnew();
    const later = window.setInterval(again, TRY_AGAIN_MS);
    window.addEventListener("online", again);
    return () => {
      window.clearInterval(later);
      window.removeEventListener("online", again);
    };
  }, [isWaiting, fetchAnew]);

  // What the server took in beside the order is told; without rules here, the server's are asked for.
  useEffect(() => {
    const sent = (event: Event) => {
      const { order, loose } = (event as CustomEvent<Sent>).detail;
      if (order === id && (loose || !isOpen.current)) void fetchAnew();
    };
    window.addEventListener(SENT, sent);
    return () => window.removeEventListener(SENT, sent);
  }, [id, fetchAnew]);

  // Somebody else changed it, or it is no longer the technician's.
  useEffect(() => {
    const line = day?.orders.find((one) => one.line.id === id);
    if (day && held.current && line?.version !== held.current.version) void fetchAnew();
  }, [id, day, fetchAnew]);

  // Another tab recorded something, something was refused, or much has been sent since the order was fetched.
  const here = base ? toReplay(kept, base) : [];
  const mark = here.map((p) => p.id).join();
  const nSent = here.filter((p) => p.recorded !== undefined).length;
  useEffect(() => {
    const ids = mark ? mark.split(",") : [];
    const isKnown = ids.length === replayed.current.size && ids.every((one) => replayed.current.has(one));
    if (isRead && base && !isKnown) void reopen({ ifBehind: true });
  }, [isRead, base, mark, reopen]);
  useEffect(() => {
    if (nSent > MOST_REPLAYED) void fetchAnew();
  }, [nSent, fetchAnew]);

  /** What the rules here make of events; nothing where they do not run or have stopped, and then the server is asked. */
  const heldAgainstTheRules = useCallback(
    async (events: FieldEvent[]) => {
      const rules = rulesOfPage();
      try {
        if (rules.isReady && !isOpen.current) await open();
        return isOpen.current ? await rules.record(key, events) : null;
      } catch {
        isOpen.current = false;
        return null;
      }
    },
    [open, key],
  );

  const record = useCallback(
    (...events: FieldEvent[]) => {
      // Kept here before anything else: what is before it may take long, and the page may be gone by then.
      const noting = box.note(id, events);
      return inTurn(async () => {
        setRefused("");
        const found = await heldAgainstTheRules(events);
        const noted = await noting;
        if (found?.refused && (!noted || (await box.withdraw(noted)))) {
          setRefused(`This is not recorded: ${found.refused.detail}`);
          return false;
        }
        if (!noted) {
          const back = await open().catch(() => null);
          if (back) show(back);
          return false;
        }
        const isChecked = found !== null && !found.refused;
        if (isChecked) for (const parcel of noted.ids) replayed.current.add(parcel);
        await box.release(noted, { isChecked });
        if (isChecked) show(found.view);
        return true;
      });
    },
    [inTurn, open, heldAgainstTheRules, box, id, show],
  );

  const isShown = base !== null && view !== null;
  useEffect(() => {
    if (isShown) screenShown();
  }, [isShown]);

  const order =
    base && view
      ? {
          line: { ...base.line, state: view.state },
          job: view.job,
          run: view.run,
          loose: base.loose,
          // Orders taken along before there were past fixes have none.
          pastFixes: base.past_fixes ?? [],
          card: base.card ?? [],
          siteAssets: base.site_assets ?? [],
        }
      : null;
  return { order, error: order ? null : error, news, refused, isReady, record };
}

/** What is on the device and not in what was fetched of the order. */
function toReplay(kept: Parcel[], order: PocketOrder | null): Parcel[] {
  return kept.filter(
    (p) =>
      p.order === order?.line.id &&
      !p.checkedBy &&
      !p.refusal &&
      !p.settled &&
      (p.recorded === undefined || p.recorded > order.n_recorded),
  );
}

/** What is different in an order that came down, in words. */
function newsOf(before: PocketOrder, now: PocketOrder): string {
  if (now.line.state === "Cancelled" && before.line.state !== "Cancelled")
    return "The office cancelled this order. What you record is kept beside it.";
  if (before.line.technician !== now.line.technician)
    return `The office gave this order to ${now.line.technician_name || "nobody yet"}. What you record is kept beside it.`;
  const plans = now.line.plans.filter((plan) => !before.line.plans.includes(plan));
  if (plans.length > 0) return `The office added ${plans.join(", ")}.`;
  if (before.line.plans.length > now.line.plans.length) return "The office took a document off this order.";
  if (before.line.planned_for !== now.line.planned_for)
    return "The office planned this order for another time.";
  const decided = now.loose.find(
    (l) => l.decision && !before.loose.some((b) => b.submission === l.submission && b.decision),
  );
  if (decided) return `The office decided on what you recorded: ${decided.decision}.`;
  const supplies = Object.entries(now.job.supplies).filter(
    ([id, supply]) => supply.state !== before.job.supplies[id]?.state,
  );
  const latest = supplies.at(-1)?.[1];
  if (latest?.state === "sent") return "The office sent a part ahead. Confirm it here once you have it.";
  if (latest?.state === "granted") return "Your colleague lets you have the part.";
  if (latest?.state === "not granted") return "Your colleague cannot let you have the part.";
  return "Somebody else recorded something on this order.";
}
