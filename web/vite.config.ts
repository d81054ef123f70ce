import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react()],
  build: {
    chunkSizeWarningLimit: 2000,
    manifest: true,
    rollupOptions: { input: { main: "index.html", docs: "docs.html" } },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8000", "/standins": "http://127.0.0.1:8000" } },
});
