// The right page: one station of work at a time, in the order of work, each at its own address.
import { Tabs } from "radix-ui";
import { type ReactNode, useEffect } from "react";
import { Compare } from "../compare/Compare";
import { isStation, STATIONS, type Station, turnTo } from "../document/address";
import { useExercise } from "../document/store";
import { Measure } from "../measure/Measure";
import { Predict } from "../predict/Predict";
import { Simulate } from "../simulate/Simulate";
import { Guarded } from "../ui/Guarded";
import { useStationKeys } from "./landmarks";
import { PAGES } from "./pages";

// Made once: a station is not drawn anew because what guards it was told of an edit.
const CONTENT: Record<Station, ReactNode> = {
  predict: <Predict />,
  simulate: <Simulate />,
  measure: <Measure />,
  compare: <Compare />,
};

const LAST = "lucid-bench.station"; // the one worked at last, where an address names none

export function Stations({ station }: { station: string | undefined }) {
  const last = sessionStorage.getItem(LAST) ?? undefined;
  const open = isStation(station) ? station : isStation(last) ? last : STATIONS[0];
  const document = useExercise((state) => state.document);
  useStationKeys();
  useEffect(() => {
    sessionStorage.setItem(LAST, open);
    if (station !== open) turnTo(open);
  }, [station, open]);
  return (
    <Tabs.Root
      value={open}
      onValueChange={(value) => isStation(value) && turnTo(value)}
      className="flex h-full flex-col"
    >
      <Tabs.List
        aria-label="Stations"
        className="flex shrink-0 gap-x-6 overflow-x-auto border-b border-hairline px-6 pt-2"
      >
        {PAGES.map(({ station: each, label, keys }) => (
          <Tabs.Trigger
            key={each}
            value={each}
            title={`${label} (${keys})`}
            className="-mb-px border-b-2 border-transparent pt-2 pb-2.5 font-serif text-lg text-soft hover:text-ink data-[state=active]:border-accent data-[state=active]:text-ink"
          >
            {label}
          </Tabs.Trigger>
        ))}
      </Tabs.List>
      {STATIONS.map((each) => {
        return (
          <Tabs.Content
            key={each}
            value={each}
            className="min-h-0 grow overflow-y-auto"
            tabIndex={-1}
          >
            <Guarded what={labelOf(each)} again={[document]}>
              {CONTENT[each]}
            </Guarded>
          </Tabs.Content>
        );
      })}
    </Tabs.Root>
  );
}

const labelOf = (station: Station) =>
  PAGES.find((page) => page.station === station)?.label ?? station;
