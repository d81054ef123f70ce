import { useEffect, useSyncExternalStore } from "react";
import { v4 as newId } from "uuid";
import { client, mayPass, need, Refused, SIGNED_IN_AGAIN, Unreachable } from "../api/client";
import type { Answer, FieldEvent, ProblemAnswer, SubmissionAnswer } from "../api/types";
import {
  dropParcel,
  type KeptPicture,
  keepParcels,
  keepPicture,
  noteParcel,
  notePicture,
  type Parcel,
  parcelsOf,
  picturesOf,
  releaseParcels,
  withdrawParcels,
} from "./device-store";
import { leftByPages, PAGE, pageIsHeld } from "./open-pages";
import { fits } from "./room";

/** What sends pictures is loaded after the first page is drawn, and with it what hashes them. */
export const loadPieces = () => import("./picture-pieces");

/** Events of one request; more go in several. */
const MAX_EVENTS = 500;
/** Parcels of one request. */
const MAX_PARCELS = 25;
const AGAIN_MS = 8_000;
/** An answer that has not come by now is told as no connection; it may still come. */
const TOLD_MS = 15_000;
/** By now it is no longer waited for: over a line that just went down a request may hang for good. */
const ANSWER_MS = 30_000;
/** After one that did not come the next is waited for twice as long, up to this: a slow server is no line that is down. */
const MOST_ANSWER_MS = 60_000;

/** What this page noted and its rules still look at, by the identities of its parcels. */
const underCheck = new Set<string>();

/** Why what waits does not go. */
type Held = "" | "offline" | "signed out" | "busy";

export interface OutboxState {
  /** Whether what is kept on the device was read. */
  isRead: boolean;
  /** Everything of this person on the device, in the order it was recorded. */
  kept: Parcel[];
  /** What the server does not have and that is still to be dealt with. */
  parcels: Parcel[];
  /** What was refused and recorded another way; kept here all the same. */
  settled: Parcel[];
  pictures: KeptPicture[];
  held: Held;
  /** How much was recorded just now and is not kept on the device yet. */
  nComing: number;
  /** What could not even be kept on the device, in words. */
  lost: string;
}

/** Told when the server took something in for an order, or kept it beside it. */
export const SENT = "reedling-sent";
export interface Sent {
  order: string;
  loose: boolean;
}

const NEARLY_FULL =
  "This picture is not recorded: what room is left on this device is kept for answers. Send what waits, or free some room, then take it again.";
const NO_ROOM =
  "This is not recorded: the browser has no room left for it on this device. Send what waits, or free some room, then record it again.";

/**
 * What a person recorded and the server has not. Kept on the device before anything else, sent in order, each
 * parcel under an identity of its own, so that one sent twice is taken in once. Pictures go by themselves:
 * what was recorded never waits for them.
 */
export class Outbox {
  private state: OutboxState = {
    isRead: false,
    kept: [],
    parcels: [],
    settled: [],
    pictures: [],
    held: "",
    nComing: 0,
    lost: "",
  };
  private readonly listeners = new Set<() => void>();
  private readonly tabs: BroadcastChannel | null;
  private sending: Promise<void> = Promise.resolve();
  private sendingPictures: Promise<void> = Promise.resolve();
  private users = 0;
  private end: () => void = () => undefined;
  private hanging = new AbortController();

  constructor(readonly person: string) {
    this.tabs = "BroadcastChannel" in window ? new BroadcastChannel(`reedling-outbox-${person}`) : null;
    if (this.tabs) this.tabs.onmessage = () => void this.look();
  }

  readonly snapshot = () => this.state;

