// Where curves stand: one taken to a plot of its own, to that of another, or to a scale at the right.
import type { Run } from "../api/types";
import { changeRun } from "./changeRun";

function without(run: Run, formula: string): void {
  run.plots = run.plots
    .map((group) => group.filter((other) => other !== formula))
    .filter((group) => group.length > 0);
  run.aside = run.aside.filter((other) => other !== formula);
}

export const toOwnPlot = (id: string, formula: string): void =>
  changeRun(id, (run) => {
    without(run, formula);
    run.plots.push([formula]);
  });

/** Into the plot that holds `others` already. */
export const toPlotOf = (id: string, formula: string, others: string[]): void =>
  changeRun(id, (run) => {
    if (others.includes(formula)) return;
    without(run, formula);
    const there = run.plots.find((group) => group.some((other) => others.includes(other)));
    if (there) there.push(formula);
    else run.plots.push([...new Set([...others, formula])]);
  });

export const toSide = (id: string, formula: string, isAside: boolean): void =>
  changeRun(id, (run) => {
    run.aside = run.aside.filter((other) => other !== formula);
    if (isAside) run.aside.push(formula);
  });
