"""The API. Looking is stateless; keeping names the revision it builds on."""

from __future__ import annotations

from datetime import datetime, timedelta
from functools import lru_cache

from django.core.exceptions import RequestDataTooBig
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import NinjaAPI, Status
from ninja.errors import ValidationError

from lucidbench import __version__
from lucidbench.core.devices import CATALOGUE
from lucidbench.core.document.exercise import Exercise as Document
from lucidbench.core.document.exercise import checked
from lucidbench.core.document.importing import Imported, read_any
from lucidbench.core.document.patch import Change, patched
from lucidbench.core.document.rename import rename
from lucidbench.core.errors import DocumentError, LucidError
from lucidbench.core.evaluate import EvaluationDelta, delta, evaluation_of
from lucidbench.core.netlist import write_netlist
from lucidbench.core.runs import (
    SETTING_READS,
    Analysis,
    Result,
    RunLook,
    as_csv,
    as_xlsx,
    offered,
    present,
    solve,
)
from lucidbench.core.schematic import Interpretation, interpret, read_drawing
from lucidbench.core.schematic.blocks import SIDES, NewBlock, laid_out, make_block
from lucidbench.core.schematic.flatten import named_values
from lucidbench.core.schematic.kinds import BLOCK, KindLook, described, kind_look, kinds_with
from lucidbench.core.schematic.preview import WavePreview, preview
from lucidbench.core.schematic.recorded import Recorded, recorded
from lucidbench.server.demo import examples
from lucidbench.server.models import Clash, Exercise, Revision
from lucidbench.server.remembered import Forgotten, Told, looks, results
from lucidbench.server.schemas import (
    BlockAsked,
    Card,
    ImportAsked,
    LookAsked,
    Opened,
    PortSides,
    PortsLaid,
    Previewed,
    Problem,
    Progress,
    RenameAsked,
    ResultAsked,
    RevisionOut,
    RunAsked,
    Save,
    Saved,
    Sent,
    Start,
    Starter,
    TableAsked,
    TypedText,
    WindowAsked,
)
from lucidbench.server.underway import cancel, followed, share_of

MOST_LISTED_REVISIONS = 200
DELETED_ARE_KEPT = timedelta(days=30)

api = NinjaAPI(title="Lucid Bench", version=__version__, docs_url=None)


def problem(
    request: HttpRequest, status: int, title: str, detail: str, latest: int | None = None
) -> HttpResponse:
    body = Problem(title=title, status=status, detail=detail, latest=latest)
    response = api.create_response(request, body.model_dump(exclude_none=True), status=status)
    response["Content-Type"] = "application/problem+json"
    return response


@api.exception_handler(ValidationError)
def _unreadable(request: HttpRequest, error: ValidationError) -> HttpResponse:
    first = error.errors[0]
    steps = [str(step) for step in first["loc"][2:]]
    place = " → ".join(steps[1:] if steps[:1] == ["document"] else steps) or "the body"
    return problem(request, 422, "Not understood", f"At {place}: {first['msg'].lower()}.")


@api.exception_handler(RequestDataTooBig)
def _too_big(request: HttpRequest, error: RequestDataTooBig) -> HttpResponse:
    return problem(request, 413, "Too large", "The document is larger than 5 MB.")


@api.exception_handler(Http404)
def _missing(request: HttpRequest, error: Http404) -> HttpResponse:
    return problem(request, 404, "Not there", "There is no such exercise, or it was deleted.")


@api.exception_handler(LucidError)
def _refused(request: HttpRequest, error: LucidError) -> HttpResponse:
    return problem(request, 422, "Not possible", str(error))


@api.exception_handler(Forgotten)
def _forgotten(request: HttpRequest, error: Forgotten) -> HttpResponse:
    detail = "What was meant is not remembered here any more; it has to be sent, or run, again."
    return problem(request, 410, "Forgotten", detail)


