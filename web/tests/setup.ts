import "fake-indexeddb/auto";
import { cleanup } from "@testing-library/react";
import { IDBFactory } from "fake-indexeddb";
import { afterEach, vi } from "vitest";
import { closeDatabase } from "../src/pocket/device-store";

afterEach(async () => {
  cleanup();
  localStorage.clear();
  sessionStorage.clear();
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
  await closeDatabase();
  Object.assign(globalThis, { indexedDB: new IDBFactory() });
});
