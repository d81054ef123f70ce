// Lays the rules out for the browser: Python for WebAssembly, and the files of the core that carry a job on.
import { execFileSync } from "node:child_process";
import { createHash } from "node:crypto";
import { cpSync, existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { gzipSync } from "node:zlib";

const here = dirname(fileURLToPath(import.meta.url));
const source = join(here, "../src");
const python = join(here, "node_modules/pyodide");
const PYTHON_FILES = [
  "pyodide.mjs",
  "pyodide.asm.mjs",
  "pyodide.asm.wasm",
  "python_stdlib.zip",
  "pyodide-lock.json",
];
const ENTRY = "reedling.device.carried_job";
const BEGIN = join(here, "begun.mjs");

/** The files of a module and of all of ours that it imports, by path, with their text. */
export function filesOfRules() {
  const files = {};
  const take = (module) => {
    const path = module.replaceAll(".", "/");
    const file = existsSync(join(source, `${path}.py`)) ? `${path}.py` : `${path}/__init__.py`;
    if (file in files) return;
    files[file] = readFileSync(join(source, file), "utf8");
    const parent = module.split(".").slice(0, -1).join(".");
    if (parent) take(parent);
    for (const found of files[file].matchAll(/^(?:from|import) (reedling[\w.]*)/gm)) take(found[1]);
  };
  take(ENTRY);
  return files;
}

/**
 * Lay everything out under `public`; gives where Python and where the rules lie. `begun.bin.gz` is the memory of Python with
 * the rules loaded, from which a browser goes on in a fraction of the time; `rules.json` are their files, for one that cannot.
 */
export function layRules() {
  const version = JSON.parse(readFileSync(join(python, "package.json"), "utf8")).version;
  layOut(`python/${version}`, PYTHON_FILES.at(-1), (folder) => {
    for (const name of PYTHON_FILES) {
      cpSync(join(python, name), join(folder, name));
      if (!name.endsWith(".zip")) compress(join(folder, name));
    }
  });
  const rules = JSON.stringify(filesOfRules());
  const hash = createHash("sha256").update(version).update(rules).update(readFileSync(BEGIN));
  const address = `rules/${hash.digest("hex").slice(0, 12)}`;
  layOut(address, "begun.bin.gz", (folder) => {
    writeFileSync(join(folder, "rules.json"), rules);
    compress(join(folder, "rules.json"));
    // Local time is nothing that rules know.
    execFileSync(process.execPath, [BEGIN, folder, ENTRY], { env: { ...process.env, TZ: "UTC" } });
  });
  return { python: `/python/${version}/`, rules: `/${address}/` };
}

/** Fill a folder under `public` in place of others beside it; one with its `last` file is whole already. */
function layOut(address, last, fill) {
  const folder = join(here, "public", address);
  if (existsSync(join(folder, last))) return;
  rmSync(dirname(folder), { recursive: true, force: true });
  mkdirSync(folder, { recursive: true });
  fill(folder);
}

/** Compressed once, here: the server sends the twin as it is. */
function compress(file) {
  writeFileSync(`${file}.gz`, gzipSync(readFileSync(file), { level: 9 }));
}