@api.exception_handler(Clash)
def _clash(request: HttpRequest, error: Clash) -> HttpResponse:
    detail = "This exercise was changed elsewhere since you opened it; your changes are still here."
    return problem(request, 409, "Changed elsewhere", detail, latest=error.latest.number)


@api.get("/catalogue", response=list[KindLook])
def catalogue(request: HttpRequest) -> list[KindLook]:
    """Every kind of part, with its symbol, pins and parameters."""
    return [kind_look(key, description) for key, description in CATALOGUE.items()]


def _document(asked: Sent) -> Document:
    """The document meant. Raises Forgotten where the one it is told since is remembered no more."""
    if asked.document is not None:
        return asked.document
    before = looks.get(asked.since)
    if before is None:
        raise Forgotten
    return patched(before.document, asked.changes)


@api.post("/look", response={200: EvaluationDelta, 410: Problem, 422: Problem})
def look_at(request: HttpRequest, asked: LookAsked) -> HttpResponse:
    """Nets, findings, operating point, worked lines and ledger of a document, which is kept nowhere.

    Told by what has changed since an earlier look, where one is named and still remembered.
    """
    document = _document(asked)
    told = looks.get(asked.since)
    seen = evaluation_of(document, asked.inside or None, asked.compared)
    mark = looks.keep(Told(document, seen))
    # Written out at once: the library would check the whole answer again, on every edit.
    answer = delta(seen, mark, told.look if told else None, asked.since)
    return HttpResponse(answer, content_type="application/json")


@api.post("/interpret", response=Interpretation)
def interpret_text(request: HttpRequest, typed: TypedText) -> Interpretation:
    """What a text typed on the sheet would place."""
    return interpret(typed.text)


@api.post("/waveform", response=WavePreview)
def waveform(request: HttpRequest, asked: Previewed) -> WavePreview:
    """What a drawn source will do in time."""
    known, _ = named_values({named.name: named.text for named in asked.parameters})
    return preview(asked.part, known)


@api.post("/recorded", response={200: Recorded, 422: Problem})
def recorded_table(request: HttpRequest, asked: TableAsked) -> Recorded:
    """What a source has to be told to repeat a column of a table."""
    return recorded(asked.text, asked.column)


@api.post("/rename", response={200: list[Change], 410: Problem, 422: Problem})
def rename_in(request: HttpRequest, asked: RenameAsked) -> list[Change]:
    """What gives things of a document other names, wherever it speaks of them; nothing is kept."""
    return rename(_document(asked), asked.renamings, SETTING_READS)


@api.get("/analyses", response=list[Analysis])
def analyses(request: HttpRequest) -> list[Analysis]:
    """Every analysis a run may be of, with what it is told."""
    return offered()


@api.post("/run", response={200: RunLook, 410: Problem, 422: Problem})
def run_of(request: HttpRequest, asked: RunAsked) -> HttpResponse:
    """A run of the document carried out: its curves, tables and readings. Its result is remembered for
    a while by the mark it is given."""
    document = _document(asked)
    run = next((run for run in document.runs if run.id == asked.run), None)
    if run is None:
        raise DocumentError(f"The exercise has no run {asked.run}.")
    with followed(asked.key) as watch:
        result = solve(document, run, watch)
    answer = present(result)
    if not answer.problem:
        answer.result = results.keep(result)
    return HttpResponse(answer.model_dump_json(), content_type="application/json")


def _result(asked: ResultAsked) -> Result:
    """The result meant. Raises Forgotten."""
    result = results.get(asked.result)
    if result is None:
        raise Forgotten
    return result


@api.post("/result", response={200: RunLook, 410: Problem})
def closer(request: HttpRequest, asked: WindowAsked) -> HttpResponse:
    """A part of a remembered result with all its points; nothing is solved again."""
    look = present(_result(asked), window=asked.window)
    look.result = asked.result
    return HttpResponse(look.model_dump_json(), content_type="application/json")


@api.get("/run/progress", response=Progress)
def progress(request: HttpRequest, key: str) -> Progress:
    """How far the run of that key has come."""
    return Progress(share=share_of(key))


