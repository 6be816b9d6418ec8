// The line to the server (a WebSocket): what is live is asked on it, answered as it is done, and can be
// ended. It is opened when first something is asked, and again after it broke.
import { Refused, Unreachable } from "./client";
import type { components } from "./schema";
import type { Problem } from "./types";

export type Line = components["schemas"]["Line"];
type Head = { id: number } & ({ status: number } | { progress: number } | { so_far: true });

export interface Follow {
  /** How much of it is done, 0 to 1, told now and then. */
  progress?(share: number): void;
  /** What is known of the answer by now, of what grows. */
  soFar?(known: unknown): void;
  /** Ends it: what was asked is then refused. */
  signal?: AbortSignal;
}

interface Waiting extends Follow {
  answer(status: number, body: string | Blob): void;
  fail(error: Error): void;
}

const OPENS_WITHIN = 5_000; // ms
const SILENCE = 4_000; // ms without a word while something is waited for, after which the line is tried
const ANSWERS_WITHIN = 3_000; // ms that such a trial may take
const NOT_ALLOWED = 4403; // the code a line is closed with whose reader may not use it any more
const NEWLINE = 10;

interface Open {
  socket: WebSocket;
  opened: Promise<void>;
  waiting: Map<number, Waiting>;
  heard: number; // ms, when the last word came
}

let open: Open | null = null;
let asked = 0;

function opening(): Open {
  const socket = new WebSocket(`${location.origin.replace(/^http/, "ws")}/line`);
  socket.binaryType = "arraybuffer";
  const waiting = new Map<number, Waiting>();
  const line: Open = { socket, waiting, heard: 0, opened: Promise.resolve() };
  line.opened = new Promise((resolve, reject) => {
    const late = setTimeout(() => lose(line), OPENS_WITHIN);
    socket.onopen = () => {
      clearTimeout(late);
      line.heard = performance.now();
      resolve();
    };
    socket.onclose = ({ code, reason }) => {
      clearTimeout(late);
      const error = code === NOT_ALLOWED ? notAllowed(reason) : new Unreachable();
      reject(error);
      lose(line, error);
    };
  });
  line.opened.catch(() => undefined); // whoever asks hears of it
  socket.onmessage = ({ data }: MessageEvent<string | ArrayBuffer>) => {
    line.heard = performance.now();
    const [head, body] = typeof data === "string" ? parted(data) : partedFile(data);
    const asker = waiting.get(head.id);
    if ("progress" in head) asker?.progress?.(head.progress);
    else if ("so_far" in head) asker?.soFar?.(JSON.parse(body as string));
    else asker?.answer(head.status, body);
  };
  return line;
}

/** What was asked on it is not answered any more; the next that is asked opens another. */
function lose(line: Open, error: Error = new Unreachable()): void {
  if (open === line) open = null;
  const { socket } = line;
  socket.onmessage = null;
  socket.close();
  for (const asker of [...line.waiting.values()]) asker.fail(error);
}

const notAllowed = (detail: string) =>
  new Refused({ type: "about:blank", title: "Not signed in", status: 401, detail, latest: null });

/** The server's answer; throws Refused or Unreachable. */
export async function askOnLine<Ask extends keyof Line>(
  ask: Ask,
  body: Line[Ask]["body"],
  follow: Follow = {},
): Promise<Line[Ask] extends { answer: infer Answer } ? Answer : Blob> {
  open ??= opening();
  const line = open;
  await line.opened;
  if (open !== line) throw new Unreachable(); // it broke in the same breath
  const [status, told] = await sent(line, { ask, body }, follow);
  if (typeof told !== "string") return told as never;
  const answer = JSON.parse(told);
  if (status < 300) return answer;
  throw new Refused({ latest: null, ...(answer as Problem) });
}

function sent(line: Open, message: object, follow: Follow): Promise<[number, string | Blob]> {
  asked += 1;
  const id = asked;
  const { signal } = follow;
  return new Promise<[number, string | Blob]>((resolve, reject) => {
    const cancel = () => line.socket.send(JSON.stringify({ id, cancel: true }));
    const over = () => {
      line.waiting.delete(id);
      signal?.removeEventListener("abort", cancel);
    };
    line.waiting.set(id, {
      ...follow,
      answer(status, told) {
        over();
        resolve([status, told]);
      },
      fail(error) {
        over();
        reject(error);
      },
    });
    signal?.addEventListener("abort", cancel);
    line.socket.send(JSON.stringify({ id, ...message }));
    if (signal?.aborted) cancel();
    listenFor(line);
  });
}

/** While something is waited for: a line on which nothing is heard is tried, as it may be dead though
 * nobody said so, after a sleep or a change of network. */
function listenFor(line: Open): void {
  setTimeout(() => {
    if (open !== line || !line.waiting.size) return;
    if (performance.now() - line.heard < SILENCE) listenFor(line);
    else trial(line);
  }, SILENCE);
}

function trial(line: Open): void {
  const began = performance.now();
  asked += 1;
  line.socket.send(JSON.stringify({ id: asked, ask: "ping", body: {} }));
  setTimeout(() => {
    if (open !== line) return;
    if (line.heard < began) lose(line);
    else listenFor(line);
  }, ANSWERS_WITHIN);
}

if (typeof window !== "undefined") {
  const awake = () => {
    if (document.visibilityState === "visible" && open?.socket.readyState === WebSocket.OPEN)
      trial(open);
  };
  document.addEventListener("visibilitychange", awake);
  window.addEventListener("online", awake);
}

function parted(text: string): [Head, string] {
  const end = text.indexOf("\n");
  return [JSON.parse(text.slice(0, end)), text.slice(end + 1)];
}

function partedFile(data: ArrayBuffer): [Head, Blob] {
  const end = new Uint8Array(data).indexOf(NEWLINE);
  const head = new TextDecoder().decode(data.slice(0, end));
  return [JSON.parse(head), new Blob([data.slice(end + 1)])];
}
