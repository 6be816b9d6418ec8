// The plane of complex numbers: phasors as arrows, poles and zeros, a response as one curve.

import type { ReactNode } from "react";
import { memo } from "react";
import type { CurveLook, Marker, RunLook } from "../api/types";
import { LETTERS } from "../document/runs";
import { engineering, scaleFor } from "../ui/engineering";
import { Named, NamedSpans } from "../ui/Named";
import { ticksOf } from "../ui/ticks";
import { HUES } from "./drawing/inks";
import { drawnAt } from "./drawing/marks";

const [WIDTH, HEIGHT, EDGE] = [680, 400, 44];
const WIDE = 60; // from smallest to largest: beyond it, places are drawn by decades

type Place = readonly [re: number, im: number];
type ToScreen = (place: Place) => [number, number];

interface Props {
  label: string;
  unit: string;
  places: Place[];
  /** Names of the two axes. */
  axes?: [string, string];
  byDecades?: number;
  children: (to: ToScreen) => ReactNode;
}

/** Equal scales both ways, the origin in view. `byDecades` is the size below which it stays linear. */
function Plane({ label, unit, places, axes = ["Re", "Im"], byDecades, children }: Props) {
  const bent = (v: number) => (byDecades ? Math.asinh(v / byDecades) : v);
  const all = [[0, 0] as Place, ...places];
  const span = (k: 0 | 1) => {
    const values = all.map((place) => bent(place[k]));
    const [low, high] = [Math.min(...values), Math.max(...values)];
    const air = (high - low) * 0.12;
    return [low - air, high + air] as const;
  };
  const [[left, right], [bottom, top]] = [span(0), span(1)];
  const scale = Math.min(
    (WIDTH - 2 * EDGE) / (right - left || 1e-300),
    (HEIGHT - 2 * EDGE) / (top - bottom || 1e-300),
  );
  const [midX, midY] = [(left + right) / 2, (bottom + top) / 2];
  const to: ToScreen = ([re, im]) => [
    WIDTH / 2 + (bent(re) - midX) * scale,
    HEIGHT / 2 - (bent(im) - midY) * scale,
  ];
  const [x0, y0] = to([0, 0]);
  const reach = (WIDTH - EDGE) / 2 / scale;
  const rise = (HEIGHT - EDGE) / 2 / scale;
  const ticks = (low: number, high: number) =>
    byDecades ? decades(low, high, byDecades) : ticksOf(low, high);
  const across = ticks(midX - reach, midX + reach);
  const up = ticks(midY - rise, midY + rise);
  const told = byDecades ? null : scaleFor(Math.max(...[...across, ...up].map(Math.abs), 0));
  // Numbers stand on the side of the upright axis where less is drawn.
  const isLeft = places.reduce((sum, place) => sum + bent(place[0]), 0) < 0;
  const written = (v: number) =>
    told ? `${Number((v / told.factor).toPrecision(6))}`.replace("-", "−") : powerOf(v);
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={label}
      className="w-full rounded-md bg-raised"
      fontSize={12}
    >
      <g stroke="var(--hairline)" strokeOpacity={0.6}>
        {across.map((v) => (
          <line key={v} x1={to([v, 0])[0]} x2={to([v, 0])[0]} y1={10} y2={HEIGHT - 10} />
        ))}
        {up.map((v) => (
          <line key={v} y1={to([0, v])[1]} y2={to([0, v])[1]} x1={10} x2={WIDTH - 10} />
        ))}
      </g>
      <g stroke="var(--ink-soft)">
        <line x1={10} x2={WIDTH - 10} y1={y0} y2={y0} />
        <line y1={10} y2={HEIGHT - 10} x1={x0} x2={x0} />
      </g>
      <g fill="var(--ink-soft)" className="figure">
        {across
          .filter((v) => v !== 0)
          .map((v) => (
            <text key={v} x={to([v, 0])[0]} y={Math.min(y0 + 15, HEIGHT - 12)} textAnchor="middle">
              {written(v)}
            </text>
          ))}
        {up
          .filter((v) => v !== 0)
          .map((v) => (
            <text
              key={v}
              x={isLeft ? x0 + 6 : Math.max(x0 - 6, 34)}
              y={to([0, v])[1] + 4}
              textAnchor={isLeft ? "start" : "end"}
            >
              {written(v)}
            </text>
          ))}
        <text x={WIDTH - 12} y={y0 - 7} textAnchor="end">
          {axes[0]} [{unitOf(unit, told?.factor ?? 1)}]
        </text>
        <text x={x0 + 8} y={20}>
          {axes[1]}
        </text>
      </g>
      {children(to)}
    </svg>
  );
}

/** With its prefix; what has none of its own is counted in powers of ten. */
function unitOf(unit: string, factor: number): string {
  if (unit !== "1/s") return `${scaleFor(factor).prefix}${unit}` || "1";
  return factor === 1 ? unit : `${powerOf(factor)}/s`;
}

