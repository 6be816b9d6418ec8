"""Keeping exercises: revisions, clashes, deletion, refusals, and the look as the page asks for it."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path
from secrets import token_hex
from typing import Any

import pytest
from django.db import connection
from django.test import Client

from lucidbench.core.document.exercise import Exercise as Document
from lucidbench.server.exercises.demo import load_examples
from lucidbench.server.exercises.models import Exercise
from lucidbench.server.openapi import described

HOME = Path(__file__).parents[2]
pytestmark = pytest.mark.django_db


def call(client: Client, method: str, path: str, body: object = None) -> tuple[int, Any]:
    answer = client.generic(
        method, f"/api{path}", json.dumps(body), content_type="application/json"
    )
    return answer.status_code, json.loads(answer.content) if answer.content else None


def begun(client: Client, **fields: object) -> dict[str, Any]:
    status, opened = call(client, "POST", "/exercises", {"document": {"title": "One", **fields}})
    assert status == 201
    return opened


def listed(client: Client, **wanted: object) -> dict[str, Any]:
    return client.get("/api/exercises", wanted).json()


def titles(client: Client, **wanted: object) -> list[str]:
    return [card["title"] for card in listed(client, **wanted)["cards"]]


def test_saving_against_a_revision(client: Client) -> None:
    opened = begun(client)
    path = f"/exercises/{opened['id']}"
    document = {**opened["document"], "title": "Two", "later": "kept"}
    assert call(client, "PUT", path, {"based_on": 1, "document": document})[0] == 200
    status, clash = call(client, "PUT", path, {"based_on": 1, "document": opened["document"]})
    assert (status, clash["latest"]) == (409, 2)
    assert "changed elsewhere" in clash["detail"]
    _, now = call(client, "GET", path)
    assert (now["revision"], now["document"]["title"], now["document"]["later"]) == (
        2,
        "Two",
        "kept",
    )
    # Every revision is kept and can be had again.
    _, first = call(client, "GET", f"{path}/revisions/1")
    assert first["document"]["title"] == "One"
    assert [r["number"] for r in call(client, "GET", f"{path}/revisions")[1]] == [2, 1]


def test_what_was_kept_as_version_1_opens_and_is_saved_as_3_at_the_next_edit(
    client: Client,
) -> None:
    folder = HOME / "tests" / "core" / "documents" / "version-1"
    old = json.loads((folder / "everything.json").read_text())
    kept = Exercise.begin(Document())
    for title in ("First", "Second"):
        kept.append({**old, "title": title}, None)
    path = f"/exercises/{kept.pk}"
    _, opened = call(client, "GET", path)
    assert (opened["document"]["version"], opened["document"]["title"]) == (3, "Second")
    assert kept.revision().raw["version"] == 1  # opening is no edit
    document = {**opened["document"], "title": "Third"}
    assert call(client, "PUT", path, {"based_on": 3, "document": document})[0] == 200
    kept.refresh_from_db()
    assert kept.revision().raw["version"] == 3
    _, first = call(client, "GET", f"{path}/revisions/2")
    assert (first["document"]["version"], first["document"]["title"]) == (3, "First")
    assert len(first["document"]["ledger"]) == len(old["taken"])
    # A document of version 1 may be sent, too, to begin another exercise from.
    status, again = call(client, "POST", "/exercises", {"document": old})
    assert (status, again["document"]["measurements"][1]["figure"]["reading"]) == (
        201, "upper_cutoff",
    )  # fmt: skip


def test_deleting_duplicating_and_restoring(client: Client) -> None:
    opened = begun(client)
    path = f"/exercises/{opened['id']}"
    _, copy = call(client, "POST", f"{path}/duplicate")
    assert copy["document"]["title"] == "One (copy)"
    assert call(client, "DELETE", path)[0] == 204
    assert titles(client) == ["One (copy)"]
    assert titles(client, deleted="true") == ["One"]
    status, problem = call(client, "GET", path)
    assert (status, problem["title"]) == (404, "Not there")
    assert call(client, "POST", f"{path}/restore")[0] == 204
    assert call(client, "GET", path)[0] == 200


def test_the_notebook_says_how_much_agrees(client: Client) -> None:
    load_examples()
    cards = {card["title"]: card["picture"] for card in listed(client)["cards"]}
    assert (cards["Battery sense"]["compared"], cards["Battery sense"]["agreeing"]) == (5, 5)
    assert cards["Level bridge"]["parts"] == 8
    assert load_examples() == 0
    # After an edit the card shows the earlier drawing until there is time for the new.
    exercise = Exercise.objects.get(title="Battery sense")
    exercise.save_revision(Document(title="Battery sense", number="1"), 1, None)
    card = listed(client, find="battery")["cards"][0]
    assert (card["is_current"], card["picture"]["parts"]) == (True, 0)


def test_the_notebook_is_found_in_and_ordered(client: Client) -> None:
    for title, number, group in (("Zener", "10", "A"), ("Bridge", "2", "B"), ("filter", "x", "A")):
        begun(client, title=title, number=number, group=group, purpose=f"of {title} 50%")
    assert titles(client) == ["filter", "Bridge", "Zener"]
    assert titles(client, order="oldest") == ["Zener", "Bridge", "filter"]
    assert titles(client, order="title") == ["Bridge", "filter", "Zener"]
    assert titles(client, order="number") == ["Bridge", "Zener", "filter"]
    assert titles(client, order="group") == ["Zener", "filter", "Bridge"]
    assert titles(client, find="BRID of") == ["Bridge"]
    assert titles(client, find="50%") == titles(client)
    assert titles(client, find="%x") == titles(client, find="nothing") == []
    some = listed(client, order="title", first=1, count=1)
    assert (some["total"], some["first"], some["cards"][0]["title"]) == (3, 1, "filter")
    status, problem = call(client, "GET", "/exercises?order=colour")
    assert (status, problem["title"]) == (422, "Not understood")


@pytest.mark.parametrize(
    ("body", "status", "says"),
    [
        ({"schematic": {"parts": [{"id": "a"}]}}, 422, "schematic → parts → 0 → kind"),
        ({"schematic": {"wires": [{"id": "w", "points": [[0, 0]]}]}}, 422, "points"),
        ({"version": 4}, 422, "version"),
        ({"purpose": "x" * 6_000_000}, 413, "larger than 5 MB"),
    ],
)
def test_bad_documents_are_refused_in_a_sentence(
    client: Client, body: object, status: int, says: str
) -> None:
    answered, problem = call(client, "POST", "/exercises", {"document": body})
    assert (answered, problem["status"]) == (status, status)
    assert says in problem["detail"]


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize(
    ("pragma", "status", "says"),
    [
        ("max_page_count = 1", 507, "disk of the server is full"),  # SQLite then has no room
        ("query_only = on", 503, "may not write to its data folder"),
    ],
)
def test_what_cannot_be_kept_is_said_and_loses_nothing(
    client: Client, pragma: str, status: int, says: str
) -> None:
    opened = begun(client)
    path = f"/exercises/{opened['id']}"
    hand = [{"id": str(k), "text": "#" + token_hex(200)} for k in range(200)]
    document = {**opened["document"], "hand": hand}
    with connection.cursor() as cursor:
        cursor.execute(f"pragma {pragma}")
        answered, problem = call(client, "PUT", path, {"based_on": 1, "document": document})
        cursor.execute("pragma query_only = off")
        cursor.execute("pragma max_page_count = 1000000")
    assert answered == status
    assert says in problem["detail"]
    assert call(client, "GET", path)[1]["revision"] == 1
    assert call(client, "PUT", path, {"based_on": 1, "document": document})[0] == 200


def test_only_the_page_may_write() -> None:
    strict = Client(enforce_csrf_checks=True)
    status, problem = call(strict, "POST", "/exercises", {})
    assert status == 403
    assert "reload the page" in problem["detail"]
    assert Client().get("/api/catalogue", headers={"host": "elsewhere.example"}).status_code == 400


def test_the_page_may_load_its_own_files_only(client: Client) -> None:
    policy = client.get("/api/catalogue").headers["Content-Security-Policy"]
    assert "default-src 'self'" in policy
    assert "unsafe" not in policy


def test_the_pages_types_are_current(tmp_path: Path) -> None:
    """The description and the types made of it are what the server says now."""
    committed = HOME / "web" / "src" / "api"
    assert json.loads((committed / "openapi.json").read_text()) == json.loads(
        json.dumps(described())
    ), "renew it: ./lucid types"
    made = tmp_path / "schema.d.ts"
    tool = HOME / "web" / "node_modules" / ".bin" / "openapi-typescript"
    subprocess.run([tool, committed / "openapi.json", "--output", made], check=True, timeout=120)
    assert made.read_text() == (committed / "schema.d.ts").read_text(), "renew it: ./lucid types"


def test_document_defaults_make_an_empty_exercise() -> None:
    assert Document().schematic.parts == []
