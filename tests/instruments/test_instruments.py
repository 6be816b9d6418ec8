"""What instruments show: closed forms of their loading, and how well they read."""

from __future__ import annotations

import cmath
import math
import re

import numpy as np
import pytest

from lucidbench.core.analyses import frequency_sweep
from lucidbench.core.document.exercise import Build, Recipe
from lucidbench.core.netlist import Circuit
from lucidbench.instruments.bench import Bench
from lucidbench.instruments.build import physical_build
from lucidbench.instruments.client import BenchClient
from lucidbench.instruments.measuring import Measuring, plan_of
from lucidbench.instruments.models import Bridge, Generator, Meter, Oscilloscope, Supply
from lucidbench.instruments.models.meter import FUNCTIONS
from lucidbench.instruments.models.oscilloscope import GAIN_SHARE
from lucidbench.instruments.scpi.instrument import Instrument
from lucidbench.instruments.serving import BenchServer
from lucidbench.instruments.ways import Taken
from tests.core.circuits import circuit


def ideal(*lines: str) -> Bench:
    return Bench(physical_build(circuit(*lines), Build(ideal=True)), seed=1)


def ask(instrument: Instrument, line: str) -> float:
    answers = instrument.carry_out(line)
    assert not instrument.errors, instrument.errors
    return float(str(answers[-1]).split(",")[0])


def test_a_meter_loads_what_it_reads() -> None:
    """Two equal resistors of the meter's own 10 MΩ: a third of the supply is shown, not half."""
    meter = Meter(ideal("V1 a 0 6", "R1 a m 10meg", "R2 m 0 10meg"))
    shown = ask(meter, "MEAS:VOLT? (@m,gnd)")
    assert shown == pytest.approx(2.0, abs=FUNCTIONS["VOLT:DC"].statement.uncertainty(2.0))


def test_a_meter_in_series_has_a_burden() -> None:
    """1 V over 90 Ω would be 11.1 mA; with the 1 Ω of the 60 mA range it is 10.99 mA."""
    meter = Meter(ideal("V1 a 0 1", "R1 a 0 90"))
    shown = ask(meter, "MEAS:CURR? (@R1)")
    assert shown == pytest.approx(1 / 91, abs=FUNCTIONS["CURR:DC"].statement.uncertainty(shown))


@pytest.mark.parametrize(
    ("shape", "ratio"), [("SIN", 1 / math.sqrt(2)), ("SQU", 1.0), ("TRI", 1 / math.sqrt(3))]
)
def test_true_rms_of_every_shape(shape: str, ratio: float) -> None:
    """Peak to RMS of sine, square and triangle: any circuits text. At 100 Hz the bandwidth takes little,
    but of the square's harmonics, 0.3 %."""
    bench = ideal("V1 a 0 SIN(0 1 100)", "R1 a 0 1meg")
    generator, meter = Generator(bench), Meter(bench)
    generator.carry_out(f"FUNC {shape};FREQ 100;VOLT 2;OUTP ON")
    assert ask(meter, "MEAS:VOLT:AC? (@a)") == pytest.approx(2 * ratio, rel=0.03)


def test_the_meters_ac_bandwidth() -> None:
    """At its -3 dB frequency it shows 1/√2 of what is there."""
    bench = ideal("V1 a 0 SIN(0 1 20k)", "R1 a 0 1k")
    assert ask(Meter(bench), "MEAS:VOLT:AC? (@a)") == pytest.approx(0.5, rel=0.02)


def test_ohms_of_a_part_taken_out_and_of_a_dead_circuit() -> None:
    bench = ideal("V1 a 0 5", "R1 a m 1k", "R2 m 0 3k")
    assert ask(Meter(bench), "MEAS:RES? (@R2)") == pytest.approx(3000, rel=0.01)
    assert ask(Meter(bench), "MEAS:RES? (@m,gnd)") == pytest.approx(750, rel=0.01)


def test_a_supply_limits_its_current() -> None:
    bench = ideal("V1 a 0 5", "R1 a 0 100")
    supply, meter = Supply(bench), Meter(bench)
    supply.carry_out("VOLT 10;CURR 20 MA;OUTP ON")
    assert ask(meter, "MEAS:VOLT? (@a)") == pytest.approx(2.0, rel=0.01)
    assert ask(supply, "MEAS:CURR?") == pytest.approx(20e-3, rel=0.01)


