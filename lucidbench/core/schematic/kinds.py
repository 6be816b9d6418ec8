"""Every kind of part that may stand on a sheet: the catalogue's, and the document's own blocks."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from functools import lru_cache
from typing import TypeAlias

from pydantic import BaseModel, ConfigDict, Field

from lucidbench.core.devices import CATALOGUE, Description, Parameter
from lucidbench.core.devices.symbol import Drawing, Pin, Sign, Symbol
from lucidbench.core.netlist.parameters import ParameterError, resolve_parameters
from lucidbench.core.schematic.document import Block, Part, Point

Kinds: TypeAlias = Mapping[str, Description]
BLOCK = "block"
_MOST_WRITTEN = 4  # values beside a block
LEAD = 2  # grid units from a block's edge to its pins


def kinds_with(blocks: Iterable[Block]) -> Kinds:
    """The catalogue and `blocks`, by `key_of`."""
    return {**CATALOGUE, **{f"{BLOCK} {block.id}": described(block) for block in blocks}}


def key_of(part: Part) -> str:
    return f"{BLOCK} {part.block}" if part.kind == BLOCK else part.kind


def kind_of_part(part: Part, kinds: Kinds) -> Description | None:
    return kinds.get(key_of(part))


def described(block: Block) -> Description:
    """A block as a kind of part: a frame with its name, and its ports named inside their pins."""
    return _described(
        block.name,
        tuple((port.name, port.at) for port in block.ports),
        tuple((named.name, named.text) for named in block.parameters),
    )


@lru_cache(maxsize=256)  # a block drawn as before is the same kind as before
def _described(
    name: str, ports: tuple[tuple[str, Point], ...], parameters: tuple[tuple[str, str], ...]
) -> Description:
    return Description(
        kind=BLOCK,
        label=name or "Block",
        purpose="Blocks",
        prefix="X",
        drawn=_symbol(name, ports),
        pins=tuple(port for port, _ in ports),
        currents=(),
        written=tuple(key for key, _ in parameters[:_MOST_WRITTEN]),
        parameters=tuple(
            Parameter(
                key,
                key,
                _unit_of(key, dict(parameters)),
                text,
                "Of this block.",
                reads="any",
                symbol=f"{key} =",
            )
            for key, text in parameters
        ),
    )


def _unit_of(name: str, texts: Mapping[str, str]) -> str:
    """What a value of a block is measured in, as far as the block itself says."""
    try:
        return resolve_parameters(texts, wanted=(name,))[name].dimension.unit
    except ParameterError:
        return ""


def frame(ports: Iterable[Point]) -> tuple[int, int, int, int]:
    """(left, top, right, bottom) of the frame that pins at `ports` stand around.

    The frame's edge is `LEAD` inside the pins of each side; a side without pins keeps its distance.
    """
    points = list(ports)
    beside = [(x, y) for x, y in points if abs(x) > abs(y)]
    over = [(x, y) for x, y in points if abs(x) <= abs(y)]
    half_width = max([3] + [abs(x) - LEAD for x, _ in beside] + [abs(x) + 1 for x, _ in over])
    half_height = max([2] + [abs(y) - LEAD for _, y in over] + [abs(y) + 2 for _, y in beside])
    return -half_width, -half_height, half_width, half_height


def _symbol(name: str, ports: tuple[tuple[str, Point], ...]) -> Symbol:
    left, top, right, bottom = frame(at for _, at in ports)
    strokes = [f"M{left} {top}H{right}V{bottom}H{left}Z"]
    # The name stands where no port's does: above, else below, else between them.
    crowned, footed = (
        any(abs(y) >= abs(x) and y * way > 0 for _, (x, y) in ports) for way in (-1, 1)
    )
    height = top + 0.9 if not crowned else bottom - 0.9 if not footed else 0
    signs = [Sign(name, 0, height)] if name else []
    for port, (x, y) in ports:
        if abs(x) > abs(y):
            strokes.append(f"M{x} {y}H{left if x < 0 else right}")
            inset = 0.35 * len(port) + 0.4
            signs.append(Sign(port, (left + inset) if x < 0 else (right - inset), y))
        else:
            strokes.append(f"M{x} {y}V{top if y < 0 else bottom}")
            signs.append(Sign(port, x, (top + 0.9) if y < 0 else (bottom - 0.9)))
    drawing = Drawing(tuple(strokes), signs=tuple(signs))
    pins = tuple(Pin(port, *at) for port, at in ports)
    return Symbol(pins, (left, top, right, bottom), drawing, drawing)


class _Look(BaseModel):
    model_config = ConfigDict(from_attributes=True)


class ParameterLook(_Look):
    key: str
    label: str
    unit: str
    default: str
    meaning: str
    optional: bool
    aside: bool
    practical: bool
    reads: str
    forms: list[str]
    positive: bool
    minimum: float | None
    maximum: float | None
    preferred: str | None


class PinLook(_Look):
    name: str
    x: int
    y: int


class SignLook(_Look):
    text: str
    x: float
    y: float


class DrawingLook(_Look):
    strokes: list[str]
    filled: list[str]
    signs: list[SignLook]


class FormLook(_Look):
    key: str
    label: str
    meaning: str


class PresetLook(_Look):
    label: str
    values: dict[str, str]


class CurrentLook(BaseModel):
    """A current told of: the name of its quantity after the part's, and the drawn pin it enters."""

    name: str
    pin: int


class KindLook(BaseModel):
    """A kind of part: what the tray, the part card and the drawing need to know of it."""

    key: str = Field(description="The kind, or of a block “block” and its id.")
    kind: str
    label: str
    purpose: str
    prefix: str
    rotation: int
    words: list[str]
    forms: list[FormLook]
    presets: list[PresetLook]
    currents: list[CurrentLook]
    main: str | None
    practical: str
    values: dict[str, str] = Field(description="What a new part has.")
    pins: list[PinLook]
    body: tuple[float, float, float, float]
    iec: DrawingLook
    ieee: DrawingLook
    parameters: list[ParameterLook]


@lru_cache(maxsize=256)
def kind_look(key: str, description: Description) -> KindLook:
    symbol = description.symbol
    return KindLook(
        key=key,
        kind=description.kind,
        label=description.label,
        purpose=description.purpose,
        prefix=description.prefix,
        rotation=description.rotation,
        words=list(description.words),
        forms=[FormLook.model_validate(form) for form in description.forms],
        presets=[PresetLook(label=p.label, values=dict(p.values)) for p in description.presets],
        currents=[CurrentLook(name=name, pin=pin) for name, pin in description.currents],
        main=description.main.key if description.main else None,
        practical=description.practical,
        values=description.starting_values,
        pins=[PinLook.model_validate(pin) for pin in symbol.pins],
        body=symbol.body,
        iec=DrawingLook.model_validate(symbol.iec),
        ieee=DrawingLook.model_validate(symbol.ieee),
        parameters=[ParameterLook.model_validate(p) for p in description.parameters],
    )
