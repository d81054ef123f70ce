/// <reference lib="webworker" />
import type { PyodideAPI } from "pyodide";

/** What the page asks of the rules, and what they answer: always text, so that nothing is decided here. */
export type Asked =
  | { id: number; call: "open"; key: string; runsheet: string; job: string; state: string; parcels: string[] }
  | { id: number; call: "record"; key: string; events: string }
  | { id: number; call: "likely"; text: string; parts: string }
  | { id: number; call: "plate"; code: string; assets: string }
  | { id: number; call: "arrival"; site: string; east: number; north: number }
  | { id: number; call: "look"; whole: string; centre: string; others: string };
/** Asked once, before all else. */
export type ToBegin = { begin: true };
export type Told = { id: number; refused: string; view: string } | { id: number; failed: string };

interface Carried {
  view: () => string;
  record: (events: string) => string;
  destroy: () => void;
}
type LoadPyodide = (options: { indexURL: string; _loadSnapshot?: ArrayBuffer }) => Promise<PyodideAPI>;
interface Rules {
  take_up: (runsheet: string, job: string, state: string) => Carried;
  likely: (text: string, parts: string) => string;
  plate: (code: string, assets: string) => string;
  arrival: (site: string, east: number, north: number) => string;
  look: (whole: string, centre: string, others: string) => string;
}

const indexURL = new URL(__PYTHON__, self.location.origin).href;
const rulesIn = (python: PyodideAPI) => python.pyimport("reedling.device.carried_job") as Rules;
const carried = new Map<string, Carried>();
/** Called once the page wants Python begun: that takes all of a small processor, and the first screen goes first. */
let boots: () => void = () => undefined;
const rules = new Promise<void>((resolve) => {
  boots = resolve;
}).then(boot);
/** What fails while Python loads, in several places once the network goes, is told once: the rules cannot run. */
const isToldAnyway = (event: PromiseRejectionEvent) => event.preventDefault();
self.addEventListener("unhandledrejection", isToldAnyway);
rules.then(
  () => {
    self.removeEventListener("unhandledrejection", isToldAnyway);
    postMessage({ ready: true });
  },
  (error) => postMessage({ broken: String(error) }),
);

/** Python with the files of the core, as they lie beside the application: gone on with, else begun. */
async function boot(): Promise<Rules> {
  const memory = memoryOfBegun().catch(() => null);
  const { loadPyodide } = (await import(/* @vite-ignore */ `${__PYTHON__}pyodide.mjs`)) as {
    loadPyodide: LoadPyodide;
  };
  const begun = await memory;
  try {
    if (begun) return rulesIn(await loadPyodide({ indexURL, _loadSnapshot: begun }));
  } catch (error) {
    console.warn("The rules are begun anew.", error);
  }
  return begin(loadPyodide);
}

/** The memory of Python in which the build loaded the rules. */
async function memoryOfBegun(): Promise<ArrayBuffer> {
  const answer = await fetch(`${__RULES__}begun.bin.gz`);
  if (!answer.ok || !answer.body) throw new Error(`${answer.status}`);
  return new Response(answer.body.pipeThrough(new DecompressionStream("gzip"))).arrayBuffer();
}

/** Python begun anew and the files of the core loaded into it; this takes several times as long. */
async function begin(loadPyodide: LoadPyodide): Promise<Rules> {
  const files = fetch(`${__RULES__}rules.json`).then(
    (answer) => answer.json() as Promise<Record<string, string>>,
  );
  const python = await loadPyodide({ indexURL });
  for (const [path, text] of Object.entries(await files)) {
    python.FS.mkdirTree(`/rules/${path.split("/").slice(0, -1).join("/")}`);
    python.FS.writeFile(`/rules/${path}`, text);
  }
  python.runPython("import sys; sys.path.insert(0, '/rules')");
  return rulesIn(python);
}

function answer(asked: Asked, found: Rules): Told {
  if (asked.call === "likely")
    return { id: asked.id, refused: "null", view: found.likely(asked.text, asked.parts) };
  if (asked.call === "plate")
    return { id: asked.id, refused: "null", view: found.plate(asked.code, asked.assets) };
  if (asked.call === "arrival")
    return { id: asked.id, refused: "null", view: found.arrival(asked.site, asked.east, asked.north) };
  if (asked.call === "look")
    return { id: asked.id, refused: "null", view: found.look(asked.whole, asked.centre, asked.others) };
  if (asked.call === "open") {
    carried.get(asked.key)?.destroy();
    const job = found.take_up(asked.runsheet, asked.job, asked.state);
    carried.set(asked.key, job);
    const refused = asked.parcels.map((events) => job.record(events)).filter((told) => told !== "null");
    return { id: asked.id, refused: refused[0] ?? "null", view: job.view() };
  }
  const job = carried.get(asked.key);
  if (!job) return { id: asked.id, failed: "The order is not open." };
  const refused = job.record(asked.events);
  return { id: asked.id, refused, view: refused === "null" ? job.view() : "null" };
}

self.onmessage = async ({ data }: MessageEvent<Asked | ToBegin>) => {
  if ("begin" in data) return boots();
  try {
    postMessage(answer(data, await rules));
  } catch (error) {
    postMessage({ id: data.id, failed: String(error) } satisfies Told);
  }
};
