// One question at a time, the newest next, again while nobody answers.
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Refused } from "./client";
import { latest } from "./latest";

describe("asking about what keeps changing", () => {
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => void vi.useRealTimers());
  const told: unknown[] = [];
  let answer: (text: string) => void = () => {};
  let fail: (error: Error) => void = () => {};
  const make = () => {
    told.length = 0;
    return latest<number, string>({
      ask: (question) => {
        told.push(question);
        return new Promise((resolve, reject) => {
          [answer, fail] = [resolve, reject];
        });
      },
      answered: (question, text) => told.push(`${question} ${text}`),
      refused: (question, error) => told.push(`${question} ${error.message}`),
      unanswered: () => told.push("nobody"),
      busy: (is) => told.push(is),
    });
  };
  const rest = () => vi.advanceTimersByTimeAsync(0);

  it("leaves out what was overtaken while another was under way", async () => {
    const line = make();
    for (const question of [1, 2, 3]) line.want(question);
    answer("one");
    await rest();
    answer("three");
    await rest();
    expect(told).toEqual([true, 1, "1 one", 3, "3 three", false]);
  });

  it("asks again while nobody answers, and the newest where there is one", async () => {
    const line = make();
    line.want(1);
    fail(new Error("no server"));
    await rest();
    line.want(2);
    await vi.advanceTimersByTimeAsync(2_000);
    answer("two");
    await rest();
    expect(told).toEqual([true, 1, "nobody", 2, "2 two", false]);
  });

  it("asks again where the server says that it cannot now", async () => {
    const line = make();
    line.want(1);
    fail(new Refused({ title: "Busy", status: 429, detail: "later", type: "" }));
    await vi.advanceTimersByTimeAsync(2_000);
    answer("one");
    await rest();
    expect(told).toEqual([true, 1, "nobody", 1, "1 one", false]);
  });

  it("takes a refusal for an answer, and says nothing once it is stopped", async () => {
    const line = make();
    line.want(1);
    fail(new Refused({ title: "No", status: 422, detail: "not so", type: "" }));
    await rest();
    line.want(2);
    line.stop();
    answer("late");
    await rest();
    expect(told).toEqual([true, 1, "1 not so", false, true, 2]);
  });
});
