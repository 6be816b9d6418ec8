"""A run's curves as comma-separated values (RFC 4180): one column each, units in the head."""

from __future__ import annotations

import csv
import io

from lucidbench.core.runs.looks import RunLook


def as_csv(look: RunLook) -> str:
    """One row an abscissa; a phasor has columns for magnitude and phase."""
    head = [f"{look.axis} [{look.axis_unit}]" if look.axis_unit else look.axis]
    columns: list[list[float | None]] = [list(look.x)]
    for curve in look.curves:
        name = f"{curve.text} ({curve.member})" if curve.member else curve.text
        unit = f" [{curve.unit}]" if curve.unit else ""
        head.append(f"{name}{unit}")
        columns.append(curve.y)
        if curve.phase is not None:
            head.append(f"phase of {name} [°]")
            columns.append(curve.phase)
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(head)
    for row in zip(*columns, strict=True):
        writer.writerow(["" if value is None else repr(value) for value in row])
    return text.getvalue()
