"""A result as the page draws it: curves thinned to what a screen shows, figures written for people."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import numpy.typing as npt

from lucidbench.core.analyses import Watch
from lucidbench.core.document.exercise import Exercise, Run
from lucidbench.core.errors import CircuitError, FormulaError, LucidError
from lucidbench.core.formula import names_in
from lucidbench.core.readings import frequency
from lucidbench.core.readings.curve import Curve, NoReading
from lucidbench.core.readings.reading import DECIBEL, DEGREE, Reading
from lucidbench.core.readings.registry import ReadingKind, slope_at_an_end, symbol_of
from lucidbench.core.residue import OF_ARITHMETIC, OF_INTEGRALS, cleared, cleared_level
from lucidbench.core.runs import tables
from lucidbench.core.runs.decimate import thinned
from lucidbench.core.runs.families import BUILDS
from lucidbench.core.runs.kinds.frequency_sweep import BAND
from lucidbench.core.runs.kinds.rates import source_period
from lucidbench.core.runs.looks import (
    BandLook,
    CurveLook,
    FigureLook,
    MemberLook,
    RunLook,
    ShownLook,
)
from lucidbench.core.runs.result import Member, Result, solve
from lucidbench.core.runs.traces import dimensions_of, shown_formula
from lucidbench.core.units import engineering

MOST_SHOWN_AT_FIRST = 3
_LEVELS = (DECIBEL, DEGREE, "%")
_UNREADABLE = (NoReading, ValueError, CircuitError)  # what a curve with nothing to read off raises


def carry_out(
    exercise: Exercise,
    run: Run,
    watch: Watch | None = None,
    whole: bool = False,
    window: tuple[float, float] | None = None,
) -> RunLook:
    """A run solved and told at once."""
    return present(solve(exercise, run, watch), whole, window)


def present(
    result: Result, whole: bool = False, window: tuple[float, float] | None = None
) -> RunLook:
    """What the page draws of `result`. Never raises for what was typed.

    Curves are thinned to what a screen can show; with `whole` they keep every point. `window` is the
    part of the axis that is looked at: the points told are of it alone.
    """
    run, analysis, circuit = result.run, result.analysis, result.circuit
    look = RunLook(
        id=run.id, settings=list(result.settings.looks), problem=result.problem,
        shown=[ShownLook(text=text) for text in run.show], conditions=result.conditions,
        circuit=circuit.fingerprint, fingerprint=result.fingerprint, notes=result.notes,
        seconds=result.seconds,
    )  # fmt: skip
    if analysis is None or result.problem:
        return look
    look.names = sorted(dimensions_of(circuit))
    try:
        if analysis.has_curves:
            _curves(look, result, None if whole else window or (-np.inf, np.inf))
        else:
            _told(look, result)
    except LucidError as error:
        look.problem = str(error)
    return look


def _told(look: RunLook, result: Result) -> None:
    """Tables and pictures; of a family, the tables of all members and the picture of the first."""
    first = result.members[0].solution
    look.bars, look.phasors = list(first.bars), list(first.phasors)
    look.roots, look.formulas = list(first.roots), list(first.formulas)
    look.tables = list(first.tables)
    if len(result.members) == 1:
        return
    told = [(m.key, m.label, list(m.solution.tables)) for m in result.members]
    is_study = result.members[0].role == "nominal"
    look.tables = list(tables.studied(told) if is_study else tables.beside(told))
    if look.phasors or look.roots or look.bars:
        look.notes.append(f"The picture is of {result.members[0].label}; the tables tell of all.")


def _curves(look: RunLook, result: Result, window: tuple[float, float] | None) -> None:
    """Every formula of every member: all points, or those a screen shows of `window`."""
    first = result.members[0].solution.traces
    assert first is not None
    look.axis, look.axis_unit, look.is_log = first.axis, first.unit, first.is_log
    look.names = sorted(first.dimensions)
    look.shown = []
    if (first.axis, first.unit) == ("t", "s"):
        look.period = source_period(result.circuit)
    drawn, by_hand = _drawn(look, result)
    grid = first.grid
    if len(result.members) > 1:  # each has a point wherever one of them has
        grids = [member.solution.traces.grid for member in result.members if member.solution.traces]
        grid = np.unique(np.concatenate(grids))
    samples = [np.asarray(c.values if c.grid is grid else c.at(grid)) for _, c in drawn]
    kept = seen = np.arange(len(grid))
    if window is not None:
        first_in, past = np.searchsorted(grid, window)
        seen = np.arange(max(0, first_in - 1), min(len(grid), past + 1))
        sizes = [np.abs(s) if np.iscomplexobj(s) else s for s in samples]
        kept = seen[thinned([size[seen] for size in sizes], len(seen))]
    look.is_thinned = len(kept) < len(seen)
    look.x = grid[kept].tolist()
    look.curves = [
        _curve_look(look, result, member, curve, sample[kept], curve.name in by_hand)
        for (member, curve), sample in zip(drawn, samples, strict=True)
    ]
    if result.members[0].role == "nominal":
        look.tables = list(tables.over_the_members(look.curves))
        if window is not None:  # as many as can be told apart
            few = {"nominal", *(f"build {k}" for k in range(1, BUILDS + 1))}
            look.curves = [c for c in look.curves if c.member and c.member.key in few]


def _drawn(look: RunLook, result: Result) -> tuple[list[tuple[Member, Curve]], set[str]]:
    """Every formula that is asked for, of every member, with those of the working behind; and which of them
    are by hand. What is wrong with a formula is told in `look`."""
    drawn: list[tuple[Member, Curve]] = []
    by_hand = set()
    for text in to_show(result):
        shown = ShownLook(text=text)
        look.shown.append(shown)
        try:
            formula = shown_formula(text)
            for member in result.members:
                assert member.solution.traces is not None
                curve = member.solution.traces.curve(formula, text, result.values)
                drawn.append((member, curve))
        except FormulaError as error:
            shown.problem = str(error)
            continue
        if not any("_" in name for name in names_in(formula.body) & set(look.names)):
            by_hand.add(text)
    for curve in _by_hand(result, [curve for _, curve in drawn]):
        drawn.append((result.members[0], curve))
        by_hand.add(curve.name)
    return drawn, by_hand


def _curve_look(
    look: RunLook,
    result: Result,
    member: Member,
    curve: Curve,
    values: npt.NDArray[Any],
    is_by_hand: bool,
) -> CurveLook:
    """A curve at the points that are shown, with what is read off it; notes go to `look`."""
    assert result.analysis is not None
    phase = None
    if np.iscomplexobj(values):
        phase = _listed(np.degrees(np.unwrap(np.angle(values))))
        values = np.abs(values)
    told = CurveLook(
        text=curve.name,
        member=_member_look(member),
        unit=curve.unit,
        y=_listed(values),
        by_hand=is_by_hand,
        phase=phase,
        readings=list(figures_of(curve, result.analysis.readings, result.run.reads, look.notes)),
    )
    if BAND in result.run.reads and result.analysis.marks:
        try:
            told.band = _band_look(curve)
        except _UNREADABLE as reason:
            look.notes.append(f"Pass band: {reason}")
    return told


def _by_hand(result: Result, drawn: Sequence[Curve]) -> Iterator[Curve]:
    """The curves of the working that are over this axis, and of something that is drawn: by its name, or
    where that is a name of their own (H), by its unit."""
    traces = result.members[0].solution.traces
    assert traces is not None
    names = {curve.name.replace(" ", "") for curve in drawn}
    units = {curve.unit for curve in drawn}
    for hand in result.by_hand:
        if hand.over != traces.axis:
            continue
        try:
            curve = traces.curve(hand.formula, hand.formula.text, result.values)
        except FormulaError:  # said at its line
            continue
        is_own = hand.of.split("_")[0] not in ("V", "I", "P", "arg(V", "dB(V")
        if hand.of in names or (is_own and curve.unit in units):
            yield curve


def _member_look(member: Member) -> MemberLook | None:
    if member.role == "alone":
        return None
    return MemberLook(key=member.key, label=member.label, role=member.role)


def to_show(result: Result) -> list[str]:
    """What is asked for; else the voltages of nodes someone took the trouble to name."""
    if result.run.show:
        return list(result.run.show)
    nodes = result.circuit.nodes
    named = [n for n in dict.fromkeys(result.labels) if n in nodes]
    first = sorted(named, key=lambda n: n != "out")[:MOST_SHOWN_AT_FIRST]
    return [f"V_{n}" for n in first or nodes[:MOST_SHOWN_AT_FIRST]]


def figures_of(
    curve: Curve, kinds: Sequence[ReadingKind], asked: Sequence[str], notes: list[str]
) -> Iterator[FigureLook]:
    """What is read off by itself, silently left out where there is no such thing; and what was asked
    for by key, of which `notes` say why it is not there."""
    sample = np.asarray(curve.values)
    told = np.isfinite(sample)
    if not np.all(told):  # a ratio at the point where both are zero, say
        if np.count_nonzero(told) < 2:
            return
        curve = replace(curve, grid=curve.grid[told])
        sample = sample[told]
    largest = float(np.max(np.abs(sample), initial=0.0))
    for kind in kinds:
        is_asked = kind.by_itself is None
        if is_asked and kind.key not in asked:
            continue
        try:
            if kind.by_itself is not None and not kind.by_itself(curve):
                continue
            figure = kind.read(curve)
            at = kind.where(curve) if kind.where else None
        except _UNREADABLE as reason:
            note = f"{kind.label.capitalize()}: {reason}"
            if is_asked and isinstance(reason, NoReading) and note not in notes:
                notes.append(note)
            continue
        if np.isfinite(figure):
            yield _figure(kind, figure, at, curve, largest)


def _figure(
    kind: ReadingKind, figure: Reading, at: float | None, curve: Curve, largest: float
) -> FigureLook:
    # An integral of what swings is known less well than the points of the curve are.
    if figure.unit == curve.unit:
        share = OF_INTEGRALS if kind.key == "mean" else OF_ARITHMETIC
        figure = Reading(cleared(figure, largest, share), figure.unit)
    if figure.unit in _LEVELS:
        figure = Reading(cleared_level(figure), figure.unit)
    return FigureLook(
        key=kind.key, label=kind.label, text=engineering(float(figure), figure.unit),
        exact=engineering(float(figure), figure.unit, 9), value=float(figure), unit=figure.unit,
        symbol=symbol_of(kind, figure.unit), at=at, over=kind.over(curve) if kind.over else "",
    )  # fmt: skip


def _band_look(curve: Curve) -> BandLook:
    """The pass band and what lies beside it. Raises NoReading where the curve has none."""
    found = frequency.band(curve)
    return BandLook(
        lower=found.lower,
        upper=found.upper,
        slope_below=None if found.lower is None else slope_at_an_end(curve, False),
        slope_above=None if found.upper is None else slope_at_an_end(curve, True),
        ends=(float(curve.grid[0]), float(curve.grid[-1])),
        sizes=(float(abs(curve.values[0])), float(abs(curve.values[-1]))),
    )


def _listed(values: np.ndarray) -> list[float | None]:
    """As JSON takes them: what is not a number is a gap."""
    told: list[float | None] = np.asarray(values, float).tolist()
    for k in np.flatnonzero(~np.isfinite(values)):
        told[k] = None
    return told
