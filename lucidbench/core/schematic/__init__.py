"""The drawn document, the nodes it means, and the findings about it."""

from lucidbench.core.schematic.document import Junction, Label, Part, Schematic, Wire
from lucidbench.core.schematic.findings import Finding, Mend, Place, find
from lucidbench.core.schematic.flatten import flatten, nodes_of
from lucidbench.core.schematic.nets import Net, extract_nets, joints
from lucidbench.core.schematic.placing import Interpretation, interpret
from lucidbench.core.schematic.reading import Reading, read_drawing
from lucidbench.core.schematic.values import ReadValue, read_values

__all__ = [
    "Finding",
    "Interpretation",
    "Junction",
    "Label",
    "Mend",
    "Net",
    "Part",
    "Place",
    "ReadValue",
    "Reading",
    "Schematic",
    "Wire",
    "extract_nets",
    "find",
    "flatten",
    "interpret",
    "joints",
    "nodes_of",
    "read_drawing",
    "read_values",
]
