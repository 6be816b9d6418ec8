"""What a page asks while it draws: every answer follows from what is sent alone."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Router

from lucidbench.core.devices import CATALOGUE
from lucidbench.core.document.exercise import schema
from lucidbench.core.document.importing import Imported, read_any
from lucidbench.core.evaluate.tables import COLUMNS, LEDGER_EXPORTS
from lucidbench.core.runs import Analysis, offered
from lucidbench.core.runs.files import EXPORTS, Export
from lucidbench.core.schematic import Interpretation, interpret
from lucidbench.core.schematic.blocks import SIDES, NewBlock, laid_out, make_block
from lucidbench.core.schematic.flatten import named_values
from lucidbench.core.schematic.kinds import BLOCK, KindLook, described, kind_look, kinds_with
from lucidbench.core.schematic.preview import WavePreview, preview
from lucidbench.core.schematic.recorded import Recorded, recorded
from lucidbench.core.schematic.waveforms import with_waveform
from lucidbench.server.drawing.schemas import (
    BlockAsked,
    ExportLook,
    Exports,
    ImportAsked,
    PortSides,
    PortsLaid,
    Previewed,
    Reshaped,
    Starter,
    TableAsked,
    TypedText,
)
from lucidbench.server.exercises.demo import examples
from lucidbench.server.problems import Problem

router = Router(tags=["drawing"])


@router.get("/catalogue", response=list[KindLook])
def catalogue(request: HttpRequest) -> list[KindLook]:
    """Every kind of part, with its symbol, pins and parameters."""
    return [kind_look(key, description) for key, description in CATALOGUE.items()]


@router.get("/exercise.schema.json", include_in_schema=False)
def document_schema(request: HttpRequest) -> HttpResponse:
    """The JSON Schema of the exercise document."""
    return HttpResponse(schema(), content_type="application/schema+json")


@router.get("/analyses", response=list[Analysis])
def analyses(request: HttpRequest) -> list[Analysis]:
    """Every analysis a run may be of, with what it is told."""
    return offered()


@router.get("/exports", response=Exports)
def exports(request: HttpRequest) -> Exports:
    """The forms that files have."""
    return Exports(runs=_looks(EXPORTS), ledgers=_looks(LEDGER_EXPORTS), columns=COLUMNS)


def _looks(forms: Mapping[str, Export[Any]]) -> list[ExportLook]:
    return [
        ExportLook(form=form, label=each.label, of_curves=each.of_curves)
        for form, each in forms.items()
    ]


@router.post("/interpret", response=Interpretation)
def interpret_text(request: HttpRequest, typed: TypedText) -> Interpretation:
    """What a text typed on the sheet would place."""
    return interpret(typed.text)


@router.post("/waveform", response=WavePreview)
def waveform(request: HttpRequest, asked: Previewed) -> WavePreview:
    """What a drawn source will do in time."""
    known, _ = named_values({named.name: named.text for named in asked.parameters})
    return preview(asked.part, known)


@router.post("/waveform/other", response=dict[str, str])
def other_waveform(request: HttpRequest, asked: Reshaped) -> dict[str, str]:
    """The values of a source that is given another waveform."""
    return with_waveform(asked.part, asked.form)


@router.post("/recorded", response={200: Recorded, 422: Problem})
def recorded_table(request: HttpRequest, asked: TableAsked) -> Recorded:
    """What a source has to be told to repeat a column of a table."""
    return recorded(asked.text, asked.column)


@router.post("/block", response={200: NewBlock, 422: Problem})
def block_of(request: HttpRequest, asked: BlockAsked) -> NewBlock:
    """Turn what is chosen on a sheet into a block, and put one in its place."""
    kinds = kinds_with(asked.blocks)
    return make_block(asked.schematic, set(asked.chosen), asked.name, asked.identity, kinds)


@router.post("/block/ports", response=PortsLaid)
def ports_of(request: HttpRequest, sides: PortSides) -> PortsLaid:
    """Where ports come to lie around a block's frame; pins keep their order, so wires keep theirs."""
    order = {port.name: k for k, port in enumerate(sides.block.ports)}
    by_side = {side: getattr(sides, side) for side in SIDES}
    ports = sorted(laid_out(by_side), key=lambda port: order.get(port.name, len(order)))
    block = sides.block.model_copy(update={"ports": ports})
    return PortsLaid(ports=ports, kind=kind_look(f"{BLOCK} {block.id}", described(block)))


@router.get("/starters", response=list[Starter])
def starters(request: HttpRequest) -> list[Starter]:
    """The demo exercises, to begin one's own from."""
    return [Starter(title=d.title, purpose=d.purpose, document=d) for d in examples()]


@router.post("/import", response={200: Imported, 422: Problem})
def import_text(request: HttpRequest, asked: ImportAsked) -> Imported:
    """Read a document or a netlist from elsewhere; nothing is stored."""
    return read_any(asked.text, asked.name)
