"""What is read off runs of the demo exercises, against what a textbook says of each circuit."""

from __future__ import annotations

import cmath
import math
from pathlib import Path

import pytest

from lucidbench.core.document.exercise import Exercise, Marker, Run, read_exercise
from lucidbench.core.runs import RunLook, present, solve
from lucidbench.core.runs.marks import at_marks
from lucidbench.core.units import parse_value

EXAMPLES = Path(__file__).parents[2] / "examples"


def demo(name: str, **values: dict[str, str]) -> Exercise:
    """A demo exercise, some of its parts with other values."""
    exercise = read_exercise((EXAMPLES / f"{name}.json").read_bytes())
    for part in exercise.schematic.parts:
        part.values.update(values.get(part.name, {}))
    return exercise


def run_of(exercise: Exercise, analysis: str, *show: str, **settings: str) -> RunLook:
    told = present(
        solve(exercise, Run(id="x", analysis=analysis, show=list(show), settings=settings))
    )
    assert told.problem is None
    return told


def reading(told: RunLook, curve: str, label: str) -> float:
    of = next(each for each in told.curves if each.text == curve)
    figure = next(each for each in of.readings if each.label == label)
    assert figure.value is not None
    return float(figure.value)


def cell(told: RunLook, table: str, row: str, column: int, unit: str) -> float:
    rows = next(each.rows for each in told.tables if each.title == table)
    found = next(each.cells for each in rows if each.cells[0].text == row)[column]
    return parse_value(found.text.replace("\u2212", "-").replace("\u00a0", " "), unit).number


# The anti-alias ladder's two sections: roots of R1·C1·R2·C2·s² + (R1·C1 + R1·C2 + R2·C2)·s + 1 (any
# network theory text).
_B = 10e3 * 10e-9 + 10e3 * 4.7e-9 + 22e3 * 4.7e-9
_A = 10e3 * 10e-9 * 22e3 * 4.7e-9
_ROOT = math.sqrt(_B * _B - 4 * _A)
SLOW, FAST = (_B + _ROOT) / 2, (_B - _ROOT) / 2


def test_time_constants_of_the_anti_alias_ladder() -> None:
    [table] = run_of(demo("anti-alias-ladder"), "natural").tables
    assert table.title == "Stable: everything fades"
    assert parse_value(
        table.rows[0].cells[1].text.replace("\u00a0", " "), "s"
    ).number == pytest.approx(SLOW, rel=1e-3)


def test_five_time_constants_of_the_anti_alias_ladder() -> None:
    # Behind two sections a step leaves (τ1·e^(-t/τ1) - τ2·e^(-t/τ2))/(τ1 - τ2).
    left = (SLOW * math.exp(-5) - FAST * math.exp(-5 * SLOW / FAST)) / (SLOW - FAST)
    after = 100e-6 + 5 * SLOW  # the pulse begins at 100 µs
    told = run_of(demo("anti-alias-ladder"), "transient", "V_out", stop=f"{after * 1e6:.3f} µs")
    assert reading(told, "V_out", "maximum") == pytest.approx(3.3 * (1 - left), rel=1e-3)


def test_band_of_the_time_signal_filter() -> None:
    # f_0 = 1/(2π√(LC)), bandwidth R/(2πL): any circuits text.
    told = run_of(demo("time-signal-filter"), "frequency_sweep", "V_out/V_in")
    assert reading(told, "V_out/V_in", "maximum at") == pytest.approx(77.5e3, rel=1e-3)
    width = 220 / (2 * math.pi * 2.2e-3)
    assert reading(told, "V_out/V_in", "bandwidth") == pytest.approx(width, rel=1e-3)


def test_a_quarter_period_at_the_sounder() -> None:
    """A capacitor's voltage has its peak a quarter of a period after its current: any circuits text."""
    exercise = demo("sounder-driver")
    run = Run(
        id="x",
        analysis="transient",
        show=["I_C1", "V_out"],
        settings={"begin": "settled", "stop": "1 ms"},
    )
    result = solve(exercise, run)
    told = present(result)
    peaks = {}
    for curve in told.curves:
        figure = next(each for each in curve.readings if each.label == "maximum")
        assert figure.at is not None
        peaks[curve.text] = Marker(curve=curve.text, member="", at=figure.at)
    between = at_marks(result, [peaks["I_C1"], peaks["V_out"]]).between
    turn = next(figure for figure in between if figure.unit == "°")
    assert "lags" in turn.label
    assert turn.value == pytest.approx(-90, abs=1)


def test_corner_of_the_flow_integrator() -> None:
    # Gain R2/R1 up to 1/(2π·R2·C1); unity where the integrator's own corner is, 1/(2π·R1·C1) less what
    # the lower corner takes: √((R2/R1)² - 1) of the lower one (any op-amp text).
    told = run_of(demo("flow-integrator"), "frequency_sweep", "V_out/V_in")
    low = 1 / (2 * math.pi * 100e3 * 100e-9)
    assert reading(told, "V_out/V_in", "upper cutoff") == pytest.approx(low, rel=1e-3)
    unity = reading(told, "V_out/V_in", "gain = 1 (0 dB) at")
    assert unity == pytest.approx(low * math.sqrt(99), rel=1e-3)


