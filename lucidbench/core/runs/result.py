"""A run carried out: its settings as understood, its curves or table, and what is read off them."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from pydantic import BaseModel

from lucidbench.core.analyses import (
    TransientSettings,
    Watch,
    dc_sweep,
    frequency_sweep,
    natural_frequencies,
    operating_point,
    phasors,
    transient,
)
from lucidbench.core.analyses.dc_sweep import SOURCES
from lucidbench.core.analyses.run import RunRefused
from lucidbench.core.analyses.settled import settled
from lucidbench.core.analyses.states import device_states
from lucidbench.core.errors import CircuitError, FormulaError, LucidError, ValueTextError
from lucidbench.core.exercise import Exercise, Run
from lucidbench.core.formula import Known, parse
from lucidbench.core.formula.typeset import latex
from lucidbench.core.netlist import Circuit
from lucidbench.core.readings.curve import Curve, NoReading
from lucidbench.core.readings.reading import Reading
from lucidbench.core.runs.analyses import ANALYSES, BEGINS, Analysis, Setting
from lucidbench.core.runs.proposals import Proposal, proposals
from lucidbench.core.runs.reads import frequency_readings, time_readings, value_readings
from lucidbench.core.runs.thin import thinned
from lucidbench.core.runs.traces import (
    Traces,
    dimensions_of,
    over_frequency,
    over_time,
    over_value,
)
from lucidbench.core.schematic import read_drawing, values_by_name
from lucidbench.core.units import engineering, parse_value

SWEEP_POINTS = 500
MOST_SHOWN_AT_FIRST = 3
SECONDS = 20.0  # a run asked of the page may take


class SettingLook(BaseModel):
    key: str
    text: str
    echo: str | None = None
    proposed: str = ""
    because: str = ""
    problem: str | None = None
    choices: list[tuple[str, str]] = []


class FigureLook(BaseModel):
    """A figure read off a curve; `at` is where it stands, on the axis."""

    label: str
    text: str
    exact: str
    at: float | None = None


class CurveLook(BaseModel):
    """`y` at the run's `x`; of phasors the magnitude, with `phase` [°] beside it."""

    text: str
    latex: str
    unit: str
    y: list[float | None]
    phase: list[float | None] | None = None
    readings: list[FigureLook]


class ShownLook(BaseModel):
    """A formula to show, and what is wrong with it."""

    text: str
    problem: str | None = None


class TableLook(BaseModel):
    head: list[str]
    rows: list[list[str]]
    title: str = ""


class RunLook(BaseModel):
    id: str
    settings: list[SettingLook]
    shown: list[ShownLook]
    problem: str | None = None
    axis: str = ""
    axis_unit: str = ""
    is_log: bool = False
    x: list[float] = []
    curves: list[CurveLook] = []
    tables: list[TableLook] = []
    notes: list[str] = []
    names: list[str] = []  # what may be shown
    seconds: float = 0.0


class NotUnderstood(LucidError):
    """A setting cannot be used; it says so itself."""


@dataclass
class _Asked:
    """The settings of a run as numbers and texts, by key."""

    looks: list[SettingLook]
    numbers: Mapping[str, float]
    texts: Mapping[str, str]


def carry_out(exercise: Exercise, run: Run, watch: Watch | None = None) -> RunLook:
    """Never raises for what is drawn or typed: whatever is wrong is said in the answer."""
    began = time.monotonic()
    analysis = ANALYSES.get(run.analysis)
    if analysis is None:
        known = ", ".join(a.label.lower() for a in ANALYSES.values())
        return RunLook(id=run.id, settings=[], shown=[], problem=(
            f"There is no analysis called {run.analysis}; there are {known}."))  # fmt: skip
    drawing = read_drawing(exercise.schematic, exercise.title, exercise.parameters, exercise.blocks)
    circuit = drawing.circuit
    blocking = next((f for f in drawing.findings if f.severity == "fault"), None)
    if not circuit.elements:
        sentence = "Nothing is drawn yet that could carry a current."
    else:
        sentence = blocking.sentence if blocking else ""
    asked = _asked(circuit, analysis, run, proposing=not sentence)
    answer = RunLook(id=run.id, settings=asked.looks, shown=[ShownLook(text=t) for t in run.show])
    if sentence:
        answer.problem = sentence
        return answer
    wrong = next((s for s in asked.looks if s.problem), None)
    if wrong:
        answer.problem = f"{wrong.problem}."
        return answer
    try:
        values = values_by_name(exercise.schematic, drawing)
        labels = [label.name for label in exercise.schematic.labels]
        _carry_out(answer, circuit, analysis, asked, run, values, labels, watch or Watch(SECONDS))
    except LucidError as error:
        answer.problem = str(error)
    answer.seconds = time.monotonic() - began
    return answer


