"""Values that go from one process to another without what was derived from them."""

from __future__ import annotations

from dataclasses import MISSING, Field, fields
from typing import Any


class PickledByFields:
    """A dataclass pickled by the fields it is made with. What has been derived from them is derived
    again where it is asked for."""

    def __getstate__(self) -> dict[str, Any]:
        return {f.name: getattr(self, f.name) for f in _of(self) if f.init}

    def __setstate__(self, state: dict[str, Any]) -> None:
        self.__dict__.update({f.name: _beginning(f) for f in _of(self)} | state)


def _of(value: object) -> tuple[Field[Any], ...]:
    return fields(value)  # type: ignore[arg-type]  # a dataclass, by the contract above


def _beginning(field: Field[Any]) -> object:
    return field.default if field.default_factory is MISSING else field.default_factory()
