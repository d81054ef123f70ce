import { expect, test, vi } from "vitest";
import { Rules } from "../src/pocket/rules";

/** A worker that says what it is told to, or nothing. */
function worker(answer: (asked: { id: number }) => unknown) {
  const made = {
    onmessage: null as ((event: { data: unknown }) => void) | null,
    onerror: null,
    postMessage: (asked: { id: number }) => {
      const told = answer(asked);
      if (told) made.onmessage?.({ data: told });
    },
  };
  return made;
}

test("the rules say what an event comes to, or why it cannot be", async () => {
  const said = worker(({ id }) => ({ id, refused: '{"code":"jobs.answer","detail":"No."}', view: "null" }));
  const rules = new Rules(said as unknown as Worker);
  said.onmessage?.({ data: { ready: true } });
  expect(await rules.begun).toBe(true);
  expect((await rules.record("runa WO-1", [])).refused?.detail).toBe("No.");
});

test("rules that have stopped are no reason to wait for ever", async () => {
  vi.useFakeTimers();
  const rules = new Rules(worker(() => null) as unknown as Worker);
  const asked = expect(rules.record("runa WO-1", [])).rejects.toThrow("gave no answer");
  await vi.advanceTimersByTimeAsync(20_000);
  await asked;
  vi.useRealTimers();
});

test("rules that cannot be loaded say so", async () => {
  const broken = worker(() => null);
  const rules = new Rules(broken as unknown as Worker);
  broken.onmessage?.({ data: { broken: "no WebAssembly" } });
  expect(await rules.begun).toBe(false);
  expect(rules.isReady).toBe(false);
});
