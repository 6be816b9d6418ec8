"""Tables from instruments and spreadsheets, read while they are looked at; nothing is stored."""

from __future__ import annotations

from typing import Annotated

from django.http import HttpRequest
from ninja import File, Form, Router, Schema
from ninja.files import UploadedFile
from pydantic import ValidationError

from lucidbench.core.errors import DocumentError
from lucidbench.core.records.imported import ReadTable, TableChoices, imported
from lucidbench.core.records.table import LARGEST_TABLE
from lucidbench.core.runs.settings import Setting
from lucidbench.instruments.ways import WAYS
from lucidbench.server.problems import Problem

router = Router(tags=["records"])


class WayLook(Schema):
    """A way to measure, with what it is told."""

    key: str
    label: str
    answers: str
    settings: list[Setting]


@router.get("/ways", response=list[WayLook])
def ways(request: HttpRequest) -> list[WayLook]:
    """Every way to measure."""
    return [
        WayLook(key=way.key, label=way.label, answers=way.answers, settings=list(way.settings))
        for way in WAYS.values()
    ]


@router.post("/table", response={200: ReadTable, 422: Problem})
def table(
    request: HttpRequest,
    file: Annotated[UploadedFile, File()],
    choices: Annotated[str, Form()] = "{}",
    known: Annotated[str, Form()] = "",
) -> ReadTable:
    """What a table is understood as; `choices` tell it otherwise, `known` are quantities, with commas
    between."""
    if (file.size or 0) > LARGEST_TABLE:
        raise DocumentError(f"The table has more than {LARGEST_TABLE // 1_000_000} MB.")
    try:
        told = TableChoices.model_validate_json(choices)
    except ValidationError as error:
        raise DocumentError("What was chosen for the table cannot be read.") from error
    return imported(file.read(), told, [name for name in known.split(",") if name])
