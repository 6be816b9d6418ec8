"""Every text of a document that speaks of a part, a node or a parameter by its name."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from enum import Enum

from lucidbench.core.document.exercise import Case, Exercise, Recipe, Record, Run
from lucidbench.core.document.figure import Figure
from lucidbench.core.schematic.document import Block, NamedValue, Schematic
from lucidbench.core.schematic.kinds import Kinds, kind_of_part, kinds_with

# How a setting of a run is read, by the key of its analysis and its own.
SettingReads = Mapping[str, Mapping[str, str]]


# How a Kirchhoff sum is told: "at out", or "round V1, R1, C1".
AT, ROUND, AND = "at ", "round ", ", "


class Speech(Enum):
    """How a text names things."""

    FORMULA = "formula"  # of V_<node>, I_<part>, P_<part>, parts and parameters
    PART = "part"  # the name of a part or parameter, and nothing else
    NODE = "node"  # the name of a node, and nothing else
    PLACE = "place"  # the name of a node, of a part or of a pin of one
    SUM = "sum"  # AT and a node, or ROUND and parts with AND between
    PROSE = "prose"  # words, among which such names may stand


_OF_SETTINGS = {
    "source": Speech.PART, "swept": Speech.PART, "varied": Speech.PART, "node": Speech.NODE,
    "terminals": Speech.NODE,
    "output": Speech.NODE, "trace": Speech.FORMULA, "voltages": Speech.FORMULA, "sum": Speech.SUM,
}  # fmt: skip


# How the settings of a recipe name things; the others name nothing.
_OF_RECIPES = {
    "at": Speech.PLACE, "at_1": Speech.PLACE, "at_2": Speech.PLACE, "against": Speech.NODE,
    "source": Speech.PART, "part": Speech.PART,
}  # fmt: skip


@dataclass(frozen=True)
class Mention:
    """`path` is a JSON Pointer (RFC 6901); `sheet` the block whose drawing it stands in, "" for the
    exercise's own, which all that is no drawing speaks of."""

    path: str
    text: str
    speech: Speech
    sheet: str = ""


def mentions(document: Exercise, settings: SettingReads) -> Iterator[Mention]:
    """All of them; not the names themselves where they are given."""
    kinds = kinds_with(document.blocks)
    yield from _of_drawing(document.schematic, document.parameters, kinds, "", "")
    for k, block in enumerate(document.blocks):
        yield from _of_block(block, kinds, f"/blocks/{k}")
    for k, case in enumerate(document.cases):
        yield from _of_case(case, f"/cases/{k}")
    for k, line in enumerate(document.hand):
        spoken = Speech.FORMULA if line.role == "line" else Speech.PROSE
        yield Mention(f"/hand/{k}/text", line.text, spoken)
    for k, run in enumerate(document.runs):
        yield from _of_run(run, settings.get(run.analysis, {}), f"/runs/{k}")
    for k, record in enumerate(document.records):
        yield from _of_record(record, f"/records/{k}")
    for k, measurement in enumerate(document.measurements):
        yield from _of_figure(measurement.figure, f"/measurements/{k}/figure")
        yield from _of_recipe(measurement.recipe, f"/measurements/{k}/recipe")
    for k, fault in enumerate(document.build.faults):
        if fault.node:
            yield Mention(f"/build/faults/{k}/node", fault.node, Speech.NODE)
    for k, row in enumerate(document.ledger):
        yield from _of_figure(row.figure, f"/ledger/{k}/figure")
        yield Mention(f"/ledger/{k}/label", row.label, Speech.PROSE)
        yield Mention(f"/ledger/{k}/name", row.name, Speech.FORMULA)


def _of_case(case: Case, at: str) -> Iterator[Mention]:
    for m, change in enumerate(case.changes):
        yield Mention(f"{at}/changes/{m}/text", change.text, Speech.FORMULA)
        for key, text in change.values.items():
            yield Mention(f"{at}/changes/{m}/values/{_escaped(key)}", text, Speech.FORMULA)


