// Where the bench is clipped to: a ring on the node or pin, and a tag with what hangs there.
import type { Point, Schematic } from "../../api/types";
import { useExercise } from "../../document/store";
import { type Clip, useEditorStore } from "../editor/tools";
import { type Box, bodyOf, type Catalogue, grown, overlap, pinsOf } from "../model/geometry";

interface Props {
  schematic: Schematic;
  catalogue: Catalogue;
  /** What is written on the sheet, which tags keep clear of. */
  written: Box[];
}

const REACH = 1.5; // grid units from a place to its tag
const HEIGHT = 1.5;
const WAYS: Point[] = [
  [1, -1],
  [-1, -1],
  [1, 1],
  [-1, 1],
];

export function Clips({ schematic, catalogue, written }: Props) {
  const clips = useEditorStore((state) => state.clips);
  const nets = useExercise((state) => state.look?.nets);
  if (!clips.length) return null;
  const taken = [...written, ...schematic.parts.map((part) => bodyOf(part, catalogue))];
  return clips.map((clip) => {
    const part = schematic.parts.find(({ name }) => name === clip.part);
    const width = widthOf(clip);
    if (part && clip.pin < 0) {
      const body = grown(bodyOf(part, catalogue), 0.5);
      const { left, top, right, bottom } = body;
      const corners = [left, right].flatMap((x) => [top, bottom].map((y): Point => [x, y]));
      const { from, box } = clear(corners, width, taken);
      taken.push(box);
      return (
        <g key={`${clip.role} ${clip.part}`} stroke="var(--bench)" fill="none">
          <rect
            x={left}
            y={top}
            width={right - left}
            height={bottom - top}
            rx={0.6}
            strokeWidth={0.18}
            strokeDasharray="0.7 0.45"
          />
          <Tag mark={clip.mark} from={from} box={box} />
        </g>
      );
    }
    const places = part
      ? pinsOf(part, catalogue)
          .filter(({ index }) => index === clip.pin)
          .map(({ at }) => at)
      : placesOf(clip.node, schematic, catalogue, nets ?? []);
    if (!places.length) return null;
    const { from, box } = clear(places, width, taken);
    taken.push(box);
    return (
      <g key={`${clip.role} ${clip.node}${clip.part}`} stroke="var(--bench)" fill="none">
        <circle
          cx={from[0]}
          cy={from[1]}
          r={0.62}
          strokeWidth={0.24}
          fill="var(--paper)"
          fillOpacity={0.4}
        />
        <Tag mark={clip.mark} from={from} box={box} />
      </g>
    );
  });
}

const widthOf = ({ mark }: Clip) => 0.9 + 0.62 * mark.length;

/** The place, and the way from it, where a tag covers least of what is there already. */
function clear(places: Point[], width: number, taken: Box[]): { from: Point; box: Box } {
  let best: { from: Point; box: Box; covered: number } | null = null;
  for (const from of places)
    for (const [dx, dy] of WAYS) {
      const x = from[0] + dx * REACH - (dx < 0 ? width : 0);
      const y = from[1] + dy * REACH - HEIGHT / 2;
      const box = { left: x, top: y, right: x + width, bottom: y + HEIGHT };
      const covered = taken.filter((other) => overlap(grown(box, 0.15), other)).length;
      if (!best || covered < best.covered) best = { from, box, covered };
    }
  return best ?? { from: [0, 0], box: { left: 0, top: 0, right: 0, bottom: 0 } };
}

function Tag({ mark, from, box }: { mark: string; from: Point; box: Box }) {
  const { left, top, right, bottom } = box;
  const near = Math.min(Math.max(from[0], left), right);
  return (
    <>
      <path
        d={`M${from[0]} ${from[1]}L${near} ${from[1] < top ? top : bottom}`}
        strokeWidth={0.2}
      />
      <rect
        x={left}
        y={top}
        width={right - left}
        height={bottom - top}
        rx={0.45}
        fill="var(--bench)"
        stroke="var(--paper)"
        strokeWidth={0.12}
      />
      <text
        x={(left + right) / 2}
        y={top + 1.14}
        textAnchor="middle"
        fontSize={1.05}
        fontWeight={600}
        stroke="none"
        fill="var(--paper)"
      >
        {mark}
      </text>
    </>
  );
}

/** The pins of a node, those of its own names first: there a tag is looked for. */
function placesOf(
  node: string,
  schematic: Schematic,
  catalogue: Catalogue,
  nets: { name: string; ground: boolean; pins: [string, number][] }[],
): Point[] {
  const labels = schematic.labels.filter(({ name }) => name === node);
  const net = nets.find((each) => (node === "0" ? each.ground : each.name === node));
  const pins = (net?.pins ?? []).flatMap(([id, index]) => {
    const part = schematic.parts.find((each) => each.id === id);
    return part ? pinsOf(part, catalogue).filter((pin) => pin.index === index) : [];
  });
  return [...pins, ...labels].map(({ at }) => at);
}
