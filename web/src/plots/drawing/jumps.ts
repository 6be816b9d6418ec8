// Where a marker jumps to: the next place of a kind on its curve, and from the last to the first.
import type { components } from "../../api/schema";

export type Jump = NonNullable<components["schemas"]["MarksAsked"]["jump"]>;

export const JUMPS: { kind: Jump; text: string; meaning: string; over?: string }[] = [
  { kind: "peak", text: "Peak", meaning: "the next peak of its curve" },
  { kind: "trough", text: "Trough", meaning: "the next trough of its curve" },
  { kind: "crossing", text: "Zero", meaning: "where its curve next passes through zero" },
  {
    kind: "half_power",
    text: "−3 dB",
    meaning: "where its curve is 3 dB below its maximum",
    over: "Hz",
  },
  {
    kind: "unity",
    text: "Gain = 1 (0 dB)",
    meaning: "where its curve is of size 1 (0 dB)",
    over: "Hz",
  },
];
