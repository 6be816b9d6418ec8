// What is drawn: wires, parts, dots, pins, texts. It knows nothing of pan and zoom.
import { memo, useMemo } from "react";
import type { CaseChange, Evaluation, Point, Schematic, Wire } from "../../api/types";
import { inCase, referenceTo, useShownCase } from "../../document/cases";
import { useExercise } from "../../document/store";
import { nodeWires } from "../annotations/annotate";
import type { Annotations } from "../annotations/notes";
import { useEditorStore } from "../editor/tools";
import {
  allPins,
  type Catalogue,
  key,
  kindOf,
  onWire,
  type PlacedPin,
  pinsOf,
} from "../model/geometry";
import { Grouped } from "./Grouped";
import { Notes } from "./Notes";
import { PlacedPart } from "./PlacedPart";
import { TextNote } from "./TextNote";

/** What is seen of a drawing beside the drawing itself. */
export interface Seen {
  catalogue: Catalogue;
  look: Evaluation | null;
  descriptions: Map<string, string>;
  chosen: ReadonlySet<string>;
  hovered: string | null;
  focusedFinding: ReadonlySet<string> | undefined;
  hues: ReadonlyMap<string, number>;
}

interface DrawnProps extends Seen {
  schematic: Schematic;
  /** The same as long as only values change; places are looked up in it. */
  shape: Schematic;
  annotations: Annotations;
  /** What is in the hand just now, and drawn elsewhere. */
  lifted: ReadonlySet<string>;
}

/** Everything of a drawing, what is lifted unseen in its place, so that it keeps the focus. */
export function Drawn(props: DrawnProps) {
  const { schematic, shape, annotations, lifted, catalogue, look, chosen, hovered, hues } = props;
  const litWires = useMemo(() => nodeWires(look?.nets, hovered), [look?.nets, hovered]);
  const wireNodes = useMemo(
    () => new Map(look?.nets.flatMap((net) => net.wires.map((id) => [id, net.name] as const))),
    [look?.nets],
  );
  const dots = useMemo(
    () => dotsOf(look?.joints ?? [], shape, catalogue),
    [look?.joints, shape, catalogue],
  );
  return (
    <>
      <Wires
        wires={schematic.wires}
        chosen={chosen}
        lit={litWires}
        focusedFinding={props.focusedFinding}
        nodes={wireNodes}
        hues={hues}
        lifted={lifted}
      />
      <Parts
        parts={schematic.parts}
        catalogue={catalogue}
        descriptions={props.descriptions}
        chosen={chosen}
        hovered={hovered}
        focusedFinding={props.focusedFinding}
        lifted={lifted}
      />
      <Dots points={dots} />
      <Pins schematic={shape} catalogue={catalogue} />
      {schematic.labels
        .filter((label) => label.style === "supply" && !lifted.has(label.id))
        .map(({ id, at }) => (
          <path
            key={id}
            className="stroke"
            d={`M${at[0]} ${at[1]}v-1M${at[0] - 1.1} ${at[1] - 1}h2.2`}
          />
        ))}
      {schematic.notes
        .filter((note) => !lifted.has(note.id))
        .map((note) => (
          <TextNote key={note.id} note={note} chosen={chosen.has(note.id)} />
        ))}
      <Notes annotations={annotations} hovered={hovered} hues={hues} />
    </>
  );
}

/** The joints told by the last look that are still there: on a wire's corner or end, on a pin, or where
 * a name or a junction ties wires together. */
function dotsOf(joints: Point[], schematic: Schematic, catalogue: Catalogue): Point[] {
  const there = new Set(allPins(schematic, catalogue).map((pin) => key(pin.at)));
  for (const wire of schematic.wires) for (const point of wire.points) there.add(key(point));
  for (const { at } of [...schematic.labels, ...schematic.junctions]) there.add(key(at));
  return joints.filter((joint) => there.has(key(joint)));
}

interface WiresProps {
  wires: Schematic["wires"];
  chosen: ReadonlySet<string>;
  lit: ReadonlySet<string>;
  focusedFinding: ReadonlySet<string> | undefined;
  /** The node of a wire, by the wire's id. */
  nodes: Map<string, string>;
  /** The hues of what is drawn as a curve, by quantity. */
  hues: ReadonlyMap<string, number>;
  lifted: ReadonlySet<string>;
}

const Wires = memo(function Wires(props: WiresProps) {
  const { wires, chosen, lit, focusedFinding, nodes, hues, lifted } = props;
  const items = wires.map((wire) => ({
    id: wire.id,
    wire,
    node: nodes.get(wire.id),
    hue: hues.get(`V_${nodes.get(wire.id)}`),
    chosen: chosen.has(wire.id),
    lit: lit.has(wire.id),
    pointed: focusedFinding?.has(wire.id) ?? false,
    lifted: lifted.has(wire.id),
  }));
  return <Grouped items={items} Draw={PlacedWire} />;
});

interface PlacedWireProps {
  id: string;
  wire: Wire;
  node: string | undefined;
  hue: number | undefined;
  chosen: boolean;
  lit: boolean;
  pointed: boolean;
  lifted: boolean;
}

