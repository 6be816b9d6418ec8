"""Records of the bench: sines fitted, uncertainty carried through, laid over a curve, and the gap."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.optimize import least_squares

from lucidbench.core.document.exercise import Column, Record, Run
from lucidbench.core.errors import LucidError
from lucidbench.core.readings.curve import Curve
from lucidbench.core.readings.registry import OVER_FREQUENCY, OVER_TIME
from lucidbench.core.records.alignment import shift_by_fit, shift_by_trigger
from lucidbench.core.records.curves import bench_curves
from lucidbench.core.records.gap import gap_between, in_words
from lucidbench.core.records.propagation import of_repeated, propagated
from lucidbench.core.records.sine_fit import fit_sine, fit_sine_and_frequency
from lucidbench.core.records.uncertain import reading_of
from lucidbench.core.runs import carry_out, solve
from lucidbench.core.runs.bench_overlay import beside
from lucidbench.core.units.uncertain import with_uncertainty
from tests.core.test_runs import exercise


def record(*columns: Column, **more: object) -> Record:
    return Record.model_validate({"id": "m", "name": "A record", "columns": list(columns), **more})


def test_a_sine_fit_is_the_least_squares_of_its_definition() -> None:
    """IEEE Std 1057-2017, annex A: three and four parameters, against a general least-squares solver that
    is given the definition alone."""
    random = np.random.default_rng(5)
    times = np.arange(400) * 1e-5
    values = (
        0.4 + 1.7 * np.cos(2 * np.pi * 1234.5 * times - 0.8) + 0.05 * random.standard_normal(400)
    )
    known = fit_sine(times, values, 1234.5)
    free = fit_sine_and_frequency(times, values, 1200.0)

    def left(p: np.ndarray) -> np.ndarray:
        f = p[3] if len(p) > 3 else 1234.5
        angle = 2 * np.pi * f * times
        return np.asarray(p[0] * np.cos(angle) + p[1] * np.sin(angle) + p[2] - values)

    three = least_squares(left, [1.0, 1.0, 0.0], xtol=1e-14, ftol=1e-14).x
    four = least_squares(left, [1.0, 1.0, 0.0, 1230.0], xtol=1e-14, ftol=1e-14, x_scale="jac").x
    assert [known.phasor.real, -known.phasor.imag, known.offset] == pytest.approx(three, rel=1e-7)
    assert free.frequency == pytest.approx(four[3], rel=1e-8)
    assert free.residual == pytest.approx(0.05, rel=0.1)
    assert abs(abs(known.phasor) - 1.7) < 4 * known.uncertainty


def test_resistance_and_reactance_measured_at_once() -> None:
    """JCGM 100:2008, annex H.2, tables H.2 to H.4: five sets of voltage, current and phase, and what is
    published for R, X and Z, with their uncertainties and correlations (data and results from memory)."""
    sets = np.array([
        [5.007, 19.663e-3, 1.0456], [4.994, 19.639e-3, 1.0438], [5.005, 19.640e-3, 1.0468],
        [4.990, 19.685e-3, 1.0428], [4.999, 19.678e-3, 1.0433],
    ])  # fmt: skip
    means, covariance = of_repeated(sets)

    def impedance(x: np.ndarray) -> tuple[float, float, float]:
        volts, amps, angle = x
        return volts / amps * np.cos(angle), volts / amps * np.sin(angle), volts / amps

    (r, x, z), spread = propagated(impedance, means, covariance)
    assert (r, x, z) == pytest.approx((127.732, 219.847, 254.260), abs=6e-4)
    u = np.sqrt(np.diag(spread))
    assert u == pytest.approx((0.071, 0.295, 0.236), abs=6e-4)
    correlation = spread / np.outer(u, u)
    assert correlation[0, 1] == pytest.approx(-0.588, abs=1e-3)
    assert correlation[0, 2] == pytest.approx(-0.485, abs=1e-3)
    assert correlation[1, 2] == pytest.approx(0.993, abs=1e-3)


def test_an_end_gauge() -> None:
    """JCGM 100:2008, annex H.1: the combined standard uncertainty is 32 nm to first order (values from
    memory)."""

    def length(x: np.ndarray) -> tuple[float]:
        standard, difference, expansion_less, expansion, warmth, warmth_less = x
        return (
            standard + difference - standard * (expansion_less * warmth + expansion * warmth_less),
        )

    values = np.array([50.000623e-3, 215e-9, 0.0, 11.5e-6, -0.1, 0.0])
    u = np.array([25e-9, 9.7e-9, 0.58e-6, 1.2e-6, 0.41, 0.029])
    (found,), spread = propagated(length, values, np.diag(u**2))
    assert found == pytest.approx(50.000838e-3, abs=1e-9)
    assert np.sqrt(spread[0, 0]) == pytest.approx(32e-9, abs=0.5e-9)


def low_pass(points: int = 40) -> tuple[np.ndarray, np.ndarray]:
    f = np.geomspace(10.0, 1e5, points)
    return f, 1 / (1 + 1j * f / 1e3)


def test_a_record_of_magnitude_and_phase_is_read_like_a_curve() -> None:
    """A first-order low-pass of 1 kHz; dB and ratio mean the same. The cutoff's uncertainty for 1 % of
    each magnitude: there |H| falls by |H|/2 for each e-fold of f, so 1 % of |H| is 2 % of f."""
    f, h = low_pass(400)
    phase = Column(quantity="arg(V_out/V_in)", unit="°", values=np.degrees(np.angle(h)).tolist())
    plain = Column(quantity="abs(V_out/V_in)", values=np.abs(h).tolist())
    decibels = Column(
        quantity="dB(V_out/V_in)", unit="dB", values=(20 * np.log10(np.abs(h))).tolist()
    )
    axis = Column(quantity="f", unit="Hz", values=f.tolist())
    kind = next(k for k in OVER_FREQUENCY if k.key == "upper_cutoff")
    for size in (plain, decibels):
        (curve,) = bench_curves(record(axis, size, phase))
        value, unit, _ = reading_of(curve, kind)
        assert (value, unit) == (pytest.approx(1e3, rel=2e-3), "Hz")
    together = plain.model_copy(update={"common": 0.02})
    (curve,) = bench_curves(record(axis, together, phase))
    assert reading_of(curve, kind)[2] < 1.0  # what all are off by together moves no cutoff
    each = plain.model_copy(update={"uncertainties": (0.01 * np.abs(h)).tolist()})
    (curve,) = bench_curves(record(axis, each, phase))
    assert 0.2 * 20 < reading_of(curve, kind)[2] < 5 * 20


def test_the_uncertainty_of_a_mean_falls_with_the_root() -> None:
    """JCGM 101:2008 by draws against JCGM 100, 4.2.3: of n independent values of one uncertainty U the mean
    has U/√n (the trapezoid's ends count half)."""
    t = np.linspace(0.0, 1.0, 101)
    values = Column(quantity="V_out", unit="V", values=np.sin(7 * t).tolist(), uncertainty=0.1)
    (curve,) = bench_curves(record(Column(quantity="t", unit="s", values=t.tolist()), values))
    mean = next(k for k in OVER_TIME if k.key == "mean")
    assert reading_of(curve, mean)[2] == pytest.approx(0.1 / 10, rel=0.25)


def pulses(phase: float, shift: float = 0.0) -> Record:
    """Of 1.5 ms and 3.3 V, upright, sampled each 9 µs over three periods."""
    t = np.arange(500) * 9e-6
    high = ((t / 1.5e-3 + phase) % 1.0) < 0.66
    values = np.where(high, 3.3, 0.0) + 4e-3 * np.random.default_rng(3).standard_normal(500)
    time = Column(quantity="t", unit="s", values=t.tolist())
    column = Column(quantity="V_in", unit="V", values=values.tolist(), uncertainty=8e-3)
    return record(time, column, shift=shift)


def test_where_a_record_is_laid_changes_nothing_that_is_read_off_it() -> None:
    keys = ("mean", "rms", "period", "duty")
    kinds = [kind for kind in OVER_TIME if kind.key in keys]
    assert len(kinds) == len(keys)
    told = [
        [float(kind.read(bench_curves(pulses(0.3, 1e-5 * k - 2e-4))[0].curve)) for kind in kinds]
        for k in range(40)
    ]
    assert told == [pytest.approx(told[0], rel=1e-9)] * 40


def test_an_edge_between_two_samples_may_be_anywhere_between_them() -> None:
    """The true period lies within what is told, and that is no wider than three samples."""
    kind = next(k for k in OVER_TIME if k.key == "period")
    for k in range(8):
        value, _, uncertainty = reading_of(bench_curves(pulses(k / 8.3))[0], kind)
        assert abs(value - 1.5e-3) <= uncertainty + 2e-6, k
        assert uncertainty < 27e-6


def sine_curve() -> Curve:
    grid = np.linspace(0.0, 4e-3, 2000)
    return Curve("V_out", "V", "s", grid, lambda t: np.sin(2 * np.pi * 1e3 * np.asarray(t)) + 0.2)


def shifted_record(shift: float, scale: float = 1.0) -> Record:
    t = np.linspace(0.0, 1.5e-3, 700)
    y = (np.sin(2 * np.pi * 1e3 * (t + shift)) + 0.2) / scale
    return record(Column(quantity="t", unit="s", values=t.tolist()),
                  Column(quantity="V_out", unit="V", values=y.tolist()))  # fmt: skip


def test_a_record_is_laid_by_trigger_and_by_fit() -> None:
    (curve,) = bench_curves(shifted_record(0.3e-3, 2.0))
    shift, scale = shift_by_fit(sine_curve(), curve, with_scale=True)
    assert shift % 1e-3 == pytest.approx(0.3e-3, abs=1e-7)
    assert scale == pytest.approx(2.0, rel=1e-4)
    # The curve passes 0.7 V upwards where its sine is 0.5: a twelfth of the period after its zero.
    assert shift_by_trigger(sine_curve(), 0.7, True, 0.0) == pytest.approx(1e-3 / 12, rel=1e-6)
    assert shift_by_trigger(sine_curve(), 0.7, False, 1e-4) == pytest.approx(
        5e-3 / 12 - 1e-4, rel=1e-6
    )
    with pytest.raises(LucidError, match="does not pass the level"):
        shift_by_trigger(sine_curve(), 5.0, True, 0.0)


def test_the_gap_in_words() -> None:
    """Allowed is the root sum square of a part's 4 % and the reading's 3 % (JCGM 100:2008, 5.1.2)."""
    x = np.array([1e3, 2e3, 3e3, 4e3])
    bench = record(
        Column(quantity="f", unit="Hz", values=x.tolist()),
        Column(quantity="abs(V_out)", unit="V", values=[1.0, 1.03, 1.2, 1.04], uncertainty=0.03),
    )
    (curve,) = bench_curves(bench)
    flat = Curve("V_out", "V", "Hz", x, lambda at: np.ones(len(at)) + 0j)
    other = Curve("V_out", "V", "Hz", x, lambda at: np.full(len(at), 1.04) + 0j)
    gap = gap_between(curve, flat, [other])
    assert gap is not None
    assert gap.allowed == pytest.approx(0.05)
    assert in_words(gap.x, gap.inside, "Hz") == "Agrees at 3 of 4 points; the gap is at 3\u00a0kHz."
    assert gap_between(curve, Curve("V_out", "V", "Hz", x + 1e6, flat.at)) is None


def test_records_beside_the_demo_runs_and_in_formulas() -> None:
    document = exercise("time-signal-filter")
    run = document.runs[0]
    look = beside(solve(document, run), document.records, run)
    (curve,) = look.curves
    assert curve.text == "V_out/V_in"
    quality = next(r for r in curve.readings if r.key == "quality")
    assert quality.uncertainty
    assert 3.5 < quality.value < 4.5  # 4.87 without the coil's loss
    (gap,) = look.gaps
    assert gap.by_tolerances
    assert gap.inside < gap.count
    hidden = beside(
        solve(document, run), document.records, run.model_copy(update={"without": ["m1"]})
    )
    assert [hidden.curves, hidden.offered[0].shown] == [[], False]
    mixed = Run(id="x", analysis="frequency_sweep", show=["bench(V_out/V_in) - V_out/V_in"])
    told = carry_out(document, mixed)
    assert told.curves[0].phase
    known = [v for v in told.curves[0].y if v is not None]
    assert 0.05 < max(known) < 0.3
    none = carry_out(document, Run(id="x", analysis="frequency_sweep", show=["bench(V_in)"]))
    assert none.shown[0].problem == "no record of V_in stands beside this run"


def test_a_record_without_order_says_so() -> None:
    double = record(Column(quantity="t", unit="s", values=[0.0, 1.0, 1.0]),
                    Column(quantity="V_out", unit="V", values=[0.0, 1.0, 2.0]))  # fmt: skip
    with pytest.raises(LucidError, match="two points stand at the same place of t"):
        bench_curves(double)


@pytest.mark.parametrize(
    ("value", "uncertainty", "unit", "text"),
    [(2.59437, 0.0171, "V", "2.594 V ± 0.017 V"), (0.0069, 0.00066, "V", "6.90 mV ± 0.66 mV"),
     (12600.0, 96.0, "Hz", "12.600 kHz ± 0.096 kHz"), (-9.51e-6, 4.4e-7, "A", "-9.51 µA ± 0.44 µA"),
     (4.142, 0.0, "", "4.142")],
)  # fmt: skip
def test_a_value_is_written_to_the_place_of_its_uncertainty(
    value: float, uncertainty: float, unit: str, text: str
) -> None:
    """JCGM 100:2008, 7.2.6: two digits of the uncertainty, the value to the same place."""
    assert with_uncertainty(value, uncertainty, unit) == text
