import createClient from "openapi-fetch";
import type { paths } from "./schema";
import type { ProblemAnswer } from "./types";

/** A request that was refused, with what the server says about it. */
export class Refused extends Error {
  constructor(readonly problem: ProblemAnswer) {
    super(problem.detail);
  }
  get status() {
    return this.problem.status;
  }
}

/** The server could not be reached; nothing was changed. */
export class Unreachable extends Error {
  constructor() {
    super("The server cannot be reached. What you saved before is safe; this is not saved yet.");
  }
}

/** The session ended while a page was open: somebody is to sign in over it. */
export const SESSION_ENDED = "reedling-session-ended";
/** Somebody signed in again over a page: what waited is sent. */
export const SIGNED_IN_AGAIN = "reedling-signed-in-again";

let watching = false;

/** The page is of another version than the server: it is to be opened anew. */
export const OUTDATED = "reedling-outdated";
/** Whether somebody is signed in, so that an answer of "sign in" means that their session has ended. */
export function watchSession(signedIn: boolean) {
  watching = signedIn;
}

let nSignIns = 0;
window.addEventListener(SIGNED_IN_AGAIN, () => {
  nSignIns += 1;
});

export const client = createClient<paths>({
  baseUrl: window.location.origin,
  fetch: async (request) => {
    let response: Response;
    const then = nSignIns;
    try {
      // So that a page never gets an order that its own rules cannot read.
      if (request.url.includes("/api/v1/pocket/")) request.headers.set("X-Reedling-Rules", __RULES__);
      response = await fetch(request);
    } catch {
      throw new Unreachable();
    }
    // What was asked before somebody signed in again may be refused after it: that session is over already.
    const isOld = then !== nSignIns;
    if (response.status === 401 && watching && !isOld && !request.url.includes("/api/v1/session"))
      window.dispatchEvent(new Event(SESSION_ENDED));
    return response;
  },
});

/** Whether trying the same again later may help: no connection, no session, a server that is busy. */
export function mayPass(error: unknown): boolean {
  if (error instanceof Unreachable) return true;
  return error instanceof Refused && (error.status === 401 || error.status === 429 || error.status >= 500);
}

/** The data of an answer, or the refusal as an error. */
export async function need<T>(
  answer: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  const { data, error, response } = await answer;
  if (response.ok) return data as T;
  const problem = error as Partial<ProblemAnswer> | undefined;
  if (problem?.code === "pocket.outdated") window.dispatchEvent(new Event(OUTDATED));
  throw new Refused({
    type: "about:blank",
    title: problem?.title ?? response.statusText,
    status: response.status,
    detail: problem?.detail ?? "The server gave an answer that cannot be read.",
    code: problem?.code ?? "http",
    where: problem?.where ?? "",
    hint: problem?.hint ?? "",
    problems: problem?.problems ?? [],
  });
}
