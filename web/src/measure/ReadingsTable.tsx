// Single readings as they were taken: what, how, and the same again.
import { RotateCw, Trash2 } from "lucide-react";
import type { Measurement } from "../api/types";
import { measure } from "../bench/bench";
import { BASE, lookAtCase, nameOfCase } from "../document/cases";
import { spokenOf } from "../document/figures";
import { useExercise } from "../document/store";
import { useEditorStore } from "../schematic/editor/tools";
import { IconButton } from "../ui/Button";
import { Named } from "../ui/Named";

export function ReadingsTable() {
  const measurements = useExercise((state) => state.document.measurements);
  const readings = measurements.filter(({ text }) => text.trim());
  if (!readings.length) return null;
  return (
    <table aria-label="Readings" className="mt-4 w-full border-t border-hairline text-left text-sm">
      <thead className="text-xs text-soft">
        <tr>
          <th className="py-1.5 pr-3 font-medium">Of</th>
          <th className="pr-3 font-medium">Reading</th>
          <th className="pr-3 font-medium">How</th>
          <th className="pr-3 font-medium">When</th>
          <th>
            <span className="sr-only">What to do</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {readings.map((reading) => (
          <Row key={reading.id} reading={reading} />
        ))}
      </tbody>
    </table>
  );
}

const KINDS: Record<string, string> = { curve: ", AC, RMS", part: ", taken out" };

function Row({ reading }: { reading: Measurement }) {
  const { figure, text, note, recipe } = reading;
  const spoken = spokenOf(figure);
  const caseName = useExercise(({ document }) => nameOfCase(document, figure.case));
  const point = (hovered: string | null) => useEditorStore.getState().set({ hovered });
  const remove = () =>
    useExercise.getState().edit((document) => {
      document.measurements = document.measurements.filter(({ id }) => id !== reading.id);
    });
  return (
    <tr
      className="border-t border-ruling align-baseline"
      onPointerEnter={() => point(spoken)}
      onPointerLeave={() => point(null)}
    >
      <th scope="row" className="py-1.5 pr-3 font-normal">
        <span className="font-serif italic">
          <Named text={spoken} />
        </span>
        {KINDS[figure.of] ?? ""}
      </th>
      <td className="figure voice-bench pr-3 whitespace-nowrap">{text}</td>
      <td className="pr-3 text-soft">
        {recipe ? note : `written down${note ? `; ${note}` : ""}`}
        {figure.case !== BASE && `, in the case ${caseName}`}
      </td>
      <td className="pr-3 text-xs text-soft">{recipe?.taken ? when(recipe.taken) : ""}</td>
      <td className="text-right whitespace-nowrap">
        {recipe && (
          <IconButton
            label={`Read ${spoken} again`}
            className="size-7!"
            onClick={() => {
              lookAtCase(figure.case);
              void measure(recipe, () => "");
            }}
          >
            <RotateCw size={14} />
          </IconButton>
        )}
        <IconButton
          label={`Throw away the reading of ${spoken}`}
          className="size-7!"
          onClick={remove}
        >
          <Trash2 size={14} />
        </IconButton>
      </td>
    </tr>
  );
}

export const when = (taken: string) =>
  new Date(taken).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" });