/** A power of ten as such, with its sign. */
function powerOf(value: number): string {
  const power = `${Math.round(Math.log10(Math.abs(value)))}`;
  const raised = [...power].map((digit) => "⁰¹²³⁴⁵⁶⁷⁸⁹"[Number(digit)] ?? "⁻").join("");
  return `${value < 0 ? "−" : ""}10${raised}`;
}

/** Powers of ten on both sides of zero. */
function decades(low: number, high: number, least: number): number[] {
  const found: number[] = [];
  for (const side of [-1, 1])
    for (let k = Math.ceil(Math.log10(least)) + 1; k < 40; k++) {
      const at = Math.asinh((side * 10 ** k) / least);
      if (at < low || at > high) break;
      found.push(side * 10 ** k);
    }
  const every = Math.max(1, Math.ceil(found.length / 8));
  return found.filter((v) => Math.round(Math.log10(Math.abs(v))) % every === 0);
}

const hueOf = (k: number) => `var(--curve-${(k % HUES) + 1})`;

/** Arrows of one unit; a sum closes on itself. */
export const Arrows = memo(function Arrows({ phasors }: { phasors: RunLook["phasors"] }) {
  return phasors.map((group) => {
    const far = Math.max(...group.arrows.map((a) => Math.hypot(...less(a.end, a.start))), 0);
    return (
      <figure key={group.title} className="mt-4">
        <figcaption className="mb-1 font-serif text-lg">{group.title}</figcaption>
        <Plane
          label={`${group.title}: ${group.arrows.map((a) => `${a.name} ${a.text}`).join(", ")}`}
          unit={group.unit}
          places={group.arrows.flatMap((arrow) => [arrow.start, arrow.end])}
        >
          {(to) => {
            const taken: [number, number][] = [];
            return group.arrows.map((arrow, k) => {
              if (!(Math.hypot(...less(arrow.end, arrow.start)) > 1e-9 * far)) return null;
              return (
                <Arrow
                  key={arrow.name}
                  name={arrow.name}
                  from={to(arrow.start)}
                  tip={to(arrow.end)}
                  hue={hueOf(k)}
                  beside={group.closed ? to(centre(group.arrows)) : null}
                  taken={taken}
                />
              );
            });
          }}
        </Plane>
        <ul className="mt-1 flex flex-wrap gap-x-5 text-sm">
          {group.arrows.map((arrow, k) => (
            <li key={arrow.name} className="flex items-center gap-1.5">
              <span aria-hidden="true" className="h-0.5 w-4" style={{ background: hueOf(k) }} />
              <span className="font-serif italic">
                <Named text={arrow.name} />
              </span>
              <span className="figure text-simulated">{arrow.text}</span>
            </li>
          ))}
        </ul>
      </figure>
    );
  });
});

/** The middle of a figure's corners. */
function centre(arrows: RunLook["phasors"][number]["arrows"]): Place {
  const sum = arrows.reduce((at, { end }) => [at[0] + end[0], at[1] + end[1]] as const, [
    0, 0,
  ] as Place);
  return [sum[0] / arrows.length, sum[1] / arrows.length];
}

const less = (a: Place, b: Place): [number, number] => [a[0] - b[0], a[1] - b[1]];

interface ArrowProps {
  name: string;
  from: [number, number];
  tip: [number, number];
  hue: string;
  /** Where a closed figure has its middle: names stand outside of it. Else they stand at the tips. */
  beside: [number, number] | null;
  /** Where names stand already. */
  taken: [number, number][];
}

function Arrow({ name, from, tip, hue, beside, taken }: ArrowProps) {
  const [dx, dy] = less(tip, from);
  const length = Math.hypot(dx, dy) || 1;
  const [ux, uy] = [dx / length, dy / length];
  const head = Math.min(10, length / 2);
  const wing = (side: number) =>
    `${tip[0] - head * ux - side * 0.4 * head * uy},${tip[1] - head * uy + side * 0.4 * head * ux}`;
  let [nx, ny] = [ux, uy]; // which way the name lies from where it belongs
  let at: [number, number] = [tip[0] + 8 * ux, tip[1] + 12 * uy];
  if (beside) {
    const middle: [number, number] = [(from[0] + tip[0]) / 2, (from[1] + tip[1]) / 2];
    const isOut = (middle[0] - beside[0]) * -uy + (middle[1] - beside[1]) * ux > 0;
    [nx, ny] = isOut ? [-uy, ux] : [uy, -ux];
    at = [middle[0] + 8 * nx, middle[1] + 14 * ny];
  } else if (Math.abs(uy) < 0.3) at = [tip[0] - 4, tip[1] + (uy > 0 ? 16 : -14)];
  while (taken.some(([x, y]) => Math.abs(x - at[0]) < 44 && Math.abs(y - at[1]) < 15)) at[1] += 15;
  taken.push(at);
  return (
    <g stroke={hue} fill={hue}>
      <line
        x1={from[0]}
        y1={from[1]}
        x2={tip[0] - head * ux}
        y2={tip[1] - head * uy}
        strokeWidth={2}
      />
      <polygon points={`${tip.join()} ${wing(1)} ${wing(-1)}`} stroke="none" />
      <text
        x={at[0]}
        y={at[1] + 4}
        textAnchor={Math.abs(nx) < 0.5 ? "middle" : nx > 0 ? "start" : "end"}
        stroke="var(--raised)"
        strokeWidth={4}
        paintOrder="stroke"
        className="font-serif italic"
        fontSize={14}
      >
        <NamedSpans text={name} size={14} />
      </text>
    </g>
  );
}