def _asked(circuit: Circuit, analysis: Analysis, run: Run, proposing: bool) -> _Asked:
    try:
        offered = proposals(circuit, analysis.key) if proposing else {}
    except LucidError:
        offered = {}
    looks, numbers, texts = [], {}, {}
    subject = ""
    for setting in analysis.settings:
        text = run.settings.get(setting.key, "").strip()
        proposal = offered.get(setting.key, Proposal(None, ""))
        unit = setting.unit
        if analysis.key == "dc_sweep" and setting.key in ("from", "to"):
            unit = _unit_of(circuit, subject)
            if run.settings.get("subject", "").strip() not in ("", proposal.text):
                proposal = Proposal(None, "")
        proposed = proposal.text or (
            engineering(proposal.number, unit) if proposal.number is not None else ""
        )
        look = SettingLook(
            key=setting.key, text=text, proposed=proposed.replace("\u00a0", " "),
            because=proposal.because, choices=_choices(circuit, setting),
        )  # fmt: skip
        if setting.reads != "quantity":
            texts[setting.key] = text or proposal.text
            subject = texts[setting.key] if setting.reads == "name" else subject
        elif not text:
            if proposal.number is None and proposing:
                look.problem = f"“{setting.label}” is still empty"
            elif proposal.number is not None:
                numbers[setting.key] = proposal.number
        else:
            try:
                value = parse_value(text, unit)
                numbers[setting.key], look.echo = value.number, value.echo
            except ValueTextError as error:
                look.problem = f"“{setting.label}”: {error}"
        looks.append(look)
    _check(looks, numbers)
    return _Asked(looks, numbers, texts)


def _choices(circuit: Circuit, setting: Setting) -> list[tuple[str, str]]:
    if setting.reads != "name":
        return setting.choices
    names = [e.name for e in circuit if e.kind in SOURCES] + list(circuit.parameters)
    return [(name, name) for name in [*names, "temperature"]]


def _unit_of(circuit: Circuit, subject: str) -> str:
    if subject == "temperature":
        return "°C"
    element = circuit.by_name.get(subject)
    return {"voltage_source": "V", "current_source": "A"}.get(element.kind, "") if element else ""


def _check(looks: list[SettingLook], numbers: Mapping[str, float]) -> None:
    """What no analysis could use, said at the field."""
    by_key = {look.key: look for look in looks}

    def fault(key: str, sentence: str) -> None:
        if not by_key[key].problem:
            by_key[key].problem = sentence

    if "stop" in numbers:
        if numbers["stop"] <= 0:
            fault("stop", "“How long” must be above zero: the run would end before it begins")
        elif numbers.get("start", 0.0) < 0 or numbers.get("start", 0.0) >= numbers["stop"]:
            end = by_key["stop"].echo or by_key["stop"].proposed
            fault("start", f"“Shown from” must lie between zero and the end, {end}")
    for key in ("from", "to", "frequency"):
        if key in numbers and by_key[key].key in ("from", "to") and "subject" in by_key:
            continue
        if key in numbers and numbers[key] <= 0:
            fault(key, "A frequency is above zero; on a logarithmic axis there is no other")
    if {"from", "to"} <= set(numbers):
        if numbers["from"] == numbers["to"]:
            fault("to", "The sweep ends where it begins")
        elif "subject" not in by_key:
            if numbers["from"] > numbers["to"]:
                fault("to", "The sweep ends below where it begins; exchange the two")
            elif numbers["from"] > 0 and numbers["to"] / numbers["from"] > 1e15:
                fault("to", "That is more than fifteen decades")


