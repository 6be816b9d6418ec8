"""The flat circuit: elements, the checks of its wiring, its text form."""

from lucidbench.core.devices.base import GROUND_NODE
from lucidbench.core.netlist.circuit import Circuit, Element, value_fault
from lucidbench.core.netlist.text import Netlist, read_netlist
from lucidbench.core.netlist.topology import Fault, FaultKind, listed, topology_faults, unheld
from lucidbench.core.netlist.writing import write_netlist

__all__ = [
    "GROUND_NODE",
    "Circuit",
    "Element",
    "Fault",
    "FaultKind",
    "Netlist",
    "listed",
    "read_netlist",
    "topology_faults",
    "unheld",
    "value_fault",
    "write_netlist",
]
