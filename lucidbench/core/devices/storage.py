"""Parts that store energy: capacitor, inductor, coupled coils, and the ideal transformer."""

from __future__ import annotations

from lucidbench.core.devices.base import (
    Description,
    Device,
    Given,
    Handling,
    Parameter,
    Setting,
    Stamps,
    Tie,
)

_TOLERANCE = "How far a bought part may lie from its marked value."


class Capacitor(Device):
    """i = C dv/dt; practical with a resistance in series (ESR) and a leakage across."""

    letter = "C"
    description = Description(
        kind="capacitor",
        alike=True,
        handling=Handling(
            fails=True, mistaken=True, misplaced=True, series="series_resistance", bridge=True
        ),
        stores="charge",
        label="Capacitor",
        purpose="Energy storage",
        prefix="C",
        words=("c", "cap", "capacitor", "condenser"),
        parameters=(
            Parameter(
                key="capacitance",
                label="Capacitance",
                unit="F",
                default="100n",
                meaning="Charge for each volt across it.",
                positive=True,
                likely=(1e-13, 1.0),  # common practice, no published source
                preferred="E12",
            ),
            Parameter(
                key="tolerance",
                label="Tolerance",
                unit="%",
                default="10 %",
                meaning=_TOLERANCE,
                minimum=0.0,
                maximum=0.8,
                tolerance_of="capacitance",
                optional=True,
            ),
            Parameter(
                key="initial_voltage",
                label="Starting voltage",
                unit="V",
                default="",
                meaning="Across it when a run starts from given values.",
                optional=True,
                aside=True,
            ),
            Parameter(
                key="series_resistance",
                label="Series resistance (ESR)",
                unit="Ω",
                default="0",
                meaning="In series with it; zero is an ideal capacitor.",
                minimum=0.0,
                optional=True,
                aside=True,
                practical=True,
            ),
            Parameter(
                key="leakage_resistance",
                label="Leakage resistance",
                unit="Ω",
                default="",
                meaning="Across it; left empty, it holds its charge for ever.",
                positive=True,
                optional=True,
                aside=True,
                practical=True,
            ),
        ),
    )

    def own(self, given: Given) -> tuple[tuple[str, str], ...]:
        return (("plate", "V"),) if self._practical(given) else ()

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        plate = 0
        if self._practical(given):
            plate = 2
            into.admittance(0, plate, 1 / given.values["series_resistance"])
        farads = given.values["capacitance"]
        into.capacitance(plate, 1, farads)
        if "leakage_resistance" in given.values:
            into.admittance(plate, 1, 1 / given.values["leakage_resistance"])
        if "initial_voltage" in given.values:
            into.start(plate, farads * given.values["initial_voltage"])
            into.start(1, -farads * given.values["initial_voltage"])

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        leaks = "leakage_resistance" in given.values
        return ((0, 1, Tie.BY_CONDUCTANCE if leaks else Tie.NOT_AT_ALL),)

    @staticmethod
    def _practical(given: Given) -> bool:
        return bool(given.values.get("series_resistance", 0.0))


class Inductor(Device):
    """v = L di/dt; practical with its winding's resistance and capacitance."""

    letter = "L"
    description = Description(
        kind="inductor",
        alike=True,
        handling=Handling(
            fails=True, mistaken=True, misplaced=True, series="series_resistance", bridge=True
        ),
        stores="flux",
        label="Inductor",
        purpose="Energy storage",
        prefix="L",
        words=("l", "ind", "inductor", "coil", "choke"),
        parameters=(
            Parameter(
                key="inductance",
                label="Inductance",
                unit="H",
                default="10m",
                meaning="Flux linkage for each ampere through it.",
                positive=True,
                likely=(1e-9, 100.0),  # common practice, no published source
                preferred="E12",
            ),
            Parameter(
                key="tolerance",
                label="Tolerance",
                unit="%",
                default="10 %",
                meaning=_TOLERANCE,
                minimum=0.0,
                maximum=0.8,
                tolerance_of="inductance",
                optional=True,
            ),
            Parameter(
                key="initial_current",
                label="Starting current",
                unit="A",
                default="",
                meaning="Through it when a run starts from given values.",
                optional=True,
                aside=True,
            ),
            Parameter(
                key="series_resistance",
                label="Winding resistance",
                unit="Ω",
                default="0",
                meaning="Of its wire; zero is an ideal coil.",
                minimum=0.0,
                optional=True,
                aside=True,
                practical=True,
            ),
            Parameter(
                key="parallel_capacitance",
                label="Winding capacitance",
                unit="F",
                default="0",
                meaning="Between its turns; with it the coil resonates by itself.",
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
        henries = given.values["inductance"]
        into.branch(0, 1, 2)
        into.charge(2, 2, -henries)
        if "series_resistance" in given.values:
            into.conductance(2, 2, -given.values["series_resistance"])
        if "parallel_capacitance" in given.values:
            into.capacitance(0, 1, given.values["parallel_capacitance"])
        if "initial_current" in given.values:
            into.start(2, -henries * given.values["initial_current"])

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        ideal = not given.values.get("series_resistance", 0.0)
        return ((0, 1, Tie.BY_VOLTAGE if ideal else Tie.BY_CONDUCTANCE),)


class Coupling(Device):
    """Shared flux of two inductors: M = k·sqrt(L_1·L_2). It has no pins of its own."""

    letter = "K"
    references = 2
    description = Description(
        kind="coupling",
        couples=True,
        label="Coupling",
        purpose="Energy storage",
        prefix="K",
        words=("k", "coupling", "mutual"),
        pins=(),
        currents=(),
        parameters=(
            Parameter(
                key="coupling",
                label="Coupling factor",
                unit="",
                default="0.95",
                meaning="Share of flux that both coils link; 1 is perfect.",
                symbol="k",
                minimum=-1.0,
                maximum=1.0,
            ),
        ),
    )

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        first, second = setting.referred
        product = first.values["inductance"] * second.values["inductance"]
        mutual = given.values["coupling"] * product**0.5
        into.charge(0, 1, -mutual)
        into.charge(1, 0, -mutual)
        for row, other in ((0, second), (1, first)):
            if "initial_current" in other.values:
                into.start(row, -mutual * other.values["initial_current"])

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        return ()


class Transformer(Device):
    """The ideal transformer: v_1 = n·v_2, i_2 = -n·i_1, at any frequency, DC too."""

    description = Description(
        kind="transformer",
        label="Ideal transformer",
        purpose="Energy storage",
        prefix="T",
        words=("transformer", "trafo"),
        pins=("p1", "p2", "s1", "s2"),
        currents=(("p", 0), ("s", 2)),
        parameters=(
            Parameter(
                key="ratio",
                label="Turns ratio",
                unit="",
                default="10",
                meaning="Primary turns for each secondary turn.",
                symbol="n",
                positive=True,
            ),
        ),
    )

    def own(self, given: Given) -> tuple[tuple[str, str], ...]:
        return (("", "A"),)

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        ratio = given.values["ratio"]
        into.branch(0, 1, 4)
        for pin, sign in ((2, -1), (3, 1)):
            into.conductance(pin, 4, sign * ratio)
            into.conductance(4, pin, sign * ratio)

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        return ((0, 1, Tie.BY_CONDUCTANCE), (2, 3, Tie.BY_CONDUCTANCE))