  readonly subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => {
      this.listeners.delete(listener);
    };
  };

  /** Read anew what is kept on the device. */
  readonly look = async () => {
    const [kept, pictures] = await Promise.all([parcelsOf(this.person), picturesOf(this.person)]);
    const unsent = kept.filter((p) => p.recorded === undefined);
    this.set({
      isRead: true,
      kept,
      parcels: unsent.filter((p) => !p.settled),
      settled: unsent.filter((p) => p.settled),
      pictures,
    });
  };

  /**
   * Note what is recorded for an order, on the device, before the rules have looked at it; gives where it is, nothing
   * when it could not be kept, and then it is not recorded. It is sent once it is released.
   */
  readonly note = async (order: string, events: FieldEvent[]): Promise<Noted | null> => {
    const parcels: Omit<Parcel, "n">[] = [];
    for (let i = 0; i < events.length; i += MAX_EVENTS)
      parcels.push({
        id: newId(),
        person: this.person,
        order,
        events: events.slice(i, i + MAX_EVENTS),
        checkedBy: PAGE,
        at: Date.now(),
      });
    const ids = parcels.map((parcel) => parcel.id);
    for (const id of ids) underCheck.add(id);
    this.set({ nComing: this.state.nComing + 1 });
    try {
      await pageIsHeld;
      const places = await keepParcels(parcels);
      await this.changed().catch(() => undefined);
      this.set({ lost: "" });
      return { ids, places };
    } catch {
      for (const id of ids) underCheck.delete(id);
      this.set({ lost: NO_ROOM });
      return null;
    } finally {
      this.set({ nComing: this.state.nComing - 1 });
    }
  };

  /** What was noted goes to the server from now on: the rules had nothing against it, or could not be asked. */
  readonly release = async ({ ids, places }: Noted, { isChecked }: { isChecked: boolean }) => {
    // Where this cannot be written it stays noted, and is released with what pages left.
    await releaseParcels(places, { isChecked }).catch(() => undefined);
    for (const id of ids) underCheck.delete(id);
    await this.changed().catch(() => undefined);
    void this.flush();
  };

  /** The rules refused what was noted; false where it was released meanwhile, and then it stays. */
  readonly withdraw = async ({ ids, places }: Noted): Promise<boolean> => {
    const isBack = await withdrawParcels(places).catch(() => false);
    if (isBack) for (const id of ids) underCheck.delete(id);
    await this.changed().catch(() => undefined);
    return isBack;
  };

  /** Keep a picture until the server has it; gives its identity, nothing when it could not be kept. */
  readonly keepPicture = async (
    picture: Omit<KeptPicture, "id" | "person" | "at" | "sha256">,
  ): Promise<string | null> => {
    const id = newId();
    if (!(await fits(picture.blob.size))) {
      this.set({ lost: NEARLY_FULL });
      return null;
    }
    try {
      const { hashOf } = await loadPieces();
      const sha256 = await hashOf(picture.blob);
      await keepPicture({ ...picture, id, sha256, person: this.person, at: Date.now() });
    } catch {
      this.set({ lost: NO_ROOM });
      return null;
    }
    await this.changed();
    void this.flushPictures();
    return id;
  };

  /** Send one again that was refused. */
  readonly again = async (parcel: Parcel) => {
    await noteParcel(parcel.n, { refusal: undefined });
    await this.changed();
    await this.flush();
  };

  /** Send a picture again that was refused. */
  readonly pictureAgain = async (picture: KeptPicture) => {
    await notePicture(picture.id, undefined);
    await this.changed();
    await this.flushPictures();
  };

  /** What was refused was recorded another way. */
  readonly settle = async (parcel: Parcel) => {
    await noteParcel(parcel.n, { settled: true });
    await this.changed();
  };

  /** Send all that waits, one after the other; only one tab at a time where the browser can see to it. */
  readonly flush = (): Promise<void> => {
    const work = () => alone(`reedling-send-${this.person}`, this.sendParcels);
    this.sending = this.sending.then(work, work);
    return this.sending;
  };

  readonly flushPictures = (): Promise<void> => {
    const work = () => alone(`reedling-pictures-${this.person}`, this.sendPictures);
    this.sendingPictures = this.sendingPictures.then(work, work);
    return this.sendingPictures;
  };

  /** Send from now on whenever it may help; gives what ends it. */
  readonly begin = () => {
    this.users += 1;
    if (this.users === 1) this.end = this.start();
    return () => {
      this.users -= 1;
      if (this.users === 0) this.end();
    };
  };

  private patience = ANSWER_MS;

  private start() {
    const now = () => {
      // What was asked over the line as it was before is not waited for: the server takes a repeat in once.
      this.hanging.abort();
      this.hanging = new AbortController();
      void this.flush();
      void this.flushPictures();
    };
    const later = window.setInterval(() => {
      if (this.state.parcels.some((p) => !p.refusal)) void this.flush();
      if (this.state.pictures.some((p) => !p.refusal)) void this.flushPictures();
    }, AGAIN_MS);
    for (const event of [SIGNED_IN_AGAIN, "online"]) window.addEventListener(event, now);
    void this.look().then(now);
    return () => {
      window.clearInterval(later);
      for (const event of [SIGNED_IN_AGAIN, "online"]) window.removeEventListener(event, now);
    };
  }

  /** What a page noted and left before its rules had looked at it is released as it stands. */
  private readonly releaseLeft = async (kept: Parcel[]) => {
    const left = await leftByPages(kept, underCheck);
    if (left.length === 0) return kept;
    await releaseParcels(
      left.map((parcel) => parcel.n),
      { isChecked: false },
    );
    await this.changed();
    return parcelsOf(this.person);
  };

  private readonly sendParcels = async () => {
    const waits = (p: Parcel) => !p.checkedBy && !p.refusal && !p.settled && p.recorded === undefined;
    const waiting = (await this.releaseLeft(await parcelsOf(this.person))).filter(waits);
    let most = MAX_PARCELS;
    while (waiting.length > 0) {
      const bundle = firstOf(waiting, most);
      const line = AbortSignal.any([this.hanging.signal, AbortSignal.timeout(this.patience)]);
      const telling = window.setTimeout(() => this.set({ held: "offline" }), TOLD_MS);
      const sent = await send(bundle, line).finally(() => window.clearTimeout(telling));
      // One of them is why none was read: each goes by itself, so that it holds up none of the others.
      if (sent === "unread") {
        most = 1;
        continue;
      }
      this.patience = sent.held === "offline" ? Math.min(2 * this.patience, MOST_ANSWER_MS) : ANSWER_MS;
      await this.changed();
      this.set({ held: sent.held });
      for (const detail of sent.told) window.dispatchEvent(new CustomEvent<Sent>(SENT, { detail }));
      if (sent.held) return;
      waiting.splice(0, sent.nAnswered);
    }
  };

  private readonly sendPictures = async () => {
    const waiting = (await picturesOf(this.person)).filter((picture) => !picture.refusal);
    if (waiting.length === 0) return;
    const { sendPicture } = await loadPieces();
    for (const picture of waiting.sort((one, other) => one.blob.size - other.blob.size)) {
      const outcome = await sendPicture(picture);
      await this.changed();
      if (outcome === "held") return;
    }
  };

  private async changed() {
    await this.look();
    this.tabs?.postMessage("changed");
  }

  private set(change: Partial<OutboxState>) {
    this.state = { ...this.state, ...change };
    for (const listener of this.listeners) listener();
  }
}