def test_a_bridge_tells_value_and_loss() -> None:
    """A coil of 10 mH with 8 Ω, both in the plane of its impedance."""
    bench = Bench(circuit("V1 a 0 1", "L1 a 0 10m"))
    bench.load(bench.circuit.with_value("L1", "series_resistance", 8.0))
    henry, ohms = map(
        float, str(Bridge(bench).carry_out("FREQ 10KHZ;:MEAS:IND? (@L1)")[0]).split(",")
    )
    assert henry == pytest.approx(10e-3, rel=0.004)
    assert ohms == pytest.approx(8.0, abs=0.003 * 630)


def test_a_record_is_as_fine_as_its_bits() -> None:
    """What is left of a triangle beside the true one: quantisation, a step over √12 (an even interval, JCGM
    100:2008, 4.3.7), and the stated noise of 0.3 of a step."""
    bench = ideal("V1 a 0 SIN(0 1 1k)", "R1 a 0 1meg")
    Generator(bench).carry_out("FUNC TRI;FREQ 1000;VOLT 3;OUTP ON")
    scope = Oscilloscope(bench)
    scope.carry_out("ROUT1:CLOS (@a);:VOLT1:RANG 8;:SWE:TIME 1MS;POIN 5000;:INIT")
    assert scope.traces
    volts, step = scope.traces[0], 8 / 256
    times = scope.interval * np.arange(5000)
    triangle = np.abs(((times / 1e-3 + 0.25) % 1.0) * 4 - 2) - 1
    design = np.column_stack([triangle, np.ones(5000)])  # its gain and zero are its own
    (gain, _), *_ = np.linalg.lstsq(design, volts, rcond=None)
    left = volts - design @ np.linalg.lstsq(design, volts, rcond=None)[0]
    assert abs(gain) == pytest.approx(3.0, rel=GAIN_SHARE + 0.01)
    expected = step * math.hypot(1 / math.sqrt(12), 0.3)
    assert np.sqrt(np.mean(left**2)) == pytest.approx(expected, rel=0.06)


def test_averaging_lowers_noise_by_the_root() -> None:
    bench = ideal("V1 a 0 1.234", "R1 a 0 1k")
    scope = Oscilloscope(bench)
    scope.carry_out("ROUT1:CLOS (@a);:VOLT1:RANG 4;:INIT")
    assert scope.traces
    once = np.std(scope.traces[0])
    scope.carry_out("AVER:COUN 100;:INIT")
    assert np.std(scope.traces[0]) == pytest.approx(once / 10, rel=0.25)


def test_pre_trigger_and_single_shot() -> None:
    """A step of 1 V through 1 kΩ and 1 µF, triggered at half: there t is τ·ln 2 after the step."""
    bench = ideal("V1 a 0 PULSE(0 1 1m 0 0 1)", "R1 a m 1k", "C1 m 0 1u")
    scope = Oscilloscope(bench)
    scope.carry_out(
        "INP1:ATT 10;:ROUT1:CLOS (@m);:VOLT1:RANG 2;:SWE:TIME 4MS;POIN 4000;OFFS:TIME -2MS"
    )
    scope.carry_out("INIT:CONT OFF;:TRIG:SOUR INT1;LEV 0.5;SLOP POS;:INIT")
    assert not scope.errors
    assert scope.traces
    volts = scope.traces[0]
    assert volts[2000] == pytest.approx(0.5, abs=0.03)
    begins = int(2000 - math.log(2) * 1000)  # samples of 1 µs
    assert np.mean(volts[: begins - 20]) == pytest.approx(0.0, abs=0.05)
    assert volts[-1] == pytest.approx(1 - 0.5 * math.exp(-2), abs=0.04)


def taken(build: Circuit, drawn: Circuit, recipe: Recipe) -> list[Taken]:
    server = BenchServer(Bench(build))
    measuring = Measuring(BenchClient("The stand-in", server.addresses))
    try:
        plan = plan_of(drawn, recipe, {})
        assert not plan.problem
        return [measuring.take(plan, at) for at in plan.points]
    finally:
        measuring.close()
        server.stop()


