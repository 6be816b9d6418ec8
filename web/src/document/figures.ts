// What a number is of: compared, and what it names.
import type { Figure } from "../api/types";

export const atRest = (quantity: string, inCase = ""): Figure => ({
  of: "rest",
  quantity,
  case: inCase,
});

/** A reading of a curve: of a run, or where none is told, read by an instrument. */
export const ofCurve = (
  curve: string,
  reading: string,
  more: { run?: string; member?: string; case?: string } = {},
): Figure => ({ of: "curve", curve, reading, run: "", record: "", member: "", case: "", ...more });

export const isSame = (one: Figure, other: Figure): boolean =>
  Object.keys({ ...one, ...other }).every((field) => one[field] === other[field]);

/** The quantity, curve, part or words. */
export function spokenOf(figure: Figure): string {
  switch (figure.of) {
    case "rest":
    case "phasor":
      return figure.quantity;
    case "curve":
    case "marker":
      return figure.curve;
    case "between":
      return figure.reading;
    case "cell":
      return figure.subject || figure.row;
    case "part":
      return figure.part;
    case "formula":
      return figure.formula;
    case "taken":
      return figure.words;
  }
}

/** The id of the run it is read from, or "". */
export function runOf(figure: Figure): string {
  switch (figure.of) {
    case "curve":
    case "marker":
    case "between":
    case "cell":
      return figure.run;
    default:
      return "";
  }
}
