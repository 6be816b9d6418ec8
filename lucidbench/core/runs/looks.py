"""What a run answers, as it is drawn and read."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel


class SettingLook(BaseModel):
    key: str
    text: str
    echo: str | None = None
    proposed: str = ""
    because: str = ""
    problem: str | None = None
    choices: list[tuple[str, str]] = []


class FigureLook(BaseModel):
    """A figure read off a curve, by the key of the reading; `at` is where it stands, on the axis;
    `symbol` a name for it; `over` in words which part of the curve it is of."""

    key: str
    label: str
    text: str
    exact: str
    value: float
    unit: str
    symbol: str
    at: float | None = None
    over: str = ""
    uncertainty: float | None = None  # expanded (k = 2), of what was measured
    spread: str | None = None  # the same, written out


class BandLook(BaseModel):
    """The pass band of a curve: its corners [axis], and the straight lines it falls off along beside
    them: through its size at either end of the sweep, so steep [dB a decade]."""

    lower: float | None
    upper: float | None
    slope_below: float | None
    slope_above: float | None
    ends: tuple[float, float]  # frequencies
    sizes: tuple[float, float]  # there


class MemberLook(BaseModel):
    """Of a family: the value a circuit was run with, by itself and in words; or of a tolerance study
    the circuit as it is, and one build of it."""

    key: str
    label: str
    role: Literal["value", "nominal", "build"]


class CurveLook(BaseModel):
    """`y` at the run's `x`; of phasors the magnitude, with `phase` [°] beside it."""

    text: str
    member: MemberLook | None = None
    unit: str
    by_hand: bool = False  # a formula of parts alone: nothing in it was simulated
    y: list[float | None]
    phase: list[float | None] | None = None
    readings: list[FigureLook]
    band: BandLook | None = None  # where it was asked for


class ShownLook(BaseModel):
    """A formula to show, and what is wrong with it."""

    text: str
    problem: str | None = None


class CellLook(BaseModel):
    """A cell of a table: a word, or a figure with its `value` in `unit`."""

    text: str
    value: float | None = None
    unit: str = ""


class ColumnLook(BaseModel):
    key: str
    text: str


class TableRowLook(BaseModel):
    """`subject` is the formula or part it is of, where it is of one; `member` the key of the value that a
    circuit of a family was run with."""

    cells: list[CellLook]
    key: str = ""
    subject: str = ""
    member: str = ""


class TableLook(BaseModel):
    """Figures of it are referred to by its key and those of rows and columns; what it shows are words."""

    key: str
    head: list[ColumnLook]
    rows: list[TableRowLook]
    title: str = ""


class ArrowLook(BaseModel):
    """A phasor in the plane, from where it is drawn."""

    name: str
    start: tuple[float, float]
    end: tuple[float, float]
    text: str


class PhasorsLook(BaseModel):
    """Phasors of one unit to one scale; where `closed` they are a sum that comes back to its start."""

    title: str
    unit: str
    arrows: list[ArrowLook]
    closed: bool = False


class RootLook(BaseModel):
    """A pole or zero in the plane of s [1/s]."""

    kind: Literal["pole", "zero"]
    re: float
    im: float
    text: str


class BarLook(BaseModel):
    """One harmonic: its size beside the largest, 0 to 1, and written out."""

    label: str
    share: float
    text: str


class FormulaLook(BaseModel):
    """`text` is the same in the formula language, where that can say it."""

    title: str
    latex: str
    text: str = ""
    beside: str = ""  # the formula of what it tells, of traces


class RunLook(BaseModel):
    """`result` is what the result is known by while it is remembered; `fingerprint` changes with
    anything it depends on, `circuit` with anything in the circuit."""

    id: str
    result: str = ""
    fingerprint: str = ""
    settings: list[SettingLook]
    shown: list[ShownLook]
    problem: str | None = None
    axis: str = ""
    axis_unit: str = ""
    period: float | None = None  # [s] of the slowest source, in time
    is_log: bool = False
    x: list[float] = []
    is_thinned: bool = False  # whether there are more points than those told
    curves: list[CurveLook] = []
    tables: list[TableLook] = []
    bars: list[BarLook] = []
    phasors: list[PhasorsLook] = []
    roots: list[RootLook] = []
    formulas: list[FormulaLook] = []
    notes: list[str] = []
    names: list[str] = []  # what may be shown
    conditions: str = ""  # the analysis and its settings in a line
    circuit: str = ""
    seconds: float = 0.0
