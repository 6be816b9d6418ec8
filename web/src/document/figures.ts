// What a number is of, compared.
import type { Figure } from "../api/types";

const FIELDS = ["quantity", "run", "record", "reading", "member", "case"] as const;

export const isSame = (one: Figure, other: Figure) =>
  FIELDS.every((field) => one[field] === other[field]);
