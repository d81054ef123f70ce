import { act, fireEvent, render, screen } from "@testing-library/react";
import { beforeEach, expect, it, vi } from "vitest";
import { Dictate } from "../src/pocket/Dictate";

const heard = vi.hoisted(() => ({
  isThere: true,
  callbacks: new Map<string, (...told: unknown[]) => void>(),
  start: vi.fn(),
}));
vi.mock("annyang", () => ({
  isSpeechRecognitionSupported: () => heard.isThere,
  addCallback: (name: string, callback: (...told: unknown[]) => void) => {
    heard.callbacks.set(name, callback);
    return () => heard.callbacks.delete(name);
  },
  start: heard.start,
  abort: vi.fn(),
  setLanguage: vi.fn(),
}));
beforeEach(() => {
  heard.isThere = true;
  heard.callbacks.clear();
});
const tell = (name: string, ...told: unknown[]) => act(() => heard.callbacks.get(name)?.(...told));

it("is not offered where the browser cannot", () => {
  heard.isThere = false;
  const { container } = render(<Dictate onWords={vi.fn()} />);
  expect(container.innerHTML).toBe("");
});

it("gives the likeliest words, once, and stops by itself", () => {
  const words = vi.fn();
  render(<Dictate onWords={words} />);
  fireEvent.click(screen.getByRole("button", { name: "Say it instead" }));
  expect(heard.start).toHaveBeenCalledWith({ autoRestart: false, continuous: false });
  tell("result", [" weed in the sump", "weed in a sump"]);
  tell("end");
  expect(words).toHaveBeenCalledExactlyOnceWith("weed in the sump");
  expect(screen.getByRole("button", { name: "Say it instead" })).toBeTruthy();
  expect(heard.callbacks.size).toBe(0);
});

it("says why where it may not listen", () => {
  render(<Dictate onWords={vi.fn()} />);
  fireEvent.click(screen.getByRole("button", { name: "Say it instead" }));
  tell("error", {});
  tell("errorPermissionDenied", {});
  tell("end");
  expect(screen.getByRole("alert").textContent).toContain("Allow the microphone");
});
