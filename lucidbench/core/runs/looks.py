"""What a run answers, as it is drawn and read."""

from __future__ import annotations

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
    """A figure read off a curve; `at` is where it stands, on the axis."""

    label: str
    text: str
    exact: str
    at: float | None = None


class CurveLook(BaseModel):
    """`y` at the run's `x`; of phasors the magnitude, with `phase` [°] beside it."""

    text: str
    member: str = ""  # of a family: the value it was run with
    unit: str
    y: list[float | None]
    phase: list[float | None] | None = None
    readings: list[FigureLook]


class ShownLook(BaseModel):
    """A formula to show, and what is wrong with it."""

    text: str
    problem: str | None = None


class TableLook(BaseModel):
    head: list[str]
    rows: list[list[str]]
    title: str = ""


class BarLook(BaseModel):
    """One harmonic: its size beside the largest, 0 to 1, and written out."""

    label: str
    share: float
    text: str


class FormulaLook(BaseModel):
    title: str
    latex: str


class RunLook(BaseModel):
    id: str
    settings: list[SettingLook]
    shown: list[ShownLook]
    problem: str | None = None
    axis: str = ""
    axis_unit: str = ""
    is_log: bool = False
    x: list[float] = []
    curves: list[CurveLook] = []
    tables: list[TableLook] = []
    bars: list[BarLook] = []
    formulas: list[FormulaLook] = []
    notes: list[str] = []
    names: list[str] = []  # what may be shown
    seconds: float = 0.0
