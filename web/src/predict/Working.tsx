// The working shown: its ways, and of the one looked at its steps, each to be taken over or found oneself.
import { EyeOff, Plus, X } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import type { How, StepLook, WorkedWay } from "../api/types";
import { useShownCase } from "../document/cases";
import { useExercise } from "../document/store";
import { useEditorStore } from "../schematic/editor/tools";
import { Button, IconButton } from "../ui/Button";
import { Formula } from "../ui/Formula";
import { Named } from "../ui/Named";
import { say } from "../ui/Toasts";
import { AsymptotesPlot } from "./AsymptotesPlot";
import { isCrowded, MiniSchematic } from "./MiniSchematic";
import { takeOver } from "./takeOver";
import {
  askAgain,
  closeWorking,
  hide,
  reveal,
  showWorking,
  tryTurn,
  turnKey,
  useWorking,
} from "./working";

const HOWS: { value: How; text: string }[] = [
  { value: "rest", text: "at rest" },
  { value: "phasor", text: "as phasors" },
  { value: "gain", text: "as a gain" },
  { value: "step", text: "after a step" },
];
const isVoltage = (name: string) => name.startsWith("V_");
const SETTLES = 500; // ms after the last edit, then it is worked out again

export function WorkingAsked() {
  const quantities = useExercise((state) => state.look?.quantities);
  const shown = useShownCase();
  const sought = useWorking((state) => state.sought);
  const [figure, setFigure] = useState("");
  const [above, setAbove] = useState("");
  const [how, setHow] = useState<How>("rest");
  const names = quantities?.map(({ name }) => name) ?? [];
  const first = names.find((name) => name === "V_out") ?? names[0] ?? "";
  const chosen = names.includes(figure) ? figure : first;
  const others = names.filter((name) => isVoltage(name) && name !== chosen);
  const isBetween = isVoltage(chosen) && how !== "gain";
  const reference = isBetween && others.includes(above) ? above : "";
  if (!names.length) return null;
  const field = "h-9 rounded-md border border-edge bg-paper px-2 text-[15px]";
  return (
    <section aria-label="Show the working" className="mt-8 border-t border-ruling pt-4">
      <form
        className="flex flex-wrap items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          const figure = reference ? `${chosen} - ${reference}` : chosen;
          showWorking({ figure, how, case: shown });
        }}
      >
        <h2 className="mr-1 font-serif text-lg whitespace-nowrap">Show the working of</h2>
        <select
          aria-label="Figure to work out"
          value={chosen}
          onChange={(event) => setFigure(event.target.value)}
          className={`${field} figure italic`}
        >
          {names.map((name) => (
            <option key={name}>{name}</option>
          ))}
        </select>
        {isBetween && (
          <select
            aria-label="Above which node"
            value={reference}
            onChange={(event) => setAbove(event.target.value)}
            className={field}
          >
            <option value="">above ground</option>
            {others.map((name) => (
              <option key={name} value={name}>
                above {name}
              </option>
            ))}
          </select>
        )}
        <select
          aria-label="How it is meant"
          value={how}
          onChange={(event) => setHow(event.target.value as How)}
          className={field}
        >
          {HOWS.map(({ value, text }) => (
            <option key={value} value={value}>
              {text}
            </option>
          ))}
        </select>
        <Button type="submit" aria-label="Show the working" look={sought ? "line" : "solid"}>
          Show
        </Button>
      </form>
      {sought && <Shown />}
    </section>
  );
}

