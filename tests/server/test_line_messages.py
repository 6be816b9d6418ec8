"""Whatever a page may send on its line is answered, refused with a sentence, or ends the line alone."""

from __future__ import annotations

import json
from typing import Any

from hypothesis import given
from hypothesis import strategies as st
from websockets.exceptions import ConnectionClosed

from lucidbench.server.live.methods import METHODS
from tests.depth import examples
from tests.serving import HOME, Line, Server, line_to

BATTERY = json.loads((HOME / "examples" / "battery-sense.json").read_text())
FAULT, TOO_MANY = 500, 429
# What would measure, or work for long: those have tests of their own.
QUICK = sorted(
    set(METHODS) - {"take", "explain", "seek", "ledgers", "ledger_file", "seal", "unseal"}
)

_words = st.text(max_size=30)
_leaves = st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False) | _words
_json = st.recursive(
    _leaves,
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(_words, inner, max_size=3),
    max_leaves=6,
)


_steps = st.sampled_from(
    ["schematic", "parts", "wires", "0", "values", "resistance", "title", "", "-1", "99"]
)
_change = st.fixed_dictionaries(
    {
        "op": st.sampled_from(["add", "replace", "remove"]),
        "path": st.lists(_steps, max_size=5).map(lambda steps: "/" + "/".join(steps)),
    },
    optional={"value": _json},
)


def fields_of(ask: str) -> st.SearchStrategy[dict[str, Any]]:
    """A body that names the ask's own fields, each with anything, or with what belongs there."""
    anything = dict.fromkeys(METHODS[ask].body.model_fields, _json)
    return st.fixed_dictionaries({}, optional={**anything, "document": st.just(BATTERY) | _json})


@examples(60)
@given(ask=st.sampled_from(QUICK) | _words, data=st.data())
def test_any_body_is_answered_or_refused_in_a_sentence(
    server: Server, ask: str, data: st.DataObject
) -> None:
    body = data.draw(fields_of(ask) | _json if ask in METHODS else _json)
    with line_to(server) as line:
        status, told = line.ask(ask, body)
        assert status != FAULT, told
        if status >= 400 and status != TOO_MANY:
            assert told["detail"].strip().endswith(".")
        assert line.ask("ping", {})[0] == 200  # the line goes on


def pinged(line: Line) -> int:
    """The status of a ping, or the code that the line is closed with."""
    try:
        return line.ask("ping", {})[0]
    except ConnectionClosed as closed:
        return closed.rcvd.code if closed.rcvd else 1007


@examples(40)
@given(st.text(max_size=200) | st.binary(max_size=200) | _json.map(json.dumps))
def test_what_is_no_message_ends_its_line_and_no_other(server: Server, sent: str | bytes) -> None:
    with line_to(server) as line:
        line.socket.send(sent)
        assert pinged(line) in (200, 1007)
    with line_to(server) as other:
        assert other.ask("ping", {})[0] == 200


@examples(25)
@given(st.lists(_change, max_size=4))
def test_any_changes_of_a_document_are_understood_or_refused(
    server: Server, changes: list[Any]
) -> None:
    with line_to(server) as line:
        _, seen = line.ask("look", {"document": BATTERY})
        status, told = line.ask("look", {"since": seen["mark"], "changes": changes})
        assert status in (200, 410, 422), told
        assert line.ask("look", {"since": seen["mark"], "changes": []})[0] == 200  # as it was


@examples(8)
@given(
    st.lists(st.sampled_from(["look", "ping", "cancel the last", "cancel nothing"]), max_size=12)
)
def test_asks_and_cancels_in_any_order_are_each_answered_once(
    server: Server, steps: list[str]
) -> None:
    with line_to(server) as line:
        keys = []
        for step in steps:
            if step in ("look", "ping"):
                keys.append(line.send(step, {"document": BATTERY} if step == "look" else {}))
            else:
                meant = keys[-1] if keys and step == "cancel the last" else 9_999
                line.socket.send(json.dumps({"id": meant, "cancel": True}))
        answered = []
        while len(answered) < len(keys):
            head, _ = line.hear()
            if "status" in head:
                answered.append(head["id"])
        assert sorted(answered) == keys
