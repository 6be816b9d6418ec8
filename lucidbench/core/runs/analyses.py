"""The analyses a run may be of, with their settings: described once for page and core."""

from __future__ import annotations

from pydantic import BaseModel


class Setting(BaseModel):
    """One thing an analysis is told.

    `reads` is a "quantity", "values" (several of them), "voltages" of nodes, a "choice" among `choices`,
    or the name of a "source", a "node", a "trace", of what can be "swept", of what can be "varied", of a
    Kirchhoff "sum", or of an "output": a node or none.
    """

    key: str
    label: str
    unit: str = ""
    meaning: str = ""
    reads: str = "quantity"
    choices: list[tuple[str, str]] = []
    optional: bool = False


class MoreReading(BaseModel):
    """A figure that is read off the curves when it is asked for."""

    key: str
    label: str


class Analysis(BaseModel):
    key: str
    label: str
    answers: str  # the question it is for
    settings: list[Setting] = []
    has_curves: bool = True
    readings: list[MoreReading] = []


BEGINS = [
    ("point", "operating point"),
    ("given", "starting values"),
    ("settled", "settled state"),
]
TOLD = [("peak", "peak values"), ("RMS", "RMS values")]
# Where a circuit can rest in several states, these say which is meant.
NEAR = Setting(
    key="near",
    label="Start from",
    reads="voltages",
    optional=True,
    meaning="Of several states in which the circuit can rest, the one near these voltages.",
)
# Any run in numbers may be a family of them.
FAMILY = [
    Setting(key="vary", label="For several", reads="varied", optional=True,
            meaning="A part or circuit parameter that takes one value after the other."),
    Setting(key="over", label="Values", reads="values", optional=True,
            meaning="Its values, with commas between: 1 µF, 10 µF, 100 µF. Of tolerances: how often."),
]  # fmt: skip
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
                NEAR.model_copy(update={"label": "Rests near"}),
                *FAMILY,
            ],
            readings=[
                MoreReading(key="midpoint", label="midpoint"),
                MoreReading(key="rise_time", label="rise time"),
                MoreReading(key="fall_time", label="fall time"),
                MoreReading(key="overshoot", label="overshoot"),
                MoreReading(key="settling_time", label="settling time"),
                MoreReading(key="duty", label="duty cycle"),
                MoreReading(key="integral", label="integral"),
            ],
        ),
        Analysis(
            key="frequency_sweep",
            label="Frequency sweep",
            answers="How does it answer sines from slow to fast?",
            settings=[
                Setting(key="from", label="From", unit="Hz", meaning="The lowest frequency."),
                Setting(key="to", label="To", unit="Hz", meaning="The highest frequency."),
                *FAMILY,
            ],
            readings=[
                MoreReading(key="slope_low", label="slope at the low end"),
                MoreReading(key="slope_high", label="slope at the high end"),
                MoreReading(key="phase_lower", label="phase at the lower cutoff"),
                MoreReading(key="phase_upper", label="phase at the upper cutoff"),
                MoreReading(key="phase_margin", label="phase margin"),
                MoreReading(key="gain_margin", label="gain margin"),
                MoreReading(key="band", label="pass band and slopes, on the plot"),
            ],
        ),
        Analysis(
            key="dc_sweep",
            label="DC sweep",
            answers="What follows when one value is moved?",
            settings=[
                Setting(key="subject", label="Of", reads="swept",
                        meaning="A source, a circuit parameter, or temperature."),
                Setting(key="from", label="From", meaning="Its first value."),
                Setting(key="to", label="To", meaning="Its last value."),
                *FAMILY,
            ],
            readings=[
                MoreReading(key="maximum", label="maximum"),
                MoreReading(key="minimum", label="minimum"),
                MoreReading(key="midpoint", label="midpoint"),
                MoreReading(key="steepest", label="steepest slope"),
            ],
        ),
        Analysis(
            key="operating_point",
            label="Operating point",
            answers="Where does it rest?",
            settings=[NEAR, *FAMILY],
            has_curves=False,
        ),
        Analysis(
            key="phasor",
            label="Phasors",
            answers="How large, and how far turned, at one frequency?",
            settings=[
                Setting(key="frequency", label="At", unit="Hz", meaning="The one frequency."),
                Setting(key="told", label="Told as", reads="choice", choices=TOLD),
                Setting(key="sum", label="Arrows", reads="sum", optional=True,
                        meaning="All from one origin, or one Kirchhoff sum laid head to tail."),
                *FAMILY,
            ],
            has_curves=False,
        ),
        Analysis(
            key="fourier",
            label="Fourier",
            answers="Which sines make up the settled waveform?",
            settings=[Setting(key="trace", label="Of", reads="trace"), *FAMILY],
            has_curves=False,
        ),
        Analysis(
            key="largest_output",
            label="Largest output",
            answers="How large can the output be before it is distorted?",
            settings=[
                Setting(key="source", label="Turning up", reads="source"),
                Setting(key="trace", label="Output", reads="trace"),
                Setting(key="limit", label="Distortion up to", unit="%",
                        meaning="The THD that is still called undistorted."),
                *FAMILY,
            ],
            has_curves=False,
        ),
        Analysis(
            key="equivalent",
            label="Equivalents",
            answers="What does it look like from two terminals?",
            settings=[
                Setting(key="node", label="From node", reads="node"),
                Setting(key="at", label="At", unit="Hz", optional=True, meaning="Empty: at DC."),
                *FAMILY,
            ],
            has_curves=False,
        ),
        Analysis(
            key="symbolic",
            label="Formula",
            answers="How does the answer follow from the parts, in letters?",
            settings=[
                Setting(key="source", label="From", reads="source"),
                Setting(key="node", label="To node", reads="node"),
            ],
            has_curves=False,
        ),
        Analysis(
            key="natural",
            label="Natural frequencies",
            answers="How fast, and ringing how much, by itself?",
            settings=[
                Setting(key="output", label="Zeros on the way to", reads="output", optional=True,
                        meaning="The node at which nothing arrives where s is a zero."),
                *FAMILY,
            ],
            has_curves=False,
        ),
    )
}  # fmt: skip
