"""What is told of a part: its values as understood, what stands beside it, what is spoken of it; and
what of the nodes between them."""

from __future__ import annotations

import cmath
import math
from functools import lru_cache

from lucidbench.core.devices import GROUND, Description
from lucidbench.core.errors import Offer
from lucidbench.core.evaluate.shapes import NetLook, OfferLook, PartLook, ValueLook
from lucidbench.core.netlist import GROUND_NODE
from lucidbench.core.schematic import Part, ReadValue, Wiring
from lucidbench.core.schematic.kinds import BLOCK, Kinds, kind_of_part
from lucidbench.core.units.engineering import phasor, rectangular


def part_look(
    part: Part, values: tuple[ReadValue, ...], nodes: tuple[str, ...], kinds: Kinds
) -> PartLook:
    kind = kind_of_part(part, kinds)
    return _told(part.id, part.name, part.kind, kind, part.form, values, nodes)


@lru_cache(maxsize=32)
def net_looks(wiring: Wiring) -> list[NetLook]:
    return [
        NetLook(
            name=net.name,
            ground=net.is_ground,
            named=bool(net.labels),
            pins=[(pin.part, pin.number) for pin in net.pins],
            wires=[wire.id for wire in net.wires],
        )
        for net in wiring.nets
    ]


def node_words(node: str) -> str:
    return "ground" if node == GROUND_NODE else node


@lru_cache(maxsize=4096)  # most parts are as they were in the look before
def _told(
    identity: str,
    name: str,
    kind: str,
    description: Description | None,
    form: str,
    values: tuple[ReadValue, ...],
    nodes: tuple[str, ...],
) -> PartLook:
    caption = _caption(description, form, values) if description else ""
    if kind == GROUND.kind:
        spoken = "Ground"
    else:
        label = description.label if description else kind
        between = f", from {' to '.join(map(node_words, nodes))}" if nodes else ""
        written = description.written_in(form) if description else ()
        valued = f", {caption or 'no value'}" if written else ""
        spoken = f"{name}, {label.lower()}{valued}{between}"
    return PartLook(identity, name, caption, spoken, [_value(value) for value in values])


def _value(value: ReadValue) -> ValueLook:
    return ValueLook(
        key=value.parameter.key,
        text=value.text,
        number=value.number,
        echo=value.echo,
        problem=value.problem,
        question=value.question,
        offers=[_offer(offer) for offer in value.offers],
        preferred=_offer(value.preferred) if value.preferred else None,
        instead=dict(value.instead),
    )


def _offer(offer: Offer) -> OfferLook:
    return OfferLook(offer.label, offer.text)


def _phasor(description: Description, values: tuple[ReadValue, ...]) -> str:
    """That of a source which was given one: "10 A ∠ 30°"."""
    if not description.imposes:
        return ""
    numbers = {v.parameter.key: v.number for v in values}
    magnitude, angle = (numbers.get(key) or 0.0 for key in description.pair)
    turned = magnitude * cmath.exp(1j * math.radians(angle))
    return phasor(turned, description.imposes, digits=7) if magnitude else ""


def _rectangular(description: Description, values: tuple[ReadValue, ...]) -> str:
    """That of an impedance, as one number: "8 − j3 Ω"; "" of what is none, or is not known yet."""
    pair = [value for value in values if value.parameter.key in description.pair]
    real, imaginary = (v.number if v.text.strip() else None for v in pair) if pair else (None, None)
    if description.imposes or real is None or imaginary is None:
        return ""
    return rectangular(complex(real, imaginary), pair[0].parameter.unit)


def _caption(description: Description, form: str, values: tuple[ReadValue, ...]) -> str:
    """What stands beside it: "4.7 kΩ", "β 180", "sine 2 V, 1 kHz"."""
    written = description.written_in(form)
    told = []
    for value in values:
        # A block's own values stand for those that are left empty.
        figure = value.echo if description.kind == BLOCK else None
        if value.parameter.key in written and (value.text.strip() or figure):
            figure = value.echo or value.text.strip()
            told.append(f"{value.parameter.symbol} {figure}".strip())
    whole = _rectangular(description, values)
    if whole:
        told = [whole, *told[2:]]
    given = _phasor(description, values)
    if given and form in ("", "constant"):
        is_all = all(v.number == 0 for v in values if v.parameter.key in written)
        told = [given] if is_all else [*told, given]
    text = ", ".join(told)
    if description.imposes and form not in ("", "constant"):
        shape = next((f.label.lower() for f in description.forms if f.key == form), form)
        text = f"{shape} {text}".strip()
    return text
