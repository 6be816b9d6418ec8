// The curves of a run by name, each with what is read off it; shown, hidden and put elsewhere from here.
import { Check, MoreHorizontal } from "lucide-react";
import type { CurveLook, Marker, Run, RunLook } from "../api/types";
import { ofCurve } from "../document/figures";
import { Menu, MenuItem, MenuLine } from "../ui/Menu";
import { Named } from "../ui/Named";
import { toOwnPlot, toPlotOf, toSide } from "./arranging";
import { DraggedName } from "./dragged";
import { HUES } from "./drawing/inks";
import { isBuild, nameOf, type Pane } from "./drawing/panes";
import { TakeButton } from "./MarkerTable";
import type { Takeable } from "./taking";

interface Props {
  run: Run;
  look: RunLook;
  panes: Pane[];
  hidden: ReadonlySet<string>;
  onHide(name: string): void;
  onMark(mark: Marker): void;
  onTake(figure: Takeable): void;
}

export function Readings({ run, look, panes, hidden, onHide, onMark, onTake }: Props) {
  return (
    <ul aria-label="Readings" className="mt-3 space-y-2.5">
      {look.curves.map((curve, hue) =>
        isBuild(curve) ? null : (
          <li
            key={nameOf(curve)}
            className="grid grid-cols-[minmax(7rem,max-content)_1fr] items-baseline text-sm"
          >
            <span className="mr-2 flex items-center gap-1">
              <button
                type="button"
                aria-pressed={!hidden.has(nameOf(curve))}
                title={hidden.has(nameOf(curve)) ? "Show it" : "Hide it"}
                onClick={() => onHide(nameOf(curve))}
                className={`relative flex items-center gap-1.5 font-serif italic ${hidden.has(nameOf(curve)) ? "opacity-50" : ""}`}
              >
                <span
                  aria-hidden="true"
                  className="h-0.5 w-4"
                  style={
                    curve.by_hand
                      ? { borderTop: "2px dashed var(--hand)" }
                      : { background: `var(--curve-${(hue % HUES) + 1})` }
                  }
                />
                <span className="sr-only">Show {nameOf(curve)}</span>
                <span aria-hidden="true">
                  <DraggedName formula={curve.text}>
                    <Named text={nameOf(curve)} />
                  </DraggedName>
                </span>
              </button>
              <CurveMenu run={run} formula={curve.text} panes={panes} />
            </span>
            <Figures curve={curve} onMark={onMark} onTake={onTake} />
          </li>
        ),
      )}
    </ul>
  );
}

interface MenuProps {
  run: Run;
  formula: string;
  panes: Pane[];
}

function CurveMenu(props: MenuProps) {
  return (
    <Menu
      trigger={
        <button
          type="button"
          aria-label={`Where ${props.formula} stands`}
          className="rounded p-0.5 text-soft hover:bg-ruling print:hidden"
        >
          <MoreHorizontal size={14} />
        </button>
      }
    >
      <PlaceItems {...props} />
    </Menu>
  );
}

/** In which plot a curve stands, and on which scale. */
export function PlaceItems({ run, formula, panes }: MenuProps) {
  const formulasOf = (pane: Pane) => [...new Set(pane.traces.map((trace) => trace.formula))];
  const own = panes.filter((pane) => pane.traces.some((trace) => trace.formula === formula));
  const isAlone = own.every((pane) => formulasOf(pane).length === 1);
  const isAside = run.aside.includes(formula);
  // A phasor's plots come in pairs: one of each is offered.
  const others = panes.filter(
    (pane) => !own.includes(pane) && pane.part !== "phase" && pane.part !== "imaginary",
  );
  return (
    <>
      <MenuItem disabled={isAlone} onSelect={() => toOwnPlot(run.id, formula)}>
        Plot of its own
      </MenuItem>
      {others.map((pane) => (
        <MenuItem key={pane.key} onSelect={() => toPlotOf(run.id, formula, formulasOf(pane))}>
          Plot of {formulasOf(pane).join(", ")}
        </MenuItem>
      ))}
      <MenuLine />
      <MenuItem onSelect={() => toSide(run.id, formula, !isAside)}>
        <Check size={14} className={isAside ? "text-accent" : "invisible"} />
        Scale of its own, at the right
        {isAside && <span className="sr-only">, taken</span>}
      </MenuItem>
    </>
  );
}

interface FiguresProps {
  curve: CurveLook;
  onMark(mark: Marker): void;
  onTake(figure: Takeable): void;
}

/** What is read off one curve; what has a place on the axis can be marked there. */
function Figures({ curve, onMark, onTake }: FiguresProps) {
  const member = curve.member?.key ?? "";
  return (
    <dl className="flex flex-wrap gap-x-3 gap-y-0.5">
      {curve.readings.map((figure) => (
        <div key={figure.key} className="flex items-baseline gap-1.5" title={figure.exact}>
          <dt className="text-soft">{figure.label}</dt>
          <dd
            className={`figure flex items-center gap-1 ${curve.by_hand ? "voice-hand" : "text-simulated"}`}
          >
            {figure.at == null ? (
              figure.text
            ) : (
              <button
                type="button"
                aria-label={`${figure.text}, mark it`}
                onClick={() => onMark({ curve: curve.text, member, at: figure.at as number })}
                className="min-w-6 text-left underline decoration-dotted underline-offset-3"
              >
                {figure.text}
              </button>
            )}
            <TakeButton
              label={`${figure.label} ${figure.text}`}
              onTake={() =>
                onTake({
                  symbol: figure.symbol,
                  label: `${figure.label} of ${nameOf(curve)}`,
                  value: figure.value,
                  unit: figure.unit,
                  of: (run) => ofCurve(curve.text, figure.key, { run, member }),
                })
              }
            />
          </dd>
        </div>
      ))}
      <OverWhat curve={curve} />
    </dl>
  );
}

/** Over which part of the curve figures are taken, for those that are not of all of it. */
function OverWhat({ curve }: { curve: CurveLook }) {
  const parts = [...new Set(curve.readings.map(({ over }) => over))].filter(Boolean);
  return parts.map((over) => {
    const of = curve.readings.filter((figure) => figure.over === over);
    return (
      <div key={over} className="text-[13px] text-soft">
        <dt className="inline">{of.map(({ label }) => label).join(", ")}:</dt>{" "}
        <dd className="inline">{over}</dd>
      </div>
    );
  });
}
