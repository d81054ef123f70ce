import { expect, test } from "vitest";
import { client, SESSION_ENDED, SIGNED_IN_AGAIN, watchSession } from "../src/api/client";
import { refusal, server } from "./answers";

test("a refusal of what was asked before signing in again ends no session", async () => {
  watchSession(true);
  let ended = 0;
  window.addEventListener(SESSION_ENDED, () => {
    ended += 1;
  });
  let answer = () => {};
  const held = new Promise<void>((go) => {
    answer = go;
  });
  server(async () => {
    await held;
    return refusal(401, "sign_in.needed", "Sign in to go on.");
  });
  const late = client.GET("/api/v1/waiting");
  window.dispatchEvent(new Event(SIGNED_IN_AGAIN));
  answer();
  await late;
  expect(ended).toBe(0);
  await client.GET("/api/v1/waiting");
  expect(ended).toBe(1);
  watchSession(false);
});
