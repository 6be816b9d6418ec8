// Talking to the server: typed by its own description, with its problem documents as errors.
import createClient from "openapi-fetch";
import type { paths } from "./schema";
import type { Problem } from "./types";

/** Fetch, with what tells the server that it is this page that asks. */
async function fetchWithToken(request: Request): Promise<Response> {
  const token = /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1];
  if (token) request.headers.set("X-CSRFToken", token);
  return fetch(request);
}

export const api = createClient<paths>({ baseUrl: "", fetch: fetchWithToken });

/** The server answered, and refused; the message is its sentence. */
export class Refused extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
  }
}

/** The server did not answer. */
export class Unreachable extends Error {
  constructor() {
    super("The server does not answer.");
  }
}

const NOT_SIGNED_IN = 401;
const FORGOTTEN = 410;

const hasStatus = (error: unknown, status: number) =>
  error instanceof Refused && error.problem.status === status;

export const isNotSignedIn = (error: unknown) => hasStatus(error, NOT_SIGNED_IN);

/** Whether the server remembers no more what was meant. */
export const isForgotten = (error: unknown) => hasStatus(error, FORGOTTEN);

/** Whether the same may well be taken a little later: who asks has to sign in, the server is overrun, or
 * its disk is in trouble. */
export const isPassing = (error: Refused) =>
  [NOT_SIGNED_IN, 429, 503, 507].includes(error.problem.status);

interface Answer {
  data?: unknown;
  error?: unknown;
  response: Pick<Response, "ok" | "status">;
}

/**
 * The data of an answer; throws Refused or Unreachable.
 *
 * The type is named by the caller, one of api/types: the library's own reading of the description
 * turns coordinate pairs into lists of any length.
 */
export async function ask<T>(call: Promise<Answer>): Promise<T> {
  let answer: Answer;
  try {
    answer = await call;
  } catch {
    throw new Unreachable();
  }
  if (answer.response.ok) return answer.data as T;
  const problem = answer.error as Partial<Problem> | undefined;
  throw new Refused({
    type: "about:blank",
    title: problem?.title ?? "Refused",
    status: answer.response.status,
    detail: problem?.detail ?? `The server refused (${answer.response.status}).`,
    latest: problem?.latest ?? null,
  });
}

/** The same for a file with words beside it. */
export async function askWithFile<T>(
  path: string,
  file: Blob,
  words: Record<string, string>,
): Promise<T> {
  const body = new FormData();
  body.append("file", file, "table");
  for (const [key, text] of Object.entries(words)) body.append(key, text);
  const call = fetchWithToken(new Request(path, { method: "POST", body }));
  return ask(
    call.then(async (response) => {
      const told: unknown = await response.json().catch(() => undefined);
      return response.ok ? { data: told, response } : { error: told, response };
    }),
  );
}
