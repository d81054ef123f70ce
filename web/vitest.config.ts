import { defineConfig } from "vitest/config";

export default defineConfig({
  define: { __RULES__: JSON.stringify("/rules/none/") },
  test: { environment: "jsdom", include: ["tests/**/*.test.{ts,tsx}"], setupFiles: ["tests/setup.ts"] },
});
