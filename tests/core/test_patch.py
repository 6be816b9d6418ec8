"""Changes to documents, against the examples of RFC 6902 (JavaScript Object Notation Patch), appendix A."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from lucidbench.core.document.exercise import Exercise, checked
from lucidbench.core.document.patch import Change, patched
from lucidbench.core.errors import DocumentError

EXAMPLES = Path(__file__).parents[2] / "examples"


@pytest.mark.parametrize(
    ("before", "change", "after"),
    [
        ({"foo": "bar"}, ("add", "/baz", "qux"), {"baz": "qux", "foo": "bar"}),  # A.1
        ({"foo": ["bar", "baz"]}, ("add", "/foo/1", "qux"), {"foo": ["bar", "qux", "baz"]}),  # A.2
        ({"baz": "qux", "foo": "bar"}, ("remove", "/baz"), {"foo": "bar"}),  # A.3
        ({"foo": ["bar", "qux", "baz"]}, ("remove", "/foo/1"), {"foo": ["bar", "baz"]}),  # A.4
        ({"baz": "qux"}, ("replace", "/baz", "boo"), {"baz": "boo"}),  # A.5
        ({"foo": "bar"}, ("add", "/child", {"a": {}}), {"foo": "bar", "child": {"a": {}}}),  # A.10
        ({"foo": "bar"}, ("add", "/baz/bat", "qux"), None),  # A.12
        ({"/": 9, "~1": 10}, ("replace", "/~01", 7), {"/": 9, "~1": 7}),  # after A.14
        ({"foo": ["bar"]}, ("add", "/foo/-", ["abc"]), {"foo": ["bar", ["abc"]]}),  # A.16
        ({"foo": ["bar"]}, ("add", "/foo/2", 1), None),  # RFC 6902, 4.1: not beyond the end
        ({"foo": ["bar"]}, ("replace", "/foo/1", 1), None),  # 4.3: it must be there
        ({"foo": ["bar"]}, ("remove", "/foo/-1"), None),
        ({"foo": "bar"}, ("replace", "/foo/0", 1), None),
    ],
)
def test_changes_are_carried_out_as_published(
    before: dict[str, Any], change: tuple[Any, ...], after: dict[str, Any] | None
) -> None:
    """On fields a document does not know, which it keeps."""
    document = checked(before)
    asked = Change(op=change[0], path=change[1], value=change[2] if len(change) > 2 else None)
    if after is None:
        with pytest.raises(DocumentError, match="nothing to change at"):
            patched(document, [asked])
    else:
        assert patched(document, [asked]) == checked(after)
    assert document == checked(before)


def test_what_is_not_touched_is_shared_and_what_is_touched_is_checked() -> None:
    document = Exercise.model_validate_json((EXAMPLES / "level-bridge.json").read_text())
    before = json.loads(document.model_dump_json())
    changes = [
        Change(op="replace", path="/schematic/parts/2/at", value=[4, 4]),
        Change(op="remove", path="/schematic/parts/0"),
    ]
    changed = patched(document, changes)
    assert changed.schematic.parts[1].at == (4, 4)
    assert changed.schematic.parts[0] is document.schematic.parts[1]
    assert changed.schematic.wires[0] is document.schematic.wires[0]
    assert json.loads(document.model_dump_json()) == before
    for bad in ([0.5, 0], "far"):
        with pytest.raises(DocumentError, match="schematic → parts → 2 → at"):
            patched(document, [Change(op="replace", path="/schematic/parts/2/at", value=bad)])