/** Do something in one tab at a time, where the browser has locks; where it has not, the server keeps order. */
async function alone(name: string, work: () => Promise<void>) {
  if (navigator.locks) await navigator.locks.request(name, work);
  else await work();
}

const outboxes = new Map<string, Outbox>();

/** The outbox of a person on this page. */
function outboxOf(person: string): Outbox {
  const held = outboxes.get(person) ?? new Outbox(person);
  outboxes.set(person, held);
  return held;
}

/** A person's outbox and how it stands; it sends for as long as something on the page uses it. */
export function useOutbox(person: string): OutboxState & { box: Outbox } {
  const box = outboxOf(person);
  const state = useSyncExternalStore(box.subscribe, box.snapshot);
  useEffect(() => box.begin(), [box]);
  return { ...state, box };
}

/** The first of what waits that go together. */
function firstOf(waiting: Parcel[], most: number): Parcel[] {
  let nEvents = 0;
  return waiting.slice(0, most).filter((parcel, n) => {
    nEvents += parcel.events.length;
    return n === 0 || nEvents <= MAX_EVENTS;
  });
}

/** Where on the device something is that was recorded at once: its parcels' identities and places. */
export interface Noted {
  ids: string[];
  places: number[];
}

interface SentBundle {
  held: Held;
  /** How many of them the server dealt with, from the first. */
  nAnswered: number;
  told: Sent[];
}

