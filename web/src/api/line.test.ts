// The line: answers find their questions; what breaks, or falls silent, is opened anew; work can be ended.
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

const world = vi.hoisted(() => {
  class Socket {
    static made: Socket[] = [];
    readyState = 0;
    sent: { id: number; ask?: string; cancel?: boolean }[] = [];
    onopen = () => {};
    onclose = (_: { code: number; reason: string }) => {};
    onmessage: ((event: { data: string }) => void) | null = null;
    constructor(readonly url: string) {
      Socket.made.push(this);
    }
    send(text: string) {
      this.sent.push(JSON.parse(text));
    }
    close() {}
    hears(head: object, body: unknown = "") {
      this.onmessage?.({ data: `${JSON.stringify(head)}\n${JSON.stringify(body)}` });
    }
  }
  Object.assign(globalThis, { WebSocket: Socket, location: { origin: "http://bench.local" } });
  return { Socket };
});

import { type Refused, Unreachable } from "./client";
import { askOnLine, type Follow } from "./line";

const rename = (follow?: Follow) =>
  askOnLine("rename", { renamings: [], since: "", changes: [] }, follow).catch(
    (error: Error) => error,
  );
const rest = () => vi.advanceTimersByTimeAsync(0);
const latest = () => world.Socket.made.at(-1) as InstanceType<typeof world.Socket>;

describe("the line to the server", () => {
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => {
    latest().onclose({ code: 1006, reason: "" });
    vi.useRealTimers();
  });

  it("carries questions once it is open, and their answers in any order", async () => {
    const [first, second] = [rename(), rename()];
    expect(world.Socket.made.map(({ url }) => url)).toEqual(["ws://bench.local/line"]);
    expect(latest().sent).toEqual([]);
    latest().onopen();
    await rest();
    const [one, two] = latest().sent.map(({ id }) => id);
    latest().hears({ id: two, status: 200 }, ["second"]);
    latest().hears({ id: one, status: 422 }, { detail: "not so", status: 422 });
    expect(await second).toEqual(["second"]);
    expect((await first) as Refused).toMatchObject({ message: "not so" });
  });

  it("says that nobody answers where it breaks, and is opened anew", async () => {
    const asked = rename();
    latest().onopen();
    await rest();
    const before = world.Socket.made.length;
    latest().onclose({ code: 1006, reason: "" });
    expect(await asked).toBeInstanceOf(Unreachable);
    const again = rename();
    expect(world.Socket.made).toHaveLength(before + 1);
    latest().onopen();
    await rest();
    latest().hears({ id: latest().sent[0]?.id, status: 200 }, ["on the line again"]);
    expect(await again).toEqual(["on the line again"]);
  });

  it("is given up when nothing is heard on it, though it seems open", async () => {
    const asked = rename();
    latest().onopen();
    await vi.advanceTimersByTimeAsync(4_000);
    expect(latest().sent.at(-1)?.ask).toBe("ping");
    await vi.advanceTimersByTimeAsync(3_000);
    expect(await asked).toBeInstanceOf(Unreachable);
  });

  it("goes on waiting for long work while the line answers", async () => {
    const asked = rename();
    latest().onopen();
    for (let k = 0; k < 10; k++) {
      await vi.advanceTimersByTimeAsync(4_000);
      latest().hears({ id: latest().sent.at(-1)?.id, status: 200 });
    }
    latest().hears({ id: latest().sent[0]?.id, status: 200 }, ["at last"]);
    expect(await asked).toEqual(["at last"]);
  });

  it("tells how far work has come, and ends it", async () => {
    const end = new AbortController();
    const told: number[] = [];
    const asked = rename({ progress: (share) => told.push(share), signal: end.signal });
    latest().onopen();
    await rest();
    const id = latest().sent[0]?.id;
    latest().hears({ id, progress: 0.25 });
    end.abort();
    expect(latest().sent.at(-1)).toEqual({ id, cancel: true });
    latest().hears({ id, status: 422 }, { detail: "The run was cancelled.", status: 422 });
    expect(await asked).toMatchObject({ message: "The run was cancelled." });
    expect(told).toEqual([0.25]);
  });

  it("tells whoever may not use it any more", async () => {
    const asked = rename();
    latest().onclose({ code: 4403, reason: "You are not signed in any more." });
    expect(await asked).toMatchObject({ message: "You are not signed in any more." });
  });
});
