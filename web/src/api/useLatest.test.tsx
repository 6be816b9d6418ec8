// Asking for as long as a component is there, also where React mounts it twice.
import { act, render, waitFor } from "@testing-library/react";
import { StrictMode, useEffect, useState } from "react";
import { describe, expect, it } from "vitest";
import { useLatest } from "./useLatest";

function deferred() {
  const waiting: ((answer: string) => void)[] = [];
  const ask = () => new Promise<string>((resolve) => waiting.push(resolve));
  return { waiting, ask };
}

function Asker({ ask, question }: { ask(): Promise<string>; question: string }) {
  const [answer, setAnswer] = useState("none");
  const line = useLatest<string, string>({
    ask,
    answered: (asked, told) => setAnswer(`${asked}: ${told}`),
    refused: () => setAnswer("refused"),
  });
  useEffect(() => line.want(question), [line, question]);
  return <p>{answer}</p>;
}

describe("useLatest", () => {
  it("is answered in StrictMode, though its first life ended at once", async () => {
    const { ask, waiting } = deferred();
    const { container } = render(
      <StrictMode>
        <Asker ask={ask} question="one" />
      </StrictMode>,
    );
    await waitFor(() => expect(waiting.length).toBe(2));
    await act(async () => waiting[0]?.("of the first life"));
    expect(container).toHaveTextContent("none");
    await act(async () => waiting[1]?.("told"));
    expect(container).toHaveTextContent("one: told");
  });

  it("keeps one question under way, and asks the newest next", async () => {
    const { ask, waiting } = deferred();
    const { container, rerender } = render(<Asker ask={ask} question="one" />);
    for (const question of ["two", "three"]) rerender(<Asker ask={ask} question={question} />);
    expect(waiting).toHaveLength(1);
    await act(async () => waiting[0]?.("first"));
    await waitFor(() => expect(waiting).toHaveLength(2));
    await act(async () => waiting[1]?.("last"));
    expect(container).toHaveTextContent("three: last");
  });

  it("tells nothing to a component that is gone", async () => {
    const { ask, waiting } = deferred();
    const { unmount } = render(<Asker ask={ask} question="one" />);
    unmount();
    await act(async () => waiting[0]?.("late"));
    expect(waiting).toHaveLength(1);
  });
});
