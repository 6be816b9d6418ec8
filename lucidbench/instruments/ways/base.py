"""What a way to measure is. A new one keeps this contract:

1. It stands in a module of its own as one `Way`, and in `WAYS` once.
2. Its `settings` are all that is set; `propose` finds what is likely from the circuit as it is drawn.
3. `leads` says where everything is clipped: for the drawing, for the stand-in, and in words for hands.
4. `points` are the abscissas it goes through; a way that takes all at once has the one point 0.
5. `begin` sets the instruments up and gives a `Taking`, which takes one point after the other. It speaks
   to a BenchClient alone, so it is the same for the stand-in and for real instruments.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Literal, Protocol

from lucidbench.core.netlist import GROUND_NODE, Circuit
from lucidbench.core.runs.looks import SettingLook
from lucidbench.core.runs.probe_points import Place
from lucidbench.core.runs.settings import Proposal, ResolvedSettings, Setting
from lucidbench.instruments.client import BenchClient

# By these leads are told apart, on the drawing and in words.
Role = Literal["red", "black", "channel 1", "channel 2", "generator", "supply", "out"]


@dataclass(frozen=True)
class Lead:
    """One clip: on a node, or at a part (in series with its `pin`, or the part taken out)."""

    role: Role
    node: str = ""
    part: str = ""
    pin: int = -1
    words: str = ""  # what hands do


@dataclass(frozen=True)
class Column:
    """What one step gives of a quantity. `uncertainties` are expanded (k = 2), of each value by itself;
    `common` is the share of the value by which all are off together, expanded."""

    quantity: str
    unit: str
    values: tuple[float, ...]
    uncertainties: tuple[float, ...] = ()
    common: float = 0.0


@dataclass(frozen=True)
class Taken:
    """`trigger` is where on the abscissa it was triggered, `note` what else there is to say."""

    columns: tuple[Column, ...]
    trigger: float | None = None
    note: str = ""


class Taking(Protocol):
    def take(self, at: float) -> Taken:
        """Raises BenchTrouble."""


Begin = Callable[[BenchClient, Circuit, ResolvedSettings], Taking]
Check = Callable[[Mapping[str, float], Mapping[str, SettingLook]], Iterator[tuple[str, str]]]


def _nothing_wrong(
    numbers: Mapping[str, float], looks: Mapping[str, SettingLook]
) -> Iterator[tuple[str, str]]:
    return iter(())


@dataclass(frozen=True)
class Way:
    """One way to measure. `needs` are the instruments it takes; `is_table` whether a record comes of it,
    and not a reading."""

    key: str
    label: str
    answers: str
    needs: tuple[str, ...]
    settings: tuple[Setting, ...]
    propose: Callable[[Circuit, Mapping[str, str]], Mapping[str, Proposal]]
    leads: Callable[[Circuit, ResolvedSettings], list[Lead]]
    points: Callable[[ResolvedSettings], list[float]]
    begin: Begin
    is_table: bool = True
    check: Check = _nothing_wrong


def on_nodes(place: Place, plus: Role, minus: Role | None, what: str) -> Iterator[Lead]:
    """The two clips of a voltage that is read at `place`; that on ground is told in words alone where it
    is the second."""
    assert place.nodes is not None
    for role, node, tip in ((plus, place.nodes[0], "tip"), (minus, place.nodes[1], "ground clip")):
        if role is not None:
            where = "ground" if node == GROUND_NODE else f"node {node}"
            words = f"{what} on {where}" if plus == "red" else f"{what}, its {tip}, on {where}"
            if plus == "red":
                words = f"{'Red' if role == 'red' else 'Black'} lead on {where}"
            yield Lead(role, node=node, words=words)


def clip(client: BenchClient, kind: str, places: str, channel: int = 0) -> None:
    """On the stand-in's patch panel; with real instruments a hand has done it."""
    client.tell(kind, "clip", places=places, channel=channel)


def as_drawn(client: BenchClient, *kinds: str) -> None:
    """Let the sources that are drawn drive the circuit: what stood in their place is switched off."""
    for kind in kinds or ("generator", "supply"):
        if client.has(kind):
            client.tell(kind, "off")


def generate(
    client: BenchClient, source: str, shape: str, amplitude: float,
    frequency: float | None = None, offset: float | None = None,
) -> None:  # fmt: skip
    """The generator in the place of a source, on; what is not told stays as after a reset."""
    client.reset("generator")
    clip(client, "generator", source)
    client.tell("generator", "shape", shape=shape)
    if frequency is not None:
        client.tell("generator", "frequency", value=f"{frequency:.9E}")
    client.tell("generator", "amplitude", value=f"{amplitude:.6E}")
    if offset is not None:
        client.tell("generator", "offset", value=f"{offset:.6E}")
    client.tell("generator", "on")


def pair(place: Place) -> str:
    """As the patch panel takes two nodes."""
    assert place.nodes is not None
    return ",".join("gnd" if node == GROUND_NODE else node for node in place.nodes)