/** Send parcels together: each leaves the device on a receipt that names it, and on nothing else. */
async function send(bundle: Parcel[], signal: AbortSignal): Promise<SentBundle | "unread"> {
  const stopped = (held: Held): SentBundle => ({ held, nAnswered: 0, told: [] });
  try {
    const answers = await need(
      client.POST("/api/v1/pocket/submissions", {
        body: {
          sent_at: new Date().toISOString(),
          submissions: bundle.map((parcel) => ({
            id: parcel.id,
            order: parcel.order,
            person: parcel.person,
            events: parcel.events,
            checked: !parcel.unchecked,
          })),
        },
        signal,
      }),
    );
    return await noteAnswers(bundle, answers);
  } catch (error) {
    if (error instanceof Unreachable) return stopped("offline");
    if (!(error instanceof Refused)) return stopped("busy");
    if (error.status === 401 || error.status === 403) return stopped("signed out");
    if (mayPass(error)) return stopped("busy");
    const [parcel, ...others] = bundle;
    if (!parcel || others.length > 0) return "unread";
    await noteParcel(parcel.n, { refusal: refusalOf(error.problem) });
    return { held: "", nAnswered: 1, told: [] };
  }
}

async function noteAnswers(bundle: Parcel[], answers: SubmissionAnswer[]): Promise<SentBundle> {
  const told: Sent[] = [];
  let nAnswered = 0;
  for (const parcel of bundle) {
    const { submission, receipt, refusal } = answers[nAnswered] ?? {};
    if (submission !== parcel.id) return { held: "busy", nAnswered, told };
    if (refusal?.code === "submissions.person") return { held: "signed out", nAnswered, told };
    if (refusal) await noteParcel(parcel.n, { refusal: refusalOf(refusal) });
    else if (receipt?.submission !== parcel.id) return { held: "busy", nAnswered, told };
    else {
      if (receipt.loose) await dropParcel(parcel.n);
      else await noteParcel(parcel.n, { recorded: receipt.n_recorded });
      told.push({ order: parcel.order, loose: receipt.loose !== "" });
    }
    nAnswered += 1;
  }
  return { held: "", nAnswered, told };
}

const refusalOf = (problem: ProblemAnswer) => ({
  code: problem.code,
  detail: problem.detail,
  at: Date.now(),
});

/** What waits, in words for the bar: true to the last parcel and picture. */
export function standingWords(
  { isRead, held, nComing }: Pick<OutboxState, "isRead" | "held" | "nComing">,
  parcels: Parcel[],
  pictures: KeptPicture[],
): string {
  if (!isRead) return "";
  if (nComing > 0 || parcels.some((p) => p.checkedBy)) return "recording";
  const refused = parcels.filter((p) => p.refusal).length + pictures.filter((p) => p.refusal).length;
  const waiting = parcels.filter((p) => !p.refusal).length;
  const photos = pictures.filter((p) => !p.refusal).length;
  const why = {
    "": "",
    offline: ", no connection",
    "signed out": ", sign in to send",
    busy: ", server busy",
  };
  const told = [
    waiting > 0 && `${waiting} not sent${why[held]}`,
    photos > 0 && `${photos} ${photos === 1 ? "picture" : "pictures"} on the way`,
    refused > 0 && `${refused} not taken in`,
  ].filter(Boolean);
  return told.join("; ") || "all sent";
}

/** Answers that are recorded here, the latest to each question: shown until the rules have them. */
export function waitingAnswers(parcels: Parcel[], order: string): Record<string, Answer> {
  const out: Record<string, Answer> = {};
  for (const parcel of parcels)
    if (parcel.order === order && !parcel.refusal)
      for (const event of parcel.events)
        if (event.kind === "answered") out[event.question] = event.value as Answer;
  return out;
}

export const now = () => new Date().toISOString();
