// What a name that is being written may become.

export interface Offer {
  /** As it is listed, and as it is written. */
  name: string;
  insert: string;
  meaning: string;
  /** What it stands for, with its unit; "" where it is none. */
  value: string;
}

const MOST = 7;
const WORD = /[A-Za-zα-ωΑ-Ω][\w.α-ωΑ-Ω]*$/u;

/** The piece of a name that ends at the caret; "" where none does. */
export function wordBefore(text: string, caret: number): string {
  return WORD.exec(text.slice(0, caret))?.[0] ?? "";
}

/** Those that begin so, a name spelt just so first; none where it is complete and nothing goes on from it. */
export function offersFor(text: string, caret: number, vocabulary: readonly Offer[]): Offer[] {
  const word = wordBefore(text, caret);
  const before = text.slice(0, caret - word.length);
  if (!word || /[\w.]/.test(text[caret] ?? "") || /[\d.]\s?$/.test(before)) return [];
  const low = word.toLowerCase();
  const found = vocabulary.filter(
    ({ name }) => name !== word && name.toLowerCase().startsWith(low),
  );
  const exact = vocabulary.some(({ name }) => name === word);
  if (exact && word.length < 3) return [];
  return found
    .sort((a, b) => Number(b.name.startsWith(word)) - Number(a.name.startsWith(word)))
    .slice(0, MOST);
}
