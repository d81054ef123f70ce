import type {
  FieldEvent,
  Job,
  MeantPart,
  OrderLine,
  PocketDay,
  PocketLists,
  PocketOrder,
  Position,
  RunView,
} from "../api/types";
import type { Asked, ToBegin, Told } from "./rules.worker";

/** Where a job stands: worked out by the rules of the core, on the server or here. */
export interface JobView {
  job: Job;
  run: RunView;
  state: OrderLine["state"];
}

/** Two small grey pictures of a photo, row by row in base64: all of it, and its middle once its longer side has 640. */
export interface GreyPhoto {
  whole: string;
  centre: string;
}

/** Why an event cannot be recorded, in the words of the core. */
interface RuleRefusal {
  code: string;
  detail: string;
}

type Open = { refused: RuleRefusal | null; view: JobView };
type Recorded = { refused: RuleRefusal } | { refused: null; view: JobView };
type Asking = Asked extends infer One ? (One extends Asked ? Omit<One, "id"> : never) : never;

/**
 * The rules of a job as the server has them, run on the device by the same files of the core. They take a
 * while to begin; until then `isReady` is false and the page shows what is already known.
 */
export class Rules {
  isReady = false;
  /** Why they cannot run on this device; then the server is asked. */
  broken = "";
  readonly begun: Promise<boolean>;
  private readonly worker: Worker;
  private readonly waiting = new Map<number, (told: Told) => void>();
  private n = 0;
  private isBegun = false;

  constructor(worker: Worker) {
    this.worker = worker;
    this.begun = new Promise((resolve) => {
      worker.onmessage = ({ data }: MessageEvent<Told | { ready: true } | { broken: string }>) => {
        if ("ready" in data) {
          this.isReady = true;
          resolve(true);
        } else if ("broken" in data) {
          this.broken = data.broken;
          resolve(false);
        } else {
          this.waiting.get(data.id)?.(data);
          this.waiting.delete(data.id);
        }
      };
      worker.onerror = (event) => {
        this.broken = event.message || "The rules cannot be loaded.";
        resolve(false);
      };
    });
  }

  /** Begin to load; nothing where that was asked for before. */
  begin(): void {
    if (this.isBegun) return;
    this.isBegun = true;
    this.worker.postMessage({ begin: true } satisfies ToBegin);
  }

  /** Take an order up from what the server has, and carry it on by what it has not. */
  async open(key: string, order: PocketOrder, parcels: FieldEvent[][]): Promise<Open> {
    const told = await this.ask({
      call: "open",
      key,
      runsheet: JSON.stringify(order.runsheet),
      job: JSON.stringify(order.job),
      state: order.line.state,
      parcels: parcels.map((events) => JSON.stringify(events)),
    });
    return { refused: JSON.parse(told.refused), view: JSON.parse(told.view) };
  }

  /** Carry an open order on: all of the events, or none. */
  async record(key: string, events: FieldEvent[]): Promise<Recorded> {
    const told = await this.ask({ call: "record", key, events: JSON.stringify(events) });
    return { refused: JSON.parse(told.refused), view: JSON.parse(told.view) } as Recorded;
  }

  /** The parts that may have been meant by what was typed, likeliest first. */
  async likely(text: string, parts: PocketLists["parts"]): Promise<MeantPart[]> {
    const told = await this.ask({ call: "likely", text, parts: JSON.stringify(parts) });
    return JSON.parse(told.view);
  }

  /** Whose plate was read among the assets of these orders, in words; empty where none carries it. */
  async plate(code: string, orders: PocketDay["orders"]): Promise<string> {
    const assets = orders.map(({ line }) => ({ asset: line.asset, site: line.site }));
    const told = await this.ask({ call: "plate", code, assets: JSON.stringify(assets) });
    return JSON.parse(told.view);
  }

  /** What is noted of an arrival far from its site, in words; empty where it was there. */
  async arrival(site: OrderLine["site"], where: Position): Promise<string> {
    const told = await this.ask({ call: "arrival", site: JSON.stringify(site), ...where });
    return JSON.parse(told.view);
  }

  /** What is to be doubted of a photo, in words, and its fingerprint; `others` are those of the order's other photos. */
  async look(
    grey: GreyPhoto,
    others: Record<string, string>,
  ): Promise<{ doubts: string; fingerprint: string }> {
    const told = await this.ask({ call: "look", ...grey, others: JSON.stringify(others) });
    return JSON.parse(told.view);
  }

  private async ask(asked: Asking) {
    this.n += 1;
    const id = this.n;
    const told = await new Promise<Told>((resolve) => {
      const late = setTimeout(() => {
        this.waiting.delete(id);
        resolve({ id, failed: "The rules gave no answer." });
      }, ANSWER_MS);
      this.waiting.set(id, (answer) => {
        clearTimeout(late);
        resolve(answer);
      });
      this.worker.postMessage({ ...asked, id });
    });
    if ("failed" in told) throw new Error(told.failed);
    return told;
  }
}

/** How long the rules may take over an answer before they are taken to have stopped. */
const ANSWER_MS = 20_000;

/** They begin to load by then at the latest, in milliseconds. */
const BEGUN_WITHIN_MS = 3_000;

let held: Rules | null = null;

/** The rules of this page; they begin to load once the first screen is shown. */
export function rulesOfPage(): Rules {
  if (!held) {
    held = new Rules(new Worker(new URL("./rules.worker.ts", import.meta.url), { type: "module" }));
    setTimeout(screenShown, BEGUN_WITHIN_MS);
  }
  return held;
}

/** There is something on the screen: what takes the whole processor may begin. */
export function screenShown(): void {
  rulesOfPage().begin();
}
