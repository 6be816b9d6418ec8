// Boxes by where they lie, so that a question about one place meets only what is near it.
import { type Box, overlap } from "./geometry";

const CELL = 8; // grid units
const ROW = 1 << 20; // more cells than a sheet is high

export class Space {
  private readonly cells = new Map<number, Box[]>();

  add(box: Box): void {
    for (const cell of cellsOf(box)) {
      const there = this.cells.get(cell);
      if (there) there.push(box);
      else this.cells.set(cell, [box]);
    }
  }

  /** Whether anything overlaps `box`. */
  meets(box: Box): boolean {
    for (const cell of cellsOf(box))
      if (this.cells.get(cell)?.some((other) => overlap(box, other))) return true;
    return false;
  }

  /** How many boxes overlap `box`. */
  count(box: Box): number {
    const found = new Set<Box>();
    for (const cell of cellsOf(box))
      for (const other of this.cells.get(cell) ?? []) if (overlap(box, other)) found.add(other);
    return found.size;
  }
}

function cellsOf({ left, top, right, bottom }: Box): number[] {
  const found: number[] = [];
  for (let x = Math.floor(left / CELL); x <= Math.floor(right / CELL); x++)
    for (let y = Math.floor(top / CELL); y <= Math.floor(bottom / CELL); y++)
      found.push(x * ROW + y);
  return found;
}
