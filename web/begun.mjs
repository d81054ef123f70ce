// Begins Python for WebAssembly with the rules loaded, and keeps its memory: a browser goes on from there.
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import { loadPyodide } from "pyodide";

const [folder, entry] = process.argv.slice(2);
const python = await loadPyodide({ _makeSnapshot: true });
for (const [path, text] of Object.entries(JSON.parse(readFileSync(join(folder, "rules.json"), "utf8")))) {
  python.FS.mkdirTree(`/rules/${path.split("/").slice(0, -1).join("/")}`);
  python.FS.writeFile(`/rules/${path}`, text);
}
python.runPython(`
import gc, importlib, sys
sys.path.insert(0, "/rules")
importlib.import_module("${entry}")
gc.collect()
`);
writeFileSync(join(folder, "begun.bin.gz"), gzipSync(python.makeMemorySnapshot(), { level: 9 }));
