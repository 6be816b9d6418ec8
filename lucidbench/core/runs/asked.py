"""The settings of a run as they were typed: understood, proposed, or found fault with at their field."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np

from lucidbench.core.analyses.dc_sweep import SOURCES, TEMPERATURE, axis_of
from lucidbench.core.errors import CircuitError, LucidError, ValueTextError
from lucidbench.core.exercise import Run
from lucidbench.core.netlist import Circuit
from lucidbench.core.runs.analyses import Analysis, Setting
from lucidbench.core.runs.looks import SettingLook
from lucidbench.core.runs.pictures import sums
from lucidbench.core.runs.proposals import Proposal, proposals
from lucidbench.core.runs.traces import dimensions_of
from lucidbench.core.units import engineering, parse_value

_AMPLIFYING = ("npn", "pnp", "nmos", "pmos", "njf", "pjf", "opamp", "powered_opamp", "formula_voltage",
               "formula_current")  # fmt: skip
TOLERANCES = "tolerances"  # what is varied where every value is drawn within its own


@dataclass
class Asked:
    """The settings of a run as numbers and texts, by key."""

    looks: list[SettingLook]
    numbers: Mapping[str, float]
    texts: Mapping[str, str]

    @property
    def problem(self) -> str | None:
        wrong = next((look.problem for look in self.looks if look.problem), None)
        return f"{wrong}." if wrong else None


def asked_of(
    circuit: Circuit, analysis: Analysis, run: Run, units: Mapping[str, str], proposing: bool
) -> Asked:
    """The settings of `run`, what is empty as proposed. `units` are those of the circuit's parameters."""
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
            unit = unit_of(circuit, subject, units)
            if run.settings.get("subject", "").strip() not in ("", proposal.text):
                proposal = Proposal(None, "")
        proposed = proposal.text or (
            engineering(proposal.number, unit) if proposal.number is not None else ""
        )
        look = SettingLook(
            key=setting.key, text=text, proposed=proposed.replace("\u00a0", " "),
            because=proposal.because, choices=_choices(circuit, setting),
        )  # fmt: skip
        if setting.reads == "voltages":
            look.proposed = _of_several_states(circuit)
            try:
                near = voltages_in(text, circuit)
                look.echo = ", ".join(f"V_{n} = {engineering(v, 'V')}" for n, v in near.items())
            except LucidError as error:
                look.problem = f"“{setting.label}”: {error}"
            texts[setting.key] = text
        elif setting.reads != "quantity":
            texts[setting.key] = text or proposal.text
            subject = texts[setting.key] if setting.reads == "swept" else subject
        elif not text:
            if proposal.number is None and proposing and not setting.optional:
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
    return Asked(looks, numbers, texts)


def _choices(circuit: Circuit, setting: Setting) -> list[tuple[str, str]]:
    sources = [e.name for e in circuit if e.kind in SOURCES]
    match setting.reads:
        case "source":
            return _named(sources)
        case "swept":
            return [*_named([*sources, *circuit.parameters]), (TEMPERATURE, "temperature")]
        case "varied":
            parts = [e.name for e in circuit if e.device.description.main and "." not in e.name]
            names = _named([*circuit.parameters, *parts])
            kinds = [("", "nothing"), (TOLERANCES, "tolerances")]
            return [*kinds, *names, (TEMPERATURE, "temperature")]
        case "node":
            return _named(circuit.nodes)
        case "output":
            return [("", "nowhere"), *_named(circuit.nodes)]
        case "sum":
            return [("", "from one origin"), *sums(circuit)]
        case "trace":
            return _named(n for n in dimensions_of(circuit) if not n.startswith("P_"))
    return setting.choices


def _named(names: Iterable[str]) -> list[tuple[str, str]]:
    return [(name, name) for name in names]


def voltages_in(text: str, circuit: Circuit) -> dict[str, float]:
    """The voltages [V] of nodes in "V_a = 0 V, V_b = 5 V". Raises LucidError."""
    found = {}
    for piece in filter(None, (piece.strip() for piece in text.split(","))):
        name, equals, value = piece.partition("=")
        node = name.strip().removeprefix("V_")
        if not equals or not value.strip():
            raise LucidError(f"{piece} is not of the form V_{node or 'out'} = 5 V")
        if node not in circuit.nodes:
            raise LucidError(f"there is no node called {node}")
        found[node] = parse_value(value.strip(), "V").number
    return found


def _of_several_states(circuit: Circuit) -> str:
    """How voltages are written, for a circuit that may rest in several states; "" for others."""
    amplifying = [e for e in circuit if e.kind in _AMPLIFYING]
    if len(amplifying) < 2 or len(circuit.nodes) < 2:
        return ""
    node = next((n for e in amplifying for n in e.nodes if n in circuit.nodes), "")
    return f"V_{node} = 0 V" if node else ""


def unit_of(circuit: Circuit, subject: str, units: Mapping[str, str]) -> str:
    """What the values of a swept or varied thing are counted in; "" where there is no such thing."""
    try:
        return units.get(subject) or axis_of(circuit, subject, np.zeros(0)).unit
    except CircuitError:
        return ""


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
    if "limit" in numbers and not 0 < numbers["limit"] <= 100:
        fault("limit", "The distortion lies between 0 and 100 %")
    for key in ("from", "to", "frequency", "at"):
        of_frequency = key not in ("from", "to") or "subject" not in by_key
        if of_frequency and key in numbers and numbers[key] <= 0:
            fault(key, "A frequency is above zero; on a logarithmic axis there is no other")
    if {"from", "to"} <= set(numbers):
        if numbers["from"] == numbers["to"]:
            fault("to", "The sweep ends where it begins")
        elif "subject" not in by_key:
            if numbers["from"] > numbers["to"]:
                fault("to", "The sweep ends below where it begins; exchange the two")
            elif numbers["from"] > 0 and numbers["to"] / numbers["from"] > 1e15:
                fault("to", "That is more than fifteen decades")
