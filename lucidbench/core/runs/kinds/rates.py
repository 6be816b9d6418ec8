"""What in a circuit sets the pace: its sources' periods, its own natural frequencies, and its ends."""

from __future__ import annotations

from collections.abc import Mapping

from lucidbench.core.analyses import NaturalFrequencies, natural_frequencies
from lucidbench.core.devices.waveforms import Waveform
from lucidbench.core.equations.system import assemble
from lucidbench.core.errors import LucidError
from lucidbench.core.netlist import Circuit, Element
from lucidbench.core.runs.settings import Proposal

_CHARGES = (
    1.6  # times five time constants: of a period that lasts 1.4 of them, the best part of six
)


def waves_of(circuit: Circuit) -> list[tuple[str, Waveform]]:
    return [(e.name, e.waveform) for e in circuit if e.waveform is not None]


def modes_of(circuit: Circuit) -> NaturalFrequencies | None:
    """None where the circuit cannot be asked."""
    try:
        return natural_frequencies(circuit)
    except LucidError:
        return None


def relaxation_span(circuit: Circuit, modes: NaturalFrequencies) -> float | None:
    """Some periods [s] of a circuit that tips over and over: its capacitors charge through the resistors
    while its transistors and amplifiers wait at an end. None where it swings as a resonance does."""
    if not any(mode.s.real > abs(mode.s.imag) for mode in modes.modes):
        return None
    tipping = {share.element.name for share in assemble(circuit).shares if share.stamps.laws}
    waiting = modes_of(circuit.without(tipping))
    charged = waiting.run_for if waiting else None
    return charged and _CHARGES * charged


def source_period(circuit: Circuit) -> float | None:
    """Of the slowest source that repeats [s]; None where none does."""
    return max((w.period for _, w in waves_of(circuit) if w.period), default=None)


def likely_output(circuit: Circuit) -> str:
    """The node most likely asked for: one called out, else the last that someone drew."""
    return "out" if "out" in circuit.nodes else circuit.nodes[-1] if circuit.nodes else ""


def likely_source(circuit: Circuit) -> Element | None:
    """The source that drives it: the first that moves, else the first; None where there is none."""
    sources = [e for e in circuit if e.imposes]
    return next((e for e in sources if e.waveform is not None), sources[0] if sources else None)


def driving(circuit: Circuit) -> Mapping[str, Proposal]:
    source = likely_source(circuit)
    return {"source": Proposal(None, "", source.name)} if source else {}


def counted(count: int) -> str:
    return {5: "five", 10: "ten"}.get(count, str(count))
