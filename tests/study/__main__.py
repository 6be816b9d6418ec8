"""`./lucid study`: causes planted in many builds, and how often the explanation finds them."""

from __future__ import annotations

import argparse
import sys
import time
from collections import Counter, defaultdict
from concurrent.futures import ProcessPoolExecutor
from itertools import pairwise

import numpy as np

from tests.study.circuits import subjects
from tests.study.planting import Trial, applicable, trial

_BINS = (0.0, 0.5, 0.8, 0.95, 0.99, 1.0001)


def run(options: argparse.Namespace) -> int:
    began = time.monotonic()
    names = [s.name for s in subjects() if options.circuit in s.name]
    tasks = [(name, options.seed, options.builds, options.none, options.share) for name in names]
    trials: list[Trial] = []
    with ProcessPoolExecutor() as pool:
        for name, many in zip(names, pool.map(_of_circuit, tasks), strict=True):
            trials += many
            print(f"{name}: {len(many)} builds", file=sys.stderr, flush=True)
    _report(trials, options.show)
    print(f"{len(trials)} builds, seed {options.seed}, {time.monotonic() - began:.0f} s")
    return 0


def _of_circuit(task: tuple[str, int, int, int, float]) -> list[Trial]:
    name, seed, builds, none, share = task
    subject = next(s for s in subjects() if s.name == name)
    causes = applicable(subject)
    found = []
    for k, planted in enumerate([*causes, *[None] * none]):
        for build in range(builds if planted else 1):
            random = np.random.default_rng([seed, k, build, len(name)])
            if planted is not None and random.uniform() > share:
                continue
            one = trial(subject, planted, random)
            if one is not None:
                found.append(one)
    return found


def _report(trials: list[Trial], show: bool) -> None:
    none = [t for t in trials if t.planted is None]
    planted = [t for t in trials if t.planted is not None]
    print(f"none planted: a cause claimed in {sum(t.is_claimed for t in none)} of {len(none)}")
    seen = [t for t in planted if t.is_claimed]
    in_group = sum(t.place == 0 for t in seen)
    print(f"planted: a gap is told in {len(seen)} of {len(planted)}")
    print(f"of these the planted cause is in the first group in {in_group} of {len(seen)}")
    alone = [t for t in seen if t.leading == 1]
    first = sum(t.rank == 0 for t in alone)
    print(f"where the first group is one alone, it is the one in {first} of {len(alone)}")
    sized = [t.is_inside for t in seen if t.place == 0 and t.is_inside is not None]
    print(f"planted size inside its stated interval: {sum(sized)} of {len(sized)}")
    print(f"slowest {max(t.seconds for t in trials):.1f} s")
    print("stated probability of the first: stated mean | how often it is the one | builds")
    for low, high in pairwise(_BINS):
        of = [t for t in seen if low <= t.first < high]
        if of:
            usual = [
                t.weight for t in of
            ]  # causes are planted evenly, and believed by how usual they are
            true = np.average([t.rank == 0 for t in of], weights=usual)
            stated = np.average([t.first for t in of], weights=usual)
            print(f"  {low:.2f} to {high:.2f}: {stated:.2f} | {true:.2f} | {len(of)}")
    by_key: dict[str, Counter[str]] = defaultdict(Counter)
    for t in seen:
        assert t.planted is not None
        by_key[t.planted[0]]["all"] += 1
        by_key[t.planted[0]]["group"] += t.place == 0
    for key in sorted(by_key):
        print(f"  {key:24} {by_key[key]['group']:4} of {by_key[key]['all']:4} in the first group")
    if not show:
        return
    for t in trials:
        if (t.planted is None and t.is_claimed) or (
            t.planted and (t.place != 0 or t.is_inside is False)
        ):
            print(f"{t.subject}: {t.planted} {t.size:.4g}; data {t.chance:.2g}, place {t.place}, "
                  f"rank {t.rank}, inside {t.is_inside}: {t.told}")  # fmt: skip
