// Asking for as long as a component is there, also where React mounts it twice.
import { act, screen } from "@testing-library/react";
import { useEffect, useState } from "react";
import { beforeEach, describe, expect, it } from "vitest";
import type { Exactness } from "../api/types";
import { open, show } from "../tests/panel";
import { askedFor, refusal, say } from "../tests/server";
import { useAsk } from "./useAsk";

let ask: (text: string) => void;

function Asker({ isLong = false }: { isLong?: boolean }) {
  const [question, setQuestion] = useState("one");
  const { answer, trouble, busy, share } = useAsk("exact", { case: question }, { of: [], isLong });
  useEffect(() => {
    ask = setQuestion;
  }, []);
  const told = answer && `${answer.question.case}: ${answer.told.length}`;
  return <p role="status">{[told, trouble, busy && `busy ${share}`].filter(Boolean).join(", ")}</p>;
}

const shown = async (asker = <Asker />) => {
  const put = show(asker);
  await act(async () => undefined); // the line is open
  return put;
};
const status = () => screen.getByRole("status").textContent;
const answer = async (many: number) =>
  act(async () => say("exact", { status: 200 }, new Array<Partial<Exactness>>(many).fill({})));
const cases = () => askedFor<{ case: string }>("exact").map((body) => body.case);

describe("a question about the document", () => {
  beforeEach(() => open("time-signal-filter"));

  it("is answered in StrictMode, though its first life ended at once", async () => {
    await shown();
    expect(cases()).toEqual(["one", "one"]);
    expect(askedFor("cancel")).toHaveLength(1);
    await answer(3);
    expect(status()).toBe("one: 3");
  });

  it("has one under way, and the newest next", async () => {
    await shown();
    await act(async () => ask("two"));
    await act(async () => ask("three"));
    await answer(1);
    expect(cases().slice(1)).toEqual(["one", "three"]);
    await answer(2);
    expect(status()).toBe("three: 2");
  });

  it("ends without a word what is of no use any more", async () => {
    await shown(<Asker isLong />);
    await act(async () => say("exact", { progress: 0.5 }));
    expect(status()).toBe("busy 0.5");
    await act(async () => ask("two"));
    expect(askedFor("cancel")).toHaveLength(2);
    const ended = refusal(422, "It was ended.");
    await act(async () => say("exact", { status: ended.status }, ended.answer));
    expect(cases().at(-1)).toBe("two");
    expect(status()).toBe("busy null");
    await answer(2);
    expect(status()).toBe("two: 2");
  });

  it("says why the server refuses it", async () => {
    await shown();
    const { status: code, answer: why } = refusal(422, "There is no such case.");
    await act(async () => say("exact", { status: code }, why));
    expect(status()).toBe("There is no such case.");
  });

  it("hears nothing once it is gone", async () => {
    const { unmount } = await shown();
    unmount();
    expect(askedFor("cancel")).toHaveLength(2);
    await answer(1);
    expect(cases()).toHaveLength(2);
  });
});
