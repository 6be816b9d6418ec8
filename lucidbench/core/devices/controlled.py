"""Sources controlled by another quantity: the four linear ones, and one given by a formula."""

from __future__ import annotations

from lucidbench.core.devices.base import (
    GROUND_NODE,
    GROUND_ROW,
    Description,
    Device,
    Given,
    Law,
    Parameter,
    Setting,
    Stamps,
    Tie,
)


def _gain(label: str, unit: str, meaning: str) -> tuple[Parameter, ...]:
    return (Parameter(key="gain", label=label, unit=unit, default="1", meaning=meaning),)


class VoltageControlledVoltage(Device):
    """v_1 - v_2 = A·(v_3 - v_4)."""

    letter = "E"
    description = Description(
        kind="voltage_controlled_voltage",
        label="Voltage source controlled by a voltage",
        purpose="Controlled sources",
        prefix="E",
        words=("e", "vcvs", "controlled"),
        pins=("+", "\u2212", "control +", "control \u2212"),
        parameters=_gain("Voltage gain", "", "Its voltage for each volt between its control pins."),
    )

    def own(self, given: Given) -> tuple[tuple[str, str], ...]:
        return (("", "A"),)

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        into.branch(0, 1, 4)
        into.conductance(4, 2, -given.values["gain"])
        into.conductance(4, 3, given.values["gain"])

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        return ((0, 1, Tie.BY_VOLTAGE),)


class VoltageControlledCurrent(Device):
    """A current g·(v_3 - v_4) from pin 1 through it to pin 2."""

    letter = "G"
    description = Description(
        kind="voltage_controlled_current",
        label="Current source controlled by a voltage",
        purpose="Controlled sources",
        prefix="G",
        words=("g", "vccs", "transconductance"),
        pins=("1", "2", "control +", "control \u2212"),
        parameters=_gain(
            "Transconductance", "S", "Its current for each volt between its control pins."
        ),
    )

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        for pin, sign in ((0, 1), (1, -1)):
            into.conductance(pin, 2, sign * given.values["gain"])
            into.conductance(pin, 3, -sign * given.values["gain"])

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        return ((0, 1, Tie.BY_CURRENT),)


class CurrentControlledCurrent(Device):
    """A current β·i from pin 1 through it to pin 2, where i flows in the element it refers to."""

    letter = "F"
    references = 1
    description = Description(
        kind="current_controlled_current",
        label="Current source controlled by a current",
        purpose="Controlled sources",
        prefix="F",
        words=("f", "cccs"),
        parameters=_gain(
            "Current gain", "", "Its current for each ampere in the element it senses."
        ),
    )

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        into.conductance(0, 2, given.values["gain"])
        into.conductance(1, 2, -given.values["gain"])

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        return ((0, 1, Tie.BY_CURRENT),)


class CurrentControlledVoltage(Device):
    """v_1 - v_2 = r·i, where i flows in the element it refers to."""

    letter = "H"
    references = 1
    description = Description(
        kind="current_controlled_voltage",
        label="Voltage source controlled by a current",
        purpose="Controlled sources",
        prefix="H",
        words=("h", "ccvs", "transresistance"),
        parameters=_gain(
            "Transresistance", "Ω", "Its voltage for each ampere in the element it senses."
        ),
    )

    def own(self, given: Given) -> tuple[tuple[str, str], ...]:
        return (("", "A"),)

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        into.branch(0, 1, 2)
        into.conductance(2, 3, -given.values["gain"])

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        return ((0, 1, Tie.BY_VOLTAGE),)


class FormulaVoltage(Device):
    """v_1 - v_2 = a formula of node voltages (its further pins), sensed currents and time."""

    description = Description(
        kind="formula_voltage",
        amplifies=True,
        label="Voltage source by a formula",
        purpose="Controlled sources",
        prefix="B",
        words=("formula", "behavioural"),
    )

    def own(self, given: Given) -> tuple[tuple[str, str], ...]:
        return (("", "A"),)

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        current = 2 + int(given.program[0])
        into.branch(0, 1, current)
        # The branch's row reads v_1 - v_2 - formula = 0: the formula's value "leaves" ground for it.
        into.use(Law.EXPRESSION, given.program[2:], sensed(given, own=1), ((GROUND_ROW, current),))

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        return ((0, 1, Tie.BY_VOLTAGE),)


class FormulaCurrent(Device):
    """A current from pin 1 through it to pin 2, given by a formula."""

    description = Description(
        kind="formula_current",
        amplifies=True,
        label="Current source by a formula",
        purpose="Controlled sources",
        prefix="B",
        words=("formula current",),
    )

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        into.use(Law.EXPRESSION, given.program[2:], sensed(given, own=0), ((0, 1),))

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        # A formula of the voltage across itself is a resistor of its own law.
        own = set(given.nodes[:2]) - {GROUND_NODE} <= set(given.nodes[2:])
        return ((0, 1, Tie.BY_CONDUCTANCE if own else Tie.BY_CURRENT),)


def sensed(given: Given, own: int) -> tuple[tuple[int, int], ...]:
    """The controls of a formula: its sensed nodes against ground, then its sensed currents.

    A program begins with how many nodes and how many currents it senses; `own` unknowns stand between.
    """
    nodes, currents = int(given.program[0]), int(given.program[1])
    first = 2 + nodes + own
    at = [*range(2, 2 + nodes), *range(first, first + currents)]
    return tuple((row, GROUND_ROW) for row in at)
