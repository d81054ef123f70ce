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
    super("The server cannot be reached. What you saved before is safe; this will be tried again.");
  }
}

export const client = createClient<paths>({
  baseUrl: "",
  fetch: async (request) => {
    try {
      return await fetch(request);
    } catch {
      throw new Unreachable();
    }
  },
});

/** The data of an answer, or the refusal as an error. */
export async function need<T>(
  answer: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  const { data, error, response } = await answer;
  if (response.ok) return data as T;
  const problem = error as Partial<ProblemAnswer> | undefined;
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
