// Where the bench is clipped to: a ring on the node or pin, and a tag with what hangs there.
import type { Point, Schematic } from "../../api/types";
import { useExercise } from "../../document/store";
import { type Clip, useHand } from "../hand/tools";
import { bodyOf, type Catalogue, grown, pinsOf } from "../model/geometry";

interface Props {
  schematic: Schematic;
  catalogue: Catalogue;
}

const AWAY: Point = [1.7, -1.5]; // grid units from the place to its tag
const ROOM = 2.2; // between tags at one place

export function Clips({ schematic, catalogue }: Props) {
  const clips = useHand((state) => state.clips);
  const nets = useExercise((state) => state.look?.nets);
  const used = new Map<string, number>();
  return clips.map((clip) => {
    const part = schematic.parts.find(({ name }) => name === clip.part);
    if (part && clip.pin < 0) {
      const { left, top, right, bottom } = grown(bodyOf(part, catalogue), 0.5);
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
          <Tag clip={clip} from={[left, top]} at={[left - widthOf(clip), top - 0.6]} />
        </g>
      );
    }
    const pins = part
      ? pinsOf(part, catalogue).filter(({ index }) => index === clip.pin)
      : placesOf(clip.node, schematic, catalogue, nets ?? []);
    const [place] = pins;
    if (!place) return null;
    const [x, y] = place.at;
    const before = used.get(`${x},${y}`) ?? 0;
    used.set(`${x},${y}`, before + 1);
    return (
      <g key={`${clip.role} ${clip.node}${clip.part}`} stroke="var(--bench)" fill="none">
        <circle cx={x} cy={y} r={0.62} strokeWidth={0.24} fill="var(--paper)" fillOpacity={0.4} />
        <Tag clip={clip} from={[x, y]} at={[x + AWAY[0] + before * ROOM, y + AWAY[1]]} />
      </g>
    );
  });
}

const widthOf = ({ mark }: Clip) => 0.9 + 0.62 * mark.length;

function Tag({ clip, from, at: [x, y] }: { clip: Clip; from: Point; at: Point }) {
  const width = widthOf(clip);
  return (
    <>
      <path d={`M${from[0]} ${from[1]}L${x - 0.2} ${y + 0.35}`} strokeWidth={0.2} />
      <rect
        x={x - 0.4}
        y={y - 0.85}
        width={width}
        height={1.5}
        rx={0.45}
        fill="var(--bench)"
        stroke="var(--paper)"
        strokeWidth={0.12}
      />
      <text
        x={x - 0.4 + width / 2}
        y={y + 0.3}
        textAnchor="middle"
        fontSize={1.05}
        fontWeight={600}
        stroke="none"
        fill="var(--paper)"
      >
        {clip.mark}
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
): { at: Point }[] {
  const labels = schematic.labels.filter(({ name }) => name === node);
  const net = nets.find((each) => (node === "0" ? each.ground : each.name === node));
  const pins = (net?.pins ?? []).flatMap(([id, index]) => {
    const part = schematic.parts.find((each) => each.id === id);
    return part ? pinsOf(part, catalogue).filter((pin) => pin.index === index) : [];
  });
  return [...pins, ...labels];
}
