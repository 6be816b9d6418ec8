"""Workings as the page shows them: typeset lines, and the circuit redrawn small as it then is."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from lucidbench.core.analyses import Watch
from lucidbench.core.cases import BASE, in_case
from lucidbench.core.document.drawn import drawing_of
from lucidbench.core.document.exercise import Exercise
from lucidbench.core.errors import FormulaError, LucidError
from lucidbench.core.evaluate.evaluation import shown_value
from lucidbench.core.formula import Formula, Known, evaluate, latex, name_latex, names_in, parse
from lucidbench.core.formula.expand import expanded
from lucidbench.core.formula.parser import sides_of
from lucidbench.core.formula.tree import Name, Negation, Node, Number
from lucidbench.core.netlist import GROUND_NODE, Circuit
from lucidbench.core.schematic import Reading, Schematic
from lucidbench.core.schematic.document import Point
from lucidbench.core.schematic.laid_out import CONTROLLED, Laid, laid_out
from lucidbench.core.schematic.nets import wiring
from lucidbench.core.schematic.reduced import Instead, reduced
from lucidbench.core.units import engineering
from lucidbench.core.units.engineering import rectangular
from lucidbench.core.working import How, Step, Told, workings
from lucidbench.core.working.about import frequency_of
from lucidbench.core.working.network import Branch, Network
from lucidbench.core.working.same import holds, same, same_equation

_KINDS = {"voltage": ("voltage_source", "V"), "current": ("current_source", "A")}
_NEAR = 1e-3  # relative
_MOST_SHOWN = 12  # names in a line: beyond it, it is not written again with numbers


@dataclass(frozen=True)
class SmallDrawing:
    """The circuit as it then is, to be drawn without figures; what `values` say stands at its parts."""

    schematic: Schematic
    joints: list[Point]


@dataclass(frozen=True)
class StepLook:
    """`line` is the formula as it could be typed, "" of a sentence alone; an equation has no `result`.
    `parts` are the names of those that it speaks of. Where it `is_to_find`, a student may hide it and write
    it down."""

    sentence: str
    line: str
    latex: str | None
    substituted: str | None
    result: str | None
    parts: list[str]
    heading: bool
    drawing: SmallDrawing | None
    is_to_find: bool


@dataclass(frozen=True)
class WorkedWay:
    """One way to work it out; where it does not lead there, `reason` says why. `asymptotes` and `curve` are
    (frequency [Hz], dB)."""

    key: str
    label: str
    reason: str
    steps: list[StepLook]
    asymptotes: list[tuple[float, float]]
    curve: list[tuple[float, float]]


@dataclass(frozen=True)
class WorkingLook:
    """`conditions` say what it is of: "at rest", "at 50 Hz"."""

    figure: str
    conditions: str
    ways: list[WorkedWay]


@dataclass(frozen=True)
class TurnLook:
    """What a line of one's own comes to beside a step: `state` is right, other or wrong."""

    is_right: bool
    sentence: str
    latex: str | None


def working_of(
    exercise: Exercise, figure: str, how: How, case: str = BASE, watch: Watch | None = None
) -> WorkingLook:
    """Raises LucidError where the figure is none that can be worked out."""
    reading, told, frequency = _told(exercise, figure, how, case, watch)
    here = in_case(exercise, case)
    conditions = {
        "rest": "at rest",
        "phasor": f"as phasors at {engineering(frequency or 0.0, 'Hz')}",
        "gain": "as a gain, over frequency",
        "step": "after a step",
    }[how]
    ways = [_way_look(each, here.schematic, reading) for each in told]
    return WorkingLook(figure, conditions, ways)


def your_turn(
    exercise: Exercise, figure: str, how: How, case: str, way: str, step: int, text: str
) -> TurnLook:
    """Whether a line that was typed is the one of a step: of the same value, at these values and at others,
    or an equation that says the same. Raises LucidError."""
    reading, told, _ = _told(exercise, figure, how, case, None)
    own = next((t for t in told if t.key == way), None)
    if own is None or not 0 <= step < len(own.steps) or not own.steps[step].line:
        raise FormulaError("there is no such step any more", 0)
    names = own.names or {}
    held = {n: source for n, source in _held_by_sources(reading.circuit) if n not in names}
    if own.steps[step].value is None:
        left, right = sides_of(text)
        return _equation_found(own, step, (_with(held, left), _with(held, right)))
    return _formula_found(own, step, _with(held, parse(text)))


