"""What a document holds of the bench, taken again on a bench of its own."""

from __future__ import annotations

from lucidbench.core.document.exercise import Exercise, Recipe
from lucidbench.core.schematic import read_drawing
from lucidbench.instruments.bench import Bench
from lucidbench.instruments.build import built
from lucidbench.instruments.client import BenchClient
from lucidbench.instruments.measuring import Measuring, plan_of
from lucidbench.instruments.serving import BenchServer
from lucidbench.instruments.ways import Taken


def retaken(exercise: Exercise, recipe: Recipe) -> list[Taken]:
    """Every point of `recipe`, over sockets, on a bench that was just switched on."""
    drawing = read_drawing(exercise.schematic, exercise.title, exercise.parameters, exercise.blocks)
    server = BenchServer(Bench(built(exercise), exercise.build.seed))
    measuring = Measuring(BenchClient("The stand-in", server.addresses))
    units = {name: known.dimension.unit for name, known in drawing.parameters.items()}
    try:
        plan = plan_of(drawing.circuit, recipe, units)
        assert plan.problem is None
        return [measuring.take(plan, at) for at in plan.points]
    finally:
        measuring.close()
        server.stop()
