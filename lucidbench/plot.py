"""Curves as a plain SVG picture, for `lucid solve --plot`."""

from __future__ import annotations

from typing import Any
from xml.sax.saxutils import escape

import numpy as np

from lucidbench.core.errors import LucidError
from lucidbench.core.runs.answers import Answer
from lucidbench.core.units import engineering
from lucidbench.core.units.engineering import MINUS

WIDTH, PANEL, LEFT, RIGHT, TOP, GAP = 900, 240, 84, 150, 56, 46
# Told apart by people who confuse red and green (Okabe and Ito, 2008).
COLOURS = ("#0072b2", "#d55e00", "#009e73", "#cc79a7", "#56b4e9", "#e69f00", "#000000")
_MOST_CURVES = 14
_MOST_POINTS = 2_000


def plot(title: str, answers: list[Answer]) -> str:
    """An SVG document with a panel for each analysis and unit. Raises LucidError without curves."""
    panels = [panel for each in answers if each.axis is not None for panel in _panels(each)]
    if not panels:
        raise LucidError("there is no curve to draw: an operating point has values only")
    height = TOP + len(panels) * (PANEL + GAP)
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {height}" '
        f'width="{WIDTH}" height="{height}" font-family="sans-serif" font-size="12">',
        f'<rect width="{WIDTH}" height="{height}" fill="white"/>',
        f'<text x="{LEFT}" y="28" font-size="16">{escape(title)}</text>',
    ]
    for k, panel in enumerate(panels):
        parts += _drawn(panel, TOP + k * (PANEL + GAP))
    return "\n".join([*parts, "</svg>", ""])


def _panels(given: Answer) -> list[dict[str, Any]]:
    assert given.axis is not None
    found = []
    logarithmic = given.kind == "frequency_sweep" and given.axis.values[0] > 0
    groups: dict[tuple[str, str], list[tuple[str, Any]]] = {}
    for name, trace in given.traces.items():
        unit = "V" if name.startswith("V_") else "A"
        if np.iscomplexobj(trace):
            size = np.maximum(np.abs(trace), 1e-300)
            groups.setdefault(("size", f"dB{unit}"), []).append((name, 20 * np.log10(size)))
            angle = np.degrees(np.unwrap(np.angle(trace)))
            groups.setdefault(("phase", "°"), []).append((name, angle))
        elif trace.ndim == 2:
            groups.setdefault((unit, unit), []).extend((name, row) for row in trace)
        else:
            groups.setdefault((unit, unit), []).append((name, trace))
    for (_, unit), curves in groups.items():
        found.append(
            {
                "x": given.axis.values,
                "axis": f"{given.axis.name} [{given.axis.unit}]",
                "unit": unit,
                "log": logarithmic,
                "curves": curves[:_MOST_CURVES],
            }
        )
    return found


def _drawn(panel: dict[str, Any], top: float) -> list[str]:
    x = np.asarray(panel["x"], float)
    across = np.log10(x) if panel["log"] else x
    values = np.concatenate([np.asarray(y, float) for _, y in panel["curves"]])
    low, high = _widened(float(values.min()), float(values.max()))
    left, right = _widened(float(across[0]), float(across[-1]), 0.0)
    width = WIDTH - LEFT - RIGHT

    def at_x(v: Any) -> Any:
        return LEFT + (v - left) / (right - left) * width

    def at_y(v: Any) -> Any:
        return top + PANEL - (v - low) / (high - low) * PANEL

    parts = []
    for tick in _ticks(low, high):
        y = at_y(tick)
        parts.append(f'<path d="M{LEFT} {y:.1f}H{LEFT + width}" stroke="#ddd"/>')
        label = (
            f"{tick:g}".replace("-", MINUS)
            if panel["unit"].startswith("dB")
            else engineering(tick, "", digits=3)
        )
        parts.append(
            f'<text x="{LEFT - 6}" y="{y + 4:.1f}" text-anchor="end">{escape(label)}</text>'
        )
    ticks = np.arange(np.ceil(left), np.floor(right) + 1) if panel["log"] else _ticks(left, right)
    for tick in ticks:
        shown = engineering(10.0**tick if panel["log"] else float(tick), "", digits=3)
        parts.append(f'<path d="M{at_x(tick):.1f} {top}v{PANEL}" stroke="#ddd"/>')
        parts.append(
            f'<text x="{at_x(tick):.1f}" y="{top + PANEL + 16}" text-anchor="middle">{escape(shown)}</text>'
        )
    parts.append(
        f'<rect x="{LEFT}" y="{top}" width="{width}" height="{PANEL}" fill="none" stroke="#888"/>'
    )
    parts.append(
        f'<text x="{LEFT + width}" y="{top + PANEL + 32}" text-anchor="end">{escape(panel["axis"])}</text>'
    )
    parts.append(f'<text x="{LEFT}" y="{top - 6}">{escape(panel["unit"])}</text>')
    step = max(1, len(x) // _MOST_POINTS)
    for k, (name, y) in enumerate(panel["curves"]):
        colour = COLOURS[k % len(COLOURS)]
        dash = ' stroke-dasharray="6 3"' if k >= len(COLOURS) else ""
        points = zip(at_x(across[::step]), at_y(np.asarray(y, float)[::step]), strict=True)
        path = " ".join(f"{a:.1f},{b:.1f}" for a, b in points)
        parts.append(
            f'<polyline points="{path}" fill="none" stroke="{colour}" stroke-width="1.6"{dash}/>'
        )
        row = top + 12 + 16 * k
        parts.append(
            f'<path d="M{WIDTH - RIGHT + 10} {row - 4}h18" stroke="{colour}" stroke-width="2"{dash}/>'
        )
        parts.append(f'<text x="{WIDTH - RIGHT + 34}" y="{row}">{escape(name)}</text>')
    return parts


def _widened(low: float, high: float, share: float = 0.05) -> tuple[float, float]:
    if high - low <= 1e-12 * max(abs(low), abs(high)):
        half = max(abs(high), 1.0) * 0.5
        return low - half, high + half
    return low - share * (high - low), high + share * (high - low)


def _ticks(low: float, high: float) -> Any:
    """Round numbers within [low, high], about five."""
    raw = (high - low) / 5
    base = 10.0 ** np.floor(np.log10(raw))
    step = next(m * base for m in (1, 2, 5, 10) if m * base >= raw)
    ticks = np.arange(np.ceil(low / step), np.floor(high / step) + 1) * step
    return np.where(np.abs(ticks) < 1e-9 * step, 0.0, ticks)
