// Carries the jobs of a file on by the rules as they are shipped, and compares every refusal and view.
import { deepStrictEqual } from "node:assert";
import { readFileSync } from "node:fs";
import { loadPyodide } from "pyodide";
import { filesOfRules } from "../rules.mjs";

const { job, cases } = JSON.parse(readFileSync(process.argv[2], "utf8"));
const python = await loadPyodide();
for (const [path, text] of Object.entries(filesOfRules())) {
  python.FS.mkdirTree(`/rules/${path.split("/").slice(0, -1).join("/")}`);
  python.FS.writeFile(`/rules/${path}`, text);
}
python.runPython("import sys; sys.path.insert(0, '/rules')");
const { take_up } = python.pyimport("reedling.device.carried_job");
for (const [n, { runsheet, events, refusals, view }] of cases.entries()) {
  const carried = take_up(runsheet, job, "Planned");
  try {
    deepStrictEqual(
      events.map((event) => JSON.parse(carried.record(event))?.detail ?? null),
      refusals,
    );
    const found = JSON.parse(carried.view());
    found.run.may_be_skipped.sort();
    deepStrictEqual(found, view);
  } catch (error) {
    console.error(`case ${n}: ${String(error.message).slice(0, 1500)}`);
    process.exit(1);
  }
  carried.destroy();
}
console.log(`${cases.length} cases alike`);
