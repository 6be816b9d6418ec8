// The circuit as it is after a step, small, with names and values at its parts.
import type { SmallDrawing } from "../api/types";
import { useCatalogue } from "../schematic/editor/catalogue";
import { extent, grown, kindOf } from "../schematic/model/geometry";
import { PartSymbol } from "../schematic/view/Symbol";
import { NamedSpans } from "../ui/Named";

const CONTROLLED = "voltage_controlled_current";
const [BESIDE, BESIDE_DIAMOND] = [2.2, 4.2]; // grid units from the middle of what is upright to its name
const LETTERS = 12; // px, whatever the drawing is drawn at
const WIDEST = 240; // px
const ROOM = 3.5; // around the drawing, for them
const FOR_NAMES = 7; // grid units
const CLOSE = 9; // grid units to a part that its name would run into
const PIXELS = 7; // a grid unit, at most
const FOR_VALUE = 62; // px that an upright part and its value take
const LEVEL = 4; // grid units within which parts stand side by side

/** Whether its parts stand too close for their values in a narrow column. */
export function isCrowded({ schematic }: SmallDrawing): boolean {
  const upright = schematic.parts.filter(
    ({ kind, rotation }) => kind !== "ground" && isUpright(rotation),
  );
  const steps = upright.flatMap(({ at: [x, y] }) =>
    upright
      .filter((other) => other.at[0] > x && Math.abs(other.at[1] - y) < LEVEL)
      .map((other) => other.at[0] - x),
  );
  const places = schematic.parts.map(({ at }) => at[0]);
  const width = Math.max(...places) - Math.min(...places) + 2 * ROOM + FOR_NAMES;
  return Math.min(...steps) * Math.min(PIXELS, WIDEST / width) < FOR_VALUE;
}

const isUpright = (rotation: number) => rotation % 180 === 90;

/** R1 and r_pi as on paper. */
const written = (name: string) => name.replace(/^([A-Z])(\d)/, "$1_$2").replace(/_pi$/, "_π");

export function MiniSchematic({
  drawing,
  label,
  widest = WIDEST,
}: {
  drawing: SmallDrawing;
  label: string;
  widest?: number;
}) {
  const catalogue = useCatalogue();
  const { schematic, joints } = drawing;
  const box = extent(schematic, catalogue);
  if (!box) return null;
  const { left, top, right, bottom } = grown(box, ROOM);
  const width = right - left + FOR_NAMES; // names stand to the right of what is upright
  const size = LETTERS / Math.min(PIXELS, widest / width); // of the letters, in grid units
  return (
    <svg
      role="img"
      aria-label={label}
      className="miniature w-full text-ink"
      style={{ maxWidth: `${width * PIXELS}px` }}
      viewBox={`${left} ${top} ${width} ${bottom - top}`}
    >
      {schematic.wires.map((wire) => (
        <polyline key={wire.id} className="wire" points={wire.points.join(" ")} />
      ))}
      {schematic.parts.map((part) => (
        <PartSymbol key={part.id} kind={kindOf(part, catalogue)} part={part} />
      ))}
      {joints.map(([x, y]) => (
        <circle key={`${x},${y}`} className="solid" cx={x} cy={y} r={0.36} />
      ))}
      {schematic.parts
        .filter((part) => part.kind !== "ground")
        .map((part) => {
          const upright = isUpright(part.rotation) || part.kind === CONTROLLED;
          const [x, y] = part.at;
          const value = part.values.value ?? "";
          const beside = part.kind === CONTROLLED ? BESIDE_DIAMOND : BESIDE;
          return (
            <text
              key={part.id}
              x={upright ? x + beside : x}
              y={upright ? y - 0.2 : y - 1.7}
              textAnchor={upright ? "start" : "middle"}
              fontSize={size}
              className="fill-ink font-serif italic"
            >
              <NamedSpans text={written(part.name)} size={size} />
              {value && (
                <tspan
                  x={upright ? x + beside : x}
                  y={upright ? y + size * 0.95 : y + 1.2 + size}
                  fontSize={size * 0.85}
                  className="not-italic"
                >
                  <NamedSpans text={value} size={size * 0.85} />
                </tspan>
              )}
            </text>
          );
        })}
      {schematic.labels.map((name) => {
        // Away from a part that stands close on its right.
        const isClose = schematic.parts.some(
          ({ at: [x, y] }) =>
            x > name.at[0] && x - name.at[0] < CLOSE && Math.abs(y - name.at[1]) < size,
        );
        return (
          <text
            key={name.id}
            x={name.at[0] + (isClose ? -0.6 : 0.6)}
            y={name.at[1] - 0.7}
            textAnchor={isClose ? "end" : "start"}
            fontSize={size * 0.85}
            stroke="var(--paper)"
            strokeWidth={0.7}
            paintOrder="stroke"
            className="fill-soft"
          >
            {name.name}
          </text>
        );
      })}
    </svg>
  );
}