const PlacedWire = memo(function PlacedWire(props: PlacedWireProps) {
  const { wire, node, hue, chosen, lit, pointed, lifted } = props;
  const points = wire.points.join(" ");
  const opacity = lifted ? 0 : undefined;
  return (
    <>
      {hue !== undefined && (
        <polyline
          points={points}
          fill="none"
          stroke={`var(--curve-${hue})`}
          strokeOpacity={lifted ? 0 : 0.4}
          strokeWidth={0.55}
          strokeLinecap="round"
          strokeLinejoin="round"
          pointerEvents="none"
        />
      )}
      <polyline
        className="wire"
        data-chosen={chosen}
        data-lit={lit}
        data-pointed={pointed}
        points={points}
        opacity={opacity}
      />
      <polyline
        data-id={wire.id}
        data-role="wire"
        points={points}
        fill="none"
        pointerEvents="stroke"
        strokeWidth={1}
        onPointerEnter={() => node && useEditorStore.getState().set({ hovered: `V_${node}` })}
        onPointerLeave={() => useEditorStore.getState().set({ hovered: null })}
      />
    </>
  );
});

/** What the case that is looked at does with each part of the open drawing, by its id. */
function useCaseShown(): Map<string, CaseChange> {
  const shown = useShownCase();
  const inside = useExercise((state) => state.inside);
  const changes = useExercise(
    ({ document }) => document.cases?.find(({ id }) => id === shown)?.changes,
  );
  return useMemo(() => {
    const before = referenceTo("", inside);
    const own = changes?.filter(
      ({ part }) => part.startsWith(before) && !part.slice(before.length).includes("/"),
    );
    return new Map(own?.map((change) => [change.part.slice(before.length), change]));
  }, [changes, inside]);
}

interface PartsProps {
  parts: Schematic["parts"];
  catalogue: Catalogue;
  descriptions: Map<string, string>;
  chosen: ReadonlySet<string>;
  hovered: string | null;
  focusedFinding: ReadonlySet<string> | undefined;
  lifted: ReadonlySet<string>;
}

const Parts = memo(function Parts(props: PartsProps) {
  const { parts, catalogue, descriptions, chosen, hovered, focusedFinding, lifted } = props;
  const subject =
    hovered?.startsWith("I_") || hovered?.startsWith("P_") ? hovered.slice(2).split(".")[0] : null;
  const highlighted = useEditorStore((state) => state.highlighted);
  const changes = useCaseShown();
  const items = parts
    .map((drawn) => inCase(drawn, changes.get(drawn.id)))
    .map((part) => ({
      id: part.id,
      inCase: changes.get(part.id)?.does,
      part,
      kind: kindOf(part, catalogue),
      description: descriptions.get(part.id) ?? part.name,
      chosen: chosen.has(part.id),
      lit: subject === part.name || highlighted.has(part.name),
      pointed: focusedFinding?.has(part.id) ?? false,
      lifted: lifted.has(part.id),
    }));
  return <Grouped items={items} Draw={PlacedPart} />;
});

const Dots = memo(function Dots({ points }: { points: Point[] }) {
  return (
    <g>
      {points.map((point) => (
        <circle key={key(point)} className="solid" cx={point[0]} cy={point[1]} r={0.36} />
      ))}
    </g>
  );
});

interface PinsProps {
  schematic: Schematic;
  catalogue: Catalogue;
}

/** Every pin as a place to begin a wire; those that lead nowhere yet are shown. */
const Pins = memo(function Pins({ schematic, catalogue }: PinsProps) {
  const counts = new Map<string, number>();
  const count = (point: Point) => counts.set(key(point), (counts.get(key(point)) ?? 0) + 1);
  const pins = schematic.parts.map((part) => pinsOf(part, catalogue));
  for (const pin of pins.flat()) count(pin.at);
  for (const { points } of schematic.wires) {
    count(points[0] as Point);
    count(points.at(-1) as Point);
  }
  for (const { at } of schematic.labels) count(at); // a name leads to all that bear it
  const items = schematic.parts.flatMap((part, i) =>
    (pins[i] ?? []).map(({ index, at: [x, y] }: PlacedPin) => {
      const at = [x, y] as Point;
      const leadsNowhere =
        counts.get(key(at)) === 1 && !schematic.wires.some((wire) => onWire(at, wire.points));
      return { id: `${part.id} ${index}`, part: part.id, index, x, y, leadsNowhere };
    }),
  );
  return <Grouped items={items} Draw={Pin} />;
});

interface PinProps {
  id: string;
  part: string;
  index: number;
  x: number;
  y: number;
  leadsNowhere: boolean;
}

const Pin = memo(function Pin({ part, index, x, y, leadsNowhere }: PinProps) {
  return (
    <>
      {leadsNowhere && (
        <circle
          data-handle
          cx={x}
          cy={y}
          r={0.3}
          fill="var(--paper)"
          stroke="var(--accent)"
          strokeWidth={0.14}
        />
      )}
      <circle
        data-id={part}
        data-role="pin"
        data-pin={index}
        cx={x}
        cy={y}
        r={0.75}
        className="cursor-crosshair fill-none hover:stroke-accent"
        pointerEvents="all"
        strokeWidth={0.18}
      />
    </>
  );
});
