"""The zoo: ordinary circuits by name and by family, and what holds for any of them."""

from __future__ import annotations

import random
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lucidbench.core import TransientSettings, operating_point, read_netlist, transient
from lucidbench.core.analyses.trajectory import Transient
from lucidbench.core.equations.currents import law_currents_over, pin_currents_over
from lucidbench.core.netlist import Circuit, Element
from tests.core.circuits import circuit, resistive_networks
from tests.depth import examples
from tests.zoo import FAMILIES, complaint
from tests.zoo.by_name import NAMED
from tests.zoo.switched import draw_converter

OF_EACH = 4  # of every family, always the same ones


@pytest.mark.parametrize("name", NAMED)
def test_a_circuit_by_name(name: str) -> None:
    assert not complaint(NAMED[name])


@pytest.mark.parametrize("family", FAMILIES)
@pytest.mark.parametrize("seed", range(OF_EACH))
def test_a_circuit_of_a_family(family: str, seed: int) -> None:
    specimen = FAMILIES[family](random.Random(seed))
    assert not complaint(replace(specimen, seconds=30)), specimen.text


def powers(run: Transient, steps: np.ndarray) -> np.ndarray:
    """The power of each element [W] in the middle of the steps, shape (elements, steps)."""
    starts, lengths, _ = run._steps
    times = starts[steps] + 0.5 * lengths[steps]
    x, rates = run.unknowns(times), run.unknowns(times, derivative=True)
    through, _ = law_currents_over(run.ready.tables, x, times)

    def told(drive) -> np.ndarray:  # type: ignore[no-untyped-def]
        return drive.waveform.value(times) if drive.waveform else np.full(len(times), drive.dc)

    flows = pin_currents_over(run.system, x, rates, told, through, run._charge_rates(times))
    at = np.vstack([x, np.zeros(len(times))])
    return np.array(
        [
            sum(at[row] * flow for row, flow in zip(share.rows, flows[k], strict=False))
            for k, share in enumerate(run.system.shares)
        ]
    )


@examples(25)
@given(st.integers(0, 10_000))
def test_power_and_energy_of_switched_circuits(seed: int) -> None:
    # Tellegen at every step; and what sources give is stored or lost, never made.
    r = random.Random(seed)
    form, diode = r.choice([("ideal", "YD1"), ("exponential", "D1")])
    made = draw_converter(r, 0.0)
    if made.after(8) is None or replace(made, drop=0.7).after(8) is None:
        return
    netlist = read_netlist(made.netlist(form, 8))
    run = transient(
        netlist.circuit, TransientSettings(8 * made.period, from_given=True, relative=1e-7)
    )
    steps = np.arange(len(run._steps[0]))
    lengths = run._steps[1]
    power = powers(run, steps)
    size = np.abs(power).max()
    worst = np.argmax(np.abs(power.sum(0)) * lengths)
    assert abs(power[:, worst].sum()) * lengths[worst] < 1e-5 * size * run.settings.stop
    by_name = dict(zip([s.element.name for s in run.system.shares], power, strict=True))
    coil, capacitor = run.trace("I_L1"), run.trace("V_out")
    stored = made.henries / 2 * coil[-1] ** 2 + made.farads / 2 * capacitor[-1] ** 2
    given_out = -float(np.sum(by_name["V1"] * lengths))
    taken = float(np.sum(by_name["RL"] * lengths))
    assert stored + taken <= given_out + 2e-3 * abs(given_out) + 1e-12
    lost = sum(float(np.sum(np.maximum(by_name[n], 0) * lengths)) for n in ("S1", diode))
    assert made.winding > 0 or stored + taken + lost >= 0.98 * given_out - 1e-12


def test_time_runs_backwards_in_a_lossless_circuit() -> None:
    text = ("C1 a 0 1u IC={v}", "L1 a b 1m IC={i}", "C2 b 0 470n IC={w}", "L2 b 0 2.2m IC={j}")

    def end(**at: float) -> dict[str, float]:
        values = {k: repr(v) for k, v in at.items()}
        run = transient(
            circuit(*(line.format(**values) for line in text)),
            TransientSettings(1e-3, from_given=True, relative=1e-8),
        )
        last = {
            k: run.trace(n)[-1] for k, n in zip("viwj", ("V_a", "I_L1", "V_b", "I_L2"), strict=True)
        }
        return {k: float(v) for k, v in last.items()}

    there = end(v=1.0, i=0.02, w=-0.5, j=0.0)
    back = end(v=there["v"], i=-there["i"], w=there["w"], j=-there["j"])
    assert back == pytest.approx({"v": 1.0, "i": -0.02, "w": -0.5, "j": 0.0}, abs=1e-4)


STAGE = """V1 vcc 0 12
VS in 0 0 SIN(0 10m 1k)
CIN in b 1u
R1 vcc b 47k
R2 b 0 10k
RC vcc c 2.2k
RE e 0 470
Q1 c b e q
D1 c k d
RL k 0 10k
.model q NPN(BF=180 IS=1.2e-14 VAF=75 RB=50 CJE=5p CJC=2p TF=0.3n)
.model d D(IS=1e-14 RS=2 CJO=4p)"""


@examples(15)
@given(st.permutations(STAGE.split("\n")[:10]))
def test_results_do_not_depend_on_the_order_of_elements_or_the_names_of_nodes(
    lines: list[str],
) -> None:
    models = STAGE.split("\n")[10:]
    plain = circuit(*STAGE.split("\n"))
    mixed = circuit(*lines, *models)
    other = {"vcc": "n7", "in": "n3", "b": "n1", "c": "n9", "e": "n2", "k": "n4", "0": "0"}
    renamed = replace(
        mixed, elements=tuple(replace(e, nodes=tuple(other[n] for n in e.nodes)) for e in mixed)
    )
    wanted = operating_point(plain).voltages
    found = operating_point(renamed).voltages
    assert {n: found[other[n]] for n in wanted} == pytest.approx(wanted, rel=1e-9, abs=1e-12)
    run = TransientSettings(2e-3, step=1e-4)
    one, two = transient(plain, run).traces(), transient(renamed, run).traces()
    assert two["V_n9"] == pytest.approx(one["V_c"], abs=1e-4)


@examples(40)
@given(resistive_networks(), st.sampled_from([1e-3, 0.1, 50.0, 1e4]))
def test_voltages_scale_with_all_impedances(network: Circuit, k: float) -> None:
    # With every resistance k times as large and every current source k times as small, each voltage
    # stays and each current is k times as small.
    def scaled(e: Element) -> Element:
        if e.kind == "resistor":
            return e.with_value("resistance", e.values["resistance"] * k)
        return e.with_value("current", e.values["current"] / k) if e.kind == "current_source" else e

    plain = operating_point(network)
    other = operating_point(replace(network, elements=tuple(map(scaled, network))))
    # A node's conductances are added with the rounding of the largest, which is a leak to ground beside the
    # smallest: at no current 1 Ω and 130 kΩ leave 2e-11 of the largest voltage.
    size = max(abs(v) for v in plain.voltages.values())
    resistances = [e.values["resistance"] for e in network if e.kind == "resistor"]
    leak = 4 * np.finfo(float).eps * max(resistances) / min(resistances)
    assert other.voltages == pytest.approx(
        plain.voltages, rel=1e-9, abs=max(1e-11, leak) * size + 1e-12
    )