/** Poles as crosses, zeros as rings; what fades lies left of the upright axis. */
export const Roots = memo(function Roots({ roots }: { roots: RunLook["roots"] }) {
  if (!roots.length) return null;
  const sizes = roots.map((root) => Math.hypot(root.re, root.im)).filter((size) => size > 0);
  const [least, most] = [Math.min(...sizes), Math.max(...sizes)];
  const byDecades = sizes.length && most / least > WIDE ? least / 3 : undefined;
  return (
    <figure className="mt-4">
      <Plane
        label={`The plane of s: ${roots.map((root) => root.text).join(", ")}`}
        unit="1/s"
        axes={["σ", "jω"]}
        places={roots.map((root) => [root.re, root.im] as const)}
        byDecades={byDecades}
      >
        {(to) =>
          roots.map((root, k) => {
            const [x, y] = to([root.re, root.im]);
            return (
              // biome-ignore lint/suspicious/noArrayIndexKey: two roots may lie on one place
              <g key={k} strokeWidth={2} fill="none">
                <title>{root.text}</title>
                {root.kind === "pole" ? (
                  <path
                    d={`M${x - 5} ${y - 5}l10 10m0 -10l-10 10`}
                    stroke={root.re > 0 ? "var(--fault)" : "var(--curve-1)"}
                  />
                ) : (
                  <circle cx={x} cy={y} r={5.5} stroke="var(--curve-3)" />
                )}
              </g>
            );
          })
        }
      </Plane>
      <figcaption className="mt-1 text-xs text-soft">
        × pole{roots.some((root) => root.kind === "zero") && ", ○ zero"}; left of the upright axis
        it fades, off the level axis it rings.
        {byDecades && " Both axes run by decades, as the places lie far apart."}
      </figcaption>
    </figure>
  );
});

/** Phasors over frequency as one path in the plane, with the markers' frequencies on it. */
export function Paths({
  look,
  marks,
  isLog,
  hidden,
}: {
  look: RunLook;
  marks: Marker[];
  isLog: boolean;
  hidden: (curve: CurveLook) => boolean;
}) {
  const paths = look.curves.flatMap((curve, hue) =>
    hidden(curve)
      ? []
      : [
          {
            curve,
            hue,
            places: curve.y.flatMap((size, k) => {
              const angle = curve.phase?.[k];
              if (size == null || angle == null) return [];
              const turned = (angle * Math.PI) / 180;
              return [[size * Math.cos(turned), size * Math.sin(turned)] as const];
            }),
            at: (mark: Marker): Place | null => {
              const size = drawnAt(look.x, curve.y, mark.at, isLog);
              const angle = drawnAt(look.x, curve.phase ?? [], mark.at, isLog);
              if (size === null || angle === null) return null;
              const turned = (angle * Math.PI) / 180;
              return [size * Math.cos(turned), size * Math.sin(turned)];
            },
          },
        ],
  );
  const unit = paths[0]?.curve.unit ?? "";
  return (
    <Plane
      label={`Path in the plane of ${paths.map((path) => path.curve.text).join(", ")}`}
      unit={unit}
      places={paths.flatMap((path) => path.places)}
    >
      {(to) =>
        paths.map(({ curve, hue, places, at }) => (
          <g key={`${curve.text} ${curve.member}`}>
            <polyline
              fill="none"
              stroke={hueOf(hue)}
              strokeWidth={1.8}
              points={places.map(([re, im]) => to([re, im]).join()).join(" ")}
            />
            {marks.map((mark, letter) => {
              const isOwn = mark.curve === curve.text && mark.member === (curve.member?.key ?? "");
              const place = isOwn ? at(mark) : null;
              // A curve that stays where it is has no place to tell.
              const stays = places.every(
                ([re, im]) => re === places[0]?.[0] && im === places[0][1],
              );
              if (!place || stays) return null;
              const [x, y] = to([place[0], place[1]]);
              return (
                <g key={LETTERS[letter]} fill={hueOf(hue)}>
                  <circle cx={x} cy={y} r={4} />
                  <text x={x + 7} y={y - 6}>
                    {LETTERS[letter]} {engineering(mark.at, look.axis_unit)}
                  </text>
                </g>
              );
            })}
          </g>
        ))
      }
    </Plane>
  );
}
