// What can be done with a curve, where one pressed on it.
import type { Run } from "../api/types";
import { LETTERS } from "../document/runs";
import { MenuAt, MenuItem, MenuLine } from "../ui/Menu";
import type { Pane, Trace } from "./drawing/panes";
import { PlaceItems } from "./Readings";
import type { Markers } from "./useMarkers";

/** A place of a curve, on its axis and on the page. */
export interface CurveMenuAt {
  at: number;
  trace: Trace;
  page: [number, number];
}

interface Props {
  run: Run;
  at: CurveMenuAt;
  panes: Pane[];
  markers: Markers;
  onHide(name: string): void;
  /** The whole axis again. */
  onWhole(): void;
  onClose(): void;
}

export function CurveMenu({ run, at, panes, markers, onHide, onWhole, onClose }: Props) {
  const { marks } = markers;
  const { name, formula, member } = at.trace;
  const put = (k: number) => {
    const to = { curve: formula, member, at: at.at };
    markers.set(marks.length > k ? marks.map((m, n) => (n === k ? to : m)) : [...marks, to]);
    markers.activate(k);
  };
  return (
    <MenuAt label={`What can be done with ${name}`} at={at.page} onClose={onClose}>
      {[...LETTERS].slice(0, marks.length + 1).map((letter, k) => (
        <MenuItem key={letter} onSelect={() => put(k)}>
          Marker {letter} here, on {name}
        </MenuItem>
      ))}
      <MenuItem onSelect={() => onHide(name)}>Hide {name}</MenuItem>
      <MenuLine />
      <PlaceItems run={run} formula={formula} panes={panes} />
      <MenuLine />
      <MenuItem onSelect={onWhole}>Reset zoom</MenuItem>
    </MenuAt>
  );
}
