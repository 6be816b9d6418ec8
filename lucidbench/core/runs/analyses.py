"""The analyses a run may be of, with their settings: described once for page and core."""

from __future__ import annotations

from pydantic import BaseModel


class Setting(BaseModel):
    """One thing an analysis is told. `reads` is a "quantity", a "name" (of a source or parameter) or
    one of the `choices`."""

    key: str
    label: str
    unit: str = ""
    meaning: str = ""
    reads: str = "quantity"
    choices: list[tuple[str, str]] = []


class Analysis(BaseModel):
    key: str
    label: str
    answers: str  # the question it is for
    settings: list[Setting] = []
    has_curves: bool = True


BEGINS = [
    ("point", "the operating point"),
    ("given", "the starting values of its parts"),
    ("settled", "its settled state"),
]
ANALYSES: dict[str, Analysis] = {
    analysis.key: analysis
    for analysis in (
        Analysis(
            key="transient",
            label="Transient",
            answers="What happens in time?",
            settings=[
                Setting(key="stop", label="How long", unit="s", meaning="The run ends here."),
                Setting(key="start", label="Shown from", unit="s",
                        meaning="What comes before is run, and not shown."),
                Setting(key="begin", label="Begins from", reads="choice", choices=BEGINS),
            ],
        ),
        Analysis(
            key="frequency_sweep",
            label="Frequency sweep",
            answers="How does it answer sines from slow to fast?",
            settings=[
                Setting(key="from", label="From", unit="Hz", meaning="The lowest frequency."),
                Setting(key="to", label="To", unit="Hz", meaning="The highest frequency."),
            ],
        ),
        Analysis(
            key="dc_sweep",
            label="DC sweep",
            answers="What follows when one value is moved?",
            settings=[
                Setting(key="subject", label="Of", reads="name",
                        meaning="A source, a circuit parameter, or temperature."),
                Setting(key="from", label="From", meaning="Its first value."),
                Setting(key="to", label="To", meaning="Its last value."),
            ],
        ),
        Analysis(
            key="phasor",
            label="Phasors",
            answers="How large, and how far turned, at one frequency?",
            settings=[Setting(key="frequency", label="At", unit="Hz", meaning="The one frequency.")],
            has_curves=False,
        ),
        Analysis(
            key="natural",
            label="Natural frequencies",
            answers="How fast, and ringing how much, by itself?",
            has_curves=False,
        ),
        Analysis(
            key="operating_point",
            label="Operating point",
            answers="Where does it rest?",
            has_curves=False,
        ),
    )
}  # fmt: skip
