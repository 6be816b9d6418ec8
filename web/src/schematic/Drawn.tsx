// What is drawn, apart from texts: wires, parts, dots and pins. It knows nothing of pan and zoom.
import { memo } from "react";
import type { Part, Point, Schematic, Wire } from "../api/types";
import {
  bodyOf,
  type Catalogue,
  key,
  kindOf,
  onWire,
  type PlacedPin,
  pinsOf,
  same,
} from "./geometry";
import { PlacedPart } from "./PlacedPart";
import { useHand } from "./tools";

interface WiresProps {
  wires: Schematic["wires"];
  chosen: ReadonlySet<string>;
  lit: ReadonlySet<string>;
  pointedOut: ReadonlySet<string> | undefined;
  /** The node of a wire, by the wire's id. */
  nodes: Map<string, string>;
  /** The hues of what is drawn as a curve, by quantity. */
  hues: ReadonlyMap<string, number>;
}

export const Wires = memo(function Wires(props: WiresProps) {
  const { wires, chosen, lit, pointedOut, nodes, hues } = props;
  return wires.map((wire) => (
    <PlacedWire
      key={wire.id}
      wire={wire}
      node={nodes.get(wire.id)}
      hue={hues.get(`V_${nodes.get(wire.id)}`)}
      chosen={chosen.has(wire.id)}
      lit={lit.has(wire.id)}
      pointed={pointedOut?.has(wire.id) ?? false}
    />
  ));
});

interface PlacedWireProps {
  wire: Wire;
  node: string | undefined;
  hue: number | undefined;
  chosen: boolean;
  lit: boolean;
  pointed: boolean;
}

const PlacedWire = memo(function PlacedWire(props: PlacedWireProps) {
  const { wire, node, hue, chosen, lit, pointed } = props;
  const points = wire.points.join(" ");
  return (
    <g>
      {hue !== undefined && (
        <polyline
          points={points}
          fill="none"
          stroke={`var(--curve-${hue})`}
          strokeOpacity={0.4}
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
      />
      <polyline
        data-id={wire.id}
        data-role="wire"
        points={points}
        fill="none"
        stroke="transparent"
        strokeWidth={1}
        onPointerEnter={() => node && useHand.getState().set({ lit: `V_${node}` })}
        onPointerLeave={() => useHand.getState().set({ lit: null })}
      />
    </g>
  );
});

interface PartsProps {
  parts: Schematic["parts"];
  catalogue: Catalogue;
  descriptions: Map<string, string>;
  chosen: ReadonlySet<string>;
  lit: string | null;
  pointedOut: ReadonlySet<string> | undefined;
}

export const Parts = memo(function Parts(props: PartsProps) {
  const { parts, catalogue, descriptions, chosen, lit, pointedOut } = props;
  const subject =
    lit?.startsWith("I_") || lit?.startsWith("P_") ? lit.slice(2).split(".")[0] : null;
  return parts.map((part) => (
    <PlacedPart
      key={part.id}
      part={part}
      kind={kindOf(part, catalogue)}
      body={bodyOf(part, catalogue)}
      description={descriptions.get(part.id) ?? part.name}
      chosen={chosen.has(part.id)}
      lit={subject === part.name}
      pointed={pointedOut?.has(part.id) ?? false}
    />
  ));
});

export const Dots = memo(function Dots({ points }: { points: Point[] }) {
  return points.map((point) => (
    <circle key={key(point)} className="solid" cx={point[0]} cy={point[1]} r={0.36} />
  ));
});

interface PinsProps {
  schematic: Schematic;
  catalogue: Catalogue;
}

/** Every pin as a place to begin a wire; those that lead nowhere yet are shown. */
export const Pins = memo(function Pins({ schematic, catalogue }: PinsProps) {
  const counts = new Map<string, number>();
  const count = (point: Point) => counts.set(key(point), (counts.get(key(point)) ?? 0) + 1);
  const pins = schematic.parts.map((part) => pinsOf(part, catalogue));
  for (const pin of pins.flat()) count(pin.at);
  for (const { points } of schematic.wires) {
    count(points[0] as Point);
    count(points.at(-1) as Point);
  }
  return schematic.parts.map((part, i) => {
    const own = pins[i] ?? [];
    const leadsNowhere = (at: Point) =>
      counts.get(key(at)) === 1 && !schematic.wires.some((wire) => onWire(at, wire.points));
    const loose = own.map((pin) => (leadsNowhere(pin.at) ? "1" : "0")).join("");
    return <PartPins key={part.id} part={part} pins={own} loose={loose} />;
  });
});

interface PartPinsProps {
  part: Part;
  pins: PlacedPin[];
  /** "1" for each pin that leads nowhere. */
  loose: string;
}

const PartPins = memo(
  function PartPins({ part, pins, loose }: PartPinsProps) {
    return pins.map(({ index, at }) => (
      <g key={index} className="group cursor-crosshair">
        {loose[index] === "1" && (
          <circle
            data-handle
            cx={at[0]}
            cy={at[1]}
            r={0.3}
            fill="var(--paper)"
            stroke="var(--accent)"
            strokeWidth={0.14}
          />
        )}
        <circle
          data-id={part.id}
          data-role="pin"
          data-pin={index}
          cx={at[0]}
          cy={at[1]}
          r={0.75}
          className="fill-transparent stroke-transparent hover:stroke-accent"
          strokeWidth={0.18}
        />
      </g>
    ));
  },
  (before, now) =>
    before.part === now.part &&
    before.loose === now.loose &&
    before.pins.every((pin, i) => same(pin.at, now.pins[i]?.at ?? [Number.NaN, 0])) &&
    before.pins.length === now.pins.length,
);
