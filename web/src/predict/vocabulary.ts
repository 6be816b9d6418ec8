// The names a line may use: parts, parameters, quantities, earlier lines, functions, and signs by their words.
import { useMemo } from "react";
import { useExercise } from "../document/store";
import type { Offer } from "./completing";

const plain = (name: string, insert: string, meaning: string): Offer => ({
  name,
  insert,
  meaning,
  value: "",
});

const FUNCTIONS: Offer[] = [
  plain("sqrt", "sqrt()", "square root"),
  plain("exp", "exp()", "e to the power of"),
  plain("ln", "ln()", "natural logarithm"),
  plain("lg", "lg()", "decimal logarithm"),
  plain("abs", "abs()", "magnitude"),
  plain("arg", "arg()", "angle, in radians"),
  plain("Re", "Re()", "real part"),
  plain("Im", "Im()", "imaginary part"),
  plain("sin", "sin()", "of an angle"),
  plain("cos", "cos()", "of an angle"),
  plain("tan", "tan()", "of an angle"),
  plain("atan", "atan()", "angle of a tangent, in radians"),
  plain("dB", "dB()", "20 lg of the magnitude"),
  plain("pi", "pi", "π = 3.14159…"),
  plain("angle", "∠", "sign of an angle: 10 V ∠ 30°, or 10 V < 30°"),
  plain("ohm", "Ω", "sign of the ohm"),
  plain("degree", "°", "sign of the degree"),
  plain("micro", "µ", "sign of a millionth"),
  plain("parallel", "||", "in parallel: R1 || R2"),
];

export function useVocabulary(): Offer[] {
  const quantities = useExercise((state) => state.look?.quantities);
  const parts = useExercise((state) => state.look?.parts);
  const parameters = useExercise((state) => state.look?.parameters);
  const lines = useExercise((state) => state.look?.lines);
  const document = useExercise((state) => state.document);
  return useMemo(() => {
    const names = new Map(document.schematic.parts.map((part) => [part.id, part]));
    const called = new Map(document.parameters.map((each) => [each.id, each.name]));
    const ofParts = (parts ?? []).flatMap((look): Offer[] => {
      const part = names.get(look.id);
      const main = look.values.find((value) => value.echo);
      if (!part || !main) return [];
      return [
        { name: part.name, insert: part.name, meaning: look.description, value: main.echo ?? "" },
      ];
    });
    const ofParameters = (parameters ?? []).map((look): Offer => {
      const name = called.get(look.id) ?? "";
      return { name, insert: name, meaning: "parameter", value: look.echo ?? "" };
    });
    const ofLines = (lines ?? []).flatMap((line): Offer[] =>
      line.target && line.result
        ? [{ name: line.target, insert: line.target, meaning: "by hand", value: line.result }]
        : [],
    );
    const taken = new Set(ofLines.map(({ name }) => name));
    const simulated = (quantities ?? [])
      .filter(({ name }) => !taken.has(name))
      .map((q): Offer => ({ name: q.name, insert: q.name, meaning: q.meaning, value: q.text }));
    const every = [...ofLines, ...ofParts, ...ofParameters, ...simulated, ...FUNCTIONS];
    const seen = new Set<string>();
    return every.filter(({ name }) => name && !seen.has(name) && seen.add(name));
  }, [quantities, parts, parameters, lines, document.schematic.parts, document.parameters]);
}
