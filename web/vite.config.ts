import { readFileSync } from "node:fs";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { VitePWA } from "vite-plugin-pwa";
import { layRules } from "./rules.mjs";

const laid = layRules();

interface Chunk {
  file: string;
  imports?: string[];
  dynamicImports?: string[];
  css?: string[];
  assets?: string[];
}

/** What Pocket needs of the build, and nothing of the desk: its pages with all they may open, and signing in. */
function ofPocket<Entry extends { url: string }>(entries: Entry[]): Entry[] {
  const chunks = JSON.parse(readFileSync("dist/.vite/manifest.json", "utf8")) as Record<string, Chunk>;
  const files = new Set<string>();
  const take = (name: string, withOpened: boolean) => {
    const chunk = chunks[name];
    if (!chunk || files.has(`${name} ${withOpened}`)) return;
    files.add(`${name} ${withOpened}`);
    for (const file of [chunk.file, ...(chunk.css ?? []), ...(chunk.assets ?? [])]) files.add(file);
    for (const next of chunk.imports ?? []) if (next !== "index.html") take(next, withOpened);
    if (withOpened) for (const next of chunk.dynamicImports ?? []) take(next, true);
  };
  take("index.html", false);
  take("src/app/PocketPages.tsx", true);
  take("src/app/SignIn.tsx", true);
  const isOfBuild = (url: string) => url.startsWith("assets/") && !url.includes("rules.worker");
  return entries.filter(({ url }) => !isOfBuild(url) || files.has(url));
}

export default defineConfig({
  define: { __RULES__: JSON.stringify(laid.rules), __PYTHON__: JSON.stringify(laid.python) },
  plugins: [
    react(),
    VitePWA({
      registerType: "prompt",
      injectRegister: null,
      manifest: {
        name: "Reedling Pocket",
        short_name: "Reedling",
        description: "Your orders, step by step, with or without a network.",
        start_url: "/pocket",
        scope: "/pocket",
        display: "standalone",
        background_color: "#fffefb",
        theme_color: "#23201d",
        icons: [
          { src: "/mark.svg", sizes: "any", type: "image/svg+xml" },
          { src: "/mark-192.png", sizes: "192x192", type: "image/png" },
          { src: "/mark-512.png", sizes: "512x512", type: "image/png", purpose: "any maskable" },
        ],
      },
      workbox: {
        globPatterns: [
          "index.html",
          "mark.svg",
          "python/**/*.{mjs,wasm,json,zip}",
          "rules/**/rules.json",
          "rules/**/begun.bin.gz",
          "assets/**/*.{js,css,woff2,wasm}",
        ],
        manifestTransforms: [(entries) => ({ manifest: ofPocket(entries) })],
        maximumFileSizeToCacheInBytes: 20_000_000,
        // Only Pocket's pages come from the device: the page at "/" is asked of the server.
        directoryIndex: null,
        navigateFallback: "/index.html",
        navigateFallbackAllowlist: [/^\/pocket/],
        runtimeCaching: [
          {
            urlPattern: /\/api\/v1\/(illustrations|pictures)\//,
            handler: "CacheFirst",
            options: { cacheName: "pictures", expiration: { maxEntries: 400 } },
          },
        ],
      },
    }),
  ],
  build: {
    chunkSizeWarningLimit: 2000,
    manifest: true,
    rollupOptions: { input: { main: "index.html", docs: "docs.html" } },
  },
  worker: { format: "es" },
  server: { proxy: { "/api": "http://127.0.0.1:8000", "/standins": "http://127.0.0.1:8000" } },
});
