"""Every part against closed forms of the textbook, and the laws' slopes against differences."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.special import lambertw

from lucidbench.core.analyses import (
    TransientSettings,
    decades,
    frequency_sweep,
    operating_point,
    phasors,
    transient,
)
from lucidbench.core.analyses.device_regions import device_states
from lucidbench.core.devices import DEVICES, Law, Setting, Stamps
from lucidbench.core.devices.laws.dispatch import ROOM, apply_law
from lucidbench.core.devices.temperature import thermal_voltage
from lucidbench.core.equations.system import assemble
from lucidbench.core.netlist import Element
from tests.core.circuits import circuit
from tests.depth import examples

V_T = thermal_voltage(300.15)


def test_thermal_voltage_is_that_of_the_exact_constants() -> None:
    # k = 1.380649e-23 J/K and q = 1.602176634e-19 C, exact: CODATA 2018.
    assert pytest.approx(0.0258649, rel=1e-5) == V_T


def test_diode_behind_a_resistor_is_lamberts_function() -> None:
    # Corless et al., On the Lambert W Function, Advances in Computational Mathematics 5, 1996.
    for volts, ohms, saturation, n in [
        (5, 1e3, 1e-14, 1),
        (0.3, 1e5, 1e-9, 2),
        (25, 0.5, 1e-18, 1.7),
    ]:
        point = operating_point(
            circuit(
                f"V1 a 0 {volts}",
                f"R1 a b {ohms}",
                "D1 b 0 d",
                f".model d D(IS={saturation} N={n})",
            )
        )
        scale = n * V_T
        drive = saturation * ohms / scale * math.exp((volts + saturation * ohms) / scale)
        exact = scale / ohms * float(np.real(lambertw(drive))) - saturation
        assert point.currents["D1"] == pytest.approx(exact, rel=1e-9)


def test_a_diode_blocks_its_saturation_current_and_breaks_down() -> None:
    # The breakdown current flows at the breakdown voltage: what the parameters say.
    blocking = operating_point(circuit("V1 0 a 5", "D1 a 0 d", ".model d D(IS=1e-12)"))
    assert blocking.currents["D1"] == pytest.approx(-1e-12, rel=1e-3)
    zener = circuit("I1 b 0 5m", "D1 b 0 d", ".model d D(IS=1e-14 BV=5.1 IBV=5m)")
    point = operating_point(zener)
    assert point.voltages["b"] == pytest.approx(-5.1, abs=1e-9)
    assert device_states(point)["D1"].region == "breakdown"


def test_textbook_diodes() -> None:
    # A constant drop of 0.7 V and an ideal switch: any introductory electronics text.
    for form, drop in (("constant_drop", 0.7), ("ideal", 0.0)):
        forward = circuit("V1 a 0 10", "R1 a b 1k", f"Y1 b 0 diode form={form}")
        assert operating_point(forward).voltages["b"] == pytest.approx(drop, abs=2e-5)
        backward = circuit("V1 0 a 10", "R1 a b 1k", f"Y1 b 0 diode form={form}")
        assert operating_point(backward).voltages["b"] == pytest.approx(-10, rel=1e-5)


def test_bipolar_transistor_in_closed_form() -> None:
    # i_C = I_S·exp(v_BE/V_T)·(1 - v_BC/V_A), i_B = I_S/β·exp(v_BE/V_T): Gummel and Poon, 1970,
    # without high injection.
    point = operating_point(
        circuit("VB b 0 0.65", "VC c 0 5", "Q1 c b 0 q", ".model q NPN(IS=1e-14 BF=180 VAF=75)")
    )
    flow = 1e-14 * math.exp(0.65 / V_T)
    assert point.currents["Q1.B"] == pytest.approx(flow / 180, rel=1e-9)
    assert point.currents["Q1.C"] == pytest.approx(flow * (1 + (5 - 0.65) / 75), rel=1e-9)
    state = device_states(point)["Q1"]
    assert state.region == "forward active"
    assert state.values["g_m"] == pytest.approx(point.currents["Q1.C"] / V_T, rel=2e-3)
    assert state.values["r_pi"] == pytest.approx(180 * V_T / flow, rel=1e-9)
    mirrored = circuit(
        "VB 0 b 0.65", "VC 0 c 5", "Q1 c b 0 q", ".model q PNP(IS=1e-14 BF=180 VAF=75)"
    )
    assert operating_point(mirrored).currents["Q1.C"] == pytest.approx(-point.currents["Q1.C"])


def test_high_injection_halves_the_slope() -> None:
    # Far above the knee current i_C goes as exp(v_BE/2V_T): Gummel and Poon, 1970.
    def collector(volts: float) -> float:
        lines = (f"VB b 0 {volts}", "VC c 0 5", "Q1 c b 0 q", ".model q NPN(IS=1e-14 IKF=1u)")
        return operating_point(circuit(*lines)).currents["Q1.C"]

    assert collector(0.8) / collector(0.8 - V_T) == pytest.approx(math.exp(0.5), rel=1e-3)


def test_textbook_transistor() -> None:
    # V_BE = 0.7 V, i_C = β·i_B, and V_CE = 0.2 V where the load allows no more: any introductory text.
    bias = ("VCC vcc 0 12", "RB vcc b 1.13meg", "Y1 c b 0 npn form=fixed beta=100")
    active = operating_point(circuit(*bias, "RC vcc c 4.7k"))
    assert active.voltages["b"] == pytest.approx(0.7, abs=1e-4)
    assert active.currents["Y1.C"] == pytest.approx(1e-3, rel=1e-3)
    saturated = operating_point(circuit(*bias, "RC vcc c 47k"))
    assert saturated.voltages["c"] == pytest.approx(0.2, abs=1e-3)


@pytest.mark.parametrize(("v_gs", "v_ds"), [(0.5, 3), (2, 3), (3, 0.5), (3, 2), (2, -1)])
def test_mosfet_square_law(v_gs: float, v_ds: float) -> None:
    # Shichman and Hodges, 1968, both regions, and with drain and source exchanged.
    k, threshold, modulation = 2e-3, 1.0, 0.02
    lines = ("M1 d g 0 0 m W=100u L=1u", f".model m NMOS(VTO=1 KP={k / 100} LAMBDA={modulation})")
    flow = operating_point(circuit(f"VG g 0 {v_gs}", f"VD d 0 {v_ds}", *lines)).currents["M1.D"]
    if v_ds < 0:
        drive, across, sign = v_gs - v_ds - threshold, -v_ds, -1
    else:
        drive, across, sign = v_gs - threshold, v_ds, 1
    reach = min(across, drive)
    exact = 0.0 if drive <= 0 else k * (drive - reach / 2) * reach * (1 + modulation * across)
    assert flow == pytest.approx(sign * exact, rel=1e-9, abs=1e-13)
    p_lines = tuple(line.replace("NMOS", "PMOS").replace("VTO=1", "VTO=-1") for line in lines)
    mirrored = operating_point(circuit(f"VG 0 g {v_gs}", f"VD 0 d {v_ds}", *p_lines))
    assert mirrored.currents["M1.D"] == pytest.approx(-flow, abs=1e-13)


def test_body_effect_and_jfet() -> None:
    # V_t = V_t0 + γ·(sqrt(2φ_F + V_SB) - sqrt(2φ_F)), and i_D = I_DSS·(1 - v_GS/V_P)²: any text.
    lines = ("VG g 0 3", "VD d 0 5", "VB 0 b 2", "M1 d g 0 b m")
    body = operating_point(circuit(*lines, ".model m NMOS(VTO=1 KP=1m GAMMA=0.5 PHI=0.6)"))
    threshold = 1 + 0.5 * (math.sqrt(2.6) - math.sqrt(0.6))
    assert body.currents["M1.D"] == pytest.approx(0.5e-3 * (3 - threshold) ** 2, rel=1e-9)
    jfet = operating_point(
        circuit("VG 0 g 0.8", "VD d 0 10", "J1 d g 0 j", ".model j NJF(VTO=-2 BETA=2m)")
    )
    assert jfet.currents["J1.D"] == pytest.approx(8e-3 * (1 - 0.8 / 2) ** 2, rel=1e-9)


def test_unijunction_curve_has_its_peak_and_valley_where_its_parameters_say() -> None:
    # At 10 V between the bases; the definition of the peak and valley points (IEC 60747-7 terms).
    currents = np.concatenate([np.geomspace(2e-7, 2e-5, 60), np.geomspace(1e-3, 1e-2, 60)])
    volts = np.array(
        [
            operating_point(circuit(f"I1 0 e {i}", "V2 b 0 10", "Y1 e 0 b unijunction")).voltages[
                "e"
            ]
            for i in currents
        ]
    )
    first, second = volts[:60], volts[60:]
    assert currents[int(np.argmax(first))] == pytest.approx(2e-6, rel=0.1)
    assert currents[60 + int(np.argmin(second))] == pytest.approx(4e-3, rel=0.1)
    assert second.min() == pytest.approx(2.0, abs=0.01)
    fires = 0.65 * 10 + V_T * math.log(2e-6 / 1e-12)
    assert first.max() == pytest.approx(fires, rel=0.01)


def test_controlled_sources() -> None:
    point = operating_point(
        circuit(
            "V1 a 0 2", "R1 a 0 1k", "E1 e 0 a 0 3", "RE e 0 1", "G1 0 g a 0 2m", "RG g 0 1k",
            "F1 0 f V1 -5", "RF f 0 1k", "H1 h 0 V1 -1k", "RH h 0 1",
            "B1 b 0 V={V(a,0)^2 + 1k*I(V1) + sin(pi/6)}", "RB b 0 1",
        )
    )  # fmt: skip
    volts = {n: point.voltages[n] for n in "egfhb"}
    assert volts == pytest.approx({"e": 6, "g": 4, "f": 10, "h": 2, "b": 2.5})


def test_coupled_coils_and_transformer() -> None:
    # Open secondary: V_2 = jωM·I_1, M = k·sqrt(L_1·L_2); the ideal transformer reflects n²·R.
    at = phasors(
        circuit("V1 a 0 AC 1", "L1 a 0 10m", "L2 b 0 40m", "K1 L1 L2 0.5", "R2 b 0 1e12"), 1e3
    )
    assert at.voltages["b"] == pytest.approx(0.5 * 2, rel=1e-6)
    loaded = circuit("V1 a 0 AC 10", "Y1 a 0 b 0 transformer ratio=5", "R1 b 0 8")
    assert phasors(loaded, 50).impedance("V1") == pytest.approx(25 * 8)


def test_impedance_given_at_a_frequency() -> None:
    at = phasors(circuit("V1 a 0 AC 100", "Y1 a 0 impedance resistance=30 reactance=40"), 50)
    assert at.currents["Y1"] == pytest.approx(100 / (30 + 40j))
    assert at.powers["Y1"] == pytest.approx(0.5 * 2**2 * (30 + 40j))  # S = |I|²·Z/2


@pytest.mark.parametrize(
    ("reactance", "parts"),
    [
        (40, ("R1 a b 30", f"L1 b 0 {40 / (100 * math.pi)!r}")),  # X = ωL
        (-40, ("R1 a b 30", f"C1 b 0 {1 / (40 * 100 * math.pi)!r}")),  # X = -1/ωC
    ],
)
def test_an_impedance_given_at_one_frequency_is_what_has_it_there(
    reactance: float, parts: tuple[str, ...]
) -> None:
    source = "V1 a 0 AC 100 SIN(0 100 50)"
    given = circuit(source, f"Y1 a 0 impedance resistance=30 reactance={reactance} frequency=50")
    made = circuit(source, *parts)
    frequencies = [5.0, 50.0, 400.0]
    assert frequency_sweep(given, frequencies).traces["I_Y1"] == pytest.approx(
        frequency_sweep(made, frequencies).traces["I_R1"], rel=1e-9
    )
    times = np.linspace(0, 0.06, 40)
    assert transient(given, TransientSettings(0.06)).trace("I_Y1", times) == pytest.approx(
        transient(made, TransientSettings(0.06)).trace("I_R1", times), abs=1e-4
    )


def test_practical_forms() -> None:
    # A coil's own resonance 1/(2π·sqrt(LC)); a capacitor's ESR at high and leakage at low frequency.
    coil = circuit(
        "I1 0 a AC 1",
        "Y1 a 0 inductor inductance=10m series_resistance=10 parallel_capacitance=100p",
    )
    over = frequency_sweep(coil, [1e-3, 1 / (2 * math.pi * math.sqrt(10e-3 * 100e-12))])
    assert abs(over.voltage("a")) == pytest.approx([10, 10e-3 / 100e-12 / 10], rel=1e-4)
    can = circuit(
        "I1 0 a AC 1",
        "Y1 a 0 capacitor capacitance=1u series_resistance=0.5 leakage_resistance=1meg",
    )
    assert abs(frequency_sweep(can, [1e-6, 1e9]).voltage("a")) == pytest.approx(
        [1e6, 0.5], rel=1e-3
    )


def test_opamp_forms() -> None:
    # Inverting amplifier, gain -R_2/R_1; with one pole its bandwidth is GBW/(1 + R_2/R_1): any text.
    around = ("V1 in 0 DC 0.1 AC 1", "R1 in n 1k", "R2 n out 9k")
    assert operating_point(circuit(*around, "Y1 0 n out opamp")).voltages["out"] == pytest.approx(
        -0.9
    )
    real = circuit(
        *around, "Y1 0 n out opamp form=one_pole gain_bandwidth=1meg output_resistance=0"
    )
    over = frequency_sweep(real, [1.0, 100e3])
    assert abs(over.voltage("out")) == pytest.approx([9, 9 / math.sqrt(2)], rel=2e-3)
    driven = (
        "V1 in 0 PULSE(0 4 0)",
        "Y1 in out out opamp form=limited slew_rate=0.5meg output_resistance=0",
    )
    run = transient(circuit(*driven, "RL out 0 10k"), TransientSettings(20e-6))
    rise = run.trace("V_out", np.array([2e-6, 6e-6]))
    assert (rise[1] - rise[0]) / 4e-6 == pytest.approx(0.5e6, rel=1e-3)
    stuck = circuit("V1 in 0 1", "Y1 in 0 out opamp form=limited", "RL out 0 10k")
    assert operating_point(stuck).voltages["out"] == pytest.approx(13.5 * 10e3 / 10075, rel=1e-3)


def test_switches() -> None:
    timed = circuit("V1 a 0 10", "R1 a b 1k", "Y1 b 0 timed_switch closes_at=1m opens_at=2m")
    seen = transient(timed, TransientSettings(3e-3)).trace(
        "V_b", np.array([0.5e-3, 1.5e-3, 2.5e-3])
    )
    assert seen == pytest.approx([10, 0, 10], abs=1e-4)
    # With hysteresis it closes at 3 V and opens at 1 V of a triangle that rises 1 V each millisecond.
    swept = circuit(
        "VC c 0 PWL(0 0 4m 4 8m 0)",
        "V1 a 0 10",
        "R1 a b 1k",
        "S1 b 0 c 0 s",
        ".model s SW(VT=2 VH=1)",
    )
    run = transient(swept, TransientSettings(8e-3))
    times = np.array([2.999e-3, 3.001e-3, 6.999e-3, 7.001e-3])
    assert run.trace("V_b", times) == pytest.approx([10, 0.00999, 0.00999, 10], abs=1e-5)


def test_potentiometer_meters_and_temperature() -> None:
    point = operating_point(
        circuit("V1 a 0 10", "Y1 a s 0 potentiometer setting=0.3 resistance=10k")
    )
    assert point.voltages["s"] == pytest.approx(7, rel=1e-4)
    loaded = circuit("V1 a 0 10", "Y1 a b ammeter burden=1k", "R1 b 0 9k", "Y2 b 0 voltmeter")
    assert operating_point(loaded).currents["Y1"] == pytest.approx(1e-3)
    warm = operating_point(circuit("I1 0 a 1", "R1 a 0 100 TC=3.851e-3", ".temp 127"))
    assert warm.voltages["a"] == pytest.approx(138.51)  # 3.851e-3/K: the coefficient of IEC 60751


def test_saturation_current_doubles_with_the_band_gap() -> None:
    # At a fixed current a silicon junction falls about 2 mV a kelvin: common practice, no published
    # source; exactly, dV/dT = (V - E_g - 3·V_T)/T for the usual form of I_S(T).
    def volts(celsius: float) -> float:
        lines = ("I1 0 a 1m", "D1 a 0 d", ".model d D(IS=1e-14)", f".temp {celsius}")
        return operating_point(circuit(*lines)).voltages["a"]

    slope = (volts(28) - volts(26)) / 2
    assert slope == pytest.approx((volts(27) - 1.11 - 3 * V_T) / 300.15, rel=1e-4)


_RANGES: dict[Law, tuple[tuple[float, float], ...]] = {
    Law.JUNCTION: ((-60.0, 3.0),),
    Law.KNEE: ((-5.0, 5.0),),
    Law.SATURATION: ((-5.0, 5.0),),
    Law.BIPOLAR: ((-20.0, 2.0), (-20.0, 2.0)),
    Law.CHANNEL: ((-10.0, 10.0), (-10.0, 10.0), (-10.0, 0.0)),
    Law.UNIJUNCTION: ((-20.0, 1.2), (-5.0, 20.0)),
    Law.SWITCH: ((-10.0, 10.0), (-1.0, 1.0)),
}
_FULL = {
    "diode": {"breakdown_voltage": 20.0, "junction_capacitance": 2e-12, "transit_time": 1e-8},
    "npn": {
        "early_voltage": 50.0, "reverse_early_voltage": 8.0, "knee_current": 1e-2,
        "leakage_current": 1e-13, "collector_leakage_current": 1e-12, "transit_time": 1e-9,
        "reverse_transit_time": 1e-8, "emitter_capacitance": 1e-11, "collector_capacitance": 4e-12,
    },
    "nmos": {"body_effect": 0.4, "modulation": 0.05},
    "opamp": {},
    "unijunction": {},
    "voltage_switch": {},
}  # fmt: skip


@examples(60)
@given(st.sampled_from(sorted(_FULL)), st.data())
def test_slopes_of_every_law_agree_with_differences(kind: str, data: st.DataObject) -> None:
    """Over the whole range, and at the limits where an exponential becomes a line."""
    form = "limited" if kind == "opamp" else ""
    element = Element(
        "X1", kind, tuple("abcdefg"[: len(DEVICES[kind].description.pins)]), _FULL[kind], form=form
    )
    stamps = Stamps()
    DEVICES[kind].stamp(element, Setting(300.15), stamps)
    for use in stamps.laws:
        ranges = _RANGES[use.law]
        u = np.array([data.draw(st.floats(*span)) for span in ranges])
        p = np.array(use.parameters)

        def told(at: np.ndarray, use=use, p=p) -> tuple[np.ndarray, ...]:  # type: ignore[no-untyped-def]
            i, q = np.zeros(4), np.zeros(4)
            gi, cq = np.zeros((4, 8)), np.zeros((4, 8))
            apply_law(int(use.law), p, at, 0.0, i, q, gi, cq, np.empty(ROOM))
            return i, q, gi, cq

        i, q, gi, cq = told(u)
        for m in range(len(ranges)):
            # A step small beside V_T, and away from the corner of a knee.
            step = 1e-6
            above, below = u.copy(), u.copy()
            above[m] += step
            below[m] -= step
            (i_above, q_above, *_), (i_below, q_below, *_) = told(above), told(below)
            for slopes, high, low, size in ((gi, i_above, i_below, i), (cq, q_above, q_below, q)):
                for k in range(len(use.branches)):
                    difference = (high[k] - low[k]) / (2 * step)
                    noise = (
                        1e-8 * abs(size[k]) / step * 1e-6
                        + 1e-6 * abs(slopes[k, : len(ranges)]).max()
                    )
                    sides = ((high[k] - size[k]) / step, (size[k] - low[k]) / step)
                    # Where a curve bends at once, its slope is one of those on either side, or between.
                    slack = 1e-9 * (abs(sides[0]) + abs(sides[1])) + 1e-15
                    between = min(sides) - slack <= slopes[k, m] <= max(sides) + slack
                    assert between or slopes[k, m] == pytest.approx(
                        difference, rel=1e-4, abs=noise + 1e-15
                    )


def test_every_part_says_what_it_takes() -> None:
    """Defaults are within their ranges, every parameter has a meaning, and every kind can be stamped."""
    for kind, device in DEVICES.items():
        description = device.description
        for parameter in description.parameters:
            assert parameter.label
            assert parameter.meaning
            default = device.defaults.get(parameter.key)
            if default is not None:
                assert parameter.minimum is None or default >= parameter.minimum
                assert parameter.maximum is None or default <= parameter.maximum
                assert not parameter.positive or default > 0
        for preset in description.presets:
            assert set(preset.values) <= {p.key for p in description.parameters}, kind


def test_inner_nodes_are_named_after_their_part() -> None:
    system = assemble(circuit("V1 a 0 1", "Q1 a a 0 q", ".model q NPN(RB=10 RE=1)"))
    names = [unknown.name for unknown in system.unknowns]
    assert names == [
        "V_a", "I_V1", "V_Q1.base", "I_Q1.base lead", "V_Q1.emitter", "I_Q1.emitter lead",
    ]  # fmt: skip


def test_decades_include_both_ends() -> None:
    assert decades(1, 100, 2) == pytest.approx([1, 10**0.5, 10, 10**1.5, 100])


def test_a_powered_op_amp_stops_short_of_its_supply() -> None:
    # The headroom is the parameter's own definition; the supply here is not symmetrical.
    lines = (
        "VP p 0 9",
        "VN n 0 -3",
        "Y1 in 0 out p n powered_opamp headroom=1 output_resistance=0",
    )
    for volts, stops in ((1, 8), (-1, -2)):
        point = operating_point(circuit(*lines, f"V1 in 0 {volts}", "RL out 0 10k"))
        assert point.voltages["out"] == pytest.approx(stops, abs=2e-3)


def test_p_channel_jfet_mirrors_the_n_channel_one() -> None:
    n_type = circuit(
        "VG 0 g 0.5", "VD d 0 8", "J1 d g 0 j", ".model j NJF(VTO=-2 BETA=1m LAMBDA=0.01)"
    )
    p_type = circuit(
        "VG g 0 0.5", "VD 0 d 8", "J1 d g 0 j", ".model j PJF(VTO=-2 BETA=1m LAMBDA=0.01)"
    )
    first, second = (operating_point(c).currents for c in (n_type, p_type))
    assert second["J1.D"] == pytest.approx(-first["J1.D"])
    assert second["J1.G"] == pytest.approx(-first["J1.G"])


def test_gate_charge_of_a_mosfet_takes_its_time() -> None:
    # The gate is a capacitor behind the driver's resistance: C_GS + C_GD with the drain held.
    driven = circuit(
        "VG x 0 PULSE(0 5 0)", "RG x g 10k", "VD d 0 10", "M1 d g 0 0 m",
        ".model m NMOS(VTO=2 KP=1m CGS=8p CGD=2p)",
    )  # fmt: skip
    run = transient(driven, TransientSettings(1e-6))
    tau = 10e3 * 10e-12
    assert run.trace("V_g", np.array([tau])) == pytest.approx([5 * (1 - math.exp(-1))], rel=1e-4)


def test_three_coupled_coils_share_their_flux() -> None:
    # v_i = jω·sum_j M_ij·i_j with M_ij = k_ij·sqrt(L_i·L_j): the definition of coupling.
    coils = circuit(
        "I1 0 a AC 1", "I2 0 b AC 2", "L1 a 0 1m", "L2 b 0 4m", "L3 c 0 9m", "R3 c 0 1e12",
        "K1 L1 L2 0.5", "K2 L2 L3 0.4", "K3 L1 L3 0.3",
    )  # fmt: skip
    seen = phasors(coils, 1e3).voltages
    w = 2e3 * math.pi
    mutual = {"ab": 0.5 * 2e-3, "bc": 0.4 * 6e-3, "ac": 0.3 * 3e-3}
    assert seen["a"] == pytest.approx(1j * w * (1e-3 + 2 * mutual["ab"]))
    assert seen["b"] == pytest.approx(1j * w * (2 * 4e-3 + mutual["ab"]))
    assert seen["c"] == pytest.approx(1j * w * (mutual["ac"] + 2 * mutual["bc"]), rel=1e-6)


def test_regions_of_every_transistor() -> None:
    """Named as a text names them, at the bias that defines each."""
    bipolar = ".model q NPN(IS=1e-15 BF=100)"
    for base, collector, region in (
        (0.65, 5, "forward active"),
        (0.7, 0.1, "saturated"),
        (0.0, 5, "cut off"),
        (-3.0, -3.7, "reverse active"),
    ):
        lines = (f"VB b 0 {base}", f"VC c 0 {collector}", "Q1 c b 0 q", bipolar)
        assert device_states(operating_point(circuit(*lines)))["Q1"].region == region
    for gate, drain, region in ((0.5, 5, "cut off"), (3, 5, "saturated"), (3, 1, "linear")):
        lines = (f"VG g 0 {gate}", f"VD d 0 {drain}", "M1 d g 0 0 m", ".model m NMOS(VTO=1 KP=1m)")
        state = device_states(operating_point(circuit(*lines)))["M1"]
        assert state.region == region
        if region == "saturated":
            assert state.values["g_m"] == pytest.approx(1e-3 * (gate - 1))  # K·(v_GS - V_t)
    fired = circuit("I1 0 e 20m", "V2 b 0 10", "Y1 e 0 b unijunction")
    waiting = circuit("V1 e 0 2", "V2 b 0 10", "Y1 e 0 b unijunction")
    assert device_states(operating_point(fired))["Y1"].region == "fired"
    assert device_states(operating_point(waiting))["Y1"].region == "waiting"