def _held_by_sources(circuit: Circuit) -> Iterator[tuple[str, Node]]:
    """V_a and its source, where one holds node a: a student may write either."""
    for e in circuit:
        if e.imposes == "V" and e.nodes[1] == GROUND_NODE:
            yield f"V_{e.nodes[0]}", Name(e.name, 0, 0)


def _with(held: Mapping[str, Node], formula: Formula) -> Formula:
    return replace(formula, body=expanded(formula.body, held))


def _formula_found(told: Told, step: int, mine: Formula) -> TurnLook:
    wanted, right, names = parse(told.steps[step].line), told.steps[step].value, told.names or {}
    assert right is not None
    if mine.target not in (None, wanted.target):
        return TurnLook(False, f"This step is of {wanted.target}.", None)
    definitions = {
        f.target: f.body
        for f in (parse(s.line) for s in told.steps[:step] if s.value is not None)
        if f.target
    }
    value = evaluate(mine, names)
    one, other = (expanded(each.body, definitions) for each in (mine, wanted))
    verdict = same(one, other, names)
    shown = latex(mine.body)
    if verdict.is_same:
        how_known = "by algebra" if verdict.by_algebra else "at random values of all parts"
        return TurnLook(True, f"Right: the same {how_known}.", shown)
    if abs(complex(value.value) - complex(right.value)) <= _NEAR * abs(complex(right.value)):
        words = "The figure is right, but at other values of the parts it would not be."
    else:
        words = f"That comes to {shown_value(value)}, which is not what the circuit does."
    return TurnLook(False, words, shown)


def _equation_found(told: Told, step: int, mine: tuple[Formula, Formula]) -> TurnLook:
    names = told.names or {}
    unknowns = {s.target for s in told.steps[step:] if s.target}
    shown = " = ".join(latex(side.body) for side in mine)
    if same_equation(mine, sides_of(told.steps[step].line), names, unknowns):
        return TurnLook(True, "Right: the same equation, whatever the unknowns are.", shown)
    if holds(mine, names, _NEAR):
        return TurnLook(False, "That holds too, but it is another equation than this.", shown)
    one, other = (shown_value(evaluate(side, names)) for side in mine)
    words = f"With what the circuit does, its sides come to {one} and {other}."
    return TurnLook(False, words, shown)


def _told(
    exercise: Exercise, figure: str, how: How, case: str, watch: Watch | None
) -> tuple[Reading, list[Told], float | None]:
    here = in_case(exercise, case)
    reading = drawing_of(here)
    blocking = [f for f in reading.findings if f.severity == "fault"]
    if blocking and not reading.circuit.elements:
        raise LucidError(blocking[0].sentence)
    frequency = frequency_of(reading.circuit) if how == "phasor" else None
    return reading, workings(reading.circuit, figure, how, frequency, watch), frequency


def _way_look(told: Told, schematic: Schematic, reading: Reading) -> WorkedWay:
    names = {part.name for part in schematic.parts}
    steps = [_step_look(step, told.names or {}, schematic, reading, names) for step in told.steps]
    asymptotes = told.asymptotes
    return WorkedWay(
        told.key, told.label, told.reason, steps,
        list(asymptotes.corners) if asymptotes else [], list(asymptotes.curve) if asymptotes else [],
    )  # fmt: skip


