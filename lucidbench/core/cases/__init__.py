"""Cases: variants of the circuit drawn, with parts left out, shorted or replaced."""

from lucidbench.core.cases.typed import typed_case
from lucidbench.core.cases.variant import BASE, in_case, lines_in, name_of, problems_of

__all__ = ["BASE", "in_case", "lines_in", "name_of", "problems_of", "typed_case"]
