// Cases made and changed: parts left out, shorted, with other values.
import { askOnLine } from "../../api/line";
import type { Case, CaseChange, Exercise, Part } from "../../api/types";
import { BASE, changeOf, inCase, lookAtCase, referenceTo, shownCase } from "../../document/cases";
import { asking } from "../../document/sending";
import { useExercise } from "../../document/store";
import { freshId } from "../model/wires";

const newChange = (part: string): CaseChange => ({
  part,
  does: "replace",
  kind: "",
  form: "",
  values: {},
  parameter: "",
  text: "",
});

const freshCase = (document: Exercise, name: string): Case => ({
  id: freshId("c", document.cases),
  name,
  changes: [],
});

/** What parts are called in a case's name: "without R5", "C3 shorted". */
const WORDS = {
  open: (names: string) => `Without ${names}`,
  short: (names: string) => `${names} shorted`,
  replace: (names: string) => `Another ${names}`,
};

/** Parts left out or shorted, in a case that is new or the one that is looked at. It is looked at then. */
export function leaveOut(
  does: "open" | "short",
  parts: Part[],
  isNew: boolean,
  called = WORDS[does],
): void {
  const { document, inside } = useExercise.getState();
  let id = isNew ? BASE : shownCase(useExercise.getState());
  const added = id === BASE;
  const names = parts.map(({ name }) => name).join(", ");
  const fresh = freshCase(document, called(names));
  if (added) id = fresh.id;
  useExercise.getState().edit((draft) => {
    if (added) draft.cases.push(fresh);
    const found = draft.cases.find((each) => each.id === id);
    for (const part of parts) {
      const reference = referenceTo(part.id, inside);
      if (!found) return;
      found.changes = found.changes.filter((change) => change.part !== reference);
      found.changes.push({ ...newChange(reference), does });
    }
  });
  lookAtCase(id);
}

/** A source off: of a voltage a wire is left, of a current nothing. */
export function switchOff(source: Part, isNew: boolean): void {
  const does = source.kind === "current_source" ? "open" : "short";
  leaveOut(does, [source], isNew, (names) => `${names} off`);
}

/** Parts as they are drawn again, in the case that is looked at. */
export function asDrawn(parts: Part[]): void {
  const { inside } = useExercise.getState();
  const id = shownCase(useExercise.getState());
  const references = parts.map((part) => referenceTo(part.id, inside));
  useExercise.getState().edit((draft) => {
    const found = draft.cases.find((each) => each.id === id);
    if (found) found.changes = found.changes.filter(({ part }) => !references.includes(part));
  });
}

/** A part's values and model edited in a case: what differs from the part as drawn is kept there. */
export function editInCase(
  id: string,
  base: Part,
  edit: (part: Part) => void,
  group: string,
): void {
  const { document, inside } = useExercise.getState();
  const reference = referenceTo(base.id, inside);
  const edited = structuredClone(inCase(base, changeOf(document, id, base.id, inside)));
  edit(edited);
  const isOther = edited.kind !== base.kind;
  const differing = Object.entries(edited.values).filter(
    ([key, text]) => isOther || text !== (base.values[key] ?? ""),
  );
  useExercise.getState().edit((draft) => {
    const found = draft.cases.find((each) => each.id === id);
    if (!found) return;
    const own: CaseChange = {
      ...newChange(reference),
      kind: isOther ? edited.kind : "",
      form: edited.form === base.form && !isOther ? "" : edited.form,
      values: Object.fromEntries(differing),
    };
    const k = found.changes.findIndex((change) => change.part === reference);
    const isNothing = !differing.length && !own.form && !isOther;
    if (isNothing) found.changes = found.changes.filter(({ part }) => part !== reference);
    else if (k >= 0) found.changes[k] = own;
    else found.changes.push(own);
  }, `case ${group}`);
}

/** A new case as it is typed, "without R5, R3 = 1.1k", or a name alone; like the circuit as it is shown. It
 * is looked at then. Raises what the server says against it. */
export async function newCase(text: string): Promise<void> {
  const changes = await asking(useExercise.getState().document, (sent) =>
    askOnLine("case", { ...sent, text }),
  );
  const { document } = useExercise.getState();
  const shown = shownCase(useExercise.getState());
  const like = document.cases.find((each) => each.id === shown)?.changes ?? [];
  const isKept = (old: CaseChange) =>
    !changes.some((c) => (c.part ? c.part === old.part : c.parameter === old.parameter));
  const fresh = {
    ...freshCase(document, text.trim()),
    changes: [...structuredClone(like.filter(isKept)), ...changes],
  };
  useExercise.getState().edit((draft) => {
    draft.cases.push(fresh);
  });
  lookAtCase(fresh.id);
}

/** A new case of that name, which is looked at then. */
export function addCase(name: string, changes: CaseChange[]): void {
  const fresh = { ...freshCase(useExercise.getState().document, name), changes };
  useExercise.getState().edit((draft) => {
    draft.cases.push(fresh);
  });
  lookAtCase(fresh.id);
}

/** A case with all that belongs to it: its lines of working, measurements, records and runs. */
export function removeCase(id: string): void {
  lookAtCase(BASE);
  useExercise.getState().edit((draft) => {
    draft.cases = draft.cases.filter((each) => each.id !== id);
    draft.hand = draft.hand.filter((line) => line.case !== id);
    draft.runs = draft.runs.filter((run) => run.case !== id);
    draft.records = draft.records.filter((record) => record.case !== id);
    draft.measurements = draft.measurements.filter(({ figure }) => figure.case !== id);
    draft.ledger = draft.ledger.filter(({ figure }) => figure.case !== id);
  });
}

/** The circuit as it was before its last edit, kept as a case: values that were changed since. */
export function keepBefore(): string | null {
  const { document, past, inside } = useExercise.getState();
  const before = past.findLast((earlier) => earlier.schematic !== document.schematic);
  if (!before || inside) return null;
  const was = new Map(before.schematic.parts.map((part) => [part.id, part]));
  const now = document.schematic.parts;
  const isRedrawn =
    now.length !== was.size ||
    now.some((part) => !was.has(part.id)) ||
    document.schematic.wires !== before.schematic.wires;
  const gone = now.filter((part) => !was.has(part.id));
  if (isRedrawn && !(gone.length && was.size + gone.length === now.length)) return null;
  const fresh = freshCase(document, "Before");
  for (const part of now) {
    const earlier = was.get(part.id);
    if (!earlier) fresh.changes.push({ ...newChange(part.id), does: "open" });
    else if (
      earlier.kind !== part.kind ||
      earlier.values !== part.values ||
      earlier.form !== part.form
    ) {
      const values =
        earlier.kind === part.kind
          ? Object.fromEntries(
              Object.keys({ ...part.values, ...earlier.values })
                .map((key) => [key, earlier.values[key] ?? ""] as const)
                .filter(([key, text]) => text !== (part.values[key] ?? "")),
            )
          : earlier.values;
      const kind = earlier.kind === part.kind ? "" : earlier.kind;
      const form = earlier.form === part.form && !kind ? "" : earlier.form;
      if (kind || form || Object.keys(values).length)
        fresh.changes.push({ ...newChange(part.id), kind, form, values });
    }
  }
  if (!fresh.changes.length) return null;
  useExercise.getState().edit((draft) => {
    draft.cases.push(fresh);
  });
  return fresh.id;
}
