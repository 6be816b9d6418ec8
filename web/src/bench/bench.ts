// What is being measured: the way, its recipe as it is set, and the points that are under way.
import { create } from "zustand";
import { askOnLine } from "../api/line";
import type {
  BenchRecord,
  Column,
  Exercise,
  Figure,
  PlanLook,
  Recipe,
  TakenLook,
} from "../api/types";
import { shownCase } from "../document/cases";
import { atRest, ofCurve } from "../document/figures";
import { asking } from "../document/sending";
import { useExercise } from "../document/store";
import { freshId } from "../schematic/model/wires";

export const WAYS = [
  {
    key: "meter",
    label: "Meter",
    answers: "A voltage, a current or a resistance, read off a meter.",
  },
  {
    key: "record",
    label: "Record",
    answers: "A signal over time, on two channels of an oscilloscope.",
  },
  { key: "response", label: "Response", answers: "Gain and phase over frequency, point by point." },
  { key: "curve", label: "Curve", answers: "A current or a voltage while a source is stepped." },
  { key: "component", label: "Component", answers: "One part taken out: its value and its loss." },
] as const;
export type WayKey = (typeof WAYS)[number]["key"];

/** A record that is being taken: which of its points comes next, and what is in its way. */
export interface UnderWay {
  exercise: number;
  record: string;
  case: string;
  recipe: Recipe;
  points: number[];
  next: number;
  isRunning: boolean;
  trouble: string | null;
}

interface Bench {
  way: WayKey | null;
  /** Settings by way, as they were typed last. */
  settings: Partial<Record<WayKey, Record<string, string>>>;
  bench: string;
  /** The record that is looked at. */
  record: string | null;
  underWay: UnderWay | null;
  /** A single reading is being taken. */
  isReading: boolean;
  trouble: string | null;
  /** A record in time that shall be laid by its trigger once there is a curve to lay it over. */
  toLay: string | null;
}

export const useBench = create<Bench>()(() => ({
  way: null,
  settings: {},
  bench: "",
  record: null,
  underWay: null,
  isReading: false,
  trouble: null,
  toLay: null,
}));

const { getState: bench, setState: setBench } = useBench;

export const isTable = (way: string) => way !== "meter" && way !== "component";

/** The settings of a way, one of them changed. */
export function setSetting(way: WayKey, key: string, text: string): void {
  const { settings } = bench();
  setBench({ settings: { ...settings, [way]: { ...settings[way], [key]: text } }, trouble: null });
}

/** A recipe with every setting as it is meant, so that it comes to the same another day. */
export const whole = (recipe: Recipe, plan: PlanLook): Recipe => ({
  ...recipe,
  settings: Object.fromEntries(
    plan.settings.map((look) => [look.key, look.text || look.proposed]).filter(([, text]) => text),
  ),
});

/** Take what a recipe says: a reading at once, a record point by point. `into` is a record to take again. */
export async function measure(
  recipe: Recipe,
  name: (plan: PlanLook) => string,
  into?: string,
): Promise<void> {
  if (bench().underWay || bench().isReading) return;
  setBench({ trouble: null });
  try {
    const { document } = useExercise.getState();
    const plan: PlanLook = await asking(document, (sent) =>
      askOnLine("plan", { ...sent, recipe, case: shownCase(useExercise.getState()) }),
    );
    if (plan.problem) setBench({ trouble: plan.problem });
    else start(recipe, plan, name(plan), into);
  } catch (error) {
    setBench({ trouble: (error as Error).message });
  }
}

function start(recipe: Recipe, plan: PlanLook, name: string, into?: string): void {
  const meant = whole(recipe, plan);
  if (isTable(recipe.way)) {
    const record = begin(meant, name, into);
    setBench({
      record,
      trouble: null,
      underWay: {
        exercise: useExercise.getState().id,
        record,
        case: shownCase(useExercise.getState()),
        recipe: meant,
        points: plan.points,
        next: 0,
        isRunning: false,
        trouble: null,
      },
    });
    void goOn();
  } else void read(meant);
}

/** The record that will hold what is taken: a new one, or one that was, whose columns are kept behind it. */
function begin(recipe: Recipe, name: string, into?: string): string {
  const { document, edit } = useExercise.getState();
  const shown = shownCase(useExercise.getState());
  const id = into ?? freshId("m", document.records);
  edit((draft) => {
    const known = draft.records.find((record) => record.id === id);
    if (known) {
      if (known.columns.length) known.earlier = [known.columns, ...known.earlier].slice(0, 5);
      Object.assign(known, {
        columns: [],
        note: "",
        case: shown,
        recipe,
        trigger: null,
        shift: 0,
        scale: 1,
      });
    } else draft.records.push({ ...newRecord(id, name), recipe, case: shown });
  }, group(id));
  return id;
}

