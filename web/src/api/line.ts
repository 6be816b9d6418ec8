// What is asked after every edit, on a line to the server that stays open (a WebSocket): most of the
// time of a request would go into the request. Where there is no line, it is asked like all else.
import { type Answer, api, ask, token } from "./client";
import type { paths } from "./schema";

type Path = "/api/look" | "/api/run" | "/api/rename";
type Body<P extends Path> = paths[P]["post"]["requestBody"]["content"]["application/json"];

interface Waiting {
  tell(answer: Answer): void;
  /** The line broke before an answer came. */
  broke(): void;
}

const PAUSE = 5_000; // ms until a line that could not be had is tried for again

let line: WebSocket | null = null;
let tried = Number.NEGATIVE_INFINITY;
let asked = 0;
const waiting = new Map<number, Waiting>();

function open(): void {
  if (line || performance.now() - tried < PAUSE) return;
  tried = performance.now();
  line = new WebSocket(`${location.origin.replace(/^http/, "ws")}/line`);
  line.onopen = () => {
    tried = Number.NEGATIVE_INFINITY;
  };
  line.onmessage = ({ data }: MessageEvent<string>) => {
    const end = data.indexOf("\n");
    const [key, status] = data.slice(0, end).split(" ").map(Number) as [number, number];
    waiting.get(key)?.tell(answerOf(status, data.slice(end + 1)));
    waiting.delete(key);
  };
  line.onclose = () => {
    line = null;
    const left = [...waiting.values()];
    waiting.clear();
    for (const { broke } of left) broke();
  };
}

/** The server's answer; throws Refused or Unreachable. */
export function askOnLine<T>(path: Path, body: Body<Path>): Promise<T> {
  open();
  if (line?.readyState !== WebSocket.OPEN) return ask<T>(api.POST(path, { body }));
  const key = ++asked;
  const answer = new Promise<Answer>((tell) => {
    const over = () => tell(api.POST(path, { body }));
    waiting.set(key, { tell, broke: over });
  });
  line.send(`${JSON.stringify({ key, path, token: token() })}\n${JSON.stringify(body)}`);
  return ask<T>(answer);
}

function answerOf(status: number, text: string): Answer {
  const ok = status >= 200 && status < 300;
  return { [ok ? "data" : "error"]: parsed(text), response: { ok, status } };
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
