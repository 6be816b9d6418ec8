"""What is otherwise in a circuit: one language of changes, and what they do."""

from lucidbench.core.edits.circuit import (
    Add,
    CircuitEdit,
    Exchange,
    Insert,
    MoveLead,
    Open,
    Scale,
    ScaleSource,
    SetTemperature,
    SetValues,
    Short,
    Silence,
    Turn,
    applied,
)

__all__ = [
    "Add",
    "CircuitEdit",
    "Exchange",
    "Insert",
    "MoveLead",
    "Open",
    "Scale",
    "ScaleSource",
    "SetTemperature",
    "SetValues",
    "Short",
    "Silence",
    "Turn",
    "applied",
]