@pytest.mark.parametrize(
    ("form", "values", "answer"),
    [
        # Across the capacitor of an integrator, at many times its lower corner: the integral of each
        # (any op-amp text). Sine to a cosine of V/(ωRC), square to a triangle of V·T/(4RC), triangle to
        # parabolas of V·T/(8RC); all less (1/(2·f·R2·C1))² of themselves or so by the resistor beside it.
        (
            "sine",
            {"amplitude": "1 V", "frequency": "500 Hz", "offset": "0 V"},
            1 / (2 * math.pi * 500 * 1e-3),
        ),
        ("square", {"low": "-1 V", "high": "1 V", "frequency": "500 Hz"}, 2e-3 / (4 * 1e-3)),
        ("triangle", {"low": "-1 V", "high": "1 V", "frequency": "500 Hz"}, 2e-3 / (8 * 1e-3)),
    ],
)
def test_three_waveforms_through_the_flow_integrator(
    form: str, values: dict[str, str], answer: float
) -> None:
    exercise = demo("flow-integrator", V1=values)
    parts = exercise.schematic.parts
    source = next(k for k, part in enumerate(parts) if part.name == "V1")
    parts[source] = parts[source].model_copy(update={"form": form})
    told = run_of(exercise, "transient", "V_out", begin="settled")
    assert reading(told, "V_out", "peak to peak") == pytest.approx(2 * answer, rel=0.01)


def test_gain_of_the_hydrophone_stage() -> None:
    # |A| = g_m·(R_C ‖ R_L ‖ r_o), turned by half a circle: any electronics text, g_m = I_C/V_T.
    told = run_of(demo("hydrophone-stage"), "phasor")
    gain = cell(told, "Voltages", "out", 1, "V") / 10e-3
    collector, thermal, early = 2.771e-3, 25.865e-3, 75 + 4.6
    load = 1 / (1 / 2.2e3 + 1 / 10e3 + collector / early)
    assert gain == pytest.approx(collector / thermal * load, rel=0.03)
    angle = cell(told, "Voltages", "out", 2, "°")
    assert abs(abs(angle) - 180) < 12  # the emitter capacitor turns it a little


def test_a_family_of_operating_points_of_the_hydrophone_stage() -> None:
    # The same current through either collector resistor: what is left of 12 V follows Ohm's law.
    told = run_of(demo("hydrophone-stage"), "operating_point", vary="R3", over="1k, 2.2k")
    [rows] = [table.rows for table in told.tables if table.title == "Voltages"]
    left = [
        12 - parse_value(cells[2].text.replace("\u00a0", " "), "V").number
        for cells in (row.cells for row in rows)
        if "c" in (cells[0].text, cells[1].text)
    ]
    assert left[1] == pytest.approx(2.2 * left[0], rel=0.01)


def test_period_of_the_beacon_flasher() -> None:
    # T ≈ R·C·ln((V - V_V)/(V - V_P)), from valley to peak: any text on relaxation oscillators.
    told = run_of(demo("beacon-flasher"), "transient", "V_e")
    peak, valley = (reading(told, "V_e", label) for label in ("maximum", "minimum"))
    period = 100e3 * 4.7e-6 * math.log((12 - valley) / (12 - peak))
    assert reading(told, "V_e", "period") == pytest.approx(period, rel=0.03)
    assert peak == pytest.approx(0.65 * 12 * 7e3 / (7e3 + 517) + 0.5, abs=0.2)  # η·V_BB + V_D


def test_phasors_of_the_feed_line() -> None:
    # Millman's theorem by hand, with V1 as reference (any circuits text).
    told = run_of(demo("feed-line"), "phasor")
    second = cmath.rect(11, math.radians(-20))
    node = (12 / 4j + second / 6j) / (1 / 4j + 1 / 6j + 1 / (8 - 3j))
    assert cell(told, "Voltages", "feed", 1, "V") == pytest.approx(abs(node), rel=2e-3)


def test_slope_of_the_lamp_curve() -> None:
    # A plain resistor is a straight line through the origin: Ohm's law.
    told = run_of(demo("lamp-curve"), "dc_sweep", "V_a/I_R1")
    assert reading(told, "V_a/I_R1", "at the end") == pytest.approx(470, rel=1e-3)


def test_ripple_of_the_charger() -> None:
    # ΔV ≈ I·T/C less what the diode conducts, any power-supply text; so below it, and not far.
    simple = 15.3 / 330 * 20e-3 / 470e-6
    told = run_of(demo("charger"), "transient", "V_out", start="700 ms", stop="800 ms")  # charged
    assert 0.7 * simple < reading(told, "V_out", "peak to peak") < simple
