// The open line: answers find their questions, and where it breaks they are asked like all else.
import { beforeEach, describe, expect, it, vi } from "vitest";

const world = vi.hoisted(() => {
  const Plain = globalThis.Request;
  class AtHome extends Plain {
    constructor(input: RequestInfo | URL, init?: RequestInit) {
      super(typeof input === "string" ? new URL(input, "http://bench.local") : input, init);
    }
  }
  class Socket {
    static OPEN = 1;
    static made: Socket[] = [];
    readyState = 0;
    sent: string[] = [];
    onopen = () => {};
    onclose = () => {};
    onmessage = (_: { data: string }) => {};
    constructor(readonly url: string) {
      Socket.made.push(this);
    }
    send(text: string) {
      this.sent.push(text);
    }
    opens() {
      this.readyState = 1;
      this.onopen();
    }
    breaks() {
      this.readyState = 3;
      this.onclose();
    }
  }
  Object.assign(globalThis, {
    Request: AtHome,
    WebSocket: Socket,
    document: { cookie: "csrftoken=abc" },
    location: { origin: "http://bench.local" },
  });
  return { Socket };
});

import type { Refused } from "./client";
import { askOnLine } from "./line";

const body = { renamings: [], since: "", changes: [] };
const look = <T>() => askOnLine<T>("/api/rename", body);
let posted: string[] = [];

beforeEach(() => {
  posted = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    posted.push(new URL(request.url).pathname);
    return new Response('["by post"]', { headers: { "Content-Type": "application/json" } });
  });
});

describe("the line to the server", () => {
  it("carries questions once it is open, and their answers in any order", async () => {
    expect(await look()).toEqual(["by post"]); // it is only being opened
    const [socket] = world.Socket.made;
    expect(socket?.url).toBe("ws://bench.local/line");
    socket?.opens();
    const [first, second] = [look(), look()];
    const keys = socket?.sent.map((text) => JSON.parse(text.split("\n")[0] as string).key);
    socket?.onmessage({ data: `${keys?.[1]} 200\n["second"]` });
    socket?.onmessage({ data: `${keys?.[0]} 422\n{"detail": "not so", "status": 422}` });
    expect(await second).toEqual(["second"]);
    const refusal = await first.catch((error: Refused) => error.message);
    expect(refusal).toBe("not so");
    expect(posted).toHaveLength(1);
  });

  it("breaks without losing a question, and is opened anew", async () => {
    const [socket] = world.Socket.made;
    const asked = look();
    socket?.breaks();
    expect(await asked).toEqual(["by post"]);
    expect(await look()).toEqual(["by post"]);
    expect(world.Socket.made).toHaveLength(2);
    world.Socket.made[1]?.opens();
    const again = look();
    const key = JSON.parse(world.Socket.made[1]?.sent[0]?.split("\n")[0] ?? "").key;
    world.Socket.made[1]?.onmessage({ data: `${key} 200\n["on the line again"]` });
    expect(await again).toEqual(["on the line again"]);
  });
});