function Shown() {
  const { sought, told, trouble, busy, way } = useWorking();
  const document = useExercise((state) => state.document);
  const [asked, setAsked] = useState(document);
  useEffect(() => {
    if (asked === document) return;
    const timer = setTimeout(() => {
      setAsked(document);
      askAgain();
    }, SETTLES);
    return () => clearTimeout(timer);
  }, [asked, document]);
  useEffect(() => () => useEditorStore.getState().set({ highlighted: new Set() }), []);
  const panel = useRef<HTMLDivElement>(null);
  const isThere = told !== null;
  useEffect(() => {
    if (isThere) bringUp(panel.current);
  }, [isThere]);
  const leading = told?.ways.filter((each) => each.steps.length > 0) ?? [];
  const others = told?.ways.filter((each) => !each.steps.length) ?? [];
  const allAlike = new Set(others.map(({ reason }) => reason)).size === 1;
  const looked = leading.find((each) => each.key === way);
  return (
    <div ref={panel} className="mt-3 rounded-lg border border-hairline bg-raised px-4 py-3">
      <div className="flex items-center gap-2">
        <p className="grow text-[15px]" aria-live="polite">
          {trouble ??
            (told ? (
              <>
                <span className="figure italic">
                  <Named text={told.figure} />
                </span>{" "}
                {told.conditions}
                {leading.length === 0 && ": there is no way to it that is shown here."}
              </>
            ) : (
              busy && "Working it out …"
            ))}
        </p>
        <IconButton label="Close the working" className="size-7!" onClick={closeWorking}>
          <X size={15} />
        </IconButton>
      </div>
      {leading.length > 1 && (
        <div role="radiogroup" aria-label="Way" className="mt-1 flex flex-wrap gap-1">
          {leading.map(({ key, label, steps }) => (
            <button
              key={key}
              type="button"
              role="radio"
              aria-checked={key === way}
              onClick={() => useWorking.setState({ way: key })}
              className="rounded-full border border-edge px-3 py-0.5 text-[13px] text-soft hover:bg-ruling aria-checked:border-accent aria-checked:bg-accent-wash aria-checked:text-ink"
            >
              {label} <span className="figure text-soft">{steps.filter((s) => s.line).length}</span>
            </button>
          ))}
        </div>
      )}
      {looked && <Steps way={looked} key={`${sought?.figure} ${looked.key}`} />}
      {others.length > 0 && (
        <details open={!leading.length} className="mt-3 text-[13px] text-soft">
          <summary className="cursor-pointer">
            {leading.length ? "Ways that do not lead there" : "Why not"}
          </summary>
          <ul className="mt-1 space-y-0.5">
            {allAlike ? (
              <li>
                <Named text={others[0]?.reason ?? ""} />
              </li>
            ) : (
              others.map(({ key, label, reason }) => (
                <li key={key}>
                  {label}: <Named text={reason} />
                </li>
              ))
            )}
          </ul>
        </details>
      )}
    </div>
  );
}

const [NARROW, WIDE] = [240, 420]; // px of a small drawing, beside its step and below it
const ABOVE = 64; // px of the page left above what is brought up

/** To the top of what it scrolls in, and of nothing else. */
function bringUp(panel: HTMLElement | null): void {
  let frame = panel?.parentElement;
  while (frame && !/auto|scroll/.test(getComputedStyle(frame).overflowY))
    frame = frame.parentElement;
  if (panel && frame)
    frame.scrollTop +=
      panel.getBoundingClientRect().top - frame.getBoundingClientRect().top - ABOVE;
}

function Steps({ way }: { way: WorkedWay }) {
  return (
    <>
      <ol aria-label={`Steps by ${way.label}`} className="mt-3">
        {way.steps.map((step, k) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a step is its place
          <Step key={k} way={way.key} place={k} step={step} />
        ))}
      </ol>
      {way.curve.length > 0 && <AsymptotesPlot lines={way.asymptotes} curve={way.curve} />}
    </>
  );
}

