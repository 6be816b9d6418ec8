"""Keeping exercises: revisions, clashes, deletion, refusals, and the look as the page asks for it."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path
from typing import Any

import pytest
from django.test import Client

from lucidbench.core.document.exercise import Exercise as Document
from lucidbench.server.api import api
from lucidbench.server.demo import load_examples
from lucidbench.server.models import Exercise, Revision

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


def test_what_was_kept_as_version_1_opens_and_is_saved_as_2_at_the_next_edit(
    client: Client,
) -> None:
    folder = HOME / "tests" / "core" / "documents" / "version-1"
    old = json.loads((folder / "everything.json").read_text())
    kept = Exercise.objects.create()
    for number, title in ((1, "First"), (2, "Second")):
        kept.revisions.create(number=number, document={**old, "title": title})
    path = f"/exercises/{kept.pk}"
    _, opened = call(client, "GET", path)
    assert (opened["document"]["version"], opened["document"]["title"]) == (2, "Second")
    assert kept.latest.document["version"] == 1  # opening is no edit
    document = {**opened["document"], "title": "Third"}
    assert call(client, "PUT", path, {"based_on": 2, "document": document})[0] == 200
    assert kept.latest.document["version"] == 2
    _, first = call(client, "GET", f"{path}/revisions/1")
    assert (first["document"]["version"], first["document"]["title"]) == (2, "First")
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
    assert [c["title"] for c in call(client, "GET", "/exercises")[1]] == ["One (copy)"]
    assert [c["title"] for c in call(client, "GET", "/exercises?deleted=true")[1]] == ["One"]
    status, problem = call(client, "GET", path)
    assert (status, problem["title"]) == (404, "Not there")
    assert call(client, "POST", f"{path}/restore")[0] == 204
    assert call(client, "GET", path)[0] == 200


def test_the_notebook_says_how_much_agrees(client: Client) -> None:
    load_examples()
    cards = {card["title"]: card for card in call(client, "GET", "/exercises")[1]}
    assert (cards["Battery sense"]["compared"], cards["Battery sense"]["agreeing"]) == (4, 4)
    assert cards["Level bridge"]["parts"] == 8
    assert load_examples() == 0


def test_a_look_is_kept_nowhere(client: Client) -> None:
    example = json.loads((HOME / "examples" / "battery-sense.json").read_text())
    status, seen = call(client, "POST", "/look", {"document": example})
    assert status == 200
    out = next(row for row in seen["ledger"] if row["quantity"] == "V_out")
    assert (out["hand"], out["simulated"], out["verdict"]) == ("2.679\u00a0V",) * 2 + ("agree",)
    assert not Revision.objects.exists()
    # After an edit, what is as before is told by its places in the look before; without one, in full.
    change = {"op": "replace", "path": "/schematic/parts/0/values/voltage", "value": "9 V"}
    asked = {"since": seen["mark"], "changes": [change]}
    _, next_ = call(client, "POST", "/look", asked)
    assert next_["since"] == seen["mark"]
    assert next_["nets"] == [{"first": 0, "end": len(seen["nets"])}]
    changed, rest = next_["parts"]
    assert changed["id"] == example["schematic"]["parts"][0]["id"]
    assert rest == {"first": 1, "end": len(seen["parts"])}
    example["schematic"]["parts"][0]["values"]["voltage"] = "9 V"
    _, whole = call(client, "POST", "/look", {"document": example})
    assert changed == whole["parts"][0]
    assert (whole["since"], whole["nets"]) == (None, seen["nets"])
    status, problem = call(client, "POST", "/look", {**asked, "since": "forgotten"})
    assert (status, problem["title"]) == (410, "Forgotten")
    change["path"] = "/schematic/parts/99/values/voltage"
    status, problem = call(client, "POST", "/look", asked)
    assert (status, problem["detail"]) == (
        422,
        "The document has nothing to change at schematic → parts → 99 → values → voltage.",
    )


def test_runs_are_carried_out_and_kept_nowhere(client: Client) -> None:
    load_examples()
    listed = call(client, "GET", "/exercises")[1]
    identity = next(card["id"] for card in listed if card["title"] == "Anti-alias ladder")
    document = call(client, "GET", f"/exercises/{identity}")[1]["document"]
    document["runs"] = [{"id": "r1", "analysis": "transient"}, {"id": "r2", "analysis": "guess"}]
    status, look = call(client, "POST", "/run", {"document": document, "run": "r1"})
    assert status == 200
    assert look["curves"][0]["text"] == "V_out"
    asked = json.dumps({"result": look["result"]})
    table = client.post("/api/result/csv", asked, content_type="application/json")
    assert table.headers["Content-Type"].startswith("text/csv")
    assert table.content.decode().startswith("t [s],V_out [V],")
    status, told = call(client, "POST", "/run", {"document": document, "run": "r9"})
    assert (status, told["detail"]) == (422, "The exercise has no run r9.")
    # A result looked at closer is the one that was solved, whatever the document says by now.
    middle = look["x"][len(look["x"]) // 2]
    window = [0.99 * middle, 1.01 * middle]
    status, near = call(client, "POST", "/result", {"result": look["result"], "window": window})
    assert (status, near["circuit"], near["fingerprint"]) == (
        200, look["circuit"], look["fingerprint"],
    )  # fmt: skip
    assert call(client, "POST", "/result", {"result": "gone"})[0] == 410
    assert (
        "no analysis called guess"
        in call(client, "POST", "/run", {"document": document, "run": "r2"})[1]["problem"]
    )
    assert Revision.objects.filter(exercise=identity).count() == 1
    offered = {each["key"]: each for each in call(client, "GET", "/analyses")[1]}
    assert {"transient", "frequency_sweep", "dc_sweep", "symbolic"} <= set(offered)


@pytest.mark.parametrize(
    ("body", "status", "says"),
    [
        ({"schematic": {"parts": [{"id": "a"}]}}, 422, "schematic → parts → 0 → kind"),
        ({"schematic": {"wires": [{"id": "w", "points": [[0, 0]]}]}}, 422, "points"),
        ({"version": 3}, 422, "version"),
        ({"purpose": "x" * 6_000_000}, 413, "larger than 5 MB"),
    ],
)
def test_bad_documents_are_refused_in_a_sentence(
    client: Client, body: object, status: int, says: str
) -> None:
    answered, problem = call(client, "POST", "/look", {"document": body})
    assert (answered, problem["status"]) == (status, status)
    assert says in problem["detail"]


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
        json.dumps(api.get_openapi_schema())
    ), "renew it: ./lucid types"
    made = tmp_path / "schema.d.ts"
    tool = HOME / "web" / "node_modules" / ".bin" / "openapi-typescript"
    subprocess.run([tool, committed / "openapi.json", "--output", made], check=True, timeout=120)
    assert made.read_text() == (committed / "schema.d.ts").read_text(), "renew it: ./lucid types"


def test_document_defaults_make_an_empty_exercise() -> None:
    assert Document().schematic.parts == []
