/** What each role loads before its first page can be drawn, compressed, against what it may. Fails the build. */
import { readFileSync } from "node:fs";
import { gzipSync } from "node:zlib";

const MOST_KB = { "src/app/DeskPages.tsx": 150, "src/app/PocketPages.tsx": 120 };

const manifest = JSON.parse(readFileSync("dist/.vite/manifest.json", "utf8"));

function loaded(entry, seen = new Set()) {
  if (!seen.has(entry)) {
    seen.add(entry);
    for (const next of manifest[entry].imports ?? []) loaded(next, seen);
  }
  return seen;
}

let over = false;
for (const [page, most] of Object.entries(MOST_KB)) {
  const parts = loaded(page, loaded("index.html"));
  const scripts = [...parts].map((part) => manifest[part].file).filter((file) => file.endsWith(".js"));
  const kb = scripts.reduce((sum, file) => sum + gzipSync(readFileSync(`dist/${file}`)).length, 0) / 1000;
  console.log(`${page}: ${kb.toFixed(0)} kB compressed in ${scripts.length} scripts, ${most} at most`);
  over ||= kb > most;
}
if (over) {
  console.error("More is loaded at first than may be. Load what is not shown at once with opened().");
  process.exit(1);
}
