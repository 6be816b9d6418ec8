// Every saved state, to be gone back to. Going back is an edit like any other.
import { useQuery } from "@tanstack/react-query";
import { api, ask } from "../api/client";
import type { Opened, Revision } from "../api/types";
import { useExercise } from "../document/store";
import { Panel } from "../ui/Panel";

const clock = new Intl.DateTimeFormat("en-GB", { dateStyle: "medium", timeStyle: "medium" });

export function Revisions({ open, onClose }: { open: boolean; onClose(): void }) {
  const id = useExercise((state) => state.id);
  const current = useExercise((state) => state.revision);
  const { data, error } = useQuery({
    queryKey: ["revisions", id, current],
    queryFn: () =>
      ask<Revision[]>(
        api.GET("/api/exercises/{identity}/revisions", { params: { path: { identity: id } } }),
      ),
    enabled: open,
    placeholderData: (before) => before,
  });
  const goTo = async (number: number) => {
    const path = { identity: id, number };
    const earlier = await ask<Opened>(
      api.GET("/api/exercises/{identity}/revisions/{number}", { params: { path } }),
    );
    useExercise.getState().edit((document) => {
      Object.assign(document, earlier.document);
    });
  };
  return (
    <Panel open={open} title="Earlier revisions" onClose={onClose}>
      <p className="mb-2 text-sm text-soft">
        Going back to one is an edit like any other and can be undone.
      </p>
      {error && <p className="mb-2 text-sm text-fault">{error.message}</p>}
      <ol className="space-y-0.5">
        {data?.map((revision) => (
          <li key={revision.number}>
            <button
              type="button"
              disabled={revision.number === current}
              onClick={() => void goTo(revision.number)}
              className="flex w-full items-baseline gap-3 rounded-md px-2 py-1.5 text-left text-sm hover:bg-accent-wash disabled:font-medium disabled:hover:bg-transparent"
            >
              <span className="figure w-10 text-right text-soft">{revision.number}</span>
              {clock.format(new Date(revision.saved))}
              {revision.number === current && <span className="ml-auto text-soft">now</span>}
            </button>
          </li>
        ))}
      </ol>
    </Panel>
  );
}
