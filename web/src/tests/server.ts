// Stands where the network is: answers as the real server did when it was asked the same (tests/recorded.py).
import answers from "./answers.json";

export interface Told {
  status: number;
  answer: unknown;
}
interface Message {
  id: number;
  ask: string;
  cancel?: boolean;
  body: Record<string, unknown>;
}

const recorded = answers as unknown as {
  exercises: Record<string, { opened: unknown; answers: Record<string, Told> }>;
  http: Record<string, unknown>;
  tables: Record<string, Told>;
};

/** What is answered to an ask on the line; null leaves it waiting. */
type OnLine = (ask: string, body: Message["body"], socket: Socket, id: number) => Told | null;
type OverHttp = (method: string, path: string, body: unknown) => Told | Error;

let onLine: OnLine = () => null;
let overHttp: OverHttp;
let asked: { ask: string; body: Message["body"] }[] = [];

export const opened = <T>(exercise: string): T =>
  structuredClone(recorded.exercises[exercise]?.opened) as T;

export function told(exercise: string, name: string): Told {
  const found = recorded.exercises[exercise]?.answers[name];
  if (!found) throw new Error(`nothing is recorded of ${exercise} as “${name}”`);
  return structuredClone(found);
}
export const answerOf = <T>(exercise: string, name: string): T => told(exercise, name).answer as T;
/** As a screen reader says it: spaces that do not break are spaces. */
export const plain = (text: string): string => text.replace(/\s+/g, " ").trim();

export const table = (name: string): Told => structuredClone(recorded.tables[name]) as Told;

export const refusal = (status: number, detail: string): Told => ({
  status,
  answer: { type: "about:blank", title: "Refused", status, detail },
});

/** Answer asks on the line from now on; asks that are not named wait. */
export function onTheLine(answering: Record<string, Told | ((body: never) => Told | null)>): void {
  onLine = (ask, body) => {
    const told = answering[ask];
    return (typeof told === "function" ? told(body as never) : told) ?? null;
  };
}

/** Answer over HTTP first by this; what it leaves undefined is as recorded. */
export function overTheNet(
  answering: (...asked: Parameters<OverHttp>) => Told | Error | undefined,
) {
  overHttp = (...asked) => answering(...asked) ?? asRecorded(...asked);
}

/** The bodies of what was asked on the line by that name. */
export const askedFor = <T = Message["body"]>(ask: string): T[] =>
  asked.filter((each) => each.ask === ask).map((each) => each.body as T);

/** Says something more of an ask that waits: how far it is, what is known of it, or its answer. */
export function say(ask: string, head: object, body: unknown = ""): void {
  const waiting = Socket.waiting.get(ask);
  if (!waiting) throw new Error(`nobody waits for ${ask}`);
  waiting.socket.hears(waiting.id, head, body);
}

const asRecorded: OverHttp = (method, path) =>
  method === "GET" && path in recorded.http
    ? { status: 200, answer: structuredClone(recorded.http[path]) }
    : refusal(404, `nothing is recorded of ${method} ${path}`);

class Socket {
  static waiting = new Map<string, { socket: Socket; id: number }>();
  static OPEN = 1;
  readyState = 1;
  binaryType = "";
  onopen: (() => void) | null = null;
  onclose: ((event: { code: number; reason: string }) => void) | null = null;
  onmessage: ((event: { data: string }) => void) | null = null;
  constructor() {
    queueMicrotask(() => this.onopen?.());
  }
  send(text: string) {
    const { id, ask, body, cancel } = JSON.parse(text) as Message;
    if (cancel) {
      asked.push({ ask: "cancel", body: { id } });
      return;
    }
    asked.push({ ask, body });
    Socket.waiting.set(ask, { socket: this, id });
    const answer = onLine(ask, body, this, id);
    if (answer) queueMicrotask(() => this.hears(id, { status: answer.status }, answer.answer));
  }
  hears(id: number, head: object, body: unknown) {
    this.onmessage?.({ data: `${JSON.stringify({ id, ...head })}\n${JSON.stringify(body)}` });
  }
  close() {
    const { onclose } = this;
    this.onclose = null; // said once
    onclose?.({ code: 1006, reason: "" });
  }
}

async function fetched(input: Request | string): Promise<Response> {
  const request = input instanceof Request ? input : new Request(new URL(input, location.origin));
  const { pathname, search } = new URL(request.url);
  const text = await request.text().catch(() => "");
  const body = text.startsWith("{") ? JSON.parse(text) : text;
  const told = overHttp(request.method, pathname + search, body);
  if (told instanceof Error) throw told;
  const bare = told.status === 204;
  return new Response(bare ? null : JSON.stringify(told.answer), {
    status: told.status,
    headers: { "Content-Type": "application/json" },
  });
}

const Plain = globalThis.Request;
class AtHome extends Plain {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(typeof input === "string" ? new URL(input, location.origin) : input, init);
  }
}

export function beginServer(): void {
  onLine = () => null;
  overHttp = asRecorded;
  asked = [];
  Socket.waiting.clear();
}

// Before anything that asks is loaded: a client takes what it asks with as it is made.
Object.assign(globalThis, { WebSocket: Socket, fetch: fetched, Request: AtHome });

export function endServer(): void {
  const over = refusal(422, "The test is over.");
  for (const { socket, id } of Socket.waiting.values())
    socket.hears(id, { status: over.status }, over.answer);
}
