"""The drawn document, the nodes it means, and the findings about it."""

from lucidbench.core.schematic.document import (
    Block,
    Junction,
    Label,
    NamedValue,
    Note,
    NumberedNode,
    Part,
    Port,
    Schematic,
    Wire,
)
from lucidbench.core.schematic.findings import Finding, Mend, Place
from lucidbench.core.schematic.nets import Net, Wiring, wiring
from lucidbench.core.schematic.placing import Interpretation, interpret
from lucidbench.core.schematic.reading import Reading, read_drawing, values_by_name
from lucidbench.core.schematic.values import ReadValue, read_values

__all__ = [
    "Block",
    "Finding",
    "Interpretation",
    "Junction",
    "Label",
    "Mend",
    "NamedValue",
    "Net",
    "Note",
    "NumberedNode",
    "Part",
    "Place",
    "Port",
    "ReadValue",
    "Reading",
    "Schematic",
    "Wire",
    "Wiring",
    "interpret",
    "read_drawing",
    "read_values",
    "values_by_name",
    "wiring",
]