def measured(build: Circuit, drawn: Circuit, recipe: Recipe) -> list[complex]:
    """A response, as phasors."""
    columns = [each.columns[1:] for each in taken(build, drawn, recipe)]
    return [cmath.rect(a.values[0], math.radians(phi.values[0])) for a, phi in columns]


def test_ranges_are_proposed_from_the_simulated_signals_and_held_where_they_are_set() -> None:
    """A sine of ±1 V about 5 V, and half of it: spans and middles follow. A range that is set is held, and
    what goes beyond it is said; a proposed one that the build does not fit makes room."""
    drawn = circuit("V1 in 0 SIN(5 1 1k)", "R1 in out 10k", "R2 out 0 10k")
    build = physical_build(drawn, Build(ideal=True))
    plan = plan_of(drawn, Recipe(way="record"), {})
    proposed = {look.key: look.proposed for look in plan.settings.looks}
    assert (proposed["range_1"], proposed["middle_1"]) == ("5 V", "5 V")
    assert (proposed["range_2"], proposed["middle_2"]) == ("2 V", "2.4 V")
    assert proposed["ranging"] == "found"
    (fits,) = taken(build, drawn, Recipe(way="record"))
    assert fits.note == ""
    held = Recipe(way="record", settings={"range_1": "1 V", "points": "400"})
    (clipped,) = taken(build, drawn, held)
    # A sine of ±1 V is within ±0.5 V for a third of its period.
    beyond = re.search(r"channel 1 goes beyond its range at (\d+) of 400", clipped.note)
    assert beyond
    assert int(beyond[1]) == pytest.approx(400 * 2 / 3, abs=12)
    assert max(clipped.columns[1].values) <= 5.5
    large = physical_build(
        circuit("V1 in 0 SIN(5 8 1k)", "R1 in out 10k", "R2 out 0 10k"), Build(ideal=True)
    )
    (grown,) = taken(large, drawn, Recipe(way="record"))
    assert "channel 1 was read in a range of" in grown.note
    assert max(grown.columns[1].values) == pytest.approx(13, rel=0.05)


def test_a_response_is_the_builds_own_transfer_function() -> None:
    """Each point against the engine's exact phasors of the same build with both probes; a channel's gain is
    its own, within its statement, and the same at all points."""
    drawn = circuit("V1 in 0 SIN(0 1 1k)", "R1 in out 10k", "C1 out 0 10n")
    build = physical_build(drawn, Build(seed=12))
    recipe = Recipe(way="response", settings={"from": "100 Hz", "to": "20 kHz", "points": "7"})
    found = measured(build, drawn, recipe)
    loaded = [
        *build, *circuit("R8 in 0 10meg", "C8 in 0 15p", "R9 out 0 10meg", "C9 out 0 15p"),
    ]  # fmt: skip
    driven = Circuit("", tuple(loaded), build.temperature).with_value("V1", "magnitude", 1.0)
    exact = frequency_sweep(driven, np.geomspace(100, 20e3, 7))
    ratio = np.array(found) / (exact.voltage("out") / exact.voltage("in"))
    assert np.abs(ratio) == pytest.approx(np.abs(ratio[0]), rel=2e-3)
    assert np.abs(ratio[0]) == pytest.approx(1.0, abs=2 * GAIN_SHARE)
    assert np.degrees(np.angle(ratio)) == pytest.approx(0.0, abs=0.2)


def test_a_plain_probe_is_a_low_pass() -> None:
    """1 MΩ and 100 pF behind 100 kΩ: the corner is 1/(2π·(R ∥ R_in)·C), where the size is 1/√2 of that
    below it."""
    drawn = circuit("V1 in 0 SIN(0 1 1k)", "R1 in out 100k")
    build = physical_build(drawn, Build(ideal=True))
    corner = 1 / (2 * math.pi * (1e5 * 1e6 / 1.1e6) * 100e-12)
    recipe = Recipe(way="response", settings={
        "from": "100 Hz", "to": f"{corner:.9g} Hz", "points": "2", "at": "out", "probe": "1",
    })  # fmt: skip
    low, at_corner = measured(build, drawn, recipe)
    assert abs(at_corner) / abs(low) == pytest.approx(1 / math.sqrt(2), rel=3e-3)
    assert math.degrees(cmath.phase(at_corner)) == pytest.approx(-45.0, abs=0.3)
