"""A figure worked out on paper, in every way that leads there: the shortest first.

What comes out is held against the circuit as it is analysed; a way that does not come to the same is not
told.
"""

from __future__ import annotations

import logging
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import partial
from typing import Literal

import numpy as np

from lucidbench.core.analyses import operating_point
from lucidbench.core.analyses.frequency import phasors
from lucidbench.core.analyses.run import Watch
from lucidbench.core.errors import LucidError
from lucidbench.core.formula import Known
from lucidbench.core.netlist import GROUND_NODE, Circuit
from lucidbench.core.working import field_effect
from lucidbench.core.working.at_rest import at_frequency, at_rest, textbook_form
from lucidbench.core.working.network import Branch, NoWorking
from lucidbench.core.working.step import Derivation, InconsistentStep, Step, used
from lucidbench.core.working.transfer import Asymptotes, frequency_response, ideal_amplifiers
from lucidbench.core.working.transients import after_a_step
from lucidbench.core.working.transistor import bias, gain
from lucidbench.core.working.wanted import TargetQuantity, wanted_of
from lucidbench.core.working.ways import WAYS, Way

How = Literal["rest", "phasor", "gain", "step"]
_log = logging.getLogger(__name__)
_DOES_NOT_HOLD = "This way does not give what the circuit does, so it is not shown."
BIPOLAR = ("npn", "pnp")
_CONDUCTS = 1e-9  # [A]
_EXACT, _BY_RULES = (
    1e-6,
    2e-3,
)  # relative: what is told of linear circuits, and of textbook forms, agrees within
_NOTHING = 1e-9  # [V, A]


@dataclass(frozen=True)
class Told:
    """One way. `answer` is the name of what was sought and `value` what it comes to; where it does not lead
    there, `reason` says why and the rest is empty."""

    key: str
    label: str
    steps: tuple[Step, ...] = ()
    answer: str = ""
    value: Known | None = None
    names: Mapping[str, Known] | None = None
    asymptotes: Asymptotes | None = None
    reason: str = ""


def workings(
    circuit: Circuit,
    figure: str,
    how: How = "rest",
    frequency: float | None = None,
    watch: Watch | None = None,
) -> list[Told]:
    """Every way to the `figure` (V_out, I_R1, V_a - V_b; of a gain, its output V_out), those that lead there
    first. `frequency` [Hz] is that of phasors. Raises NoWorking where the figure is none that can be worked
    out."""
    wanted = wanted_of(figure)
    circuit, wanted = _outside_blocks(circuit, wanted)
    ways = _ways(circuit, wanted, how, frequency)
    found = []
    for k, way in enumerate(ways):
        if watch:
            watch.check(k / len(ways), "working")
        found.append((way.longer, _told(way)))
    found.sort(key=lambda each: (not each[1].steps, each[0] * _length(each[1])))
    return [told for _, told in found]


def _length(told: Told) -> int:
    return sum(2 if step.line else 1 for step in told.steps)


def within_block(name: str) -> str:
    """How a part of a block is written: R1 of X3 as R1_X3."""
    *outer, own = name.split(".")
    return "_".join([own, *reversed(outer)])


def _outside_blocks(circuit: Circuit, wanted: TargetQuantity) -> tuple[Circuit, TargetQuantity]:
    """With every part under a name that formulas can have."""
    elements = tuple(replace(e, name=within_block(e.name)) for e in circuit)
    keeps = wanted.part.count(".") and wanted.part in {e.name for e in circuit}
    part = within_block(wanted.part) if keeps else wanted.part
    return replace(circuit, elements=elements), replace(wanted, part=part)


Work = Callable[[Derivation], tuple[str, Asymptotes | None]]


