"""Converters settled, in continuous and discontinuous mode."""

from __future__ import annotations

import math
from collections.abc import Iterable

from tests.zoo import Specimen
from tests.zoo.by_name.wanted import named


def circuits() -> Iterable[tuple[str, Specimen]]:
    """Converters settled, in continuous and discontinuous mode.

    Erickson and Maksimović, Fundamentals of Power Electronics, 2nd ed., 2001: conversion ratios of
    ideal converters, table 5.2 in section 5.4 (place from memory; formulas derived again by the
    family `converter`). K = 2·L/(R·T).
    """
    period, supply = 10e-6, 10.0
    for kind in ("buck", "boost", "buck_boost"):
        for duty in (0.3, 0.5):
            for mode, k in (("continuous", 4.0), ("discontinuous", 0.04)):
                load = 20.0
                henries = k * load * period / 2
                root = {
                    "buck": 2 / (1 + math.sqrt(1 + 4 * k / duty**2)),
                    "boost": (1 + math.sqrt(1 + 4 * duty**2 / k)) / 2,
                    "buck_boost": -duty / math.sqrt(k),
                }[kind]
                straight = {
                    "buck": duty,
                    "boost": 1 / (1 - duty),
                    "buck_boost": -duty / (1 - duty),
                }[kind]
                ratio = straight if mode == "continuous" else root
                coil, switch, diode = {
                    "buck": ("x out", "in x", "0 x"),
                    "boost": ("in x", "x 0", "x out"),
                    "buck_boost": ("x 0", "in x", "out x"),
                }[kind]
                farads = 20 * period / load
                stop = max(10 * load * farads, 60 * henries / load)
                text = (
                    f"V1 in 0 {supply}\nVG g 0 PULSE(0 1 0 0 0 {duty * period} {period})\n"
                    f"L1 {coil} {henries}\nS1 {switch} g 0 s\nYD1 {diode} diode form=ideal\n"
                    f"C1 out 0 {farads} IC={ratio * supply}\n"
                    f"RL out 0 {load}\n.model s SW(VT=0.5 RON=1m ROFF=1e9)\n.tran {period / 4} {stop} uic\n"
                )
                yield (
                    f"{kind.replace('_', '-')}, {mode}, duty {duty}",
                    named(text, {("V_out", stop): ratio * supply}, 0.04),
                )  # fmt: skip
