// The document as it is sent to be looked at or run: by what is changed since the server last saw it.
import { changesBetween } from "../api/changes";
import { isForgotten } from "../api/client";
import type { Evaluation, Exercise, Sent } from "../api/types";

const MOST_CHANGES = 200; // beyond which the document is sent whole

/** What the server was last heard of to remember. */
export interface Known {
  mark: string;
  document: Exercise;
  look: Evaluation;
}

let known: Known | null = null;

export function rememberDocument(now: Known | null): void {
  known = now;
}

/** Ask about `document`, by what is changed since `since`; whole, where the server has forgotten that. */
export async function asking<T>(
  document: Exercise,
  ask: (sent: Sent, since: Known | null) => Promise<T>,
): Promise<T> {
  const since = known;
  const whole = { document, since: "", changes: [] };
  if (!since) return ask(whole, null);
  const changes = changesBetween(since.document, document);
  if (changes.length > MOST_CHANGES) return ask({ ...whole, since: since.mark }, since);
  try {
    return await ask({ document: null, since: since.mark, changes }, since);
  } catch (error) {
    if (!isForgotten(error)) throw error;
    if (known === since) known = null;
    return ask(whole, null);
  }
}