def _told(way: _Offered) -> Told:
    pad = Derivation({})
    try:
        answer, asymptotes = way.work(pad)
    except InconsistentStep as error:
        _log.warning("%s: %s", way.key, error)
        return Told(way.key, way.label, reason=_DOES_NOT_HOLD)
    except LucidError as error:
        return Told(way.key, way.label, reason=str(error))
    except (ArithmeticError, LookupError, np.linalg.LinAlgError):
        _log.exception("%s", way.key)
        return Told(way.key, way.label, reason=_DOES_NOT_HOLD)
    names = dict(pad.names)
    answers = {answer}
    if way.is_told_whole:  # all but what was drawn anew on the way to something else
        answers |= {step.target for step in pad.steps if step.target and not step.network}
    steps = used(pad.steps, answers)
    return Told(way.key, way.label, tuple(steps), answer, names[answer], names, asymptotes)


@dataclass(frozen=True)
class _Offered:
    """A way of this circuit; `longer` is how long it seems to a student, beside others. What `is_told_whole`,
    as a bias or a gain, is one picture, and tells more than what was asked for."""

    key: str
    label: str
    work: Work
    longer: float = 1.0
    is_told_whole: bool = True


def _ways(
    circuit: Circuit, wanted: TargetQuantity, how: How, frequency: float | None
) -> list[_Offered]:
    has_transistor = any(e.kind in (*BIPOLAR, *field_effect.KINDS) for e in circuit)
    if how == "gain":
        if wanted.kind != "V" or wanted.nodes[1] != GROUND_NODE:
            raise NoWorking("A gain is that of a node's voltage over the source's.")
        output = wanted.nodes[0]
        if has_transistor:
            if any(e.kind in BIPOLAR for e in circuit):
                stage = _alone(lambda pad: gain(circuit, output, pad))
                return [_Offered("hybrid_pi", "Bias and hybrid-π", stage)]
            stage = _alone(lambda pad: field_effect.gain(circuit, output, pad))
            return [_Offered("small_signal", "Bias and small signals", stage)]
        return [
            _Offered(
                "transfer",
                "Transfer function",
                lambda pad: frequency_response(circuit, output, pad),
            )
        ]
    if how == "step":
        step = _alone(lambda pad: after_a_step(circuit, wanted, pad))
        return [_Offered("step", "Initial value, final value", step)]
    if how == "rest" and has_transistor:
        rules = _alone(lambda pad: _biased(circuit, wanted, pad))
        return [_Offered("bias", "Bias by the textbook's rules", rules)]
    at = frequency if how == "phasor" else None
    if how == "phasor" and at is None:
        raise NoWorking("Phasors need a frequency.")
    return [
        _Offered(
            way.key,
            way.label,
            _alone(partial(_by, way, circuit, wanted, at)),
            way.longer,
            way.is_told_whole,
        )
        for way in WAYS
    ]


def _alone(work: Callable[[Derivation], str]) -> Work:
    """A way that comes with no picture of its own."""
    return lambda pad: (work(pad), None)


def _by(
    way: Way, circuit: Circuit, wanted: TargetQuantity, frequency: float | None, pad: Derivation
) -> str:
    """One of the ways of networks, at rest or at a frequency [Hz]."""
    plain = ideal_amplifiers(textbook_form(circuit), pad)
    if frequency is None:
        here = at_rest(plain, pad, _conducting(plain))
    else:
        here = at_frequency(plain, frequency, pad)
    if not here.network.sources:
        raise NoWorking("No source gives anything here, so everything is zero.")
    asked = replace(wanted, nodes=(here.node(wanted.nodes[0]), here.node(wanted.nodes[1])))
    if wanted.kind == "V" and asked.nodes[0] == asked.nodes[1]:
        raise NoWorking("The two nodes are joined by a wire; there is no voltage between them.")
    answer = way.work(here.network, asked, pad)
    _held_against(plain, wanted, complex(pad.names[answer].value), frequency)
    return answer


def _conducting(circuit: Circuit) -> frozenset[str]:
    diodes = [e.name for e in circuit if e.kind == "diode"]
    if not diodes:
        return frozenset()
    currents = operating_point(circuit).currents
    return frozenset(name for name in diodes if currents[name] > _CONDUCTS)


