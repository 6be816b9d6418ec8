"""A circuit file's requests carried out: the analysis each names, in the form it is told in."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import numpy.typing as npt

from lucidbench.core.analyses.balance import balance_sentence, resting_points
from lucidbench.core.analyses.dc_sweep import Axis, dc_sweep, steps
from lucidbench.core.analyses.frequency import decades, frequency_sweep, octaves
from lucidbench.core.analyses.operating_point import operating_point
from lucidbench.core.analyses.run import Watch, refuse_points
from lucidbench.core.analyses.trajectory import TransientSettings
from lucidbench.core.analyses.transient import transient
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import Circuit
from lucidbench.core.netlist.requests import (
    DcSweepRequest,
    FrequencySweepRequest,
    Request,
    TransientRequest,
)

Trace = npt.NDArray[Any]


@dataclass(frozen=True)
class Answer:
    """One analysis: `values` of an operating point, or `traces` over `axis` (and `outer`)."""

    kind: str
    values: Mapping[str, float] = field(default_factory=dict)
    axis: Axis | None = None
    outer: Axis | None = None
    traces: Mapping[str, Trace] = field(default_factory=dict)
    notes: tuple[str, ...] = ()

    @property
    def names(self) -> list[str]:
        return list(self.values) or list(self.traces)

    def as_json(self) -> dict[str, Any]:
        if self.axis is None:
            return {"kind": self.kind, "values": dict(self.values)}
        found: dict[str, Any] = {"kind": self.kind, "axis": _axis(self.axis)}
        if self.outer is not None:
            found["outer"] = _axis(self.outer)
        found["traces"] = {name: _trace(trace) for name, trace in self.traces.items()}
        return found


def _axis(axis: Axis) -> dict[str, Any]:
    return {"name": axis.name, "unit": axis.unit, "values": axis.values.tolist()}


def _trace(trace: Trace) -> Any:
    if np.iscomplexobj(trace):
        return {"re": trace.real.tolist(), "im": trace.imag.tolist()}
    return trace.tolist()


def answer(circuit: Circuit, request: Request, watch: Watch) -> Answer:
    """Carry out one request. Raises CircuitError, RunRefused."""
    found = _answer(circuit, request, watch)
    traces = found.traces.items() if found.axis is not None else found.values.items()
    for name, values in traces:
        if not np.all(np.isfinite(values)):
            raise CircuitError(f"{name} grows beyond all numbers; the values are too extreme.")
    return found


def _answer(circuit: Circuit, request: Request, watch: Watch) -> Answer:
    if isinstance(request, DcSweepRequest):
        inner, *around = request.sweeps
        outer = [(s.subject, steps(s.start, s.stop, s.step)) for s in around]
        sweep = dc_sweep(
            circuit,
            inner.subject,
            steps(inner.start, inner.stop, inner.step),
            outer[0] if outer else None,
            watch,
        )
        return Answer("dc_sweep", axis=sweep.axis, outer=sweep.outer, traces=sweep.traces)
    if isinstance(request, FrequencySweepRequest):
        over = frequency_sweep(circuit, _frequencies(request), watch)
        axis = Axis("frequency", "Hz", over.frequencies)
        return Answer("frequency_sweep", axis=axis, traces=over.traces)
    if isinstance(request, TransientRequest):
        settings = TransientSettings(
            stop=request.stop,
            start=request.start,
            step=request.step,
            longest=request.longest,
            from_given=request.from_given,
            node_voltages=request.node_voltages,
        )
        run = transient(circuit, settings, watch)
        times = run.grid
        axis = Axis("time", "s", times)
        return Answer("transient", axis=axis, traces=run.traces(times), notes=run.notes)
    point = operating_point(circuit)
    others = resting_points(point)
    notes = (balance_sentence(point, others, ".nodeset chooses"),) if others else ()
    return Answer("operating_point", values=point.values, notes=notes)


def _frequencies(request: FrequencySweepRequest) -> npt.NDArray[np.float64]:
    if request.spacing == "dec":
        return decades(request.start, request.stop, request.points)
    if request.spacing == "oct":
        return octaves(request.start, request.stop, request.points)
    refuse_points(request.points, "sweep", "Take fewer points.")
    return np.linspace(request.start, request.stop, request.points)
