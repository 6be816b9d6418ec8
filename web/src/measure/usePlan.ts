// What a recipe comes to: its settings as they are understood, where the leads go, what is in the way.
import type { PlanLook, Recipe } from "../api/types";
import { useShownCase } from "../document/cases";
import { useExercise } from "../document/store";
import { useAsk } from "../document/useAsk";

/** The plan, which stays until the next one is known, and why there is none. */
export function usePlan(recipe: Recipe | null): { plan: PlanLook | null; trouble: string | null } {
  const schematic = useExercise((state) => state.document.schematic);
  const parameters = useExercise((state) => state.document.parameters);
  const shown = useShownCase();
  const { answer, trouble, isRefused } = useAsk("plan", recipe && { recipe, case: shown }, {
    of: [schematic, parameters],
  });
  const isOfWay = !isRefused && answer?.question.recipe.way === recipe?.way;
  return { plan: isOfWay ? (answer?.told ?? null) : null, trouble };
}
