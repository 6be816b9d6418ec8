// Boxes by where they lie, so that a question about one place meets only what is near it.
import { type Box, overlap, sameSides } from "./geometry";

const CELL = 8; // grid units
const ROW = 1 << 20; // more cells than a sheet is high

export class Space {
  private readonly cells = new Map<number, Box[]>();

  /** Whether nothing was ever added. */
  get isEmpty(): boolean {
    return !this.cells.size;
  }

  add(box: Box): void {
    for (const cell of cellsOf(box)) {
      const there = this.cells.get(cell);
      if (there) there.push(box);
      else this.cells.set(cell, [box]);
    }
  }

  /** Take away a box of the same sides; it must have been added. */
  remove(box: Box): void {
    for (const cell of cellsOf(box)) {
      const there = this.cells.get(cell) ?? [];
      const at = there.findIndex((other) => sameSides(other, box));
      if (at >= 0) there.splice(at, 1);
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
