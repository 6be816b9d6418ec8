"""The unijunction transistor: a bar of silicon whose lower part an emitter current makes conduct.

The bar is two resistances; the lower one's conductance rises with the emitter current i as
k·i²/(i + i_0) (Sze and Ng, Physics of Semiconductor Devices, 3rd ed., 2007, section 11.3 on
conductivity modulation). k, i_0 and the emitter's own resistance are worked out so that the curve
V_E(i) at 10 V between the bases has its peak and its valley where the parameters say.
"""

from __future__ import annotations

import math
from functools import lru_cache

from lucidbench.core.devices.base import (
    Description,
    Device,
    Given,
    Law,
    Parameter,
    Setting,
    Stamps,
    Tie,
)
from lucidbench.core.devices.temperature import NOMINAL_TEMPERATURE, thermal_voltage
from lucidbench.core.errors import CircuitError

REFERENCE_VOLTAGE = 10.0  # [V] between the bases, where the valley is stated
EMITTER_SATURATION = 1e-12  # [A]


class Unijunction(Device):
    """Pins emitter, base 1, base 2."""

    description = Description(
        kind="unijunction",
        label="Unijunction transistor",
        purpose="Semiconductors",
        prefix="Q",
        words=("ujt", "unijunction"),
        pins=("E", "B1", "B2"),
        currents=(("E", 0), ("B1", 1), ("B2", 2)),
        parameters=(
            Parameter("standoff", "Stand-off ratio", "", "0.65", "Share of the interbase voltage at which it fires.", minimum=0.1, maximum=0.95, symbol="η"),
            Parameter("interbase_resistance", "Interbase resistance", "Ω", "7k", "Between its bases, not fired.", positive=True),
            Parameter("peak_current", "Peak current", "A", "2 µA", "Emitter current at which it fires.", positive=True),
            Parameter("valley_current", "Valley current", "A", "4 mA", "Emitter current below which it goes out.", positive=True),
            Parameter("valley_voltage", "Valley voltage", "V", "2", "Emitter voltage there, at 10 V between the bases.", positive=True),
            Parameter("junction_capacitance", "Junction capacitance", "F", "10p", "Of the emitter.", positive=True),
            Parameter("transit_time", "Transit time", "s", "100n", "Stored charge for each ampere of the emitter.", positive=True),
        ),
    )  # fmt: skip

    def own(self, given: Given) -> tuple[tuple[str, str], ...]:
        return (("junction", "V"), ("bar", "V"))

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        emitter, base_1, base_2, junction, bar = range(5)
        ratio = self.value(given, "standoff")
        whole = self.value(given, "interbase_resistance")
        fitted = fit(
            given.name,
            ratio,
            whole,
            self.value(given, "peak_current"),
            self.value(given, "valley_current"),
            self.value(given, "valley_voltage"),
        )
        modulation, onset, series = fitted
        into.admittance(base_2, bar, 1 / (whole * (1 - ratio)))
        into.admittance(emitter, junction, 1 / series)
        into.capacitance(junction, bar, self.value(given, "junction_capacitance"))
        into.use(
            Law.UNIJUNCTION,
            (
                EMITTER_SATURATION,
                thermal_voltage(setting.temperature),
                1 / (whole * ratio),
                modulation,
                onset,
                self.value(given, "transit_time"),
            ),
            ((junction, bar), (bar, base_1)),
            ((junction, bar), (bar, base_1)),
        )

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        return ((0, 1, Tie.BY_CONDUCTANCE), (1, 2, Tie.BY_CONDUCTANCE))


@lru_cache(maxsize=256)
def fit(
    name: str,
    ratio: float,
    whole: float,
    peak_current: float,
    valley_current: float,
    valley_voltage: float,
) -> tuple[float, float, float]:
    """(k [1/V], i_0 [A], emitter resistance [Ω]). Raises CircuitError where no curve passes there."""
    from scipy.optimize import brentq

    upper = 1 / (whole * (1 - ratio))
    lower = 1 / (whole * ratio)
    volts = thermal_voltage(NOMINAL_TEMPERATURE)

    def bar(i: float, k: float, onset: float) -> tuple[float, float]:
        """Voltage of the bar's middle, and its slope over the emitter current."""
        total = upper + lower + k * i * i / (i + onset)
        v = (REFERENCE_VOLTAGE * upper + i) / total
        return v, (1 - v * k * (i * i + 2 * i * onset) / (i + onset) ** 2) / total

    def slope(i: float, k: float, onset: float) -> float:
        """Of the emitter voltage, without the emitter's own resistance."""
        return volts / i + bar(i, k, onset)[1]

    def valley(k: float, onset: float) -> float:
        v, _ = bar(valley_current, k, onset)
        junction = volts * math.log1p(valley_current / EMITTER_SATURATION)
        return junction + v - slope(valley_current, k, onset) * valley_current - valley_voltage

    def modulation(onset: float) -> float:
        return float(brentq(lambda log: valley(math.exp(log), onset), *_LOG_RANGE))

    def peak(log_onset: float) -> float:
        onset = math.exp(log_onset)
        k = math.exp(modulation(onset))
        series = -slope(valley_current, k, onset)
        return slope(peak_current, k, onset) + series

    try:
        onset = math.exp(
            brentq(peak, math.log(peak_current * 1e-3), math.log(valley_current * 0.3))
        )
        k = math.exp(modulation(onset))
    except ValueError as failure:
        raise CircuitError(
            f"{name}: no unijunction has its peak at {peak_current:g} A and its valley at "
            f"{valley_current:g} A and {valley_voltage:g} V; bring the valley voltage near 2 V, "
            f"or the two currents further apart.",
            (name,),
        ) from failure
    return k, onset, -slope(valley_current, k, onset)


_LOG_RANGE = (math.log(1e-2), math.log(1e3))
