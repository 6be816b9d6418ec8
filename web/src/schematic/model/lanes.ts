// Points and straight pieces of wire by the row or column they lie in: wires run along one of them.
import type { Point } from "../../api/types";
import { key, onSegment } from "./geometry";

/** Points by row and column, for wires run along one of them. */
export class Lanes {
  private readonly known = new Set<string>();
  private readonly rows = new Map<number, Point[]>();
  private readonly columns = new Map<number, Point[]>();

  add(point: Point): void {
    if (this.known.has(key(point))) return;
    this.known.add(key(point));
    for (const [lanes, lane] of [
      [this.columns, point[0]],
      [this.rows, point[1]],
    ] as const) {
      const there = lanes.get(lane);
      if (there) there.push(point);
      else lanes.set(lane, [point]);
    }
  }

  /** Those on the straight piece from `a` to `b`. */
  on(a: Point, b: Point): Point[] {
    const lane = a[1] === b[1] ? this.rows.get(a[1]) : this.columns.get(a[0]);
    return (lane ?? []).filter((point) => onSegment(point, a, b));
  }
}

/** A straight piece of wire: along its lane, x where it stands, from `low` to `high`. */
export interface Piece {
  upright: boolean;
  lane: number;
  low: number;
  high: number;
}

export function pieceOf(a: Point, b: Point): Piece {
  const upright = a[0] === b[0];
  const [from, to] = upright ? [a[1], b[1]] : [a[0], b[0]];
  const [low, high] = [Math.min(from, to), Math.max(from, to)];
  return { upright, lane: upright ? a[0] : a[1], low, high };
}

export class Pieces {
  private readonly lying = new Map<number, Piece[]>();
  private readonly standing = new Map<number, Piece[]>();

  add(piece: Piece): void {
    const lanes = piece.upright ? this.standing : this.lying;
    const there = lanes.get(piece.lane);
    if (there) there.push(piece);
    else lanes.set(piece.lane, [piece]);
  }

  /** How many run along the same stretch of the same lane. */
  along({ upright, lane, low, high }: Piece): number {
    let found = 0;
    for (const other of (upright ? this.standing : this.lying).get(lane) ?? [])
      if (Math.min(high, other.high) > Math.max(low, other.low)) found++;
    return found;
  }

  /** How many cross it or touch it from the side. */
  across({ upright, lane, low, high }: Piece): number {
    const lanes = upright ? this.lying : this.standing;
    let found = 0;
    for (let at = Math.ceil(low); at <= high; at++)
      for (const other of lanes.get(at) ?? []) if (other.low <= lane && lane <= other.high) found++;
    return found;
  }
}