def _carry_out(
    answer: RunLook,
    circuit: Circuit,
    analysis: Analysis,
    asked: _Asked,
    run: Run,
    values: Mapping[str, Known],
    labels: Sequence[str],
    watch: Watch,
) -> None:
    numbers = asked.numbers
    answer.names = sorted(dimensions_of(circuit))
    if analysis.key in ("frequency_sweep", "phasor"):
        circuit, notes = _driven(circuit)
        answer.notes = notes
    match analysis.key:
        case "operating_point":
            answer.tables = list(_rest(circuit))
        case "natural":
            answer.tables = [_modes(circuit)]
        case "phasor":
            answer.tables = list(_phasors(circuit, numbers["frequency"]))
        case "transient":
            traces, told = _over_time(circuit, asked, watch)
            answer.notes = list(told)
            _draw(answer, traces, _to_show(run, circuit, labels), values, time_readings)
        case "frequency_sweep":
            f = np.geomspace(numbers["from"], numbers["to"], SWEEP_POINTS)
            sweep = frequency_sweep(circuit, f, watch)
            traces = over_frequency(sweep)
            _draw(answer, traces, _to_show(run, circuit, labels), values, frequency_readings)
        case "dc_sweep":
            first, last = numbers["from"], numbers["to"]
            subject = asked.texts["subject"]
            points = np.linspace(first, last, SWEEP_POINTS + 1)
            traces = over_value(dc_sweep(circuit, subject, points, None, watch))
            _draw(answer, traces, _to_show(run, circuit, labels), values, value_readings)


def _driven(circuit: Circuit) -> tuple[Circuit, list[str]]:
    """The circuit with a source that drives it: where none has a phasor, the likeliest is given one."""
    sources = [e for e in circuit if e.kind in SOURCES]
    if any(e.device.value(e, "magnitude") for e in sources):
        return circuit, []
    if not sources:
        raise RunRefused("There is no source to drive the circuit with; place one first.")
    first = next((e for e in sources if e.waveform is not None), sources[0])
    unit = "V" if first.kind == "voltage_source" else "A"
    note = (
        f"No source has a phasor, so {first.name} is taken as 1\u00a0{unit} (peak) at every frequency; "
        f"its own stands under “More values” in its card."
    )
    return circuit.with_value(first.name, "magnitude", 1.0), [note]


def _over_time(circuit: Circuit, asked: _Asked, watch: Watch) -> tuple[Traces, tuple[str, ...]]:
    start, stop = asked.numbers.get("start", 0.0), asked.numbers["stop"]
    begin = asked.texts.get("begin") or BEGINS[0][0]
    if begin == "settled":
        state = settled(circuit, 1, watch=watch)
        periods = int(np.ceil(stop / state.period - 1e-9))
        if periods > 1:
            state = settled(circuit, periods, watch=watch)
        return over_time(state.run, start, stop, state.begin), state.run.notes
    settings = TransientSettings(stop, start, from_given=begin == "given")
    result = transient(circuit, settings, watch)
    return over_time(result, start, stop), result.notes


def _to_show(run: Run, circuit: Circuit, labels: Sequence[str]) -> list[str]:
    """What is asked for; else the voltages of nodes someone took the trouble to name."""
    if run.show:
        return list(run.show)
    named = [n for n in dict.fromkeys(labels) if n in circuit.nodes]
    first = sorted(named, key=lambda n: n != "out")[:MOST_SHOWN_AT_FIRST]
    return [f"V_{n}" for n in first or circuit.nodes[:MOST_SHOWN_AT_FIRST]]


Reads = Callable[[Curve], Iterator[tuple[str, Reading, float | None]]]


def _draw(
    answer: RunLook,
    traces: Traces,
    texts: Sequence[str],
    values: Mapping[str, Known],
    reads: Reads,
) -> None:
    answer.axis, answer.axis_unit, answer.is_log = traces.axis, traces.unit, traces.is_log
    answer.names = sorted(traces.dimensions)
    answer.shown = []
    drawn: list[tuple[str, Curve]] = []
    for text in texts:
        look = ShownLook(text=text)
        answer.shown.append(look)
        try:
            formula = parse(text)
            drawn.append((latex(formula.body), traces.curve(formula, text, values)))
        except FormulaError as error:
            look.problem = str(error)
    samples = [np.asarray(curve.values) for _, curve in drawn]
    kept = thinned([np.abs(s) if np.iscomplexobj(s) else s for s in samples], len(traces.grid))
    answer.x = traces.grid[kept].tolist()
    for (typeset, curve), sample in zip(drawn, samples, strict=True):
        here = sample[kept]
        phase = None
        if np.iscomplexobj(here):
            phase = _listed(np.degrees(np.unwrap(np.angle(here))))
            here = np.abs(here)
        answer.curves.append(
            CurveLook(
                text=curve.name, latex=typeset, unit=curve.unit, y=_listed(here), phase=phase,
                readings=list(_figures(curve, sample, reads)),
            )
        )  # fmt: skip


