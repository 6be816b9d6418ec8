"""Independent sources: voltage and current, at DC, as a phasor, in time; ideal or practical."""

from __future__ import annotations

import cmath

from lucidbench.core.devices.base import (
    Description,
    Device,
    Drive,
    Given,
    Handling,
    Number,
    Parameter,
    Setting,
    Stamps,
    Tie,
)


def phasor(unit: str) -> tuple[Parameter, ...]:
    """The two parameters of a source's phasor."""
    return (
        Parameter(
            key="magnitude",
            label="Phasor magnitude",
            unit=unit,
            default="0",
            meaning="Peak value of its sine in phasor work and frequency sweeps.",
            minimum=0.0,
            optional=True,
            aside=True,
        ),
        Parameter(
            key="phase",
            label="Phasor phase",
            unit="°",
            default="0",
            meaning="Angle of its phasor [degree], cosine reference.",
            optional=True,
            aside=True,
        ),
    )


def driven(device: Device, given: Given, key: str) -> Drive:
    """What a source imposes, from its values."""
    magnitude, phase = device.value(given, "magnitude"), device.value(given, "phase")
    turned: Number = magnitude
    if isinstance(phase, float) and phase:
        turned = magnitude * cmath.exp(1j * cmath.pi * phase / 180)
    return Drive(device.value(given, key), turned, given.waveform)


def negated(drive: Drive) -> Drive:
    """The same the other way round."""
    waveform = drive.waveform.scaled(-1.0) if drive.waveform else None
    return Drive(-drive.dc, -drive.phasor, waveform)


class VoltageSource(Device):
    """v_1 - v_2 = V, at whatever current that takes; the current is an unknown of its own."""

    letter = "V"
    description = Description(
        kind="voltage_source",
        handling=Handling(turned=(1, 0), series="internal_resistance"),
        imposes="V",
        pair=("magnitude", "phase"),
        label="Voltage source",
        purpose="Sources",
        prefix="V",
        words=("v", "voltage", "source", "battery", "supply"),
        rotation=90,
        parameters=(
            Parameter(
                key="voltage",
                label="Voltage",
                unit="V",
                default="5 V",
                meaning="Potential of its + pin above its \u2212 pin.",
                likely=(1e-6, 1e3),  # common practice, no published source
                zero_means="it acts as a plain wire",
            ),
            *phasor("V"),
            Parameter(
                key="internal_resistance",
                label="Internal resistance",
                unit="Ω",
                default="0",
                meaning="In series within it; zero is an ideal source.",
                minimum=0.0,
                optional=True,
                aside=True,
                practical=True,
            ),
        ),
    )

    def own(self, given: Given) -> tuple[tuple[str, str], ...]:
        return (("", "A"),)

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        into.branch(0, 1, 2)
        if "internal_resistance" in given.values:
            into.conductance(2, 2, -given.values["internal_resistance"])
        into.drive(2, driven(self, given, "voltage"))

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        ideal = not self.value(given, "internal_resistance")
        return ((0, 1, Tie.BY_VOLTAGE if ideal else Tie.BY_CONDUCTANCE),)


class CurrentSource(Device):
    """A fixed current in at pin 1, through the source, out at pin 2, at whatever voltage that takes."""

    letter = "I"
    description = Description(
        kind="current_source",
        handling=Handling(turned=(1, 0)),
        imposes="A",
        pair=("magnitude", "phase"),
        label="Current source",
        purpose="Sources",
        prefix="I",
        words=("i", "current"),
        rotation=270,
        parameters=(
            Parameter(
                key="current",
                label="Current",
                unit="A",
                default="1 mA",
                meaning="Current that its arrow carries.",
                likely=(1e-12, 100.0),  # common practice, no published source
                zero_means="it acts as a gap",
            ),
            *phasor("A"),
            Parameter(
                key="internal_resistance",
                label="Internal resistance",
                unit="Ω",
                default="",
                meaning="Across it; left empty, it is an ideal source.",
                positive=True,
                optional=True,
                aside=True,
                practical=True,
            ),
        ),
    )

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        drive = driven(self, given, "current")
        into.drive(0, negated(drive))
        into.drive(1, drive)
        if "internal_resistance" in given.values:
            into.admittance(0, 1, 1 / given.values["internal_resistance"])

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        ideal = "internal_resistance" not in given.values
        return ((0, 1, Tie.BY_CURRENT if ideal else Tie.BY_CONDUCTANCE),)
