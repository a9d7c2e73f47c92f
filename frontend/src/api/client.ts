// The one way to the server: typed by its OpenAPI document, with the session's token on every change.
import createClient, { type Middleware } from "openapi-fetch";
import { LANGUAGE, say } from "../shared/text";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Problem = Schemas["Problem"];

/** A problem document that the server sent, or that nothing could be reached. */
export class ProblemError extends Error {
  readonly problem: Problem;
  constructor(problem: Problem) {
    super(problem.detail);
    this.problem = problem;
  }
}

let csrf = "";
/** Set the token of the session that is signed in. */
export function setToken(token: string): void {
  csrf = token;
}

/** The token that every change carries, for what is not sent by `api`. */
export const tokenHeader = (): Record<string, string> => ({ "X-Jolly-Clerk": csrf });

const token: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-Jolly-Clerk", csrf);
    if (LANGUAGE !== "en") request.headers.set("X-Language", LANGUAGE);
    return request;
  },
};

export const api = createClient<paths>({ baseUrl: "" });
api.use(token);

/** Told when somebody signed in again over the page. */
export const SESSION_BACK = "jolly-clerk-session-back";

/** Told when the server does not know the session of this page, or its token, any more. */
export const SESSION_LOST = "jolly-clerk-session-lost";

const OFFLINE: Problem = {
  type: "about:blank",
  title: say("The office cannot be reached"),
  status: 0,
  detail: say("There is no connection to the office just now. What you typed is still here; it will be tried again."),
  place: "",
  reasons: [],
  reference: "",
  step: 0,
};

/** Unwrap an answer: its data, or a thrown ProblemError. */
export async function ask<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let answer: { data?: T; error?: unknown; response: Response };
  try {
    answer = await call;
  } catch {
    throw new ProblemError(OFFLINE);
  }
  if (answer.response.ok) return answer.data as T;
  // the session has ended meanwhile: whoever shows the page asks for the password over it
  if (answer.response.status === 401 || answer.response.status === 403) window.dispatchEvent(new Event(SESSION_LOST));
  const problem = answer.error as Partial<Problem> | undefined;
  throw new ProblemError({
    ...OFFLINE,
    title: problem?.title ?? say("This did not work"),
    status: answer.response.status,
    detail: problem?.detail ?? say("Please try again."),
    place: problem?.place ?? "",
    reasons: problem?.reasons ?? [],
    reference: problem?.reference ?? "",
    step: problem?.step ?? 0,
  });
}

const NOT_TO_BE_HAD = [403, 404, 410];

/**
 * What stands in the place of a page: why there is nothing to show yet, or that what was shown is no longer to be had.
 * A look again that failed for any other reason leaves on the screen what is there.
 */
export function insteadOf(looked: { data: unknown; error: unknown }): unknown {
  if (!looked.error) return null;
  const gone = NOT_TO_BE_HAD.includes(problemOf(looked.error).status);
  return looked.data === undefined || gone ? looked.error : null;
}

export function problemOf(error: unknown): Problem {
  return error instanceof ProblemError
    ? error.problem
    : { ...OFFLINE, title: say("This did not work"), detail: String(error) };
}
