"""Switches: worked by a voltage, with hysteresis, or by the clock."""

from __future__ import annotations

from lucidbench.core.devices.base import (
    GROUND_ROW,
    Description,
    Device,
    Drive,
    Given,
    Law,
    Parameter,
    Setting,
    Stamps,
    Tie,
)
from lucidbench.core.devices.waveforms import Pieces

_RESISTANCES = (
    Parameter("on_resistance", "On resistance", "Ω", "1m", "Closed.", positive=True),
    Parameter("off_resistance", "Off resistance", "Ω", "1G", "Open.", positive=True),
)


class VoltageSwitch(Device):
    """Closes when its control rises above threshold + hysteresis, opens below threshold - hysteresis."""

    letter = "S"
    description = Description(
        kind="voltage_switch",
        opens=True,
        label="Switch worked by a voltage",
        purpose="Switches",
        prefix="S",
        words=("s", "switch"),
        pins=("1", "2", "control +", "control \u2212"),
        parameters=(
            Parameter("threshold", "Threshold", "V", "0", "Control voltage in the middle."),
            Parameter("hysteresis", "Hysteresis", "V", "0", "To either side of it.", minimum=0.0),
            *_RESISTANCES,
            Parameter(
                "begins_closed", "Begins closed", "", "0",
                "1 where it is closed at first, though its control is between the two; else 0.",
                minimum=0.0, maximum=1.0, optional=True, aside=True,
            ),
        ),
    )  # fmt: skip

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        middle, half = self.value(given, "threshold"), self.value(given, "hysteresis")
        begins = given.values.get("begins_closed", 0.0)
        into.use(
            Law.SWITCH,
            (middle + half, middle - half, *conductances(self, given), round(begins)),
            ((0, 1), (2, 3)),
            ((0, 1),),
        )

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        return ((0, 1, Tie.BY_CONDUCTANCE), (2, 3, Tie.NOT_AT_ALL))


class TimedSwitch(Device):
    """Closes at one time and opens at another, whichever comes first; either may be left out."""

    description = Description(
        kind="timed_switch",
        opens=True,
        alike=True,
        label="Switch worked at a time",
        purpose="Switches",
        prefix="S",
        words=("timed switch", "clock switch"),
        parameters=(
            Parameter("closes_at", "Closes at", "s", "", "Empty, or later than it opens: closed from the start.", minimum=0.0, optional=True, symbol="on"),
            Parameter("opens_at", "Opens at", "s", "", "Empty: never.", minimum=0.0, optional=True, symbol="off"),
            *_RESISTANCES,
        ),
    )  # fmt: skip

    def own(self, given: Given) -> tuple[tuple[str, str], ...]:
        return (("command", "V"),)

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        command = 2
        points: list[tuple[float, float]] = []
        closes, opens = given.values.get("closes_at"), given.values.get("opens_at")
        at_start = 1.0 if closes is None or (opens is not None and opens < closes) else 0.0
        if opens is not None:
            points.append((opens, 0.0))
        if closes is not None:
            points.append((closes, 1.0))
        times, levels, level = [0.0], [at_start], at_start
        for when, new in sorted(points):
            times += [when, when]
            levels += [level, new]
            level = new
        waveform = Pieces((*times, times[-1] + 1.0), (*levels, level))
        into.conductance(command, command, 1.0)
        into.drive(command, Drive(at_start, 0.0, waveform))
        into.use(
            Law.SWITCH,
            (0.5, 0.5, *conductances(self, given), at_start),
            ((0, 1), (command, GROUND_ROW)),
            ((0, 1),),
        )


def conductances(device: Device, given: Given) -> tuple[float, float]:
    """(closed, open) [S]."""
    return 1 / device.value(given, "on_resistance"), 1 / device.value(given, "off_resistance")
