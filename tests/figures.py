"""Every figure, verdict and curve of the demo exercises and of random ones, before a change and after it.

`python -m tests.figures write FILE` on either side of it, then `python -m tests.figures compare BEFORE
AFTER`: a change that means to reshape alone shows no difference.
"""

from __future__ import annotations

import argparse
import json
import math
import random
import sys
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from itertools import chain
from pathlib import Path
from typing import Any

from pydantic_core import to_jsonable_python

from lucidbench.core.analyses.run import Watch
from lucidbench.core.document.exercise import Exercise, read_exercise
from lucidbench.core.errors import LucidError
from lucidbench.core.evaluate import evaluation_of
from lucidbench.core.evaluate.exactness import exactness
from lucidbench.core.evaluate.run_figures import Limits
from lucidbench.core.runs import carry_out
from lucidbench.core.units import parse_value
from tests.serving import HOME

SECONDS = 60.0  # for a run, so that none is left out on a busy machine
PATIENT = Limits(SECONDS, SECONDS)
NOT_COMPARED = {"seconds", "fingerprint", "circuit", "result"}
SAME = 1e-9  # relative: what another order of additions comes to
TOLERANCES = ("", "1 %", "5 %", "10 %")
VALUES = {"resistance": "Ω", "capacitance": "F", "inductance": "H"}


def exercises(count: int) -> Iterator[tuple[str, Exercise]]:
    """The demo exercises as they are, then `count` with other values and tolerances, the same each time."""
    demo = {
        path.stem: read_exercise(path.read_text())
        for path in sorted((HOME / "examples").glob("*.json"))
    }
    yield from demo.items()
    for k in range(count):
        name = sorted(demo)[k % len(demo)]
        yield f"{name} {k}", _varied(demo[name], random.Random(k))


def _varied(exercise: Exercise, draw: random.Random) -> Exercise:
    own = exercise.model_copy(deep=True)
    for part in own.schematic.parts:
        for key in VALUES.keys() & part.values.keys():
            try:
                value = parse_value(part.values[key], VALUES[key])
            except LucidError:  # a formula of parameters
                continue
            share = 10 ** draw.uniform(-0.3, 0.3)
            part.values[key] = f"{value.number * share:.3g}"
            part.values["tolerance"] = draw.choice(TOLERANCES)
    return own


def figures(name: str, exercise: Exercise) -> dict[str, Any]:
    """What is told of an exercise in each of its cases, as numbers and words by where they stand."""
    found: dict[str, Any] = {}
    for case in ("", *(each.id for each in exercise.cases)):
        where = f"{name} | {case}"
        found |= _flat(f"{where} look", _plain(evaluation_of(exercise, case=case, limits=PATIENT)))
        found |= _flat(f"{where} lines", _plain(exactness(exercise, case)))
    for run in exercise.runs:
        told = carry_out(exercise, run, Watch(seconds=SECONDS))
        found |= _flat(f"{name} | run {run.id}", _plain(told))
    return found


def _plain(told: Any) -> Any:
    return to_jsonable_python(told)


def _flat(where: str, told: Any) -> dict[str, Any]:
    if isinstance(told, dict):
        parts = [_flat(f"{where}.{k}", v) for k, v in told.items() if k not in NOT_COMPARED]
    elif isinstance(told, list):
        parts = [_flat(f"{where}[{_label(k, v)}]", v) for k, v in enumerate(told)]
    else:
        return {where: told}
    return dict(chain.from_iterable(part.items() for part in parts))


def _label(k: int, told: Any) -> Any:
    """By its name where it has one, so that one more in the middle is one difference."""
    named = [
        told[key] for key in ("quantity", "name", "id") if isinstance(told, dict) and told.get(key)
    ]
    return named[0] if named and isinstance(named[0], str) else k


def write(file: Path, count: int) -> None:
    with ProcessPoolExecutor() as pool, file.open("w") as out:
        names, documents = zip(*exercises(count), strict=True)
        for told in pool.map(figures, names, documents):
            out.write(json.dumps(told) + "\n")


def differences(before: Path, after: Path) -> Iterator[tuple[str, Any, Any]]:
    """Where they stand, and what was told before and is told after."""
    one, other = (
        dict(
            chain.from_iterable(json.loads(line).items() for line in path.read_text().splitlines())
        )
        for path in (before, after)
    )
    for where in chain(one, other.keys() - one.keys()):
        a, b = one.get(where), other.get(where)
        if not _is_same(a, b):
            yield where, a, b


def _is_same(a: Any, b: Any) -> bool:
    if isinstance(a, float | int) and isinstance(b, float | int):
        return math.isclose(a, b, rel_tol=SAME, abs_tol=1e-300)
    return bool(a == b)


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    commands = parser.add_subparsers(dest="command", required=True)
    writing = commands.add_parser("write", help="write every figure to a file")
    writing.add_argument("file", type=Path)
    writing.add_argument("--count", type=int, default=200, help="of random exercises (200)")
    comparing = commands.add_parser("compare", help="say what differs between two files")
    comparing.add_argument("before", type=Path)
    comparing.add_argument("after", type=Path)
    options = parser.parse_args()
    if options.command == "write":
        write(options.file, options.count)
        return 0
    kinds: Counter[str] = Counter()
    for where, a, b in differences(options.before, options.after):
        kinds[where.rpartition(".")[2]] += 1
        print(f"{where}: {a!r} → {b!r}")
    print(f"{kinds.total()} differences: {dict(kinds.most_common())}", file=sys.stderr)
    return int(bool(kinds))


if __name__ == "__main__":
    sys.exit(main())
