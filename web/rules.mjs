// Lays the rules out for the browser: Python for WebAssembly, and the files of the core that carry a job on.
import { execFileSync } from "node:child_process";
import { createHash } from "node:crypto";
import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
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
 * Write everything under `public/rules/<hash>/`; gives that address. `begun.bin.gz` is the memory of Python with the
 * rules loaded, from which a browser goes on in a fraction of the time; `rules.json` are their files, for one that cannot.
 */
export function layRules() {
  const rules = JSON.stringify(filesOfRules());
  const version = JSON.parse(readFileSync(join(python, "package.json"), "utf8")).version;
  const hash = createHash("sha256")
    .update(version)
    .update(rules)
    .update(readFileSync(BEGIN))
    .digest("hex")
    .slice(0, 12);
  const folder = join(here, "public/rules", hash);
  // Written last: a folder without it was broken off.
  if (!existsSync(join(folder, "begun.bin.gz"))) {
    rmSync(join(here, "public/rules"), { recursive: true, force: true });
    mkdirSync(folder, { recursive: true });
    for (const name of PYTHON_FILES) cpSync(join(python, name), join(folder, name));
    writeFileSync(join(folder, "rules.json"), rules);
    // Compressed once, here: the server sends these as they are.
    for (const name of readdirSync(folder)) {
      if (name.endsWith(".zip")) continue;
      writeFileSync(join(folder, `${name}.gz`), gzipSync(readFileSync(join(folder, name)), { level: 9 }));
    }
    // Local time is nothing that rules know.
    execFileSync(process.execPath, [BEGIN, folder, ENTRY], { env: { ...process.env, TZ: "UTC" } });
  }
  return `/rules/${hash}/`;
}