def _held_against(
    circuit: Circuit, wanted: TargetQuantity, value: complex, frequency: float | None
) -> None:
    """Raises NoWorking where the analysis of the circuit comes to something else."""
    is_linear = not any(e.kind in ("diode", *BIPOLAR) for e in circuit)
    within = _EXACT if is_linear else _BY_RULES
    if frequency is None:
        point = operating_point(circuit)
        volts: Mapping[str, complex] = point.voltages
        currents: Mapping[str, complex] = point.currents
        powers: Mapping[str, complex] = point.powers
    else:
        at = phasors(circuit, frequency)
        volts, currents, powers = at.voltages, at.currents, at.powers
    if wanted.kind == "V":
        a, b = wanted.nodes
        truth = complex(volts[a]) - complex(volts[b])
    else:
        truth = complex((currents if wanted.kind == "I" else powers)[wanted.part])
    if abs(truth - value) > within * max(abs(truth), abs(value)) + _NOTHING:
        raise InconsistentStep(f"{value:g} by hand, {truth:g} by the analysis")


def _biased(circuit: Circuit, wanted: TargetQuantity, pad: Derivation) -> str:
    element = next(e for e in circuit if e.kind in (*BIPOLAR, *field_effect.KINDS))
    is_bipolar = element.kind in BIPOLAR
    told = bias(circuit, pad) if is_bipolar else field_effect.bias(circuit, pad)
    pins = dict(
        zip(("C", "B", "E") if is_bipolar else field_effect.PINS, element.nodes, strict=False)
    )
    plain = textbook_form(circuit) if is_bipolar else field_effect.plain_form(circuit)
    held: dict[str, str] = {GROUND_NODE: "0 V"}
    for e in plain:
        if e.imposes == "V" and e.nodes[1] == GROUND_NODE and e.name in pad.names:
            held[e.nodes[0]] = e.name
    for pin, node in pins.items():
        held.setdefault(node, told[f"V_{pin}"])

    def voltage(a: str, b: str) -> str:
        for node in (a, b):
            if node not in held:
                raise NoWorking(
                    f"Node {node} is none of the transistor's; the bias says nothing of it."
                )
        if held[b] == "0 V":
            return held[a]
        return f"{held[a]} - {held[b]}" if held[a] != "0 V" else f"-{held[b]}"

    def current(branch: Branch) -> str:
        if branch.kind != "impedance":
            raise NoWorking(f"The current of {branch.parts[0]} is not shown by the bias.")
        across = voltage(*branch.nodes)
        truth = operating_point(plain).currents[branch.parts[0]]
        return pad.write("Ohm's law.", pad.free(f"I_{branch.parts[0]}"), f"({across})/{branch.name}", truth,
                         branch.parts, within=_BY_RULES)  # fmt: skip

    own = {f"{element.name}.{pin}": told[f"I_{pin}"] for pin in pins if f"I_{pin}" in told}
    if wanted.part in own and wanted.kind == "I":
        return own[wanted.part]
    if wanted.kind == "V":
        text = voltage(*wanted.nodes)
        if text in pad.names and text not in (b for b in held.values() if not b.startswith("V_")):
            return text
        point = operating_point(plain)
        truth = point.voltages[wanted.nodes[0]] - point.voltages[wanted.nodes[1]]
        return pad.write("So:", pad.free(f"V_{wanted.nodes[0]}"), text, truth, within=_BY_RULES)
    without = replace(plain, elements=tuple(e for e in plain if e.name != element.name))
    network = at_rest(without, Derivation({})).network
    branch = network.of_part(wanted.part)
    if branch is None or branch.kind != "impedance":
        raise NoWorking(f"The bias tells neither current nor power of {wanted.part}.")
    if wanted.kind == "I":
        return current(branch)
    return pad.write(
        "Power is resistance times the square of the current.", pad.free(wanted.text),
        f"{branch.name}*{current(branch)}^2", operating_point(plain).powers[wanted.part], branch.parts,
        within=_BY_RULES,
    )  # fmt: skip
