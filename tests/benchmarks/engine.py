"""Sweeps, operating points, ladders and tolerance studies, each against its own yardstick."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from itertools import pairwise

import numpy as np

from lucidbench.core.analyses import (
    TransientSettings,
    dc_sweep,
    decades,
    frequency_sweep,
    operating_point,
    steps,
    transient,
)
from lucidbench.core.equations.system import assemble
from lucidbench.core.netlist import Circuit, read_netlist
from lucidbench.core.tolerance import monte_carlo
from tests.benchmarks.effort import sized
from tests.benchmarks.rows import Row, side_by_side

SIZES = sized((100, 1_000, 10_000), (5, 10, 20))


def ladder(nodes: int) -> Circuit:
    """An RC ladder: each section 1 Ω in series and 1 nF to ground, and 1 MΩ at its end."""
    lines = [f"R{k} {k} {k + 1} 1\nC{k} {k + 1} 0 1n" for k in range(nodes)]
    return read_netlist("\n".join(("ladder", "V1 0a 0 DC 1 AC 1 PULSE(0 1 0)", "RS 0a 1 1", *lines[1:],
                                   f"RL {nodes} 0 1meg"))).circuit  # fmt: skip


def twenty_nodes() -> Circuit:
    """Four transistor stages in a row, twenty nodes in all."""
    lines = ["V1 vcc 0 12", "VS in 0 AC 1"]
    before = "in"
    for k in range(4):
        b, c, e, m = (f"{letter}{k}" for letter in "bcem")
        lines += [f"C{k} {before} {b} 10u", f"RA{k} vcc {b} 47k", f"RB{k} {b} 0 10k",
                  f"RC{k} vcc {c} 2.2k", f"RE{k} {e} {m} 100", f"RF{k} {m} 0 470", f"CE{k} {m} 0 100u",
                  f"Q{k} {c} {b} {e} q"]  # fmt: skip
        before = c
    lines += ["CL c3 out 10u", "RL out 0 10k", ".model q NPN(IS=1.2e-14 BF=180 VAF=75)"]
    return read_netlist("\n".join(("stages", *lines))).circuit


def sweep_row() -> Row:
    stages = twenty_nodes()
    f = np.geomspace(1, 1e6, 1000)
    sweep = frequency_sweep(stages, f)
    n = sweep.system.size
    random = np.random.default_rng(1)
    matrices = random.random((1000, n, n)) + 1j * random.random((1000, n, n)) + 5 * np.eye(n)
    drive = np.ones((1000, n, 1), complex)
    return Row(
        f"frequency sweep, 1,000 points, {len(stages.nodes)} nodes",
        "batched numpy.linalg.solve on ready matrices",
        *side_by_side(
            lambda: frequency_sweep(replace(stages), f),
            lambda: np.linalg.solve(matrices, drive),
            21,
        ),
        1.5,
    )


def operating_point_rows() -> list[Row]:
    stages = twenty_nodes()
    point = operating_point(stages)
    n = point.system.size
    matrix = np.random.default_rng(1).random((n, n)) + n * np.eye(n)
    drive = np.ones(n)

    def bare() -> None:
        for _ in range(point.iterations):
            np.linalg.solve(matrix, drive)

    against = f"numpy.linalg.solve of {n} × {point.iterations} Newton steps"
    work = f"operating point, {len(stages.nodes)} nodes, 4 transistors"
    return [
        Row(
            f"{work}, {state}",
            against,
            *side_by_side(partial(operating_point_of, stages, fresh), bare, 21),
            5,
        )
        for state, fresh in (("assembled before", False), ("from nothing", True))
    ]


def operating_point_of(circuit: Circuit, fresh: bool) -> object:
    """With `fresh`, nothing that was worked out of the circuit before is of use."""
    return operating_point(replace(circuit) if fresh else circuit)


def ladder_rows() -> list[Row]:
    works: dict[str, Callable[[Circuit], object]] = {
        "operating point": operating_point,
        "DC sweep, 5 points": lambda c: dc_sweep(c, "V1", steps(0, 4, 1)),
        "frequency sweep, 10 points": lambda c: frequency_sweep(c, decades(1e3, 1e6, 3)),
        "transient": lambda c: transient(c, TransientSettings(1e-6)),
    }
    ladders = {size: ladder(size) for size in SIZES}
    found = []
    for name, work in works.items():
        for smaller, larger in pairwise(SIZES):
            ours, other = (partial(afresh, work, ladders[size]) for size in (larger, smaller))
            found.append(
                Row(
                    f"{name}, RC ladder of {larger:,} nodes",
                    "a tenth of the size",
                    *side_by_side(ours, other, 9),
                    13,
                )
            )
    return found


def afresh(work: Callable[[Circuit], object], circuit: Circuit) -> object:
    return work(replace(circuit))


def tolerance_row() -> Row:
    lines = ["V1 n0 0 10", *(f"R{k} n{k} n{k + 1} 1k" for k in range(8))]
    lines += [f"S{k} n{k + 1} 0 3k".replace("S", "RS") for k in range(8)]
    plain = read_netlist("\n".join(("ladder", *lines))).circuit
    elements = tuple(
        replace(e, spreads={"resistance": 0.05}) if e.kind == "resistor" else e for e in plain
    )
    parts = replace(plain, elements=elements)
    system = assemble(parts)
    draws, single = side_by_side(
        lambda: monte_carlo(parts, sized(10_000, 100)), partial(operating_point_of, parts, True), 9
    )
    return Row(
        f"tolerance study, 10,000 draws, {system.size} unknowns",
        "a loop of single solves",
        draws,
        single * 10_000,
        20,
        faster=True,
    )


def rows() -> list[Row]:
    return [sweep_row(), *operating_point_rows(), *ladder_rows(), tolerance_row()]
