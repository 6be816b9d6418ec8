// A symbol's strokes where a part stands. Turned here rather than by an attribute of each symbol: the
// browser paints hundreds of parts as one piece only where none has a coordinate system of its own.
import type { Part, Point } from "../../api/types";
import { placed } from "../model/geometry";

type Placed = Pick<Part, "at" | "rotation" | "mirror">;

const NUMBERS = { M: 2, L: 2, H: 1, V: 1, Q: 4, a: 7, Z: 0 } as const;

/** Path data of a symbol, in its own grid units, where the part stands. */
export function strokeAt(path: string, part: Placed): string {
  const written: string[] = [];
  let at: Point = [0, 0];
  const to = (point: Point): string => {
    at = point;
    return placed(part, ...point).join(" ");
  };
  for (const [, letter, rest = ""] of path.matchAll(/([MLHVQaZ])([^MLHVQaZ]*)/g)) {
    const command = letter as keyof typeof NUMBERS;
    const numbers = rest
      .trim()
      .split(/[\s,]+/)
      .filter(Boolean)
      .map(Number);
    const each = NUMBERS[command];
    if (!each) written.push(command);
    for (let k = 0; each && k < numbers.length; k += each) {
      const n = numbers.slice(k, k + each) as [number, number, number, number, ...number[]];
      if (command === "M" || command === "L") written.push(command, to([n[0], n[1]]));
      else if (command === "H") written.push("L", to([n[0], at[1]]));
      else if (command === "V") written.push("L", to([at[0], n[0]]));
      else if (command === "Q") {
        const [x, y] = placed(part, n[0], n[1]);
        written.push(`Q${x} ${y} `, to([n[2], n[3]]));
      } else {
        const [rx, ry, turn, large, sweep, dx, dy] = n as unknown as number[] as Arc;
        const way = part.mirror ? 1 - sweep : sweep;
        const angle = (part.mirror ? -turn : turn) + part.rotation;
        written.push(`A${rx} ${ry} ${angle} ${large} ${way} `, to([at[0] + dx, at[1] + dy]));
      }
    }
  }
  return written.join("");
}

type Arc = [number, number, number, number, number, number, number];
