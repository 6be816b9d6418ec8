// What a line with a question mark comes to: its solutions, and the values near them that can be had.
import { carryOut } from "../api/changes";
import type { CandidateLook, Change, Series, SoughtLook } from "../api/types";
import { useExercise } from "../document/store";
import { Button } from "../ui/Button";
import { Formula } from "../ui/Formula";
import { Named } from "../ui/Named";
import { say } from "../ui/Toasts";
import { useSeries } from "./useDesign";

const SERIES: Series[] = ["E6", "E12", "E24", "E48", "E96"];

interface Props {
  place: number;
  sought: SoughtLook | undefined;
  trouble: string;
}

export function Sought({ place, sought, trouble }: Props) {
  if (!sought) return <p className="mt-1 text-[14px] text-soft">{trouble || "Looking for it …"}</p>;
  return (
    <div className="mt-1">
      <ul aria-label={`Solutions of line ${place}`} className="space-y-1">
        {sought.solutions.map((solution) => (
          <li key={solution.text} className="flex flex-wrap items-center gap-x-3">
            <Formula latex={solution.latex} />
            <span className="figure voice-hand border-b border-dashed border-hand text-lg">
              = {solution.text}
            </span>
            {solution.refused ? (
              <span className="text-[13px] text-doubt">
                no solution here: <Named text={solution.refused} />
              </span>
            ) : (
              solution.changes.length > 0 && (
                <PutIn name={sought.name} value={solution.text} changes={solution.changes} />
              )
            )}
          </li>
        ))}
      </ul>
      {sought.candidates.length > 0 && (
        <Candidates name={sought.name} candidates={sought.candidates} place={place} />
      )}
    </div>
  );
}

interface PutInProps {
  name: string;
  value: string;
  changes: Change[];
}

function PutIn({ name, value, changes }: PutInProps) {
  const put = () => {
    useExercise.getState().edit((draft) => carryOut(draft, changes));
    useExercise.getState().endGroup();
    say(`${name} is ${value} now.`);
  };
  return (
    <Button
      aria-label={`Put in ${name} = ${value}`}
      className="h-7! px-2! text-[13px]! font-normal!"
      onClick={put}
    >
      Put in
    </Button>
  );
}

interface CandidatesProps {
  name: string;
  place: number;
  candidates: CandidateLook[];
}

function Candidates({ name, candidates, place }: CandidatesProps) {
  const { series, pairs } = useSeries();
  const given = candidates[0]?.gives ?? [];
  return (
    <div className="mt-2 overflow-x-auto">
      <div className="flex flex-wrap items-center gap-3 text-[13px] text-soft">
        <label>
          Values of{" "}
          <select
            aria-label="Series"
            value={series}
            onChange={(event) => useSeries.setState({ series: event.target.value as Series })}
            className="h-7 rounded-md border border-edge bg-paper"
          >
            {SERIES.map((each) => (
              <option key={each}>{each}</option>
            ))}
          </select>
        </label>
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={pairs}
            onChange={(event) => useSeries.setState({ pairs: event.target.checked })}
          />
          two of them for one
        </label>
      </div>
      <table aria-label={`Values near line ${place}`} className="mt-1 w-full text-[14px]">
        <thead>
          <tr className="text-left text-[13px] text-soft">
            <th className="py-0.5 pr-3 font-normal">
              <Named text={name.replace(/^([A-Z])(\d)/, "$1_$2")} />
            </th>
            {given.map(({ name: figure }) => (
              <th key={figure} className="pr-3 font-normal">
                <Named text={figure} />
              </th>
            ))}
            <th />
          </tr>
        </thead>
        <tbody>
          {candidates.map((candidate) => (
            <tr key={candidate.label} className="border-t border-ruling align-top">
              <td className="figure py-1 pr-3 whitespace-nowrap">{candidate.label}</td>
              {candidate.gives.map((each) => (
                <td key={each.name} className="py-1 pr-3">
                  <span className="figure">{each.text}</span>{" "}
                  <span className="text-[13px] text-soft">{each.off}</span>
                  {each.band && (
                    <span className="block text-[12px] text-soft" title="19 of 20 builds lie there">
                      {each.band}
                    </span>
                  )}
                  {each.share !== null && (
                    <span
                      className={`block text-[12px] ${each.share > 0.95 ? "text-accent" : "text-doubt"}`}
                    >
                      {Math.round(100 * each.share)} % of builds meet it
                    </span>
                  )}
                </td>
              ))}
              <td className="py-0.5 text-right">
                {candidate.changes.length > 0 && (
                  <PutIn name={name} value={candidate.text} changes={candidate.changes} />
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
