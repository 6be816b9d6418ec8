// The records beside a run: shown or not, how they lie over the curves, and what is read off them.
import { MoreHorizontal } from "lucide-react";
import { askOnLine } from "../api/line";
import type { BenchCurveLook, BesideLook, Exercise, Run, RunLook } from "../api/types";
import { ofCurve } from "../document/figures";
import { asking } from "../document/sending";
import { useExercise } from "../document/store";
import { engineering } from "../ui/engineering";
import { Menu, MenuItem, MenuLine } from "../ui/Menu";
import { Named } from "../ui/Named";
import { say } from "../ui/Toasts";
import { WhySheet } from "../why/Why";
import { WhyButton } from "../why/WhyButton";
import { changeRun } from "./changeRun";
import { TakeButton } from "./MarkerTable";
import type { Takeable } from "./taking";

interface Props {
  run: Run;
  look: RunLook;
  beside: BesideLook | null;
  onTake(figure: Takeable): void;
}

export function BenchReadings({ run, look, beside, onTake }: Props) {
  if (!beside || (!beside.offered.length && !beside.problems.length)) return null;
  return (
    <section aria-label="Bench" className="mt-3 border-t border-hairline pt-2">
      <ul className="space-y-2">
        {beside.offered.map((offered) => (
          <li key={offered.id} className="text-sm">
            <span className="flex items-center gap-1">
              <button
                type="button"
                aria-pressed={offered.shown}
                title={offered.shown ? "Hide it" : "Show it"}
                onClick={() => toggle(run, offered.id)}
                className={`voice-bench flex items-center gap-1.5 ${offered.shown ? "" : "opacity-50"}`}
              >
                <span aria-hidden="true" className="inline-block size-2 rounded-full bg-bench" />
                <span className="sr-only">Show the record </span>
                {offered.name}
              </button>
              {look.axis === "t" && offered.shown && (
                <LayMenu run={run} look={look} record={offered.id} curves={beside.curves} />
              )}
              {offered.shift !== 0 && (
                <span className="text-xs text-soft">
                  moved by {engineering(offered.shift, look.axis_unit, 3)}
                  {offered.scale !== 1 && `, taken ${offered.scale.toPrecision(4)} times`}
                </span>
              )}
            </span>
            {beside.curves
              .filter((curve) => curve.record === offered.id)
              .map((curve) => (
                <div key={curve.text} className="mt-0.5 pl-3.5">
                  <Figures curve={curve} onTake={onTake} />
                  {beside.gaps
                    .filter((gap) => gap.record === curve.record && gap.text === curve.text)
                    .map((gap) => (
                      <p key={gap.text} className="text-soft">
                        <Named text={gap.text} />: {gap.sentence}
                        {gap.angle_sentence && ` In phase: ${lowered(gap.angle_sentence)}`}
                        {!gap.by_tolerances && " Tolerances of the parts are not reckoned in."}
                        {(gap.verdict !== "agree" ||
                          (gap.angle_verdict && gap.angle_verdict !== "agree")) && (
                          <WhyButton
                            at={`${run.id} ${gap.record} ${gap.text}`}
                            question={{ run: run.id }}
                            of={gap.text}
                          />
                        )}
                      </p>
                    ))}
                  <WhySheet at={`${run.id} ${curve.record} ${curve.text}`} />
                </div>
              ))}
          </li>
        ))}
      </ul>
      {beside.problems.map((problem) => (
        <p key={problem} className="mt-1 text-sm text-fault">
          {problem}
        </p>
      ))}
    </section>
  );
}

const lowered = (sentence: string) => sentence.charAt(0).toLowerCase() + sentence.slice(1);

function toggle(run: Run, record: string): void {
  changeRun(run.id, (own) => {
    own.without = own.without.includes(record)
      ? own.without.filter((other) => other !== record)
      : [...own.without, record];
  });
}

function Figures({ curve, onTake }: { curve: BenchCurveLook; onTake(figure: Takeable): void }) {
  return (
    <dl className="flex flex-wrap items-baseline gap-x-3 gap-y-0.5">
      <span className="mr-1 font-serif italic">
        <Named text={curve.text} />
      </span>
      {curve.readings.map((figure) => (
        <div key={figure.key} className="flex items-baseline gap-1.5" title={figure.exact}>
          <dt className="text-soft">{figure.label}</dt>
          <dd className="figure voice-bench flex items-center gap-1">
            {figure.text} {figure.spread}
            <TakeButton
              label={`measured ${figure.label} ${figure.text}`}
              onTake={() =>
                onTake({
                  symbol: figure.symbol,
                  label: `${figure.label} of ${curve.text}`,
                  value: figure.value,
                  unit: figure.unit,
                  isMeasured: true,
                  of: (run) => ofCurve(curve.text, figure.key, { run }),
                })
              }
            />
          </dd>
        </div>
      ))}
    </dl>
  );
}

interface LayProps {
  run: Run;
  look: RunLook;
  record: string;
  curves: BenchCurveLook[];
}

const WAYS = [
  ["trigger", "By its trigger"],
  ["fit", "Where it fits best"],
  ["fit and scale", "Where it fits best, scaled"],
] as const;

function LayMenu({ run, look, record, curves }: LayProps) {
  return (
    <Menu
      trigger={
        <button
          type="button"
          aria-label="How the record lies over the curves"
          className="rounded p-0.5 text-soft hover:bg-ruling print:hidden"
        >
          <MoreHorizontal size={14} />
        </button>
      }
    >
      {WAYS.map(([by, words]) => (
        <MenuItem
          key={by}
          onSelect={() => void lay(look, record, curveOf(run, curves, record), by)}
        >
          {words}
        </MenuItem>
      ))}
      <MenuLine />
      <MenuItem onSelect={() => put(record, { shift: 0, scale: 1 })}>As it was taken</MenuItem>
      <MenuLine />
      <MenuItem onSelect={() => overWindow(run, record)}>Run settled, as long as this</MenuItem>
    </Menu>
  );
}

/** The run as the record is: begun long before, and as long. */
function overWindow(run: Run, record: string): void {
  const { records } = useExercise.getState().document;
  const times = records.find(({ id }) => id === record)?.columns[0]?.values ?? [];
  const long = (times.at(-1) ?? 0) - (times[0] ?? 0);
  changeRun(run.id, (own) => {
    own.settings.begin = "settled";
    own.settings.start = "0 s";
    own.settings.stop = `${long.toPrecision(6)} s`;
  });
}

/** The curve it is laid by: one that the run shows where there is one. */
function curveOf(run: Run, curves: BenchCurveLook[], record: string): string {
  const own = curves.filter((curve) => curve.record === record);
  return (own.find((curve) => run.show.includes(curve.text)) ?? own.at(-1))?.text ?? "";
}

/** Lay a record over a curve of a result; what is in the way is said. */
export async function lay(
  { result }: RunLook,
  record: string,
  curve: string,
  by: "trigger" | "fit" | "fit and scale",
): Promise<void> {
  try {
    const { document } = useExercise.getState();
    put(
      record,
      await asking(document, (sent) => askOnLine("lay", { ...sent, result, record, curve, by })),
    );
  } catch (error) {
    say((error as Error).message);
  }
}

function put(record: string, to: { shift: number; scale: number }): void {
  useExercise.getState().edit((document: Exercise) => {
    const own = document.records.find((each) => each.id === record);
    if (own) Object.assign(own, to);
  });
}
