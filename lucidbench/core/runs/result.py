"""A run carried out: its settings as understood, its curves or table, and what is read off them."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace

import numpy as np

from lucidbench.core.analyses import (
    TransientSettings,
    Watch,
    dc_sweep,
    frequency_sweep,
    natural_frequencies,
    phasors,
    transient,
)
from lucidbench.core.analyses.balance import balance_sentence, resting_points
from lucidbench.core.analyses.dc_sweep import SOURCES, changed
from lucidbench.core.analyses.families import builds
from lucidbench.core.analyses.operating_point import operating_point
from lucidbench.core.analyses.run import RunRefused
from lucidbench.core.analyses.settled import settled
from lucidbench.core.errors import CircuitError, FormulaError, LucidError, ValueTextError
from lucidbench.core.exercise import Exercise, Run
from lucidbench.core.formula import Known, names_in, parse
from lucidbench.core.netlist import Circuit, FaultKind
from lucidbench.core.readings.curve import Curve, NoReading
from lucidbench.core.readings.reading import Reading
from lucidbench.core.runs import tables
from lucidbench.core.runs.analyses import ANALYSES, BEGINS, TOLD, Analysis
from lucidbench.core.runs.asked import TOLERANCES, Asked, asked_of, unit_of, voltages_in
from lucidbench.core.runs.looks import CurveLook, FigureLook, RunLook, ShownLook
from lucidbench.core.runs.pictures import from_origin, summed
from lucidbench.core.runs.proposals import source_period
from lucidbench.core.runs.reads import (
    BAND,
    MORE,
    band_of,
    frequency_readings,
    symbol_of,
    time_readings,
    value_readings,
)
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
from lucidbench.core.units.dimensions import NUMBER

MOST_MEMBERS = 24
BUILDS, MOST_BUILDS = 20, 200
SHOWN_BUILDS = {"nominal", *(f"build {k}" for k in range(1, BUILDS + 1))}
SWEEP_POINTS = 500
MOST_RINGING = 8
_NEAR = np.linspace(-2, 2, 41)  # bandwidths to both sides of a resonance
MOST_SHOWN_AT_FIRST = 3
_UNREADABLE = (NoReading, ValueError, CircuitError)  # what a curve with nothing to read off raises
# What stands in the way of a solution at rest need not be in that of others; each analysis says so.
_MATTER_OF_ANALYSES = {kind.value for kind in FaultKind} - {FaultKind.NO_GROUND.value}
SECONDS = 300.0  # a run asked of the page may take


def carry_out(
    exercise: Exercise,
    run: Run,
    watch: Watch | None = None,
    whole: bool = False,
    window: tuple[float, float] | None = None,
) -> RunLook:
    """Never raises for what is drawn or typed: whatever is wrong is said in the answer.

    Curves are thinned to what a screen can show; with `whole` they keep every point. `window` is the
    part of the axis that is looked at: the points told are of it alone.
    """
    began = time.thread_time()  # its own work: a moment in which the machine is busy does not count
    analysis = ANALYSES.get(run.analysis)
    if analysis is None:
        known = ", ".join(a.label.lower() for a in ANALYSES.values())
        return RunLook(id=run.id, settings=[], shown=[], problem=(
            f"There is no analysis called {run.analysis}; there are {known}."))  # fmt: skip
    drawing = read_drawing(exercise.schematic, exercise.title, exercise.parameters, exercise.blocks)
    circuit = drawing.circuit
    blocking = next(
        (
            f
            for f in drawing.findings
            if f.severity == "fault" and f.code not in _MATTER_OF_ANALYSES
        ),
        None,
    )
    sentence = blocking.sentence if blocking else ""
    if not circuit.elements:
        sentence = "Nothing is drawn yet that could carry a current."
    units = {name: known.dimension.unit for name, known in drawing.parameters.items()}
    asked = asked_of(circuit, analysis, run, units, proposing=not sentence)
    answer = RunLook(
        id=run.id, settings=asked.looks, shown=[ShownLook(text=t) for t in run.show],
        conditions=_conditions(analysis, asked), circuit=circuit.fingerprint,
    )  # fmt: skip
    answer.problem = sentence or asked.problem
    if answer.problem:
        return answer
    try:
        values = values_by_name(exercise.schematic, drawing)
        labels = [label.name for label in exercise.schematic.labels]
        _carry_out(
            answer,
            circuit,
            analysis,
            asked,
            run,
            values,
            labels,
            units,
            watch or Watch(SECONDS),
            None if whole else window or (-np.inf, np.inf),
        )
    except LucidError as error:
        answer.problem = str(error)
    answer.seconds = time.thread_time() - began
    return answer


def _carry_out(
    answer: RunLook,
    circuit: Circuit,
    analysis: Analysis,
    asked: Asked,
    run: Run,
    values: Mapping[str, Known],
    labels: Sequence[str],
    units: Mapping[str, str],
    watch: Watch,
    window: tuple[float, float] | None,
) -> None:
    answer.names = sorted(dimensions_of(circuit))
    if asked.texts.get("near"):
        circuit = replace(circuit, near=voltages_in(asked.texts["near"], circuit))
    if analysis.key in ("frequency_sweep", "phasor"):
        circuit, answer.notes = _driven(circuit)
    if analysis.key == "transient":
        answer.period = source_period(circuit)
    if analysis.has_curves:
        family = _family(circuit, asked, units)
        members = [
            (member, _traces(answer, here, analysis, asked, watch.part(k, len(family))))
            for k, (member, here) in enumerate(family)
        ]
        reads = reads_of(analysis, run, answer.notes)
        _draw(answer, members, _to_show(run, circuit, labels), values, reads, window)
        if BAND in run.reads:
            _mark_bands(answer, members, values)
        if asked.texts.get("vary") == TOLERANCES:
            answer.tables = list(tables.over_the_members(answer.curves))
            if window is not None:
                answer.curves = [c for c in answer.curves if c.member in SHOWN_BUILDS]
        return
    family = _family(circuit, asked, units)
    _tell(answer, family[0][1], analysis, asked, watch.part(0, len(family)))
    if len(family) == 1:
        return
    told = [(family[0][0], answer.tables)]
    for k, (member, here) in enumerate(family[1:], 1):
        other = RunLook(id=run.id, settings=[], shown=[])
        _tell(other, here, analysis, asked, watch.part(k, len(family)))
        told.append((member, other.tables))
    answer.tables = list(
        tables.studied(told) if asked.texts.get("vary") == TOLERANCES else tables.beside(told)
    )
    if answer.phasors or answer.roots or answer.bars:
        answer.notes.append(f"The picture is of {family[0][0]}; the tables tell of all.")


def _tell(
    answer: RunLook, circuit: Circuit, analysis: Analysis, asked: Asked, watch: Watch
) -> None:
    """Into `answer`, what is told in tables, figures and formulas of one circuit."""
    numbers, texts = asked.numbers, asked.texts
    match analysis.key:
        case "operating_point":
            point = operating_point(circuit)
            others = resting_points(point)
            if others:
                answer.notes.append(balance_sentence(point, others, "“Start from” chooses"))
            answer.tables = list(tables.resting(point))
        case "natural":
            found = natural_frequencies(circuit)
            if not found.modes:
                raise RunRefused(
                    "Nothing in the circuit stores energy, so it has no natural frequencies."
                )
            answer.tables = [tables.modes(found)]
            answer.roots = list(tables.roots_of(found, texts.get("output", "")))
        case "phasor":
            told_as = texts.get("told") or TOLD[0][0]
            at_peak = phasors(circuit, numbers["frequency"])
            here = at_peak.rms if told_as == "RMS" else at_peak
            answer.tables = list(tables.at_one_frequency(here, told_as))
            one = summed(here, texts["sum"]) if texts.get("sum") else None
            answer.phasors = [one] if one else list(from_origin(here))
        case "fourier":
            state = settled(circuit, watch=watch)
            known = dimensions_of(circuit).get(texts["trace"], NUMBER)
            answer.tables, answer.bars = tables.harmonics_of(state, texts["trace"], known.unit)
        case "largest_output":
            answer.tables = [
                tables.largest(circuit, texts["source"], texts["trace"], numbers["limit"], watch)
            ]
        case "equivalent":
            answer.tables = list(tables.equivalents(circuit, texts["node"], numbers.get("at")))
        case "symbolic":
            answer.formulas, notes = tables.in_letters(circuit, texts["source"], texts["node"])
            answer.notes += notes


def _conditions(analysis: Analysis, asked: Asked) -> str:
    """The analysis and its settings in a line, as one would note them beside a figure."""
    told = []
    for setting, look in zip(analysis.settings, asked.looks, strict=True):
        words = dict(look.choices).get(look.text or look.proposed) if look.choices else None
        text = words or look.echo or look.text or look.proposed
        if text and (look.text or not setting.optional):
            told.append(f"{setting.label.lower()} {text}")
    return ", ".join([analysis.label, *told]).replace("\u00a0", " ")


def _traces(
    answer: RunLook, circuit: Circuit, analysis: Analysis, asked: Asked, watch: Watch
) -> Traces:
    numbers = asked.numbers
    match analysis.key:
        case "transient":
            traces, notes = _over_time(circuit, asked, watch)
            answer.notes += [note for note in notes if note not in answer.notes]
            return traces
        case "frequency_sweep":
            f = _frequencies(circuit, numbers["from"], numbers["to"])
            return over_frequency(frequency_sweep(circuit, f, watch))
        case _:
            points = np.linspace(numbers["from"], numbers["to"], SWEEP_POINTS + 1)
            return over_value(dc_sweep(circuit, asked.texts["subject"], points, None, watch))


def _frequencies(circuit: Circuit, low: float, high: float) -> np.ndarray:
    """Evenly by decades, and closer where the circuit rings: there a response turns quickly."""
    even = np.geomspace(low, high, SWEEP_POINTS)
    try:
        ringing = [m for m in natural_frequencies(circuit).modes if m.quality > 1]
    except LucidError:  # an ideal impedance has no frequencies of its own
        return even
    near = [m.frequency * np.exp(_NEAR / m.quality) for m in ringing[:MOST_RINGING]]
    every = np.unique(np.concatenate([even, *near]))
    return every[(every >= low) & (every <= high)]


Reads = Callable[[Curve], Iterator[tuple[str, Reading, float | None]]]
READS: dict[str, Reads] = {
    "transient": time_readings,
    "frequency_sweep": frequency_readings,
    "dc_sweep": value_readings,
}


def reads_of(analysis: Analysis, run: Run, notes: list[str]) -> Reads:
    """What is read off each curve: what comes by itself, and what was asked for."""
    more = MORE.get(analysis.key, {})
    wanted = [m for m in analysis.readings if m.key in run.reads and m.key in more]
    asked = [(m.label, more[m.key]) for m in wanted]

    def reads(curve: Curve) -> Iterator[tuple[str, Reading, float | None]]:
        yield from READS[analysis.key](curve)
        for label, read in asked:
            try:
                yield label, read(curve), None
            except NoReading as reason:
                note = f"{label.capitalize()}: {reason}"
                if note not in notes:
                    notes.append(note)

    return reads


def _family(circuit: Circuit, asked: Asked, units: Mapping[str, str]) -> list[tuple[str, Circuit]]:
    """The circuit as it is; or with one thing at one value after the other, each named by it."""
    subject, listed = asked.texts.get("vary", ""), asked.texts.get("over", "")
    if not subject:
        return [("", circuit)]
    if subject == TOLERANCES:
        return _builds(circuit, listed)
    texts = [text.strip() for text in listed.replace(";", ",").split(",") if text.strip()]
    if not texts:
        raise RunRefused(f"Write the values {subject} shall take, with commas between them.")
    if len(texts) > MOST_MEMBERS:
        raise RunRefused(f"A family has at most {MOST_MEMBERS} members; this one has {len(texts)}.")
    unit = unit_of(circuit, subject, units)
    members = []
    for text in texts:
        try:
            value = parse_value(text, unit)
        except ValueTextError as error:
            raise RunRefused(f"“Values”: {text} cannot be read; {error}.") from error
        members.append((f"{subject} = {value.echo}", changed(circuit, subject, value.number)))
    return members


def _builds(circuit: Circuit, asked: str) -> list[tuple[str, Circuit]]:
    """The circuit as it is, then built so many times with every value drawn within its tolerance."""
    text = asked.strip() or str(BUILDS)
    if not text.isdecimal() or not 1 <= int(text) <= MOST_BUILDS:
        raise RunRefused(
            f"“Values” says how often the circuit is built: a whole number from 1 to {MOST_BUILDS}, "
            f"and {asked.strip()} is none."
        )
    drawn = builds(circuit, int(text))
    return [("nominal", circuit), *((f"build {k}", here) for k, here in enumerate(drawn, 1))]


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


def _over_time(circuit: Circuit, asked: Asked, watch: Watch) -> tuple[Traces, tuple[str, ...]]:
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


def _draw(
    answer: RunLook,
    members: Sequence[tuple[str, Traces]],
    texts: Sequence[str],
    values: Mapping[str, Known],
    reads: Reads,
    window: tuple[float, float] | None,
) -> None:
    """Into `answer`, every formula of every member: all points, or those a screen shows of `window`."""
    first = members[0][1]
    answer.axis, answer.axis_unit, answer.is_log = first.axis, first.unit, first.is_log
    answer.names = sorted(first.dimensions)
    answer.shown = []
    drawn: list[tuple[str, Curve]] = []
    by_hand = set()
    for text in texts:
        look = ShownLook(text=text)
        answer.shown.append(look)
        try:
            formula = parse(text)
            drawn += [(member, traces.curve(formula, text, values)) for member, traces in members]
            if not any("_" in name for name in names_in(formula.body) & set(first.dimensions)):
                by_hand.add(text)
        except FormulaError as error:
            look.problem = str(error)
    grid = first.grid
    if len(members) > 1:  # each has a point wherever one of them has
        grid = np.unique(np.concatenate([traces.grid for _, traces in members]))
    seen = np.arange(len(grid))
    if window is not None:
        first_in, past = np.searchsorted(grid, window)
        seen = np.arange(max(0, first_in - 1), min(len(grid), past + 1))
    samples = [np.asarray(c.values if c.grid is grid else c.at(grid)) for _, c in drawn]
    sizes = [np.abs(s) if np.iscomplexobj(s) else s for s in samples]
    kept = seen
    if window is not None:
        kept = seen[thinned([size[seen] for size in sizes], len(seen))]
    answer.is_thinned = len(kept) < len(seen)
    answer.x = grid[kept].tolist()
    for (member, curve), sample in zip(drawn, samples, strict=True):
        own = sample if curve.grid is grid else np.asarray(curve.values)
        here = sample[kept]
        phase = None
        if np.iscomplexobj(here):
            phase = _listed(np.degrees(np.unwrap(np.angle(here))))
            here = np.abs(here)
        answer.curves.append(
            CurveLook(
                text=curve.name, member=member, unit=curve.unit, y=_listed(here),
                by_hand=curve.name in by_hand, phase=phase, readings=list(_figures(curve, own, reads)),
            )
        )  # fmt: skip


def _mark_bands(
    answer: RunLook, members: Sequence[tuple[str, Traces]], values: Mapping[str, Known]
) -> None:
    """Into each curve drawn, its pass band and the slopes beside it."""
    by_member = dict(members)
    for look in answer.curves:
        curve = by_member[look.member].curve(parse(look.text), look.text, values)
        try:
            look.band = band_of(curve)
        except _UNREADABLE as reason:
            answer.notes.append(f"Pass band: {reason}")


def _figures(curve: Curve, sample: np.ndarray, reads: Reads) -> Iterator[FigureLook]:
    told = np.isfinite(sample)
    if not np.all(told):  # a ratio at the point where both are zero, say
        if np.count_nonzero(told) < 2:
            return
        curve, sample = replace(curve, grid=curve.grid[told]), sample[told]
    largest = float(np.max(np.abs(sample), initial=0.0))
    try:
        for label, figure, at in reads(curve):
            # An integral of what swings is known less well than the points of the curve are.
            nothing = (1e-9 if label == "mean" else 1e-12) * largest
            if figure.unit == curve.unit and abs(figure) <= nothing:
                figure = Reading(0.0, figure.unit)
            text = engineering(float(figure), figure.unit)
            exact = engineering(float(figure), figure.unit, 9)
            yield FigureLook(
                label=label, text=text, exact=exact, value=float(figure), unit=figure.unit,
                symbol=symbol_of(label, figure.unit), at=at,
            )  # fmt: skip
    except _UNREADABLE:
        return


def _listed(values: np.ndarray) -> list[float | None]:
    """As JSON takes them: what is not a number is a gap."""
    told: list[float | None] = np.asarray(values, float).tolist()
    for k in np.flatnonzero(~np.isfinite(values)):
        told[k] = None
    return told