def _step_look(
    step: Step, values: Mapping[str, Known], schematic: Schematic, reading: Reading, parts: set[str]
) -> StepLook:
    shown, substituted, result = None, None, None
    if step.line and step.value is not None:
        formula = parse(step.line)
        shown = f"{name_latex(formula.target or '')} = {latex(formula.body)}"
        if not _is_plain(formula.body):
            substituted = _with_numbers(formula.body, values)
            result = shown_value(step.value, name=formula.target or "")
    elif step.line:
        left, right = sides_of(step.line)
        shown = f"{latex(left.body)} = {latex(right.body)}"
    lit = list(dict.fromkeys(_on_sheet(name, parts) for name in step.parts))
    drawing = _small(step.network, schematic, reading) if step.network else None
    is_to_find = bool(step.line) and (result is not None or step.value is None)
    return StepLook(
        step.sentence, step.line, shown, substituted, result, lit, step.heading, drawing, is_to_find
    )


def _is_plain(node: Node) -> bool:
    """A number, or a name by itself: nothing more is to be said of it."""
    return isinstance(node, Number) or (
        isinstance(node, Negation) and isinstance(node.operand, Number)
    )


def _with_numbers(node: Node, values: Mapping[str, Known]) -> str | None:
    used = names_in(node)
    if not used or len(used) > _MOST_SHOWN or isinstance(node, Name):
        return None
    if any(isinstance(values[n].value, complex) for n in used if n in values):
        return None
    return latex(node, values)


def _on_sheet(name: str, parts: set[str]) -> str:
    """The part of the sheet that a name is of: what is within a block lights the block."""
    if name in parts:
        return name
    return next((p for p in parts if name.endswith(f"_{p}")), name)


def _small(network: Network, schematic: Schematic, reading: Reading) -> SmallDrawing | None:
    """In the places of the drawing where every branch has one, else laid out anew; None where neither can
    be."""
    kinds = {part.name: part.kind for part in schematic.parts}
    if all(b.wires is not None and b.place in kinds for b in network.branches):
        instead = {b.place: _instead(b, kinds[b.place]) for b in network.branches}
        wires = {*network.wires, *(w for b in network.branches for w in b.wires or ())}
        drawn = reduced(schematic, instead, frozenset(wires), reading.kinds)
        return SmallDrawing(drawn, wiring(drawn, reading.kinds).joints)
    if any(b.kind in ("opamp", "dependent", "transformer") for b in network.branches):
        return None
    anew = laid_out(
        [_laid(b, kinds.get(b.place, "")) for b in network.branches],
        _places(network, schematic),
        {label.name for label in schematic.labels},
    )
    return SmallDrawing(anew, wiring(anew, reading.kinds).joints) if anew else None


def _laid(branch: Branch, kind: str) -> Laid:
    if branch.kind == "controlled":
        a, b = (f"V_{n}" if n != GROUND_NODE else "" for n in branch.senses)
        across = f"({a} - {b})" if a and b else a or f"(-{b})"
        return Laid(CONTROLLED, branch.gain or branch.name, f"· {across}", branch.nodes)
    return Laid(*_instead(branch, kind), branch.nodes)


def _places(network: Network, schematic: Schematic) -> dict[str, float]:
    """Where nodes lie on the sheet, from left to right: amid the parts that are at them."""
    x = {part.name: float(part.at[0]) for part in schematic.parts}
    found: dict[str, list[float]] = {}
    for b in network.branches:
        for node in b.nodes:
            found.setdefault(node, []).extend(x[part] for part in b.parts if part in x)
    return {node: sum(at) / len(at) for node, at in found.items() if at}


def _instead(branch: Branch, kind: str) -> Instead:
    if branch.kind == "impedance":
        is_real = not complex(branch.value).imag
        value = (
            engineering(complex(branch.value).real, "Ω", 3)
            if is_real
            else rectangular(branch.value, "Ω", 3)
        )
        box = kind in ("impedance", "capacitor", "inductor") and len(branch.parts) == 1
        return Instead(
            kind if box else ("resistor" if is_real else "impedance"), branch.name, value
        )
    if branch.kind in _KINDS:
        drawn, unit = _KINDS[branch.kind]
        is_real = not complex(branch.value).imag
        value = engineering(complex(branch.value).real, unit, 3) if is_real else ""
        return Instead(drawn, branch.name, value)
    return Instead(kind, branch.name, "")
