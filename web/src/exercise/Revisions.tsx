// Every saved version: what was changed, looked at before one goes back. Going back is an edit like any other.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask } from "../api/client";
import { askOnLine } from "../api/line";
import type { Opened, Point, Revision } from "../api/types";
import { useExercise } from "../document/store";
import { useOffered, withBlocks } from "../schematic/editor/catalogue";
import { Miniature } from "../schematic/view/Miniature";
import { Button } from "../ui/Button";
import { Panel } from "../ui/Panel";
import { say } from "../ui/Toasts";

const day = new Intl.DateTimeFormat("en-GB", { dateStyle: "medium" });
const clock = new Intl.DateTimeFormat("en-GB", { timeStyle: "short" });

export function Revisions({ open, onClose }: { open: boolean; onClose(): void }) {
  const id = useExercise((state) => state.id);
  const current = useExercise((state) => state.revision);
  const [chosen, setChosen] = useState<number | null>(null);
  const { data, error } = useQuery({
    queryKey: ["revisions", id, current],
    queryFn: () =>
      ask<Revision[]>(
        api.GET("/api/exercises/{identity}/revisions", { params: { path: { identity: id } } }),
      ),
    enabled: open,
    placeholderData: (before) => before,
  });
  const days = [...new Set(data?.map(({ saved }) => day.format(new Date(saved))))];
  return (
    <Panel open={open} title="Earlier versions" onClose={onClose}>
      {error && <p className="mb-2 text-sm text-fault">{error.message}</p>}
      {days.map((date) => (
        <section key={date} aria-label={date}>
          <h3 className="mt-2 mb-1 text-xs font-medium text-soft">{date}</h3>
          <ol className="space-y-0.5">
            {data
              ?.filter(({ saved }) => day.format(new Date(saved)) === date)
              .map((revision) => (
                <li key={revision.number}>
                  <button
                    type="button"
                    aria-expanded={chosen === revision.number}
                    disabled={revision.number === current}
                    onClick={() => setChosen(chosen === revision.number ? null : revision.number)}
                    className="flex w-full items-baseline gap-3 rounded-md px-2 py-1.5 text-left text-sm hover:bg-accent-wash disabled:font-medium disabled:hover:bg-transparent"
                  >
                    <span className="figure shrink-0 text-soft">
                      {clock.format(new Date(revision.saved))}
                    </span>
                    <span className="min-w-0 grow">{told(revision)}</span>
                    {revision.number === current && <span className="text-soft">now</span>}
                  </button>
                  {chosen === revision.number && <Seen number={revision.number} />}
                </li>
              ))}
          </ol>
        </section>
      ))}
    </Panel>
  );
}

function told({ number, restores, changed }: Revision): string {
  if (restores) return `Back to version ${restores}`;
  return changed || (number === 1 ? "The beginning" : `Version ${number}`);
}

/** One of them as it was, and the way back to it. */
function Seen({ number }: { number: number }) {
  const id = useExercise((state) => state.id);
  const offered = useOffered();
  const { data, error } = useQuery({
    queryKey: ["revision", id, number],
    queryFn: async () => {
      const path = { identity: id, number };
      const { document } = await ask<Opened>(
        api.GET("/api/exercises/{identity}/revisions/{number}", { params: { path } }),
      );
      const body = { document, since: "", changes: [], inside: "", compared: false, case: "" };
      return { document, look: await askOnLine("look", body) };
    },
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (error) return <p className="px-2 text-sm text-fault">{error.message}</p>;
  if (!data) return <p className="px-2 py-1 text-sm text-soft">Opening …</p>;
  const { document, look } = data;
  const goBack = () => {
    useExercise.getState().edit((draft) => {
      Object.assign(draft, document);
    });
    say("This is the earlier version now.", {
      label: "Undo",
      run: () => useExercise.getState().undo(),
    });
  };
  const contents = [
    [document.schematic.parts.length, "part"],
    [document.hand.length, "line of working", "lines of working"],
    [document.runs.length, "run"],
    [document.measurements.length, "bench reading"],
  ] as const;
  return (
    <div className="mt-1 mb-2 rounded-lg border border-hairline p-2">
      <p className="font-serif">{document.title || "Untitled"}</p>
      <div className="h-36 py-1">
        <Miniature
          schematic={document.schematic}
          joints={look.joints.filter((joint): joint is Point => Array.isArray(joint))}
          catalogue={withBlocks(
            offered,
            look.blocks.filter((block) => "key" in block),
          )}
        />
      </div>
      <p className="text-[13px] text-soft">
        {contents
          .filter(([count]) => count > 0)
          .map(([count, one, many]) => `${count} ${count === 1 ? one : (many ?? `${one}s`)}`)
          .join(" · ")}
      </p>
      <Button className="mt-2 h-8" onClick={goBack}>
        Go back to this version
      </Button>
    </div>
  );
}
