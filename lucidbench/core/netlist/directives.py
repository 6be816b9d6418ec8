"""Directive lines: the analyses wanted, starting voltages, temperature."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from lucidbench.core.devices.base import ROOM_TEMPERATURE
from lucidbench.core.devices.temperature import CELSIUS_ZERO, temperature_fault
from lucidbench.core.errors import NetlistError
from lucidbench.core.netlist.circuit import Circuit
from lucidbench.core.netlist.deck import Statement
from lucidbench.core.netlist.requests import (
    DcSweepRequest,
    FrequencySweepRequest,
    OperatingPointRequest,
    Request,
    Sweep,
    TransientRequest,
)

KNOWN = ".op .dc .ac .tran .ic .nodeset .temp .param .model .subckt .ends .end"
SWEPT_KINDS = ("voltage_source", "current_source", "resistor")
Number = Callable[[str, Statement], float]
Node = Callable[[str, Statement], str]


def read_directives(
    directives: list[Statement], number: Number, node: Node, circuit: Circuit
) -> tuple[list[Request], float, dict[str, float]]:
    """(requests in file order, temperature [K], voltages [V] to seek rest from). Raises NetlistError."""
    requests: list[Request] = []
    temperature = ROOM_TEMPERATURE
    told_in = 0
    held: dict[str, float] = {}
    near: dict[str, float] = {}
    for statement in directives:
        word, line = statement.words[0].lower(), statement.line
        rest = list(statement.words[1:])
        if word == ".op":
            if rest:
                raise NetlistError(line, f"“{rest[0]}” after .op is not understood")
            requests.append(OperatingPointRequest(line))
        elif word == ".dc":
            requests.append(_dc(statement, rest, number, circuit))
        elif word == ".ac":
            requests.append(_ac(statement, rest, number))
        elif word == ".tran":
            requests.append(_tran(statement, rest, number))
        elif word == ".ic":
            held |= _starting_voltages(statement, rest, number, node, circuit)
        elif word == ".nodeset":
            near |= _starting_voltages(statement, rest, number, node, circuit)
        elif word == ".temp":
            if len(rest) != 1:
                raise NetlistError(line, ".temp takes one temperature in °C")
            if told_in:
                raise NetlistError(line, f"the temperature is already told in line {told_in}")
            told_in = line
            temperature = number(rest[0], statement) + CELSIUS_ZERO
            fault = temperature_fault(temperature)
            if fault:
                raise NetlistError(line, fault)
        else:
            raise NetlistError(line, f"“{statement.words[0]}” is not understood; known are {KNOWN}")
    told = [
        replace(r, node_voltages=held) if isinstance(r, TransientRequest) else r for r in requests
    ]
    return told, temperature, near


def _dc(statement: Statement, words: list[str], number: Number, circuit: Circuit) -> Request:
    if len(words) not in (4, 8):
        raise NetlistError(
            statement.line, ".dc takes what is swept, start, stop and step, once or twice over"
        )
    sweeps = []
    for k in range(0, len(words), 4):
        subject = words[k]
        start, stop, step = (number(w, statement) for w in words[k + 1 : k + 4])
        if step == 0 or (stop - start) * step < 0:
            raise NetlistError(
                statement.line,
                f".dc: steps of {words[k + 3]} never lead from {words[k + 1]} to {words[k + 2]}",
            )
        sweeps.append(Sweep(_subject(statement, subject, circuit), start, stop, step))
        for end in (start, stop) if subject.lower() == "temp" else ():
            fault = temperature_fault(end + CELSIUS_ZERO)
            if fault:
                raise NetlistError(statement.line, f".dc: {fault}")
    if len({s.subject for s in sweeps}) < len(sweeps):
        raise NetlistError(statement.line, f".dc: {words[0]} cannot be swept against itself")
    return DcSweepRequest(statement.line, tuple(sweeps))


def _subject(statement: Statement, word: str, circuit: Circuit) -> str:
    lowered = word.lower()
    if lowered == "temp":
        return "temp"
    if lowered == "param":
        raise NetlistError(statement.line, ".dc: write the parameter's name alone")
    for element in circuit:
        if element.name.lower() == lowered:
            if element.kind not in SWEPT_KINDS:
                label = element.device.description.label.lower()
                raise NetlistError(
                    statement.line,
                    f".dc: {element.name} is a {label}; a source, a resistor, a parameter or temp "
                    f"can be swept",
                )
            return element.name
    if lowered in circuit.parameters:
        return lowered
    raise NetlistError(statement.line, f".dc: there is no element or parameter called {word}")


def _ac(statement: Statement, words: list[str], number: Number) -> Request:
    line = statement.line
    if len(words) != 4 or words[0].lower() not in ("dec", "oct", "lin"):
        raise NetlistError(line, ".ac takes dec, oct or lin, the points, and two frequencies")
    points, start, stop = (number(w, statement) for w in words[1:])
    if points < 1 or points != int(points):
        raise NetlistError(line, f".ac: {words[1]} is no number of points")
    spacing = words[0].lower()
    if start <= 0 and not (spacing == "lin" and start == 0):
        raise NetlistError(line, ".ac: the first frequency must be above 0 Hz")
    if stop < start:
        raise NetlistError(line, ".ac: the last frequency lies below the first")
    return FrequencySweepRequest(line, spacing, int(points), start, stop)


def _tran(statement: Statement, words: list[str], number: Number) -> Request:
    line = statement.line
    given = [w for w in words if w.lower() != "uic"]
    from_given = len(given) < len(words)
    if not 2 <= len(given) <= 4 or (from_given and words[-1].lower() != "uic"):
        raise NetlistError(line, ".tran takes step, stop, and perhaps start, longest step and uic")
    step, stop, *more = (number(w, statement) for w in given)
    start = more[0] if more else 0.0
    if step <= 0 or stop <= 0:
        raise NetlistError(line, ".tran: step and stop must be above 0 s")
    if step > stop:
        raise NetlistError(
            line,
            f".tran: its step, {given[0]}, is longer than the whole run, {given[1]}; the step comes first",
        )
    if not 0 <= start < stop:
        raise NetlistError(line, ".tran: the start must lie between 0 s and the stop")
    if len(more) > 1 and more[1] <= 0:
        raise NetlistError(line, ".tran: the longest step must be above 0 s")
    return TransientRequest(line, step, stop, start, more[1] if len(more) > 1 else None, from_given)


def _starting_voltages(
    statement: Statement, words: list[str], number: Number, node: Node, circuit: Circuit
) -> dict[str, float]:
    """`V(a)=1 V(b)=2`: the words are v ( a ) = 1 …"""
    held = {}
    k = 0
    while k < len(words):
        pattern = words[k : k + 6]
        if len(pattern) < 6 or pattern[0].lower() != "v" or pattern[1::2][:2] != ["(", ")"]:
            raise NetlistError(
                statement.line, f"{statement.words[0]} takes V(node)=value, as often as wanted"
            )
        name = node(pattern[2], statement)
        if name not in circuit.nodes:
            raise NetlistError(
                statement.line, f"{statement.words[0]}: there is no node called {pattern[2]}"
            )
        held[name] = number(pattern[5], statement)
        k += 6
    return held
