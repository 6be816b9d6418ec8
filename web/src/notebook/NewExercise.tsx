// Beginning an exercise: with an empty sheet, from a ready circuit, or from a file.
import { useQuery } from "@tanstack/react-query";
import { FileUp, Plus } from "lucide-react";
import { useState } from "react";
import { api, ask } from "../api/client";
import type { Exercise, Opened, Starter } from "../api/types";
import { importFile } from "../exercise/importing";
import { Button } from "../ui/Button";
import { chooseFile } from "../ui/chooseFile";
import { Panel } from "../ui/Panel";

export function NewExercise({ onOpened }: { onOpened(id: number): void }) {
  const [open, setOpen] = useState(false);
  const { data: starters } = useQuery({
    queryKey: ["starters"],
    queryFn: () => ask<Starter[]>(api.GET("/api/starters")),
    enabled: open,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const begin = async (document?: Exercise) => {
    const body = document ? { document: { ...document, number: "", measurements: [] } } : {};
    const opened = await ask<Opened>(api.POST("/api/exercises", { body }));
    onOpened(opened.id);
  };
  const fromFile = () =>
    chooseFile((file) => {
      void importFile(file).then((id) => id !== null && onOpened(id));
    });
  return (
    <>
      <Button look="solid" aria-expanded={open} onClick={() => setOpen(true)}>
        <Plus size={17} /> New exercise
      </Button>
      <Panel open={open} title="New exercise" onClose={() => setOpen(false)}>
        <div className="flex gap-2">
          <Button look="solid" className="grow" onClick={() => void begin()}>
            <Plus size={16} /> Empty sheet
          </Button>
          <Button className="grow" onClick={fromFile}>
            <FileUp size={16} /> From a file
          </Button>
        </div>
        <p className="mt-2 text-[13px] text-soft">
          A file is a Lucid Bench exercise or netlist text; it may also be dropped on the page.
        </p>
        <h3 className="mt-4 text-xs font-medium text-soft">Or begin from a ready circuit</h3>
        <ul className="mt-1 -mx-2">
          {starters?.map((starter) => (
            <li key={starter.title}>
              <button
                type="button"
                onClick={() => void begin(starter.document)}
                className="block w-full rounded-md px-2 py-1.5 text-left hover:bg-accent-wash"
              >
                <span className="font-serif text-base">{starter.title}</span>
                <span className="line-clamp-1 text-[13px] text-soft">{starter.purpose}</span>
              </button>
            </li>
          ))}
        </ul>
      </Panel>
    </>
  );
}
