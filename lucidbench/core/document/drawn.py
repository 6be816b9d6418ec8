"""The drawing of an exercise, read with its parameters and blocks."""

from __future__ import annotations

from lucidbench.core.document.exercise import Exercise
from lucidbench.core.schematic import Reading, read_drawing


def drawing_of(exercise: Exercise) -> Reading:
    """Never raises: what is wrong is among its findings."""
    return read_drawing(exercise.schematic, exercise.title, exercise.parameters, exercise.blocks)
