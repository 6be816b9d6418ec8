"""Accounts as a server's owner gives them: password rules, closing, the admin site, what is purged."""

from __future__ import annotations

import io
import subprocess
import sys
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from django.core.management import CommandError, call_command
from django.test import Client
from django.utils import timezone

from lucidbench.core.document.exercise import Exercise as Document
from lucidbench.server.accounts.models import User
from lucidbench.server.exercises.models import DELETED_ARE_KEPT, Exercise, Numbers, Revision, purge
from tests.serving import HOME, environment

pytestmark = pytest.mark.django_db
GOOD = "tides turn twice a day"


def account(
    monkeypatch: pytest.MonkeyPatch, name: str, password: str = GOOD, **options: bool
) -> str:
    """What the command prints. Raises CommandError."""
    monkeypatch.setattr("sys.stdin", io.StringIO(password + "\n"))
    printed = io.StringIO()
    call_command("account", name, stdout=printed, **options)
    return printed.getvalue()


@pytest.mark.parametrize(
    ("password", "says"),
    [
        ("short", "at least 8 characters"),
        ("", "at least 8 characters"),
        ("password1", "too common"),
        ("8460275931", "entirely numeric"),
        ("skerrywatch", "similar to the username"),
    ],
)
def test_a_password_that_is_easily_guessed_is_refused(
    monkeypatch: pytest.MonkeyPatch, password: str, says: str
) -> None:
    with pytest.raises(CommandError, match=says):
        account(monkeypatch, "skerrywatch", password)
    assert not User.objects.exists()  # nothing half done


def test_a_name_that_cannot_be_one_is_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    with pytest.raises(CommandError, match="username"):
        account(monkeypatch, "a b")
    with pytest.raises(CommandError, match="no account called eve"):
        account(monkeypatch, "eve", close=True)


def test_an_account_is_given_another_password_closed_and_opened_again(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    assert "can sign in" in account(monkeypatch, "ada")
    account(monkeypatch, "ada", "neaps and springs")
    assert Client().login(username="ada", password="neaps and springs")
    assert not Client().login(username="ada", password=GOOD)
    assert "no longer" in account(monkeypatch, "ada", close=True)
    assert not Client().login(username="ada", password="neaps and springs")
    account(monkeypatch, "ada")
    assert Client().login(username="ada", password=GOOD)


def test_a_refused_password_leaves_the_earlier_one(monkeypatch: pytest.MonkeyPatch) -> None:
    account(monkeypatch, "ada")
    with pytest.raises(CommandError):
        account(monkeypatch, "ada", "short")
    assert Client().login(username="ada", password=GOOD)


def test_the_owner_alone_uses_the_admin_site(monkeypatch: pytest.MonkeyPatch) -> None:
    account(monkeypatch, "owner", owner=True)
    account(monkeypatch, "ada")
    Exercise.begin(Document(title="Tide gauge"), User.objects.get(username="ada"))
    owner, ada = Client(), Client()
    assert owner.login(username="owner", password=GOOD)
    assert ada.login(username="ada", password=GOOD)
    assert ada.get("/admin/").status_code == Client().get("/admin/").status_code == 302
    listed = owner.get("/admin/exercises/exercise/").content.decode()
    assert "Tide gauge" in listed
    assert owner.get("/admin/exercises/exercise/add/").status_code == 403
    assert "ada" in owner.get("/admin/accounts/user/").content.decode()
    style = owner.get("/static/admin/css/base.css")
    assert style.status_code == 200
    assert "unsafe" not in owner.get("/admin/").headers["Content-Security-Policy"]


def test_an_owner_sees_when_an_exercise_was_saved_and_nothing_without_a_use(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    account(monkeypatch, "owner", owner=True)
    exercise = Exercise.begin(Document(title="Tide gauge"))
    at = datetime(2031, 5, 4, 13, 7, tzinfo=UTC)
    Exercise.objects.filter(pk=exercise.pk).update(saved=at)
    owner = Client()
    assert owner.login(username="owner", password=GOOD)
    listed = owner.get("/admin/exercises/exercise/").content.decode()
    assert "May 4, 2031, 1:07 p.m." in listed  # UTC, wherever the server stands
    assert owner.get("/admin/auth/group/").status_code == 404


def deleted(title: str, days: float, **content: object) -> Exercise:
    exercise = Exercise.begin(Document.model_validate({"title": title, **content}))
    exercise.deleted = timezone.now() - timedelta(days=days)
    exercise.save()
    return exercise


def record(values: list[float]) -> dict[str, object]:
    column = {"quantity": "V_out", "unit": "V", "values": values}
    return {"id": "m", "name": "scope", "columns": [column]}


def test_what_was_deleted_long_ago_is_purged_and_nothing_else() -> None:
    shared, own = [float(k) for k in range(400)], [0.5 * k for k in range(400)]
    kept = Exercise.begin(Document.model_validate({"title": "Kept", "records": [record(shared)]}))
    recent = deleted("Recent", DELETED_ARE_KEPT.days - 1)
    old = deleted("Old", DELETED_ARE_KEPT.days + 1, records=[record(shared)])
    document = old.revision().document
    old.append(document.model_copy(update={"title": "Older"}).model_dump(mode="json"), None)
    other = deleted("Other", DELETED_ARE_KEPT.days + 40, records=[record(own)])
    before = Numbers.objects.count()
    assert purge() == 2
    assert set(Exercise.objects.values_list("pk", flat=True)) == {kept.pk, recent.pk}
    assert not Revision.objects.filter(exercise__in=[old.pk, other.pk]).exists()
    assert Numbers.objects.count() < before
    assert kept.revision().document.records[0].columns[0].values == shared
    assert purge() == 0


def test_the_purge_is_a_command_too() -> None:
    deleted("Old", DELETED_ARE_KEPT.days + 1)
    printed = io.StringIO()
    call_command("purge", stdout=printed)
    assert printed.getvalue().strip().endswith("1.")


def manage(data: Path, *words: str, **settings: str) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, str(HOME / "manage.py"), *words]
    own = {**environment(), "LUCID_DATA": str(data), **settings}
    return subprocess.run(
        command, capture_output=True, text=True, env=own, cwd=data.parent, timeout=120
    )


@pytest.mark.parametrize(
    "settings",
    [{}, {"LUCID_SHARED": "yes", "LUCID_HOSTS": "bench.example", "LUCID_TLS": "yes"}],
    ids=["loopback", "behind TLS"],
)
def test_the_settings_are_fit_to_deploy(tmp_path: Path, settings: dict[str, str]) -> None:
    found = manage(
        tmp_path / "data",
        "check",
        "--deploy",
        "--fail-level",
        "WARNING",
        **settings,
        PYTHONPATH=str(HOME),
    )
    assert found.returncode == 0, found.stderr
    assert not (tmp_path / "data").exists()  # settings that are imported write nothing
    assert not list(tmp_path.iterdir())
