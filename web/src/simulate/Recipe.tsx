// What a run is told: its settings, each with what is proposed and why, and the curves it shows.
import { X } from "lucide-react";
import { memo, useId, useState } from "react";
import type { Analysis, Run, RunLook } from "../api/types";
import { useExercise } from "../document/store";
import { changeRun } from "../plots/changeRun";
import { useNamesOfChosen } from "../plots/chosen";
import { Named } from "../ui/Named";
import { Pill } from "../ui/Pill";

const field =
  "rounded-md border border-edge bg-paper px-2 py-1 text-sm text-ink placeholder:text-soft " +
  "focus:border-accent focus:outline-2 focus:outline-accent aria-invalid:border-fault";

const isTyped = ({ reads }: Analysis["settings"][number]) =>
  reads === "quantity" || reads === "values" || reads === "voltages";

interface Props {
  run: Run;
  analysis: Analysis;
  look: RunLook | null;
}

export const Settings = memo(function Settings({ run, analysis, look }: Props) {
  if (!analysis.settings.length) return null;
  // The values of a family are asked for once it is known of what.
  // In which of several states a circuit rests, only where it may have several.
  const asked = analysis.settings.filter(
    (s) =>
      (s.key !== "over" || (run.settings.vary && run.settings.vary !== "cases")) &&
      (s.reads !== "voltages" ||
        run.settings[s.key] ||
        look?.settings.find((seen) => seen.key === s.key)?.proposed),
  );
  const because = look?.settings.find((setting) => setting.because && !setting.text)?.because;
  return (
    <div className="mt-3">
      <div className="flex flex-wrap items-end gap-3">
        {asked.map((setting) => {
          const seen = look?.settings.find((other) => other.key === setting.key);
          const text = run.settings[setting.key] ?? "";
          // Of tolerances there are no values to list: it is asked how often to build.
          const counts = setting.key === "over" && run.settings.vary === "tolerances";
          const problem = seen?.text === text ? seen?.problem : null;
          const write = (to: string) =>
            changeRun(
              run.id,
              (own) => {
                own.settings[setting.key] = to;
              },
              setting.key,
            );
          return (
            <div key={setting.key} title={setting.meaning} className="text-xs text-soft">
              <label htmlFor={`${run.id} ${setting.key}`} className="block font-medium">
                {counts ? "Number of builds" : setting.label}
              </label>
              {isTyped(setting) ? (
                <input
                  id={`${run.id} ${setting.key}`}
                  value={text}
                  placeholder={
                    counts ? "20" : setting.reads === "values" ? "1, 2, 5" : seen?.proposed
                  }
                  maxLength={60}
                  spellCheck={false}
                  autoComplete="off"
                  aria-invalid={Boolean(problem)}
                  onChange={(event) => write(event.target.value)}
                  className={`${field} figure mt-1 h-[31px] ${setting.reads !== "quantity" && !counts ? "w-52" : "w-28"}`}
                />
              ) : (
                <select
                  id={`${run.id} ${setting.key}`}
                  value={text || seen?.proposed}
                  onChange={(event) => write(event.target.value)}
                  className={`${field} mt-1 h-[31px] ${setting.reads === "varied" ? "max-w-32" : ""}`}
                >
                  {seen?.choices.map(([value, words]) => (
                    <option key={value} value={value}>
                      {words}
                    </option>
                  ))}
                </select>
              )}
            </div>
          );
        })}
        <OfCase run={run} />
      </div>
      {because && <p className="mt-1 text-xs text-soft">Proposed: {because}.</p>}
    </div>
  );
});

/** The case a run is carried out in, where there are cases: the one looked at, or always the same. */
function OfCase({ run }: { run: Run }) {
  const cases = useExercise((state) => state.document.cases);
  if (!cases.length || run.settings.vary === "cases") return null;
  return (
    <label className="text-xs font-medium text-soft">
      In the case
      <select
        value={run.case}
        onChange={(event) =>
          changeRun(run.id, (own) => {
            own.case = event.target.value;
          })
        }
        className={`${field} mt-1 block h-[31px] max-w-36 font-normal`}
      >
        <option value="">looked at</option>
        {cases.map(({ id, name }, k) => (
          <option key={id} value={id}>
            {name || `Case ${k + 1}`}
          </option>
        ))}
      </select>
    </label>
  );
}

export const Shown = memo(function Shown({ run, look }: Omit<Props, "analysis">) {
  const [text, setText] = useState("");
  const list = useId();
  const shown = run.show.length ? run.show : (look?.shown.map((item) => item.text) ?? []);
  const set = (show: string[]) =>
    changeRun(run.id, (own) => {
      own.show = show;
    });
  const show = (formula: string) => {
    if (formula && !shown.includes(formula)) set([...shown, formula]);
  };
  const add = () => {
    show(text.trim());
    setText("");
  };
  const offered = useNamesOfChosen().filter((name) => !shown.includes(name));
  return (
    <div className="mt-3">
      <ul aria-label="Shown" className="flex flex-wrap items-center gap-1.5">
        {shown.map((item) => {
          const problem = look?.shown.find((other) => other.text === item)?.problem;
          return (
            <li
              key={item}
              className={`flex items-center gap-1 rounded-full border py-0.5 pr-1 pl-2.5 text-sm ${problem ? "border-fault text-fault" : "border-hairline bg-raised"}`}
            >
              <span className="font-serif italic">
                <Named text={item} />
              </span>
              <button
                type="button"
                aria-label={`Remove ${item}`}
                onClick={() => set(shown.filter((other) => other !== item))}
                className="rounded-full p-0.5 text-soft hover:bg-ruling"
              >
                <X size={13} />
              </button>
            </li>
          );
        })}
        <li>
          <input
            aria-label="Show also"
            disabled={!look} // until it is known what is shown by itself
            value={text}
            list={list}
            maxLength={200}
            spellCheck={false}
            autoComplete="off"
            placeholder="V_out/V_in, P_R1 …"
            title="A formula; or select a part or wire on the schematic"
            onChange={(event) => setText(event.target.value)}
            onKeyDown={(event) => event.key === "Enter" && add()}
            onBlur={add}
            className={`${field} figure w-44 italic`}
          />
          <datalist id={list}>
            {look?.names.map((name) => (
              <option key={name} value={name} />
            ))}
          </datalist>
        </li>
      </ul>
      {offered.length > 0 && (
        <ul aria-label="Of the selection" className="mt-1.5 flex flex-wrap items-center gap-1.5">
          {offered.map((name) => (
            <li key={name}>
              <Pill
                aria-label={`+ ${name}`}
                onClick={() => show(name)}
                className="font-serif! italic"
              >
                + <Named text={name} />
              </Pill>
            </li>
          ))}
        </ul>
      )}
      {look?.shown
        .filter((item) => item.problem)
        .map((item) => (
          <p key={item.text} className="mt-1 text-sm text-fault">
            {item.text}: {item.problem}.
          </p>
        ))}
    </div>
  );
});
