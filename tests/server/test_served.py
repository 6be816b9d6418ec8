"""What a server has besides the page: the document's schema, its own description, and no more."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest
from django.test import Client
from jsonschema import Draft202012Validator

from lucidbench.__main__ import main as lucid
from lucidbench.server.openapi import described
from tests.serving import HOME, environment

EXAMPLES = sorted((HOME / "examples").glob("*.json"))
pytestmark = pytest.mark.django_db

ASK = """
import django
django.setup()
from django.test import Client
client = Client(HTTP_HOST="127.0.0.1")
print(client.get("/api/docs").status_code, client.get("/api/openapi.json").status_code)
print(client.get("/static/ninja/swagger-ui-init.js").status_code)
"""


@pytest.fixture(scope="module")
def schema() -> Draft202012Validator:
    answer = Client().get("/api/exercise.schema.json")
    assert answer.status_code == 200
    assert answer.headers["Content-Type"] == "application/schema+json"
    found = json.loads(answer.content)
    Draft202012Validator.check_schema(found)
    return Draft202012Validator(found)


@pytest.mark.parametrize("example", EXAMPLES, ids=lambda path: path.stem)
def test_every_demo_exercise_is_of_the_served_schema(
    schema: Draft202012Validator, example: Path
) -> None:
    schema.validate(json.loads(example.read_text()))


@pytest.mark.parametrize(
    ("way", "value"),
    [
        (["title"], 7),
        (["schematic", "parts", 0, "at"], "here"),
        (["schematic", "wires", 0, "points"], [[0, 0]]),
        (["version"], "two"),
    ],
)
def test_what_is_no_exercise_is_not(
    schema: Draft202012Validator, way: list[str | int], value: object
) -> None:
    document = json.loads((HOME / "examples" / "battery-sense.json").read_text())
    holder = document
    for step in way[:-1]:
        holder = holder[step]
    holder[way[-1]] = value
    assert not schema.is_valid(document)


def test_the_schema_is_written_by_a_command_too(
    schema: Draft202012Validator, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert lucid(["schema"]) == 0
    assert json.loads(capsys.readouterr().out) == schema.schema
    assert lucid(["schema", "-o", str(tmp_path / "schema.json")]) == 0
    assert json.loads((tmp_path / "schema.json").read_text()) == schema.schema
    assert lucid(["schema", "-o", str(tmp_path / "no" / "schema.json")]) == 1
    assert "No such file or directory" in capsys.readouterr().err


def test_the_description_tells_every_ask_of_the_line() -> None:
    from lucidbench.server.live.methods import METHODS

    told = described()
    line = told["components"]["schemas"]["Line"]["properties"]
    assert set(line) == set(METHODS)
    for name, method in METHODS.items():
        assert ("answer" in line[name]["properties"]) == (method.answer is not None)
    text = json.dumps(told)
    named = {ref.split('"')[0] for ref in text.split("#/components/schemas/")[1:]}
    assert named <= set(told["components"]["schemas"])  # every reference leads somewhere


@pytest.mark.parametrize(
    ("development", "statuses"), [("", "404 200\n404\n"), ("yes", "200 200\n200\n")]
)
def test_the_description_is_shown_in_development_alone(
    tmp_path: Path, development: str, statuses: str
) -> None:
    own = {
        **environment(),
        "LUCID_DATA": str(tmp_path),
        "DJANGO_SETTINGS_MODULE": "lucidbench.server.settings",
    }
    own["LUCID_DEVELOPMENT"] = development
    subprocess.run(
        [sys.executable, "manage.py", "migrate", "-v", "0"], cwd=HOME, env=own, check=True
    )
    told = subprocess.run(
        [sys.executable, "-c", ASK], capture_output=True, text=True, cwd=HOME, env=own
    )
    assert told.stdout == statuses, told.stderr
    assert not os.environ.get("LUCID_DEVELOPMENT")


def test_an_address_that_is_not_the_pages_is_not_there() -> None:
    client = Client()
    for path in (
        "/exercises/x",
        "/exercises/1/2/3",
        "/manage.py",
        "/static/../settings.py",
        "/api/nothing",
    ):
        assert client.get(path).status_code == 404, path
