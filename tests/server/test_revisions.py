"""Two pages on one exercise, saving, going back and deleting in any order: nothing kept is lost."""

from __future__ import annotations

import json
from typing import Any

import pytest
from django.db import transaction
from django.test import Client
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import (
    RuleBasedStateMachine,
    initialize,
    invariant,
    precondition,
    rule,
    run_state_machine_as_test,
)

from tests.depth import examples

PAGES = ("left", "right")
_titles = st.text("abcdefgh ", min_size=1, max_size=6)


class TwoPages(RuleBasedStateMachine):
    """What the server acknowledged is the model: `saved` by revision, and what each page builds on."""

    def __init__(self) -> None:
        super().__init__()
        self.client = Client()
        self.saved: dict[int, str] = {}
        self.based_on = dict.fromkeys(PAGES, 0)
        self.is_deleted = False
        self.copies = 0
        self.mark = transaction.savepoint()

    def teardown(self) -> None:
        transaction.savepoint_rollback(self.mark)

    def call(self, method: str, path: str, body: object = None) -> tuple[int, Any]:
        answer = self.client.generic(
            method, f"/api{path}", json.dumps(body), content_type="application/json"
        )
        return answer.status_code, json.loads(answer.content) if answer.content else None

    @property
    def latest(self) -> int:
        return max(self.saved)

    @initialize(title=_titles)
    def begin(self, title: str) -> None:
        _, opened = self.call("POST", "/exercises", {"document": {"title": title}})
        self.path = f"/exercises/{opened['id']}"
        self.saved[1] = title
        self.based_on = dict.fromkeys(PAGES, 1)

    @precondition(lambda self: not self.is_deleted)
    @rule(page=st.sampled_from(PAGES), title=_titles)
    def save(self, page: str, title: str) -> None:
        body = {"based_on": self.based_on[page], "document": {"title": title}}
        status, told = self.call("PUT", self.path, body)
        if self.based_on[page] == self.latest:
            assert (status, told["revision"]) == (200, self.latest + 1)
            self.saved[told["revision"]] = title
            self.based_on[page] = told["revision"]
        else:
            assert (status, told["latest"]) == (409, self.latest)

    @precondition(lambda self: not self.is_deleted)
    @rule(page=st.sampled_from(PAGES))
    def take_the_other(self, page: str) -> None:
        status, opened = self.call("GET", self.path)
        assert status == 200
        self.based_on[page] = opened["revision"]

    @precondition(lambda self: not self.is_deleted)
    @rule(page=st.sampled_from(PAGES), back=st.integers(0, 5))
    def go_back(self, page: str, back: int) -> None:
        number = max(1, self.latest - back)
        status, earlier = self.call("GET", f"{self.path}/revisions/{number}")
        assert (status, earlier["document"]["title"]) == (200, self.saved[number])
        body = {
            "based_on": self.based_on[page],
            "document": earlier["document"],
            "restores": number,
        }
        status, told = self.call("PUT", self.path, body)
        assert (status == 200) == (self.based_on[page] == self.latest)
        if status == 200:
            self.saved[told["revision"]] = self.saved[number]
            self.based_on[page] = told["revision"]

    @precondition(lambda self: not self.is_deleted)
    @rule()
    def delete(self) -> None:
        assert self.call("DELETE", self.path)[0] == 204
        self.is_deleted = True

    @precondition(lambda self: self.is_deleted)
    @rule(page=st.sampled_from(PAGES))
    def save_what_is_deleted(self, page: str) -> None:
        body = {"based_on": self.based_on[page], "document": {"title": "late"}}
        assert self.call("PUT", self.path, body)[0] == 404

    @precondition(lambda self: self.is_deleted)
    @rule()
    def bring_back(self) -> None:
        assert self.call("POST", f"{self.path}/restore")[0] == 204
        self.is_deleted = False

    @precondition(lambda self: not self.is_deleted)
    @rule()
    def duplicate(self) -> None:
        status, copy = self.call("POST", f"{self.path}/duplicate")
        assert (status, copy["revision"]) == (201, 1)
        self.copies += 1

    @invariant()
    def every_revision_is_as_it_was_acknowledged(self) -> None:
        if not self.saved or self.is_deleted:
            return
        _, now = self.call("GET", self.path)
        assert (now["revision"], now["document"]["title"]) == (self.latest, self.saved[self.latest])
        for number, title in self.saved.items():
            _, told = self.call("GET", f"{self.path}/revisions/{number}")
            assert told["document"]["title"] == title

    @invariant()
    def the_notebook_lists_what_there_is(self) -> None:
        if self.saved:
            listed = self.call("GET", "/exercises")[1]["total"]
            assert listed == self.copies + (not self.is_deleted)


@pytest.mark.django_db
def test_two_pages_save_undo_and_delete_in_any_order() -> None:
    run_state_machine_as_test(TwoPages, settings=settings(examples(8), stateful_step_count=15))