def _figures(curve: Curve, sample: np.ndarray, reads: Reads) -> Iterator[FigureLook]:
    told = np.isfinite(sample)
    if not np.all(told):  # a ratio at the point where both are zero, say
        if np.count_nonzero(told) < 2:
            return
        curve, sample = replace(curve, grid=curve.grid[told]), sample[told]
    nothing = 1e-12 * float(np.max(np.abs(sample), initial=0.0))
    try:
        for label, figure, at in reads(curve):
            if figure.unit == curve.unit and abs(figure) <= nothing:
                figure = Reading(0.0, figure.unit)
            text = engineering(float(figure), figure.unit)
            exact = engineering(float(figure), figure.unit, 9)
            yield FigureLook(label=label, text=text, exact=exact, at=at)
    except (NoReading, ValueError, CircuitError):
        return


def _listed(values: np.ndarray) -> list[float | None]:
    """As JSON takes them: what is not a number is a gap."""
    return [v if np.isfinite(v) else None for v in np.asarray(values, float).tolist()]


def _rest(circuit: Circuit) -> Iterator[TableLook]:
    point = operating_point(circuit)
    yield TableLook(title="Voltages", head=["node", "V"], rows=[
        [node, engineering(v, "V")] for node, v in point.voltages.items() if node != "0"])  # fmt: skip
    yield TableLook(title="Currents and powers", head=["part", "I", "P"], rows=[
        [name, engineering(i, "A"), engineering(point.powers[name], "W") if name in point.powers else ""]
        for name, i in point.currents.items()])  # fmt: skip
    states = device_states(point)
    if states:
        yield TableLook(title="Small signals", head=["part", "region", "values"], rows=[
            [name, s.region, _small(s.values)] for name, s in states.items()])  # fmt: skip


def _small(values: Mapping[str, float]) -> str:
    return ", ".join(f"{k} = {engineering(v, _small_unit(k))}" for k, v in values.items())


def _small_unit(name: str) -> str:
    return {"g": "S", "r": "Ω", "C": "F", "c": "F"}.get(name[:1], "")


def _modes(circuit: Circuit) -> TableLook:
    found = natural_frequencies(circuit)
    if not found.modes:
        raise RunRefused("Nothing in the circuit stores energy, so it has no natural frequencies.")
    rows = [
        [
            _complex(mode.s, "1/s"),
            engineering(mode.time_constant, "s"),
            engineering(mode.frequency, "Hz"),
            engineering(mode.damping, "", 3),
            engineering(mode.quality, "", 3) if mode.is_pair else "",
        ]
        for mode in found.modes
    ]
    title = (
        "Stable: everything fades"
        if found.stable
        else "Unstable: it grows until something limits it"
    )
    return TableLook(
        title=title, head=["s", "time constant", "frequency", "damping ζ", "Q"], rows=rows
    )


def _complex(s: complex, unit: str) -> str:
    sign = "±" if s.imag else ""
    tail = f" {sign} j{engineering(abs(s.imag), '', 4)}" if s.imag else ""
    return f"{engineering(s.real, '', 4)}{tail} {unit}"


def _phasors(circuit: Circuit, frequency: float) -> Iterator[TableLook]:
    found = phasors(circuit, frequency)

    def rows(named: Mapping[str, complex], unit: str) -> list[list[str]]:
        return [
            [name, engineering(abs(v), unit), f"{np.degrees(np.angle(v)):.4g}°",
             engineering(v.real, unit), engineering(v.imag, unit)]
            for name, v in named.items() if name != "0"
        ]  # fmt: skip

    head = ["peak", "angle", "real", "imaginary"]
    yield TableLook(title="Voltages", head=["node", *head], rows=rows(found.voltages, "V"))
    yield TableLook(title="Currents", head=["part", *head], rows=rows(found.currents, "A"))
    yield TableLook(title="Complex powers", head=["part", "S", "angle", "P", "Q"],
                    rows=rows(found.powers, "W"))  # fmt: skip
