"""Circuit parameters: named values that others may be given by, in the textbook formula language.

`f_c = 1 kHz`, `R_1 = 10 kΩ`, `C = 1/(2*pi*f_c*R_1)`: in any order, with units, without circles.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

from lucidbench.core.errors import FormulaError
from lucidbench.core.formula.evaluate import Known, evaluate, names_in
from lucidbench.core.formula.parser import parse
from lucidbench.core.units.dimensions import NUMBER, UNITS


class ParameterError(FormulaError):
    """A parameter or a value given by parameters cannot be worked out; `name` says which."""

    def __init__(self, name: str, sentence: str, at: int = 0, length: int = 1) -> None:
        super().__init__(f"{name}: {sentence}", at, length)
        self.name = name


def resolve_parameters(
    texts: Mapping[str, str],
    given: Mapping[str, Known] | None = None,
    wanted: Iterable[str] | None = None,
) -> dict[str, Known]:
    """The value and dimension of each parameter, or of those `wanted` and what they need.

    `given` are known already and stand whatever their text. Raises ParameterError naming the one at
    fault.
    """
    outside = dict(given or {})
    known: dict[str, Known] = {name: outside[name] for name in texts if name in outside}
    pending: list[str] = []

    def resolve(name: str) -> None:
        if name in known:
            return
        if name in pending:
            circle = " → ".join([*pending[pending.index(name) :], name])
            raise ParameterError(name, f"the parameters depend on each other in a circle: {circle}")
        pending.append(name)
        try:
            formula = parse(texts[name])
            for other in sorted(names_in(formula.body)):
                if other in texts:
                    resolve(other)
            known[name] = evaluate(formula, {**outside, **known})
        except ParameterError:
            raise
        except FormulaError as error:
            raise ParameterError(name, str(error), error.at, error.length) from error
        finally:
            pending.pop()

    for name in texts if wanted is None else wanted:
        resolve(name)
    return known


def parameter_value(name: str, text: str, unit: str, outer: Mapping[str, Known]) -> Known:
    """What a parameter is set to, by numbers and the parameters `outer`. Raises ParameterError.

    `unit` is that of its default: it keeps it, and a plain number is taken in it.
    """
    known = resolve_parameters({name: text}, outer)[name]
    wanted = UNITS.get(unit, NUMBER)
    if known.dimension == NUMBER:
        return replace(known, dimension=wanted)
    if wanted not in (NUMBER, known.dimension):
        raise ParameterError(
            name, f"“{text}” is {known.dimension.quantity}, and {wanted.quantity} is wanted"
        )
    return known


def value_by_parameters(name: str, text: str, unit: str, parameters: Mapping[str, Known]) -> float:
    """A part's value [unit] given as an expression of parameters. Raises ParameterError.

    A plain number is taken in `unit`, be it typed or a parameter's; a quantity must be of its dimension.
    """
    try:
        formula = parse(text)
        result = evaluate(formula, parameters)
    except FormulaError as error:
        raise ParameterError(name, str(error), error.at, error.length) from error
    wanted = UNITS.get(unit, NUMBER)
    if isinstance(result.value, complex):
        raise ParameterError(name, "a value is a real number, and this is complex")
    if result.dimension not in (wanted, NUMBER):
        raise ParameterError(
            name, f"{wanted.quantity} is wanted, and “{text}” is {result.dimension.quantity}"
        )
    return float(result.value)
