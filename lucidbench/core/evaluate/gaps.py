"""What an exercise has to say of a gap: everything that was measured, as data for the diagnosis."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import numpy.typing as npt

from lucidbench.core.analyses import TransientSettings, Watch
from lucidbench.core.cases import BASE, in_case, name_of
from lucidbench.core.comparison.bench import read_reading
from lucidbench.core.devices.waveforms import Sine
from lucidbench.core.diagnosis import (
    AtRest,
    Block,
    Column,
    Explanation,
    Observed,
    OfParts,
    OverFrequency,
    OverSource,
    OverTime,
    column_of,
    explained,
)
from lucidbench.core.diagnosis.blocks import LOSS
from lucidbench.core.diagnosis.explanation import Grows
from lucidbench.core.document.drawn import drawing_of
from lucidbench.core.document.exercise import Exercise, Measurement, Record
from lucidbench.core.document.figure import OfCurve, OfPart, QuantityAtRest
from lucidbench.core.errors import DocumentError, LucidError
from lucidbench.core.evaluate.curve_verdicts import run_of_record
from lucidbench.core.netlist import Circuit
from lucidbench.core.records.curves import BenchCurve, axis_of, bench_curves
from lucidbench.core.runs.kinds.base import driven
from lucidbench.core.schematic import Reading, values_by_name
from lucidbench.core.units.uncertain import COVERAGE

MOST_SAMPLES = (
    400  # of a record: more are thinned out, which costs nothing that a cause is known by
)
AC_RMS = "ac_rms"
DRAWN = "drawn"  # the wave of a generator that is set as its source is drawn
# What a reading is good for where nothing was said of it: common practice, no published source.
_SHARE, _DEGREES = 0.005, 0.5
_OF_RANGE = 1e-3
# How well a circuit on a breadboard follows its model even where nothing is wrong: contacts, strays, leads.
_OF_MODEL, _OF_CURVE, _OF_ANGLE = 0.001, 0.002, 0.15
_ROOT = 2**0.5
_LOSS = re.compile(r"with (.+?) in series")  # how the bridge notes what is in series with a part


@dataclass(frozen=True)
class Source:
    """One thing that was measured: `key` names it for the page, `label` for people."""

    key: str
    label: str
    case: str


@dataclass(frozen=True)
class Gap:
    """`sources` are all that was measured, `used` the keys of those that are explained from; `notes` say what
    could not be used, or what was assumed. `runs` gives for records the run that they are explained by."""

    observed: Observed
    sources: tuple[Source, ...]
    used: tuple[str, ...]
    notes: tuple[str, ...]
    runs: tuple[str, ...]

    def explained(
        self,
        only: Collection[str] = (),
        without: Collection[tuple[str, str]] = (),
        watch: Watch | None = None,
        grows: Grows = lambda so_far: None,
    ) -> Explanation:
        return explained(self.observed, only, without, watch, grows)


def gap_of(exercise: Exercise, left: Collection[str] = (), run: str = "", of: str = "") -> Gap:
    """All that was measured in all cases, but for the sources `left` away; or what was measured `of` one
    quantity, or as the record of that name.

    `run` is the one a record is explained by, where several show the same. Raises DocumentError where
    nothing was measured, or a drawing is of no use.
    """
    only = {note.id for note in exercise.measurements if note.figure.spoken == of}
    only |= {record.id for record in exercise.records if of in (record.id, record.name)}
    if of and not only:
        raise DocumentError(f"Nothing was measured of {of}.")
    sources: list[Source] = []
    blocks: list[Block] = []
    circuits: dict[str, Circuit] = {}
    used: list[str] = []
    notes: list[str] = []
    runs: list[str] = []
    for case in (BASE, *(each.id for each in exercise.cases)):
        here = _Here(exercise, case)
        found = list(_measured(here, run, notes))
        if not found:
            continue
        sources += [source for source, _, _ in found]
        wanted = [
            each for each in found if each[0].key not in left and (not of or each[0].key in only)
        ]
        if not wanted:
            continue
        circuits[case] = here.circuit
        if any(
            isinstance(block, OverFrequency) and not block.by_waveforms for _, block, _ in wanted
        ):
            circuits[case], _ = driven(here.circuit)
        known = values_by_name(here.exercise.schematic, here.drawing)
        given = {name: of.value for name, of in known.items()}
        for source, block, by in wanted:
            used.append(source.key)
            if by and by not in runs:
                runs.append(by)
            blocks.append(replace(block, case=case, given=given))
    if not sources:
        nothing = "Nothing was measured yet, so there is nothing to explain."
        raise DocumentError(" ".join(notes) or nothing)
    if not blocks:
        raise DocumentError("Nothing that was measured is chosen; choose what shall be explained.")
    observed = Observed(circuits, tuple(_together(blocks)))
    return Gap(observed, tuple(sources), tuple(used), tuple(notes), tuple(runs))


@dataclass(frozen=True)
class _Here:
    """An exercise in a case; its drawing is read when first something asks for it."""

    base: Exercise
    case: str

    @cached_property
    def exercise(self) -> Exercise:
        return in_case(self.base, self.case)

    @cached_property
    def drawing(self) -> Reading:
        """Raises DocumentError where it is of no use."""
        own = self.exercise
        drawing = drawing_of(own)
        for finding in drawing.findings:
            if finding.severity == "fault":
                raise DocumentError(finding.sentence)
        return drawing

    @property
    def circuit(self) -> Circuit:
        return self.drawing.circuit


_Measured = tuple[Source, Block, str]


def _measured(here: _Here, run: str, notes: list[str]) -> Iterator[_Measured]:
    """What was measured in a case, each with the run it is explained by."""
    exercise, case = here.base, here.case
    where = "" if case == BASE else f", {name_of(exercise, case)}"
    # What was read several times counts as it was read last.
    last = {n.figure: n for n in exercise.measurements if n.figure.case == case and n.text.strip()}
    for note in last.values():
        label = f"{_words(note)}{where}"
        try:
            block = _of_note(note, here)
        except LucidError as error:
            notes.append(f"{label} is not used: {error}.")
            continue
        if block is not None:
            yield Source(note.id, label, case), block, ""
        else:
            notes.append(f"{label} is not used: such a reading says too little by itself.")
    for record in exercise.records:
        if record.case != case:
            continue
        wave = record.recipe.settings.get("wave", DRAWN) if record.recipe else DRAWN
        if wave != DRAWN:
            notes.append(
                f"{record.name} is not used: its generator gave another wave than is drawn."
            )
            continue
        if axis_of(record)[0] == "t" and _swings_by_itself(here, record, run):
            notes.append(
                f"{record.name} is not used: nothing drives the circuit, so that it swings in a phase of its "
                f"own. Compare its period and its extremes in the ledger."
            )
            continue
        try:
            found = _of_record(record, exercise, run)
        except LucidError as error:
            notes.append(f"{record.name} is not used: {error}.")
            continue
        if found is not None:
            yield Source(record.id, f"{record.name}{where}", case), *found


def _swings_by_itself(here: _Here, record: Record, run: str) -> bool:
    """Whether nothing drives what was recorded: no source that moves, no switch, no starting values."""
    by = run_of_record(here.base, record, run)
    is_let_go = by is not None and by.settings.get("begin") == "given"
    moving = (e.waveform or e.kind == "timed_switch" for e in here.circuit)
    return not (is_let_go or any(moving))


def _words(note: Measurement) -> str:
    figure = note.figure
    match figure:
        case OfPart():
            return f"{figure.part} by itself"
        case OfCurve():
            return f"{figure.curve}, {'AC' if figure.reading == AC_RMS else figure.reading}"
    return figure.spoken


def _of_note(note: Measurement, here: _Here) -> Block | None:
    """None where nothing was read, or such a reading is not used."""
    figure = note.figure
    if not note.text.strip():
        return None
    match figure:
        case QuantityAtRest():
            value, sigma = _read(note.text, _unit_of(figure.quantity))
            return AtRest((column_of(figure.quantity, *_lone(value, sigma)),), figure.quantity)
        case OfCurve(reading=reading, member="") if reading == AC_RMS:
            frequency = _only_sine(here.circuit)
            if frequency is None:
                return None
            value, sigma = _read(note.text, _unit_of(figure.curve))
            column = column_of(f"abs({figure.curve})", *_lone(_ROOT * value, _ROOT * sigma))
            return OverFrequency(
                (column,), figure.curve, frequencies=np.array([frequency]), by_waveforms=True
            )
        case OfPart():
            return _of_part(figure.part, note, here)
    return None


def _of_part(name: str, note: Measurement, here: _Here) -> Block | None:
    element = here.circuit.by_name.get(name)
    if element is None or not element.main_key:
        return None
    unit = element.device.description.parameter(element.main_key).unit
    columns = [column_of(name, *_lone(*_read(note.text, unit)))]
    loss = _LOSS.match(note.note)
    if loss:
        columns.append(replace(column_of(name, *_lone(*_read(loss[1], "Ω"))), part=LOSS))
    return OfParts(tuple(columns), name)


def _unit_of(quantity: str) -> str:
    return {"V": "V", "I": "A", "P": "W"}.get(quantity.partition("_")[0], "V")


def _read(text: str, unit: str) -> tuple[float, float]:
    """(value, standard uncertainty) of a reading as it was written. Raises LucidError."""
    reading = read_reading(text, unit)
    return reading.value, _stated(reading.value, reading.uncertainty)


def _stated(value: float, uncertainty: float | None) -> float:
    own = uncertainty / COVERAGE if uncertainty else max(_SHARE * abs(value), 1e-12)
    return float(np.hypot(own, _OF_MODEL * abs(value)))


def _lone(value: float, sigma: float) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
    return np.array([value]), np.array([sigma])


def _only_sine(circuit: Circuit) -> float | None:
    """The frequency [Hz] of all sources that move; None where they are no sines, or of several."""
    waves = [element.waveform for element in circuit if element.waveform is not None]
    found = {wave.frequency for wave in waves if isinstance(wave, Sine)}
    if len(found) != 1 or not all(isinstance(wave, Sine) for wave in waves):
        return None
    return found.pop()


def _of_record(record: Record, exercise: Exercise, run: str) -> tuple[Block, str] | None:
    """(its block, the run it is explained by); None where it has no curve."""
    axis, _ = axis_of(record)
    curves = bench_curves(record)
    if not curves:
        return None
    x = curves[0].x
    every = max(1, -(-len(x) // MOST_SAMPLES))
    columns = tuple(column for of in curves for column in _columns(of, every, axis == "f"))
    x = x[::every]
    by = run_of_record(exercise, record, run)
    if axis == "f":
        return OverFrequency(columns, record.name, frequencies=x), by.id if by else ""
    if axis == "t":
        begin = by.settings.get("begin", "") if by else ""
        settings = TransientSettings(float(max(x[-1], 1e-12)), from_given=begin == "given")
        block = OverTime(columns, record.name, times=x, settings=settings,
                         begins_settled=begin == "settled")  # fmt: skip
        return block, by.id if by else ""
    return OverSource(columns, record.name, swept=axis, steps=x), by.id if by else ""


def _columns(of: BenchCurve, every: int, is_phasor: bool) -> Iterator[Column]:
    values = of.values[::every]
    size = np.abs(values) if is_phasor else np.real(values)
    sigma = of.errors[::every] / COVERAGE
    least = _SHARE * np.abs(size) + _OF_RANGE * float(np.max(np.abs(size), initial=1e-12))
    sigma = np.hypot(np.where(sigma > 0, sigma, least), _OF_CURVE * np.abs(size))
    common = of.common / COVERAGE
    has_size = not (np.all(size == 1.0) and not np.any(of.errors))
    if has_size:
        yield column_of(f"abs({of.formula})" if is_phasor else of.formula, size, sigma, common)
    if of.angle_errors is not None:
        errors = of.angle_errors[::every] / COVERAGE
        errors = np.hypot(np.where(errors > 0, errors, _DEGREES), _OF_ANGLE)
        yield column_of(f"arg({of.formula})", np.degrees(np.angle(values)), errors)


def _together(blocks: Collection[Block]) -> Iterator[Block]:
    """Readings that one run tells made one block each."""
    lone: dict[tuple[object, ...], list[Block]] = {}
    for block in blocks:
        if isinstance(block, (AtRest, OfParts)):
            lone.setdefault((type(block), block.case), []).append(block)
        elif isinstance(block, OverFrequency) and block.by_waveforms:
            lone.setdefault((type(block), block.case, float(block.frequencies[0])), []).append(
                block
            )
        else:
            yield block
    for many in lone.values():
        columns = tuple(column for block in many for column in block.columns)
        yield replace(many[0], columns=columns, name="readings")