@api.post("/run/cancel", response={204: None})
def cancel_run(request: HttpRequest, key: str) -> tuple[int, None]:
    """Stop the run of that key, if it is still under way; it answers that it was cancelled."""
    cancel(key)
    return 204, None


@api.post("/result/csv", response={200: None, 410: Problem})
def result_as_csv(request: HttpRequest, asked: ResultAsked) -> HttpResponse:
    """A result's curves with all their points, as comma-separated values (RFC 4180)."""
    told = as_csv(present(_result(asked), whole=True))
    return HttpResponse(told, content_type="text/csv; charset=utf-8")


@api.post("/result/xlsx", response={200: None, 410: Problem})
def result_as_xlsx(request: HttpRequest, asked: ResultAsked) -> HttpResponse:
    """A result's curves with all their points, its readings and tables, as a workbook (ISO/IEC 29500)."""
    return HttpResponse(
        as_xlsx(present(_result(asked), whole=True)),
        content_type="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    )


@api.post("/block", response={200: NewBlock, 422: Problem})
def block_of(request: HttpRequest, asked: BlockAsked) -> NewBlock:
    """Turn what is chosen on a sheet into a block, and put one in its place."""
    kinds = kinds_with(asked.blocks)
    return make_block(asked.schematic, set(asked.chosen), asked.name, asked.identity, kinds)


@api.post("/block/ports", response=PortsLaid)
def ports_of(request: HttpRequest, sides: PortSides) -> PortsLaid:
    """Where ports come to lie around a block's frame; pins keep their order, so wires keep theirs."""
    order = {port.name: k for k, port in enumerate(sides.block.ports)}
    by_side = {side: getattr(sides, side) for side in SIDES}
    ports = sorted(laid_out(by_side), key=lambda port: order.get(port.name, len(order)))
    block = sides.block.model_copy(update={"ports": ports})
    return PortsLaid(ports=ports, kind=kind_look(f"{BLOCK} {block.id}", described(block)))


@api.get("/starters", response=list[Starter])
def starters(request: HttpRequest) -> list[Starter]:
    """The demo exercises, to begin one's own from."""
    return [Starter(title=d.title, purpose=d.purpose, document=d) for d in examples()]


@api.post("/import", response={200: Imported, 422: Problem})
def import_text(request: HttpRequest, asked: ImportAsked) -> Imported:
    """Read a document or a netlist from elsewhere; nothing is stored."""
    return read_any(asked.text, asked.name)


@api.get("/exercises", response=list[Card])
def list_exercises(request: HttpRequest, deleted: bool = False) -> list[Card]:
    """The notebook: newest change first. With `deleted`, what was deleted lately instead."""
    exercises = Exercise.objects.all()
    if deleted:
        exercises = exercises.filter(deleted__gte=timezone.now() - DELETED_ARE_KEPT)
        return [_card(e) for e in exercises.order_by("-deleted")]
    kept = [_card(e) for e in exercises.filter(deleted=None)]
    return sorted(kept, key=lambda card: (card.number == "", _natural(card.number), card.id))


@api.post("/exercises", response={201: Opened})
def create_exercise(request: HttpRequest, start: Start) -> Status[Opened]:
    """Begin an exercise, empty or from a document."""
    exercise = Exercise.begin(start.document or Document(title="New exercise"))
    return Status(201, _opened(exercise.latest))


@api.get("/exercises/{identity}", response=Opened)
def open_exercise(request: HttpRequest, identity: int) -> Opened:
    return _opened(_kept(identity).latest)


@api.put("/exercises/{identity}", response={200: Saved, 409: Problem})
def save_exercise(request: HttpRequest, identity: int, save: Save) -> Saved:
    """Append a revision; refused with 409, and nothing changed, unless based on the latest."""
    revision = _kept(identity).save_revision(save.document, save.based_on, save.restores)
    return Saved(revision=revision.number, saved=revision.saved)


@api.post("/exercises/{identity}/duplicate", response={201: Opened})
def duplicate_exercise(request: HttpRequest, identity: int) -> Status[Opened]:
    document = checked(_kept(identity).latest.document)
    copy = document.model_copy(update={"title": f"{document.title} (copy)"[:120]})
    return Status(201, _opened(Exercise.begin(copy).latest))


@api.delete("/exercises/{identity}", response={204: None})
def delete_exercise(request: HttpRequest, identity: int) -> Status[None]:
    """Take it out of the notebook; `restore` brings it back."""
    exercise = _kept(identity)
    exercise.deleted = timezone.now()
    exercise.save(update_fields=["deleted"])
    return Status(204, None)


@api.post("/exercises/{identity}/restore", response={204: None})
def restore_exercise(request: HttpRequest, identity: int) -> Status[None]:
    exercise = get_object_or_404(Exercise, pk=identity)
    exercise.deleted = None
    exercise.save(update_fields=["deleted"])
    return Status(204, None)


@api.get("/exercises/{identity}/revisions", response=list[RevisionOut])
def list_revisions(request: HttpRequest, identity: int) -> list[RevisionOut]:
    """The latest revisions, newest first."""
    rows = _kept(identity).revisions.order_by("-number").defer("document")
    return [
        RevisionOut(number=row.number, saved=row.saved, restores=row.restores)
        for row in rows[:MOST_LISTED_REVISIONS]
    ]


@api.get("/exercises/{identity}/revisions/{number}", response=Opened)
def open_revision(request: HttpRequest, identity: int, number: int) -> Opened:
    return _opened(get_object_or_404(Revision, exercise=_kept(identity), number=number))


@api.get("/exercises/{identity}/netlist")
def download_netlist(request: HttpRequest, identity: int) -> HttpResponse:
    """The circuit as netlist text."""
    document = checked(_kept(identity).latest.document)
    drawing = read_drawing(document.schematic, document.title, document.parameters, document.blocks)
    response = HttpResponse(
        write_netlist(drawing.circuit), content_type="text/plain; charset=utf-8"
    )
    response["Content-Disposition"] = f'attachment; filename="exercise-{identity}.cir"'
    return response


@api.get("/exercises/{identity}/file")
def download(request: HttpRequest, identity: int) -> HttpResponse:
    """The exercise in its open file form."""
    document = checked(_kept(identity).latest.document)
    response = HttpResponse(document.model_dump_json(indent=1), content_type="application/json")
    response["Content-Disposition"] = f'attachment; filename="exercise-{identity}.json"'
    return response


def _kept(identity: int) -> Exercise:
    return get_object_or_404(Exercise, pk=identity, deleted=None)


def _natural(number: str) -> tuple[float, str]:
    try:
        return float(number), number
    except ValueError:
        return float("inf"), number


def _opened(revision: Revision) -> Opened:
    return Opened(
        id=revision.exercise_id,
        revision=revision.number,
        restores=revision.restores,
        saved=revision.saved,
        document=checked(revision.document),
    )


def _card(exercise: Exercise) -> Card:
    latest = exercise.revisions.order_by("-number").values_list("pk", "saved")[0]
    return _card_of(*latest)


@lru_cache(maxsize=1000)
def _card_of(revision_key: int, saved: datetime) -> Card:
    """Revisions never change, so a card is worked out once."""
    revision = Revision.objects.get(pk=revision_key, saved=saved)
    document = checked(revision.document)
    seen = evaluation_of(document)
    verdicts = [row.verdict for row in seen.ledger if row.verdict != "open"]
    return Card(
        id=revision.exercise_id,
        title=document.title,
        author=document.author,
        group=document.group,
        number=document.number,
        purpose=document.purpose,
        saved=revision.saved,
        schematic=document.schematic,
        joints=seen.joints,
        blocks=seen.blocks,
        parts=sum(part.kind != "ground" for part in document.schematic.parts),
        compared=len(verdicts),
        agreeing=verdicts.count("agree"),
        faults=sum(finding.severity == "fault" for finding in seen.findings),
    )
