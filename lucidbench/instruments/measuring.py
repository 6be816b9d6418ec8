"""Measuring on a bench: what a recipe means for a circuit, and its steps carried out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from lucidbench.core.document.exercise import Recipe
from lucidbench.core.errors import CircuitError, LucidError
from lucidbench.core.netlist import Circuit
from lucidbench.core.runs.looks import SettingLook
from lucidbench.core.runs.settings import ResolvedSettings, resolved
from lucidbench.instruments.client import BenchClient, BenchTrouble
from lucidbench.instruments.ways import WAYS, Lead, Taken, Taking, Way


@dataclass(frozen=True)
class Plan:
    """What a recipe comes to for the `circuit` as it is drawn: `points` are the abscissas it goes through,
    `problem` what is in its way."""

    circuit: Circuit
    way: Way
    settings: ResolvedSettings
    leads: tuple[Lead, ...]
    points: tuple[float, ...]
    problem: str | None


def plan_of(circuit: Circuit, recipe: Recipe, units: Mapping[str, str]) -> Plan:
    """Never raises for what was typed. `circuit` is the one drawn. Raises LucidError where there is no
    such way to measure."""
    way = WAYS.get(recipe.way)
    if way is None:
        raise LucidError(f"There is no way to measure called {recipe.way}.")
    proposals = way.propose(circuit, recipe.settings)
    settings = resolved(circuit, way.settings, proposals, recipe.settings, units)
    looks: dict[str, SettingLook] = {look.key: look for look in settings.looks}
    for key, sentence in way.check(settings.numbers, looks):
        looks[key].problem = looks[key].problem or sentence
    problem = settings.problem
    leads: list[Lead] = []
    points: list[float] = []
    if problem is None:
        try:
            leads, points = way.leads(circuit, settings), way.points(settings)
        except CircuitError as error:
            problem = str(error)
    return Plan(circuit, way, settings, tuple(leads), tuple(points), problem)


class Measuring:
    """One bench in use: what is being taken there goes on where it was, point after point."""

    def __init__(self, client: BenchClient) -> None:
        self.client = client
        self._taking: tuple[object, Taking] | None = None

    def take(self, plan: Plan, at: float) -> Taken:
        """One point. The instruments are set up where the last one was of another recipe, circuit or
        day. Raises BenchTrouble, after which the next one sets them up anew."""
        if plan.problem:
            raise BenchTrouble(plan.problem)
        told = (plan.circuit.fingerprint, plan.way.key, plan.settings.numbers, plan.settings.texts)
        try:
            if self._taking is None or self._taking[0] != told or not plan.way.is_table:
                self._taking = told, plan.way.begin(self.client, plan.circuit, plan.settings)
            return self._taking[1].take(at)
        except LucidError:
            self._taking = None
            raise

    def close(self) -> None:
        self._taking = None
        self.client.close()
