// Carries the jobs of a file on by the rules as they are shipped, and compares every refusal and view.
import { deepStrictEqual } from "node:assert";
import { readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { gunzipSync } from "node:zlib";
import { loadPyodide } from "pyodide";
import { layRules } from "../rules.mjs";

const { job, cases } = JSON.parse(readFileSync(process.argv[2], "utf8"));
const laid = fileURLToPath(new URL(`../public${layRules().rules}begun.bin.gz`, import.meta.url));
const python = await loadPyodide({ _loadSnapshot: gunzipSync(readFileSync(laid)) });
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
