// What more can be read off the curves: added at a press, kept with the run, taken away again.
import { Check, Plus } from "lucide-react";
import type { Analysis, Run } from "../api/types";
import { Menu, MenuItem } from "../ui/Menu";
import { Pill } from "../ui/Pill";
import { changeRun } from "./changeRun";

interface Props {
  run: Run;
  readings: Analysis["readings"];
}

export function MoreReadings({ run, readings }: Props) {
  return (
    <div className="mt-2 flex justify-end print:hidden">
      <Menu
        trigger={
          <Pill>
            <Plus size={13} className="mr-1 inline" />
            Reading
          </Pill>
        }
      >
        {readings.map(({ key, label }) => {
          const isRead = run.reads.includes(key);
          return (
            <MenuItem
              key={key}
              onSelect={() =>
                changeRun(run.id, (own) => {
                  own.reads = isRead
                    ? own.reads.filter((other) => other !== key)
                    : [...own.reads, key];
                })
              }
            >
              <Check size={14} className={isRead ? "text-accent" : "invisible"} />
              {label}
              {isRead && <span className="sr-only">, taken</span>}
            </MenuItem>
          );
        })}
      </Menu>
    </div>
  );
}