export const newRecord = (id: string, name: string): BenchRecord => ({
  id,
  name,
  columns: [],
  note: "",
  case: "",
  recipe: null,
  trigger: null,
  shift: 0,
  scale: 1,
  earlier: [],
});

const group = (record: string) => `measure ${record}`;

let isTaking = false;

/** One point after the other, until all are taken, it is paused, or something is in the way. */
export async function goOn(): Promise<void> {
  const started = bench().underWay;
  if (!started || started.isRunning) return;
  change({ isRunning: true, trouble: null });
  if (isTaking) return; // the point that was under way when it was paused goes on with the next
  isTaking = true;
  try {
    await taking(started);
  } finally {
    isTaking = false;
  }
}

async function taking(started: UnderWay): Promise<void> {
  while (true) {
    const now = bench().underWay;
    if (!now?.isRunning || now.record !== started.record) return;
    if (now.next >= now.points.length) break;
    const at = now.points[now.next] as number;
    try {
      const taken = await take(now.recipe, at, now.case);
      const later = bench().underWay;
      // Whoever left the exercise meanwhile finds what was taken so far.
      if (later?.record !== now.record || useExercise.getState().id !== now.exercise) return;
      keep(now.record, taken);
      change({ next: later.next + 1 });
    } catch (error) {
      change({ isRunning: false, trouble: (error as Error).message });
      return;
    }
  }
  useExercise.getState().endGroup();
  setBench({ underWay: null, toLay: started.recipe.way === "record" ? started.record : null });
}

export const pause = () => change({ isRunning: false });

/** Leave it at what was taken so far. */
export function stop(): void {
  useExercise.getState().endGroup();
  setBench({ underWay: null });
}

function change(to: Partial<UnderWay>): void {
  const { underWay } = bench();
  if (underWay) setBench({ underWay: { ...underWay, ...to } });
}

const take = (recipe: Recipe, at: number, shown: string): Promise<TakenLook> =>
  asking(useExercise.getState().document, (sent) =>
    askOnLine("take", { ...sent, recipe, at, case: shown }),
  );

/** Add what was taken to the columns of a record. */
function keep(id: string, taken: TakenLook): void {
  useExercise.getState().edit((document: Exercise) => {
    const record = document.records.find((each) => each.id === id);
    if (!record) return;
    if (record.recipe) record.recipe.taken = taken.taken;
    record.trigger = taken.trigger ?? record.trigger;
    record.note = taken.note || record.note;
    if (!record.columns.length) {
      record.columns = taken.columns.map(columnOf);
      return;
    }
    record.columns.forEach((column, k) => {
      const more = taken.columns[k];
      if (!more) return;
      column.values.push(...more.values);
      column.uncertainties.push(...spread(more));
    });
  }, group(id));
}

type TakenColumn = TakenLook["columns"][number];

/** An uncertainty for each value, or none where one is of all of them. */
const spread = ({ values, uncertainties }: TakenColumn): number[] =>
  uncertainties.length === values.length ? [...uncertainties] : [];

const columnOf = (column: TakenColumn): Column => ({
  quantity: column.quantity,
  unit: column.unit,
  values: [...column.values],
  uncertainty: spread(column).length ? null : (column.uncertainties[0] ?? null),
  uncertainties: spread(column),
  common: column.common,
});

/** One reading, written down as a person would. */
async function read(recipe: Recipe): Promise<void> {
  setBench({ isReading: true, trouble: null });
  try {
    const shown = shownCase(useExercise.getState());
    const { columns, note, taken } = await take(recipe, 0, shown);
    const [column] = columns;
    if (!column) return;
    useExercise.getState().edit((document) => {
      document.measurements.push({
        id: freshId("b", document.measurements),
        figure: figureOf(recipe, column.quantity, shown),
        text: column.text,
        note,
        recipe: { ...recipe, taken },
      });
    });
  } catch (error) {
    setBench({ trouble: (error as Error).message });
  } finally {
    setBench({ isReading: false });
  }
}

/** What a reading is of: the quantity at rest, its RMS without the mean, or the value of a part. */
function figureOf({ way, settings }: Recipe, quantity: string, inCase: string): Figure {
  if (way === "component" || settings.function === "ohms")
    return { of: "part", part: quantity, case: inCase };
  if (settings.function?.endsWith("_ac")) return ofCurve(quantity, "ac_rms", { case: inCase });
  return atRest(quantity, inCase);
}
