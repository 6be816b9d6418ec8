// Predict: lines of hand working with headings and sentences between, then the working shown, and values sought.
import { Heading, MessageSquareText, Plus } from "lucide-react";
import { useState } from "react";
import { useExercise } from "../document/store";
import { freshId } from "../schematic/model/wires";
import { Button } from "../ui/Button";
import { Seek } from "./Seek";
import { useDesign } from "./useDesign";
import { useExactness } from "./useExactness";
import { WordsLine } from "./WordsLine";
import { WorkingAsked } from "./Working";
import { WorkLine } from "./WorkLine";

type Role = "line" | "heading" | "sentence";
const DIGITS = [2, 3, 4, 5, 6, 7, 8];

export function Predict() {
  const lines = useExercise((state) => state.document.hand);
  const purpose = useExercise((state) => state.document.purpose);
  const digits = useExercise((state) => state.document.digits);
  const looks = useExercise((state) => state.look?.lines);
  const [fresh, setFresh] = useState<string | null>(null);
  const seen = new Map(looks?.map((line) => [line.id, line]));
  const exact = useExactness();
  const design = useDesign(looks?.some(({ role }) => role === "sought") ?? false);

  const add = (role: Role, after?: string) => {
    const id = freshId("h", lines);
    useExercise.getState().edit((document) => {
      const at = after ? document.hand.findIndex((line) => line.id === after) + 1 : lines.length;
      document.hand.splice(at, 0, { id, text: "", role });
    });
    setFresh(id);
  };
  let place = 0;
  return (
    <div className="mx-auto max-w-3xl px-6 py-5">
      {purpose && <p className="mb-5 max-w-prose text-[15px] text-soft">{purpose}</p>}
      {lines.length === 0 && (
        <div className="mb-5">
          <h2 className="font-serif text-xl">Work it out by hand first</h2>
          <p className="mt-1 max-w-prose text-soft">
            Write a line as in a textbook, with part names for their values:{" "}
            <span className="figure voice-hand">V_out = V1*R2/(R1+R2)</span>. Voltages are V_ with
            the node's name, currents I_ and powers P_ with the part's. Each line becomes a hand
            value in Compare.
          </p>
        </div>
      )}
      <ol aria-label="Working" className="space-y-2">
        {lines.map((line) => {
          const { role } = line;
          if (role !== "line")
            return (
              <WordsLine
                key={line.id}
                id={line.id}
                text={line.text}
                role={role}
                focused={line.id === fresh}
                onNext={() => add("line", line.id)}
              />
            );
          place++;
          const look = seen.get(line.id);
          return (
            <WorkLine
              key={line.id}
              id={line.id}
              place={place}
              text={line.text}
              of={line.case ?? null}
              about={line.about ?? null}
              seen={look}
              exact={
                exact.get(line.id) ??
                (look?.role === "formula" ? exact.get(look.target ?? "") : undefined)
              }
              sought={design?.sought.find((each) => each.line === line.id)}
              trouble={design?.trouble ?? ""}
              focused={line.id === fresh}
              onNext={() => add("line", line.id)}
            />
          );
        })}
      </ol>
      <div className="mt-3 flex flex-wrap items-center gap-2">
        <Button onClick={() => add("line")}>
          <Plus size={16} /> Line
        </Button>
        <Button look="quiet" onClick={() => add("heading")}>
          <Heading size={16} /> Heading
        </Button>
        <Button look="quiet" onClick={() => add("sentence")}>
          <MessageSquareText size={16} /> Sentence
        </Button>
        {lines.length > 0 && (
          <label className="ml-auto text-[13px] text-soft">
            Significant figures{" "}
            <select
              value={digits}
              onChange={(event) =>
                useExercise.getState().edit((document) => {
                  document.digits = Number(event.target.value);
                })
              }
              className="h-7 rounded-md border border-edge bg-paper"
            >
              {DIGITS.map((each) => (
                <option key={each}>{each}</option>
              ))}
            </select>
          </label>
        )}
      </div>
      <WorkingAsked />
      <Seek />
    </div>
  );
}
