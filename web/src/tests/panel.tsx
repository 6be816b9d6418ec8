// A panel on an open exercise, as the page puts it up.
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { Tooltip } from "radix-ui";
import { type ReactNode, StrictMode } from "react";
import type { Evaluation, EvaluationDelta, Opened } from "../api/types";
import { keepLooking, putTogether } from "../document/looking";
import { rememberDocument } from "../document/sending";
import { useExercise } from "../document/store";
import { useEditorStore } from "../schematic/editor/tools";
import { Toasts } from "../ui/Toasts";
import { answerOf, opened } from "./server";

/** The exercise open, with the look that the server told of it. */
export function open(exercise: string, change: (of: Opened) => void = () => undefined): void {
  const of = opened<Opened>(exercise);
  change(of);
  useEditorStore.getState().reset();
  useExercise.getState().open(of);
  useExercise.getState().seen(lookOf(exercise), useExercise.getState().document, null);
}

export const lookOf = (exercise: string): Evaluation =>
  putTogether(answerOf<EvaluationDelta>(exercise, "look"), null);

export const documentNow = () => useExercise.getState().document;

/** In StrictMode, which mounts everything twice. */
export function show(panel: ReactNode) {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const user = userEvent.setup({ delay: null });
  const shown = render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <Tooltip.Provider>
          {panel}
          <Toasts />
        </Tooltip.Provider>
      </QueryClientProvider>
    </StrictMode>,
  );
  return { user, ...shown };
}

/** Looks are asked for after every edit, until the returned function is called. */
export function followed(): () => void {
  return keepLooking();
}

export function forgetLooks(): void {
  rememberDocument(null);
}
