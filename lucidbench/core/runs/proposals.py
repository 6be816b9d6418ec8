"""What a run proposes before anything is typed: ranges from the circuit's own times and sources."""

from __future__ import annotations

import math
from dataclasses import dataclass

from lucidbench.core.analyses import NaturalFrequencies, RunRefused, natural_frequencies
from lucidbench.core.analyses.dc_sweep import SOURCES
from lucidbench.core.devices.waveforms import Waveform
from lucidbench.core.errors import LucidError
from lucidbench.core.netlist import Circuit, Element
from lucidbench.core.units import engineering

PERIODS = 5
UNDISTORTED = 1.0  # [%] of distortion; common practice, no published source
DEFAULT_SPAN = 10e-3  # [s], where nothing says how long
DEFAULT_BAND = (10.0, 1e6)  # [Hz]
SLOW = 200  # periods: what takes longer to fade is not waited for


@dataclass(frozen=True)
class Proposal:
    """A setting's number in SI units, or text, and what it was taken from."""

    number: float | None
    because: str
    text: str = ""


def proposals(circuit: Circuit, analysis: str) -> dict[str, Proposal]:
    """By setting; what is not there has no proposal."""
    match analysis:
        case "transient":
            return _transient(circuit)
        case "frequency_sweep":
            return _band(circuit)
        case "dc_sweep":
            return _sweep(circuit)
        case "phasor":
            return _one_frequency(circuit)
        case "fourier":
            return {"trace": Proposal(None, "", f"V_{_output(circuit)}")}
        case "largest_output":
            return {
                **_driving(circuit),
                "trace": Proposal(None, "", f"V_{_output(circuit)}"),
                "limit": Proposal(UNDISTORTED, ""),
            }
        case "equivalent":
            return {"node": Proposal(None, "", _output(circuit))}
        case "symbolic":
            return {**_driving(circuit), "node": Proposal(None, "", _output(circuit))}
    return {}


def _output(circuit: Circuit) -> str:
    """The node most likely asked for: one called out, else the last that someone drew."""
    return "out" if "out" in circuit.nodes else circuit.nodes[-1] if circuit.nodes else ""


def _driving(circuit: Circuit) -> dict[str, Proposal]:
    sources = [e for e in circuit if e.kind in SOURCES]
    first = next((e for e in sources if e.waveform is not None), sources[0] if sources else None)
    return {"source": Proposal(None, "", first.name)} if first else {}


def _modes(circuit: Circuit) -> NaturalFrequencies | None:
    try:
        return natural_frequencies(circuit)
    except (LucidError, RunRefused):
        return None


def _waves(circuit: Circuit) -> list[tuple[str, Waveform]]:
    return [(e.name, e.waveform) for e in circuit if e.waveform is not None]


def _transient(circuit: Circuit) -> dict[str, Proposal]:
    periods = [(w.period, name) for name, w in _waves(circuit) if w.period]
    modes = _modes(circuit)
    own = modes.run_for if modes else None
    begin = {"start": Proposal(0.0, ""), "begin": Proposal(None, "", "point")}
    if periods:
        period, name = max(periods)
        span = PERIODS * period
        because = f"{_counted(PERIODS)} periods of {name}, {_sized(span)}"
        if own and span < own < SLOW * period:
            whole = math.ceil(own / period) * period
            return {"stop": Proposal(whole, f"{_slowest(modes)}, {_sized(whole)}"), **begin}
        return {"stop": Proposal(span, because), **begin}
    if own:
        return {"stop": Proposal(_round_up(own), f"{_slowest(modes)}, {_sized(own)}"), **begin}
    return {"stop": Proposal(DEFAULT_SPAN, "nothing in the circuit says how long"), **begin}


def _slowest(modes: NaturalFrequencies | None) -> str:
    if modes is not None and not modes.stable:
        return "what the circuit needs to swing by itself"
    return "five of the slowest time constant"


def _band(circuit: Circuit) -> dict[str, Proposal]:
    modes = _modes(circuit)
    rates = [m.frequency for m in modes.modes if m.s != 0] if modes else []
    rates = sorted(rates + [1 / w.period for _, w in _waves(circuit) if w.period and rates])
    lowest, highest = DEFAULT_BAND
    because = "nothing in the circuit says which band"
    driven = [(1 / w.period, name) for name, w in _waves(circuit) if w.period]
    if driven and not rates:
        frequency, name = driven[0]
        lowest, highest = frequency / 10, frequency * 10
        because = f"the frequency of {name} with room on either side"
    if rates:
        # A lone resonance or corner is seen best from near; several want room around them.
        room = 10.0 if rates[-1] < 3 * rates[0] else 30.0
        lowest, highest = rates[0] / room, rates[-1] * room
        because = "the natural frequencies with room on either side"
        if highest / lowest > 1e12:
            lowest, highest = max(lowest, 1.0), min(highest, 1e9)
    return {
        "from": Proposal(10 ** math.floor(math.log10(lowest)), because),
        "to": Proposal(10 ** math.ceil(math.log10(highest)), because),
    }


def _sweep(circuit: Circuit) -> dict[str, Proposal]:
    sources = [e for e in circuit if e.kind in SOURCES]
    if not sources:
        return {}

    def at_rest(source: Element) -> float:
        return float(source.device.value(source, SOURCES[source.kind][0]))

    source = next(filter(at_rest, sources), sources[0])
    value = at_rest(source) or 1.0
    because = f"from nothing to what {source.name} is now"
    which = "the first source that gives anything at DC" if at_rest(source) else "the first source"
    return {
        "subject": Proposal(None, which, source.name),
        "from": Proposal(0.0, because),
        "to": Proposal(value, because),
    }


def _one_frequency(circuit: Circuit) -> dict[str, Proposal]:
    for name, wave in _waves(circuit):
        if wave.period:
            return {"frequency": Proposal(1 / wave.period, f"the frequency of {name}")}
    modes = _modes(circuit)
    rates = [m.frequency for m in modes.modes if m.s != 0] if modes else []
    if rates:
        return {"frequency": Proposal(rates[0], "the slowest natural frequency")}
    return {"frequency": Proposal(1e3, "nothing in the circuit says which")}


def _sized(seconds: float) -> str:
    return engineering(seconds, "s", 3)


def _counted(count: int) -> str:
    return {5: "five", 10: "ten"}.get(count, str(count))


def _round_up(value: float) -> float:
    """To two significant digits, so that the axis ends on a number that can be read."""
    scale: float = 10.0 ** (math.floor(math.log10(value)) - 1)
    return float(math.ceil(value / scale * (1 - 1e-9)) * scale)


def source_period(circuit: Circuit) -> float | None:
    """Of the slowest source that repeats [s]; None where none does."""
    return max((w.period for _, w in _waves(circuit) if w.period), default=None)
