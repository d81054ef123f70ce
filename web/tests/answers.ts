import { type Mock, vi } from "vitest";

/** One answer of a server that is not there: what it says to a request, or a line that is down. */
export type Answer = { status: number; body?: unknown } | "down";

export interface Asked {
  method: string;
  path: string;
  body: unknown;
  ifMatch: string | null;
}

/** A server for the interface under test: `answer` says what it answers; what was asked is kept. */
export function server(answer: (asked: Asked, n: number) => Answer | Promise<Answer>): {
  asked: Asked[];
  fetch: Mock;
} {
  const asked: Asked[] = [];
  const fetch = vi.fn(async (request: Request) => {
    const text = await request.clone().text();
    const one: Asked = {
      method: request.method,
      path: new URL(request.url).pathname,
      body: text ? JSON.parse(text) : undefined,
      ifMatch: request.headers.get("if-match"),
    };
    asked.push(one);
    const given = await answer(one, asked.length);
    if (given === "down") throw new TypeError("no network");
    return new Response(given.body === undefined ? null : JSON.stringify(given.body), {
      status: given.status,
      headers: { "content-type": "application/json" },
    });
  });
  vi.stubGlobal("fetch", fetch);
  return { asked, fetch };
}

/** A refusal as the server words one. */
export function refusal(status: number, code: string, detail: string): Answer {
  return { status, body: { status, code, detail, title: "", where: "", hint: "", problems: [] } };
}
