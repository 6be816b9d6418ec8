"""Operational amplifiers: ideal, with one pole, and with slew rate and supply limits."""

from __future__ import annotations

import math

from lucidbench.core.devices.base import (
    FREE,
    GROUND_ROW,
    Description,
    Device,
    Form,
    Given,
    Handling,
    Law,
    Parameter,
    Setting,
    Stamps,
    Tie,
)

IDEAL = "ideal"
ONE_POLE = "one_pole"
LIMITED = "limited"
FORMS = (
    Form(IDEAL, "Ideal", "Its inputs are at one voltage and take no current."),
    Form(
        ONE_POLE,
        "One pole",
        "Finite gain falling above its first pole; input and output resistance.",
    ),
    Form(LIMITED, "Limited", "One pole, with a slew rate and an output that stops at its limits."),
)
_REAL = (ONE_POLE, LIMITED)
_CLAMP = 1e4  # [S]: holds the inner stage within 1 mV of the limit at 10 V of overdrive
_PARAMETERS = (
    Parameter("gain", "Open-loop gain", "", "200k", "At DC.", positive=True, forms=_REAL),
    Parameter("gain_bandwidth", "Gain-bandwidth product", "Hz", "1M", "Where the gain is one.", positive=True, forms=_REAL),
    Parameter("input_resistance", "Input resistance", "Ω", "2M", "Between its inputs.", positive=True, forms=_REAL),
    Parameter("output_resistance", "Output resistance", "Ω", "75", "In series with its output.", minimum=0.0, forms=_REAL),
    Parameter("offset_voltage", "Offset voltage", "V", "0", "In series with its + input.", forms=_REAL),
    Parameter("slew_rate", "Slew rate", "V/s", "0.5M", "Fastest change of its output.", positive=True, forms=(LIMITED,)),
)  # fmt: skip


class OpAmp(Device):
    """Pins +, \u2212, output. Its output current comes from ground."""

    description = Description(
        kind="opamp",
        handling=Handling(turned=(1, 0, 2), real_form="limited", inputs=(0, 1)),
        amplifies=True,
        label="Op-amp",
        purpose="Amplifiers",
        prefix="A",
        words=("opamp", "op-amp", "amplifier"),
        pins=("+", "\u2212", "out"),
        currents=(("out", 2),),
        forms=FORMS,
        parameters=(
            *_PARAMETERS,
            Parameter("highest", "Highest output", "V", "13.5", "Where its output stops.", forms=(LIMITED,)),
            Parameter("lowest", "Lowest output", "V", "-13.5", "Where its output stops.", forms=(LIMITED,)),
        ),
    )  # fmt: skip

    def own(self, given: Given) -> tuple[tuple[str, str], ...]:
        return own_unknowns(given)

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        stamp_opamp(self, given, into, first_own=3)
        if given.form == LIMITED:
            limit(into, 3, GROUND_ROW, self.value(given, "highest"), above=True)
            limit(into, 3, GROUND_ROW, -self.value(given, "lowest"), above=False)

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        return opamp_ties(given)


class PoweredOpAmp(Device):
    """Pins +, \u2212, output, V+, V\u2212: its limits follow its supply, which gives no current here."""

    description = Description(
        kind="powered_opamp",
        handling=Handling(turned=(1, 0, 2, 3, 4), real_form="limited", inputs=(0, 1)),
        amplifies=True,
        label="Op-amp with supply pins",
        purpose="Amplifiers",
        prefix="A",
        words=("powered opamp",),
        pins=("+", "\u2212", "out", "V+", "V\u2212"),
        currents=(("out", 2),),
        forms=(FORMS[2], *FORMS[:2]),
        parameters=(
            *_PARAMETERS,
            Parameter("headroom", "Headroom", "V", "1.5", "Between output limit and supply.", minimum=0.0, forms=(LIMITED,)),
        ),
    )  # fmt: skip

    def own(self, given: Given) -> tuple[tuple[str, str], ...]:
        return own_unknowns(given, LIMITED)

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        stamp_opamp(self, given, into, first_own=5, usual=LIMITED)
        if (given.form or LIMITED) == LIMITED:
            headroom = self.value(given, "headroom")
            limit(into, 5, 3, -headroom, above=True)
            limit(into, 5, 4, -headroom, above=False)

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        return (*opamp_ties(given, LIMITED), (3, 4, Tie.NOT_AT_ALL))


def own_unknowns(given: Given, usual: str = IDEAL) -> tuple[tuple[str, str], ...]:
    if (given.form or usual) == IDEAL:
        return (("", "A"),)
    return (("stage", "V"), ("", "A"))


def stamp_opamp(
    device: Device, given: Given, into: Stamps, first_own: int, usual: str = IDEAL
) -> None:
    """Input, gain stage and output; the limits are added apart."""
    form = given.form or usual
    plus, minus, out = range(3)
    if form == IDEAL:
        into.conductance(out, first_own, 1.0)
        into.conductance(first_own, plus, 1.0)
        into.conductance(first_own, minus, -1.0)
        return
    stage, current = first_own, first_own + 1
    into.admittance(plus, minus, 1 / device.value(given, "input_resistance"))
    # The stage is an inner node driven by 1 S: its capacitance sets the gain-bandwidth product.
    farads = 1 / (2 * math.pi * device.value(given, "gain_bandwidth"))
    into.conductance(stage, stage, 1 / device.value(given, "gain"))
    into.charge(stage, stage, farads)
    offset = device.value(given, "offset_voltage")
    if form == LIMITED:
        most = device.value(given, "slew_rate") * farads
        into.use(Law.SATURATION, (most, 1.0, offset), ((plus, minus),), ((GROUND_ROW, stage),))
    else:
        into.conductance(stage, plus, -1.0)
        into.conductance(stage, minus, 1.0)
        into.drive(stage, offset)
    into.conductance(out, current, 1.0)
    into.conductance(current, out, 1.0)
    into.conductance(current, stage, -1.0)
    into.conductance(current, current, -device.value(given, "output_resistance"))


def limit(into: Stamps, stage: int, rail: int, beyond: float, above: bool) -> None:
    """Hold the stage below (above) the rail by a steep knee that begins `beyond` it."""
    pair = (stage, rail) if above else (rail, stage)
    branch = (stage, GROUND_ROW) if above else (GROUND_ROW, stage)
    into.use(Law.KNEE, (beyond, _CLAMP, 0.0, FREE, 1.0), (pair,), (branch,))


def opamp_ties(given: Given, usual: str = IDEAL) -> tuple[tuple[int, int, Tie], ...]:
    if (given.form or usual) == IDEAL:
        return ((2, GROUND_ROW, Tie.BY_CONDUCTANCE), (0, 1, Tie.NOT_AT_ALL))
    return ((2, GROUND_ROW, Tie.BY_VOLTAGE), (0, 1, Tie.BY_CONDUCTANCE))
