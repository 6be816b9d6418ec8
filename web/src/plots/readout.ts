// What stands at the markers and between them, in words.
import type { RunLook } from "../api/types";
import { LETTERS } from "../document/runs";
import { engineering } from "../ui/engineering";
import type { Markers } from "./useMarkers";

export function readoutOf(
  look: RunLook,
  { marks, told }: Pick<Markers, "marks" | "told">,
): string[] {
  const lines = marks.map((mark, k) => {
    const row = told?.values.find((v) => v.text === mark.curve && v.member === mark.member);
    const [value, phase] = [row?.values[k], row?.phases?.[k]];
    const unit = look.curves.find((curve) => curve.text === mark.curve)?.unit ?? "";
    const size = value == null ? "" : ` ${engineering(value, unit)}`;
    const angle = phase == null ? "" : ` ∠ ${engineering(phase, "°")}`;
    return `${LETTERS[k]}: ${mark.curve}${size}${angle} at ${engineering(mark.at, look.axis_unit, 5)}`;
  });
  const between = (told?.between ?? []).map(({ label, text }) => `${label} ${text}`);
  return between.length ? [...lines, between.join(", ")] : lines;
}
