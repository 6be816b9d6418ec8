// Tables of results, put in order.
import { describe, expect, it } from "vitest";
import { sorted } from "./Tables";

describe("a table", () => {
  it("is put in order by value, the words by themselves, the empty last", () => {
    const row = (name: string, text: string, value?: number) => ({
      key: "",
      subject: name,
      member: "",
      cells: [
        { text: name, unit: "" },
        { text, value, unit: "A" },
      ],
    });
    const rows = [row("R10", "2 mA", 2e-3), row("R2", "30 µA", 3e-5), row("GND", "")];
    const names = (order: { column: number; falls: boolean }) =>
      sorted(rows, order).map(({ subject }) => subject);
    expect(names({ column: 1, falls: false })).toEqual(["R2", "R10", "GND"]);
    expect(names({ column: 0, falls: true })).toEqual(["R10", "R2", "GND"]);
  });
});
