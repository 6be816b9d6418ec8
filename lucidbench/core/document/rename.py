"""Renaming: one operation that gives a thing another name wherever the document speaks of it."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Annotated, Literal, TypeVar

from pydantic import BaseModel, Field

from lucidbench.core.document.drawn import drawing_of
from lucidbench.core.document.exercise import NAME, NAME_RULE, Exercise, LedgerRow
from lucidbench.core.document.mentions import AND, AT, ROUND, SettingReads, Speech, mentions
from lucidbench.core.document.patch import Change, patched
from lucidbench.core.errors import DocumentError
from lucidbench.core.schematic.document import Block, NamedValue, Part, Schematic

# A name as formulas have it, with the parts of a block behind a dot: R1, V_out, I_Q1.C, V_X1.mid.
_NAME = re.compile(r"[A-Za-zα-ωΑ-Ω][A-Za-z0-9α-ωΑ-Ω]*(?:_[A-Za-z0-9_]+)?(?:\.[A-Za-z0-9_]+)*")
Thing = TypeVar("Thing", Part, NamedValue, LedgerRow)
_TELLING = re.compile(r"[VIP]_|.*\d")  # a name in prose that is no common word


class Renaming(BaseModel):
    """What shall be called otherwise: a part, a circuit parameter, a row of the ledger, or a block's
    parameter, by id; a node by the name it has. `sheet` is the block it belongs to, "" for none."""

    what: Literal["part", "node", "parameter", "row"]
    which: Annotated[str, Field(max_length=64)]
    name: Annotated[str, Field(max_length=64)]
    sheet: Annotated[str, Field(max_length=64)] = ""


@dataclass
class _Names:
    """Old names with their new ones, of one sheet. Parts inside blocks stand behind a dot."""

    parts: dict[str, str] = field(default_factory=dict)
    nodes: dict[str, str] = field(default_factory=dict)
    parameters: dict[str, str] = field(default_factory=dict)
    rows: dict[str, str] = field(default_factory=dict)

    def __bool__(self) -> bool:
        return bool(self.parts or self.nodes or self.parameters or self.rows)

    def told(self, text: str, speech: Speech) -> str:
        """The text with the new names in it."""
        match speech:
            case Speech.FORMULA:
                return _NAME.sub(lambda found: self._name(found[0]), text)
            case Speech.PROSE:
                return _NAME.sub(lambda f: self._name(f[0]) if _TELLING.match(f[0]) else f[0], text)
            case Speech.NODE:
                return self._node(text)
            case Speech.PLACE:
                return self.nodes.get(text) or self._part(text)
            case Speech.PART:
                return self._part_or_parameter(text)
            case Speech.SUM:
                if text.startswith(AT):
                    return AT + self._node(text.removeprefix(AT))
                if text.startswith(ROUND):
                    return ROUND + AND.join(map(self._part, text.removeprefix(ROUND).split(AND)))
                return text

    def _name(self, name: str) -> str:
        known = self.parameters.get(name) or self.rows.get(name)
        if known:
            return known
        letter, underscore, subject = name.partition("_")
        if underscore and letter == "V":
            return f"V_{self._node(subject)}"
        if underscore and letter in ("I", "P"):
            return f"{letter}_{self._part(subject)}"
        return self._part(name)

    def _part_or_parameter(self, text: str) -> str:
        exact = self.parameters.get(text) or self._part(text)
        if exact != text:
            return exact
        return next((new for old, new in self.parts.items() if old.lower() == text.lower()), text)

    def _part(self, name: str) -> str:
        """Of a part, a pin of one, or a part within a block: whatever stands in front decides."""
        steps = name.split(".")
        for count in range(len(steps), 0, -1):
            front = ".".join(steps[:count])
            if front in self.parts:
                return ".".join([self.parts[front], *steps[count:]])
        return name

    def _node(self, name: str) -> str:
        if name in self.nodes:
            return self.nodes[name]
        return self._part(name) if "." in name else name


def rename(
    document: Exercise, renamings: Iterable[Renaming], settings: SettingReads
) -> list[Change]:
    """The changes that carry out all of them at once. Raises DocumentError, naming what is wrong.

    `settings` tells how each setting of each analysis names things.
    """
    renamings = list(renamings)
    own: dict[str, _Names] = {}
    changes: list[Change] = []
    for renaming in renamings:
        changes += _given(document, renaming, own.setdefault(renaming.sheet, _Names()))
    _refuse_double(document, renamings)
    seen = {sheet: _seen_from(document, sheet, own) for sheet in _sheets(document)}
    for mention in mentions(document, settings):
        names = seen[mention.sheet]
        if names:
            text = names.told(mention.text, mention.speech)
            if text != mention.text:
                changes.append(Change(op="replace", path=mention.path, value=text))
    changes += _of_uses(document, own, seen)
    return [*changes, *_still_current(document, changes)]


def _still_current(document: Exercise, changes: list[Change]) -> Iterator[Change]:
    """A value kept with the circuit as it is belongs to it under the new names too."""
    if not any(row.pinned for row in document.ledger):
        return
    before, after = _fingerprint(document), _fingerprint(patched(document, changes))
    for k, row in enumerate(document.ledger):
        if row.pinned and row.pinned.fingerprint == before:
            yield Change(op="replace", path=f"/ledger/{k}/pinned/fingerprint", value=after)


def _fingerprint(document: Exercise) -> str:
    drawing = drawing_of(document)
    return drawing.circuit.fingerprint


def _sheets(document: Exercise) -> dict[str, Schematic]:
    return {"": document.schematic, **{block.id: block.schematic for block in document.blocks}}


def _place(document: Exercise, sheet: str) -> tuple[str, Schematic, list[NamedValue]]:
    """(path, drawing, parameters) of a sheet. Raises DocumentError."""
    if not sheet:
        return "", document.schematic, document.parameters
    for k, block in enumerate(document.blocks):
        if block.id == sheet:
            return f"/blocks/{k}", block.schematic, block.parameters
    raise DocumentError("The block it stands in is gone.")


def _given(document: Exercise, renaming: Renaming, names: _Names) -> Iterator[Change]:
    """The changes where the name itself is given, which `names` notes. Raises DocumentError."""
    at, schematic, parameters = _place(document, renaming.sheet)
    new = renaming.name.strip()
    if not new:
        raise DocumentError("A name is missing.")
    match renaming.what:
        case "part":
            k, part = _by_id(schematic.parts, renaming.which)
            names.parts[part.name] = new
            yield Change(op="replace", path=f"{at}/schematic/parts/{k}/name", value=new)
        case "node":
            names.nodes[renaming.which] = new
            for k, label in enumerate(schematic.labels):
                if label.name == renaming.which:
                    yield Change(op="replace", path=f"{at}/schematic/labels/{k}/name", value=new)
        case "parameter":
            k, named = _by_id(parameters, renaming.which)
            names.parameters[named.name] = new
            yield Change(op="replace", path=f"{at}/parameters/{k}/name", value=new)
        case "row":
            if not NAME.fullmatch(new):
                raise DocumentError(f"{NAME_RULE.capitalize()}.")
            k, row = _by_id(document.ledger, renaming.which)
            names.rows[row.name] = new
            yield Change(op="replace", path=f"/ledger/{k}/name", value=new)


def _by_id(things: Sequence[Thing], identity: str) -> tuple[int, Thing]:
    for k, thing in enumerate(things):
        if thing.id == identity:
            return k, thing
    raise DocumentError("What shall be renamed is gone.")


def _refuse_double(document: Exercise, renamings: list[Renaming]) -> None:
    """Two things of one name could never be told apart again."""
    for sheet in {renaming.sheet for renaming in renamings}:
        _, schematic, parameters = _place(document, sheet)
        named = {
            "part": {part.id: part.name for part in schematic.parts if part.kind != "ground"},
            "parameter": {each.id: each.name for each in parameters},
            "row": {row.id: row.name for row in document.ledger},
        }
        asked = [r for r in renamings if r.sheet == sheet and r.what in named]
        for renaming in asked:
            named[renaming.what][renaming.which] = renaming.name.strip()
        for renaming in asked:
            new = renaming.name.strip()
            others = named[renaming.what]
            if any(o != renaming.which and n.lower() == new.lower() for o, n in others.items()):
                raise DocumentError(f"{new} is the name of another {renaming.what} already.")


def _seen_from(document: Exercise, sheet: str, own: Mapping[str, _Names]) -> _Names:
    """What is renamed as a sheet names it: its own, and behind a dot that of the blocks on it."""
    direct = own.get(sheet) or _Names()
    names = _Names(dict(direct.parts), dict(direct.nodes), dict(direct.parameters), direct.rows)
    if sheet:  # a block sees the circuit's parameters, but for those it has itself
        _, _, inner = _place(document, sheet)
        outer = own.get("") or _Names()
        hidden = {named.name for named in inner}
        names.parameters |= {o: n for o, n in outer.parameters.items() if o not in hidden}
    for path, block in _uses(document, _sheets(document)[sheet], ()):
        inside = own.get(block)
        if inside:
            names.parts |= {f"{path}.{old}": f"{path}.{new}" for old, new in inside.parts.items()}
            names.nodes |= {f"{path}.{old}": f"{path}.{new}" for old, new in inside.nodes.items()}
    # A block renamed together with what is in it takes that along.
    for which in (names.parts, names.nodes):
        for old, new in which.items():
            front, dot, last = new.rpartition(".")
            if dot:
                which[old] = f"{_Names(parts=direct.parts)._part(front)}.{last}"
    return names


def _uses(
    document: Exercise, schematic: Schematic, around: tuple[str, ...]
) -> Iterator[tuple[str, str]]:
    """(names of uses with dots between, block) of every use of a block, however deep."""
    blocks: dict[str, Block] = {block.id: block for block in document.blocks}
    for part in schematic.parts:
        block = blocks.get(part.block)
        if block is None or block.id in around:
            continue
        yield part.name, block.id
        for path, deeper in _uses(document, block.schematic, (*around, block.id)):
            yield f"{part.name}.{path}", deeper


def _of_uses(
    document: Exercise, own: Mapping[str, _Names], seen: Mapping[str, _Names]
) -> Iterator[Change]:
    """A block's parameter is the key of a value in each of its uses."""
    for sheet, names in seen.items():
        at, schematic, _ = _place(document, sheet)
        for k, part in enumerate(schematic.parts):
            inside = own.get(part.block) if part.block else None
            if inside and set(part.values) & set(inside.parameters):
                values = {
                    inside.parameters.get(key, key): names.told(text, Speech.FORMULA)
                    for key, text in part.values.items()
                }
                yield Change(op="replace", path=f"{at}/schematic/parts/{k}/values", value=values)
