// What a recipe comes to: its settings as they are understood, where the leads go, what is in the way.
import { useEffect, useState } from "react";
import { askOnLine } from "../api/line";
import type { Exercise, PlanLook, Recipe } from "../api/types";
import { useLatest } from "../api/useLatest";
import { shownCase, useShownCase } from "../document/cases";
import { asking } from "../document/sending";
import { useExercise } from "../document/store";

interface Question {
  document: Exercise;
  recipe: Recipe;
}

/** The plan, which stays until the next one is known, and why there is none. */
export function usePlan(recipe: Recipe | null): { plan: PlanLook | null; trouble: string | null } {
  const [known, setKnown] = useState<{ way: string; plan: PlanLook } | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const line = useLatest<Question, PlanLook>({
    ask: (question) =>
      asking(question.document, (sent) =>
        askOnLine("plan", {
          ...sent,
          recipe: question.recipe,
          case: shownCase(useExercise.getState()),
        }),
      ),
    answered: ({ recipe: { way } }, plan) => {
      setKnown({ way, plan });
      setTrouble(null);
    },
    refused: (_, error) => {
      setKnown(null);
      setTrouble(error.message);
    },
    unanswered: (_, error) => setTrouble(error.message),
  });
  const schematic = useExercise((state) => state.document.schematic);
  const parameters = useExercise((state) => state.document.parameters);
  const told = JSON.stringify(recipe);
  const shown = useShownCase();
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked anew when the circuit changes too
  useEffect(() => {
    if (told !== "null") {
      line.want({ document: useExercise.getState().document, recipe: JSON.parse(told) });
    }
  }, [line, told, schematic, parameters, shown]);
  return { plan: known && known.way === recipe?.way ? known.plan : null, trouble };
}
