"""`./lucid zoo`: many random circuits of every family, and what failed."""

from __future__ import annotations

import argparse
import time
from collections import Counter

from tests.zoo import complaint, specimens


def run(options: argparse.Namespace) -> int:
    tried: Counter[str] = Counter()
    failed: Counter[str] = Counter()
    slowest: dict[str, float] = {}
    for name, own, specimen in specimens(options.runs, options.seed, options.family):
        began = time.monotonic()
        wrong = complaint(specimen)
        took = time.monotonic() - began
        tried[name] += 1
        slowest[name] = max(slowest.get(name, 0.0), took)
        if wrong:
            failed[name] += 1
            if failed[name] <= options.show:
                print(f"--- {name}, seed {own}: {wrong}\n{specimen.text}", flush=True)
    for name in sorted(tried):
        print(
            f"{name:32} {failed[name]:5} of {tried[name]:5} failed, slowest {slowest[name]:.2f} s"
        )
    print(f"{failed.total()} of {tried.total()} failed (seed {options.seed})")
    return 1 if failed else 0
