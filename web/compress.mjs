// Compresses the scripts and styles of the build once, here: the server sends these as they are.
import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { gzipSync } from "node:zlib";

/** Smaller files are not worth it. */
const LEAST = 1000;
const folder = "dist/assets";
for (const name of readdirSync(folder)) {
  if (!/\.(js|css|wasm)$/.test(name)) continue;
  const whole = readFileSync(join(folder, name));
  if (whole.length >= LEAST) writeFileSync(join(folder, `${name}.gz`), gzipSync(whole, { level: 9 }));
}
