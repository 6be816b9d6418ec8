// Asking about what keeps changing, for as long as a component is there.
import { useEffect, useRef } from "react";
import { type Asking, type Latest, latest } from "./latest";

/** `want` asks with the `asking` of the latest render. What is under way when the component goes is not
 * answered any more; a component that React mounts a second time asks anew. */
export function useLatest<Question, Answer>(
  asking: Asking<Question, Answer>,
): Pick<Latest<Question>, "want"> {
  const now = useRef(asking);
  now.current = asking;
  const under = useRef<Latest<Question> | null>(null);
  const line = useRef<Pick<Latest<Question>, "want">>({
    want: (question) => {
      under.current ??= latest<Question, Answer>({
        ask: (asked) => now.current.ask(asked),
        answered: (asked, answer) => now.current.answered(asked, answer),
        refused: (asked, error) => now.current.refused(asked, error),
        unanswered: (asked, error) => now.current.unanswered?.(asked, error),
        busy: (is) => now.current.busy?.(is),
      });
      under.current.want(question);
    },
  });
  useEffect(
    () => () => {
      under.current?.stop();
      under.current = null;
    },
    [],
  );
  return line.current;
}