function Step({ way, place, step }: { way: string; place: number; step: StepLook }) {
  const hidden = useWorking((state) => turnKey(way, place) in state.turns);
  const right = useWorking((state) => state.turns[turnKey(way, place)]?.is_right ?? false);
  const light = (is: boolean) =>
    useEditorStore.getState().set({ highlighted: new Set(is ? step.parts : []) });
  if (step.heading && !step.line && !step.drawing)
    return (
      <li className="mt-4 font-serif text-[17px] first:mt-0">
        <Named text={step.sentence} />
      </li>
    );
  const isWide = !!step.drawing && isCrowded(step.drawing);
  return (
    <li
      onPointerEnter={() => light(true)}
      onPointerLeave={() => light(false)}
      onFocus={() => light(true)}
      onBlur={() => light(false)}
      className={`group relative flex items-start gap-x-4 gap-y-1 rounded px-2 py-1.5 pr-10 hover:bg-accent-wash focus-within:bg-accent-wash ${isWide ? "flex-col" : ""} ${step.heading ? "mt-4" : ""}`}
    >
      <div className="min-w-0 grow">
        {step.sentence && (
          <p className={step.heading ? "font-serif text-[17px]" : "text-[14px] text-soft"}>
            <Named text={step.sentence} />
          </p>
        )}
        {hidden ? <Turn way={way} place={place} /> : null}
        {step.latex && (!hidden || right) && (
          <div className="flex flex-wrap items-center gap-x-3 gap-y-1 overflow-x-auto py-1">
            <Formula latex={step.latex} />
            {step.substituted && <Formula latex={`= ${step.substituted}`} className="text-soft" />}
            {step.result && (
              <span className="figure voice-hand border-b border-dashed border-hand pb-px">
                = {step.result}
              </span>
            )}
          </div>
        )}
      </div>
      {step.drawing && (
        <div className={`shrink-0 rounded bg-paper ${isWide ? "w-full" : "w-60"}`}>
          <MiniSchematic
            drawing={step.drawing}
            label={`The circuit after step ${place + 1}`}
            widest={isWide ? WIDE : NARROW}
          />
        </div>
      )}
      {step.line && (
        <div className="absolute top-1 right-1 flex flex-col gap-0.5 opacity-0 group-focus-within:opacity-100 group-hover:opacity-100">
          {step.is_to_find && !hidden && (
            <IconButton
              label={`Hide step ${place + 1}: your turn`}
              className="size-7!"
              onClick={() => hide(way, place)}
            >
              <EyeOff size={15} />
            </IconButton>
          )}
          {!hidden && (
            <IconButton
              label={`Take step ${place + 1} into the working`}
              className="size-7!"
              onClick={() => takeOver(step.line)}
            >
              <Plus size={15} />
            </IconButton>
          )}
        </div>
      )}
    </li>
  );
}

/** A line of one's own in the place of a hidden step. */
function Turn({ way, place }: { way: string; place: number }) {
  const turn = useWorking((state) => state.turns[turnKey(way, place)]);
  const [text, setText] = useState("");
  const check = () =>
    tryTurn(way, place, text).catch((error: Error) => say(`${error.message}.`.replace("..", ".")));
  return (
    <form
      className="mt-1"
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim()) check();
      }}
    >
      <div className="flex items-center gap-2">
        <input
          // biome-ignore lint/a11y/noAutofocus: whoever hid the step is about to write it
          autoFocus
          aria-label={`Your turn: step ${place + 1}`}
          value={text}
          onChange={(event) => setText(event.target.value)}
          placeholder="your line"
          autoComplete="off"
          spellCheck={false}
          className="figure min-w-0 grow rounded-md border border-dashed border-hand bg-paper px-2 py-1 text-[15px] text-hand italic focus:outline-2 focus:outline-accent"
        />
        <Button type="submit" className="h-8! px-2.5!">
          Check
        </Button>
        <Button look="quiet" className="h-8! px-2!" onClick={() => reveal(way, place)}>
          Show it
        </Button>
      </div>
      {turn && (
        <p
          className={`mt-1 text-[13px] ${turn.is_right ? "text-accent" : "text-fault"}`}
          aria-live="polite"
        >
          {turn.sentence}
        </p>
      )}
    </form>
  );
}
