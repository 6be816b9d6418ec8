"""How each kind of instrument is told what to do, step by step: the standard's commands, and where a maker
has others, a table that the owner of the bench extends (docs/bench.md)."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from lucidbench.core.errors import LucidError

# By kind: a step, and its command; what stands in braces is put in.
STANDARD: Mapping[str, Mapping[str, str]] = {
    "meter": {
        "function": "CONFigure:{function}",
        "read": "READ?",
    },
    "generator": {
        "shape": "SOURce:FUNCtion {shape}",
        "frequency": "SOURce:FREQuency {value}",
        "amplitude": "SOURce:VOLTage {value}",
        "offset": "SOURce:VOLTage:OFFSet {value}",
        "on": "OUTPut ON",
        "off": "OUTPut OFF",
    },
    "supply": {
        "volts": "SOURce:VOLTage {value}",
        "limit": "SOURce:CURRent {value}",
        "on": "OUTPut ON",
        "off": "OUTPut OFF",
    },
    "oscilloscope": {
        "probe": "INPut{channel}:ATTenuation {value}",
        "coupling": "INPut{channel}:COUPling {coupling}",
        "range": "SENSe:VOLTage{channel}:RANGe {value}",
        "offset": "SENSe:VOLTage{channel}:RANGe:OFFSet {value}",
        "sweep": "SENSe:SWEep:TIME {value}",
        "points": "SENSe:SWEep:POINts {value}",
        "delay": "SENSe:SWEep:OFFSet:TIME {value}",
        "average": "SENSe:AVERage:COUNt {value}",
        "source": "TRIGger:SOURce INTernal{channel}",
        "untriggered": "TRIGger:SOURce IMMediate",
        "level": "TRIGger:LEVel {value}",
        "slope": "TRIGger:SLOPe {slope}",
        "single": "INITiate:CONTinuous OFF",
        "running": "INITiate:CONTinuous ON",
        "start": "INITiate:IMMediate",
        "interval": "SENSe:SWEep:TINTerval?",
        "format": "FORMat REAL,32",
        "data": "TRACe? CH{channel}",
    },
    "bridge": {
        "frequency": "SOURce:FREQuency {value}",
        "read": "READ?",
    },
}
# The patch panel of the stand-in: where a real bench has hands.
_PATCH_PANEL: Mapping[str, Mapping[str, str]] = {
    "meter": {"clip": "ROUTe:CLOSe (@{places})"},
    "generator": {"clip": "ROUTe:CLOSe (@{places})"},
    "supply": {"clip": "ROUTe:CLOSe (@{places})"},
    "oscilloscope": {"clip": "ROUTe{channel}:CLOSe (@{places})"},
    "bridge": {"clip": "ROUTe:CLOSe (@{places})"},
}


@dataclass(frozen=True)
class Dialect:
    """Of instruments of a `kind` that identify themselves as `pattern` (a regular expression, sought in
    what *IDN? answers) says. A step that is an empty text is left out. `accuracy` is what its maker states,
    as a share of the reading and of the range; None: the stand-in's own."""

    kind: str
    name: str
    pattern: str
    commands: Mapping[str, str] = field(default_factory=dict)
    accuracy: tuple[float, float] | None = None

    def command(self, step: str) -> str | None:
        """None where the instrument has no such step."""
        own = self.commands.get(step)
        return STANDARD[self.kind].get(step) if own is None else own or None


STAND_IN = tuple(
    Dialect(kind, "Stand-in", r"^Lucid Bench,", commands) for kind, commands in _PATCH_PANEL.items()
)


@dataclass(frozen=True)
class BenchSettings:
    """A real bench that its owner lets be used: a name, and where each kind of instrument is (a VISA
    resource)."""

    name: str
    addresses: Mapping[str, str]


@dataclass(frozen=True)
class Settings:
    """What stands in the settings file; the dialects come before the standard's."""

    benches: tuple[BenchSettings, ...] = ()
    dialects: tuple[Dialect, ...] = STAND_IN

    def dialect_of(self, kind: str, identification: str) -> Dialect:
        for dialect in self.dialects:
            if dialect.kind == kind and re.search(dialect.pattern, identification):
                return dialect
        return Dialect(kind, "SCPI-1999", "", accuracy=(0.01, 0.005))


def read_settings(path: Path) -> Settings:
    """The settings in a TOML file; none where there is no such file. Raises LucidError, naming what in it
    is wrong."""
    try:
        raw = tomllib.loads(path.read_text(encoding="utf-8"))
    except FileNotFoundError:
        return Settings()
    except (OSError, ValueError) as error:
        raise LucidError(f"The file {path.name} of instruments cannot be read: {error}.") from error
    try:
        benches = tuple(_bench(each) for each in raw.get("bench", []))
        dialects = tuple(_dialect(each) for each in raw.get("dialect", []))
    except (KeyError, TypeError, AttributeError, re.error) as error:
        raise LucidError(f"The file {path.name} of instruments has a fault: {error}.") from error
    return Settings(benches, (*dialects, *STAND_IN))


def _bench(raw: Mapping[str, Any]) -> BenchSettings:
    addresses = {kind: str(raw[kind]) for kind in STANDARD if kind in raw}
    unknown = set(raw) - set(STANDARD) - {"name"}
    if unknown:
        raise KeyError(f"{sorted(unknown)[0]} is no kind of instrument; {', '.join(STANDARD)} are")
    return BenchSettings(str(raw["name"]), addresses)


def _dialect(raw: Mapping[str, Any]) -> Dialect:
    kind = str(raw["kind"])
    if kind not in STANDARD:
        raise KeyError(f"{kind} is no kind of instrument; {', '.join(STANDARD)} are")
    re.compile(str(raw["identification"]))
    commands = {str(step): str(text) for step, text in raw.get("commands", {}).items()}
    known = {*STANDARD[kind], *_PATCH_PANEL[kind]}
    unknown = set(commands) - known
    if unknown:
        raise KeyError(f"a {kind} has no step {sorted(unknown)[0]}; there are {', '.join(known)}")
    share = raw.get("accuracy", [0.01, 0.005])
    return Dialect(kind, str(raw.get("name", kind)), str(raw["identification"]), commands,
                   (float(share[0]), float(share[1])))  # fmt: skip
