"""How it was measured and written down: what the instrument does to the circuit, when and how it wrote."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import replace

import numpy as np

from lucidbench.core.diagnosis.blocks import AtRest, OverFrequency, OverSource, OverTime
from lucidbench.core.diagnosis.causes.base import (
    BESIDE,
    METER,
    PROBE,
    RECORD,
    Cause,
    Edit,
    Kind,
    Size,
    is_dynamic,
)
from lucidbench.core.diagnosis.observed import Block, Observed, View
from lucidbench.core.imperfections import PRACTICE

_METER = 3e6  # [Ω]: between the 10 MΩ of a digital meter and the 200 kΩ of a moving-coil one
_BURDEN = 0.1  # [V] of a meter at the full scale of its range of currents
_PROBE = 1e6  # [Ω]: a probe without divider
_CABLE = 60e-12  # [F]: of a lead with the input at its end
_FACTORS = {
    10.0: ("probe_ratio", 0.03, "The probe divides by ten, and the instrument does not know."),
    0.1: ("probe_ratio", 0.03, "The instrument takes the probe for one that divides by ten."),
    math.sqrt(0.5): ("peak_or_rms", 0.04, "RMS values were taken for peak values."),
    math.sqrt(2.0): ("peak_or_rms", 0.04, "Peak values were taken for RMS values."),
    2.0: ("peak_or_rms", 0.03, "Peak-to-peak values were taken for peak values."),
    0.5: ("peak_or_rms", 0.02, "Peak values were taken for peak-to-peak values."),
    2.0 * math.sqrt(2.0): (
        "peak_or_rms", 0.02, "Peak-to-peak values were taken for RMS values."),
    -1.0: ("inverted", 0.03, "The channel is inverted, or its leads are exchanged."),
}  # fmt: skip


def _by_meter(block: Block) -> bool:
    return isinstance(block, (AtRest, OverSource)) or (
        isinstance(block, OverFrequency) and block.by_waveforms
    )


def _loading(observed: Observed) -> Iterator[Cause]:
    """One meter and one kind of probe for all that they read."""
    at_rest = tuple(k for k, block in enumerate(observed.blocks) if _by_meter(block))
    moving = tuple(k for k, b in enumerate(observed.blocks) if is_dynamic(b) and not _by_meter(b))
    carrying = [k for k in at_rest if observed.blocks[k].carrying]
    if carrying:
        yield Cause(
            "loading", METER, 0.1, "The meter takes {value} at full scale where it reads currents.",
            Size(_BURDEN, 0.8, "V"), blocks=at_rest, unit="V", other="current",
            view=lambda view, size: replace(view, burden=size),
        )  # fmt: skip
    for who, blocks, usual in ((METER, at_rest, _METER), (PROBE, moving, _PROBE)):
        places = [observed.blocks[k].places[0] for k in blocks if observed.blocks[k].places]
        if places:
            yield Cause(
                "loading", who, 0.12, f"The {who} loads what it reads with {{value}}.",
                Size(usual, 1.5, "Ω"), blocks=blocks, unit="Ω",
                view=lambda view, size: replace(view, resistance=size),
                edit=Edit("load", nodes=places[0]),
            )  # fmt: skip
    places = [observed.blocks[k].places[0] for k in moving if observed.blocks[k].places]
    if places:
        yield Cause(
            "probe_capacitance", PROBE, 0.08, "The probe loads what it reads with {value}.",
            Size(_CABLE, 1.2, "F"), blocks=moving, unit="F",
            view=lambda view, size: replace(view, capacitance=size),
            edit=Edit("stray", nodes=places[0]),
        )  # fmt: skip


def _scaling(factor: float) -> Callable[[View, float], View]:
    return lambda view, size: replace(view, scale=view.scale * factor)


def _scaled(key: str) -> Callable[[Observed], Iterator[Cause]]:
    def causes(observed: Observed) -> Iterator[Cause]:
        for k, block in enumerate(observed.blocks):
            for factor, (of, weight, sentence) in _FACTORS.items():
                if of != key or not is_dynamic(block):
                    continue
                if factor < 0 and not any(c.part in ("", "arg") for c in block.columns):
                    continue
                who = PROBE if key == "probe_ratio" else RECORD
                yield Cause(
                    key, who, weight, sentence, None, blocks=(k,), view=_scaling(factor),
                    edit=Edit("scale" if factor > 0 else "none"),
                )  # fmt: skip

    return causes


def _scale(observed: Observed) -> Iterator[Cause]:
    for k, block in enumerate(observed.blocks):
        if is_dynamic(block):
            yield Cause(
                "scale", RECORD, 0.02, "All values are {value} times what they are simulated.",
                Size(1.0, 0.5, "", scan=BESIDE), blocks=(k,), edit=Edit("scale"),
                view=lambda view, size: replace(view, scale=view.scale * size),
            )  # fmt: skip


def _coupled(observed: Observed) -> Iterator[Cause]:
    for k, block in enumerate(observed.blocks):
        if isinstance(block, OverTime):
            yield Cause(
                "ac_coupled", RECORD, 0.05, "The channel is AC-coupled: the mean is missing.", None,
                blocks=(k,), view=lambda view, size: replace(view, is_ac_coupled=True),
            )  # fmt: skip


def _settled(observed: Observed) -> Iterator[Cause]:
    for k, block in enumerate(observed.blocks):
        if not isinstance(block, OverTime) or block.begins_settled:
            continue
        circuit = observed.circuits[block.case]
        if not any(e.waveform is not None and e.waveform.period for e in circuit):
            continue
        yield Cause(
            "settled", RECORD, 0.15,
            "The record began long after switch-on, when the circuit had settled.", None, blocks=(k,),
            view=lambda view, size: replace(view, is_settled=True), edit=Edit("settle"),
        )  # fmt: skip


def _trigger(observed: Observed) -> Iterator[Cause]:
    for k, block in enumerate(observed.blocks):
        if not isinstance(block, OverTime) or len(block.times) < 2:
            continue
        span = float(block.times[-1] - block.times[0])
        periods = [e.waveform.period for e in observed.circuits[block.case] if e.waveform]
        whole = min([p for p in periods if p] or [span])
        scan = tuple(float(z) for z in np.linspace(-2, 2, 16) if abs(z) > 0.05)
        yield Cause(
            "trigger", RECORD, 0.06, "The record was triggered {value} later than the run begins.",
            Size(0.0, min(whole, span) / 4, "s", is_signed=True, scan=scan), blocks=(k,), unit="s",
            view=lambda view, size: replace(view, shift=view.shift + size), edit=Edit("shift"),
        )  # fmt: skip


def _radians(observed: Observed) -> Iterator[Cause]:
    for k, block in enumerate(observed.blocks):
        if any(column.part == "arg" for column in block.columns):
            yield Cause(
                "radians", RECORD, 0.03, "The angles were written down in radians.", None, blocks=(k,),
                view=lambda view, size: replace(view, in_radians=True),
            )  # fmt: skip


def _angular(observed: Observed) -> Iterator[Cause]:
    for k, block in enumerate(observed.blocks):
        if isinstance(block, OverFrequency):
            yield Cause(
                "angular_frequency", RECORD, 0.03,
                "What was written down as frequencies are angular frequencies, 2π times as large.",
                None, blocks=(k,), view=lambda view, size: replace(view, is_angular=True),
            )  # fmt: skip


KINDS = (
    Kind("loading", "loading by meter or probe", _loading, PRACTICE),
    Kind("probe_ratio", "ratio of the probe", _scaled("probe_ratio"), PRACTICE),
    Kind("peak_or_rms", "peak, RMS or peak-to-peak", _scaled("peak_or_rms"), PRACTICE),
    Kind("inverted", "a channel inverted", _scaled("inverted"), PRACTICE),
    Kind("scale", "a channel scaled", _scale, PRACTICE),
    Kind("ac_coupled", "a channel AC-coupled", _coupled, PRACTICE),
    Kind("settled", "recorded settled", _settled, PRACTICE),
    Kind("trigger", "triggered elsewhere", _trigger, PRACTICE),
    Kind("radians", "degrees or radians", _radians, PRACTICE),
    Kind("angular_frequency", "frequency or angular frequency", _angular, PRACTICE),
)