def _of_run(run: Run, reads: Mapping[str, str], at: str) -> Iterator[Mention]:
    for key, text in run.settings.items():
        speech = _OF_SETTINGS.get(reads.get(key, ""))
        if speech:
            yield Mention(f"{at}/settings/{_escaped(key)}", text, speech)
    for m, note in enumerate(run.notes):
        yield Mention(f"{at}/notes/{m}/curve", note.curve, Speech.FORMULA)
        yield Mention(f"{at}/notes/{m}/text", note.text, Speech.PROSE)
    for m, marker in enumerate(run.markers):
        yield Mention(f"{at}/markers/{m}/curve", marker.curve, Speech.FORMULA)
    plots = {f"plots/{m}": group for m, group in enumerate(run.plots)}
    for where, texts in {"show": run.show, **plots, "aside": run.aside}.items():
        for m, text in enumerate(texts):
            yield Mention(f"{at}/{where}/{m}", text, Speech.FORMULA)


def _of_record(record: Record, at: str) -> Iterator[Mention]:
    earlier = {f"earlier/{m}": columns for m, columns in enumerate(record.earlier)}
    for where, columns in {"columns": record.columns, **earlier}.items():
        for m, column in enumerate(columns):
            yield Mention(f"{at}/{where}/{m}/quantity", column.quantity, Speech.FORMULA)
    yield from _of_recipe(record.recipe, f"{at}/recipe")


def _of_recipe(recipe: Recipe | None, at: str) -> Iterator[Mention]:
    for key, text in (recipe.settings if recipe else {}).items():
        if key in _OF_RECIPES and text:
            yield Mention(f"{at}/settings/{_escaped(key)}", text, _OF_RECIPES[key])


# The field by which a figure names things, where it does; words among which names may stand last.
_OF_FIGURES = {
    "rest": ("quantity", Speech.FORMULA), "curve": ("curve", Speech.FORMULA),
    "marker": ("curve", Speech.FORMULA), "cell": ("subject", Speech.FORMULA),
    "part": ("part", Speech.PART), "formula": ("formula", Speech.FORMULA),
    "taken": ("words", Speech.PROSE),
}  # fmt: skip


def _of_figure(figure: Figure, at: str) -> Iterator[Mention]:
    if figure.of in _OF_FIGURES:
        field, speech = _OF_FIGURES[figure.of]
        yield Mention(f"{at}/{field}", getattr(figure, field), speech)


def _of_block(block: Block, kinds: Kinds, at: str) -> Iterator[Mention]:
    yield from _of_drawing(block.schematic, block.parameters, kinds, at, block.id)
    for k, port in enumerate(block.ports):
        yield Mention(f"{at}/ports/{k}/name", port.name, Speech.NODE, block.id)


def _of_drawing(
    schematic: Schematic, parameters: list[NamedValue], kinds: Kinds, at: str, sheet: str
) -> Iterator[Mention]:
    for k, named in enumerate(parameters):
        yield Mention(f"{at}/parameters/{k}/text", named.text, Speech.FORMULA, sheet)
    for k, part in enumerate(schematic.parts):
        description = kind_of_part(part, kinds)
        reads = {p.key: p.reads for p in description.parameters} if description else {}
        for key, text in part.values.items():
            how = reads.get(key, "")
            if how == "points":
                continue
            speech = Speech.PART if how == "part" else Speech.FORMULA
            path = f"{at}/schematic/parts/{k}/values/{_escaped(key)}"
            yield Mention(path, text, speech, sheet)
    for k, note in enumerate(schematic.notes):
        yield Mention(f"{at}/schematic/notes/{k}/text", note.text, Speech.PROSE, sheet)


def _escaped(key: str) -> str:
    return key.replace("~", "~0").replace("/", "~1")
