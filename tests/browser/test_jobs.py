"""Textbook jobs from an empty sheet, by real mouse and keys, each to a figure that a textbook has too."""

from __future__ import annotations

import cmath
import math
import re
from collections.abc import Iterator

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import OpenWindow
from tests.browser.hands import begin_empty, sheet
from tests.browser.stranger import Finger, Stranger, told
from tests.browser.test_drawing import Keys


@pytest.fixture
def stranger(notebook: Page) -> Iterator[Stranger]:
    hand = Stranger(notebook)
    hand.begin()
    yield hand
    print(f"\n{hand.clicks} clicks, {hand.keys} keys")


def divider(hand: Stranger) -> None:
    """2 V of 1 kHz over 3 kΩ and 1 kΩ."""
    hand.put("sine 1kHz 2V", "V1", "voltage_source", (-8, 0))
    hand.put("3k", "R1", "resistor", (0, -6))
    hand.put("1k", "R2", "resistor", (8, 0), 1)
    hand.put("gnd", "G", "ground", (-8, 5))
    hand.wire("V1.1", "R1.1")
    hand.wire("R1.2", "R2.1")
    hand.wire("R2.2", "G.1")
    hand.wire("V1.2", "G.1")
    hand.call("R2.1", "out")
    hand.solved()


def divided(hand: Stranger) -> None:
    """Two waveforms and a DC sweep, by the divider rule: R2/(R1 + R2) of what goes in."""
    hand.run("Transient")
    assert hand.reading("V_out", "maximum", "V") == pytest.approx(0.5, rel=1e-3)
    hand.open("V1")
    hand.page.get_by_role("combobox", name="Waveform").select_option("Square")
    # As large as the sine was: from -2 V to 2 V.
    readings = hand.page.get_by_role("list", name="Readings")
    expect(readings).to_contain_text("500\u00a0mV")
    expect(hand.part("V1")).to_have_accessible_name(
        re.compile("square .2\u00a0V, 2\u00a0V, 1\u00a0kHz")
    )
    hand.press("Escape")
    assert hand.reading("V_out", "peak to peak", "V") == pytest.approx(1.0, rel=1e-3)
    hand.run("DC sweep")
    hand.fill("From", "0 V")
    hand.fill("To", "8 V")
    expect(readings).to_contain_text("2\u00a0V")
    assert hand.reading("V_out", "mean slope", "") == pytest.approx(0.25, rel=1e-3)


def test_a_divider_with_two_waveforms_and_a_dc_sweep(stranger: Stranger) -> None:
    divider(stranger)
    divided(stranger)


def test_the_divider_enlarged_in_the_dark(open_window: OpenWindow) -> None:
    enlarged = {"width": 853, "height": 533}  # 1280x800 at 150 %
    page = open_window(viewport=enlarged, color_scheme="dark")
    hand = Stranger(page)
    hand.begin()
    divider(hand)
    assert covered(page) == []
    divided(hand)
    assert covered(page) == []


def covered(page: Page) -> list[str]:
    """Buttons of the page that something else lies over."""
    found: list[str] = page.evaluate(
        """() => [...document.querySelectorAll('main button, header button, [role=tab]')]
          .filter((button) => {
            const { x, y, width, height } = button.getBoundingClientRect();
            const [cx, cy] = [x + width / 2, y + height / 2];
            if (!width || cx < 0 || cy < 0 || cx > innerWidth || cy > innerHeight) return false;
            const scroller = button.closest('.overflow-y-auto')?.getBoundingClientRect();
            if (scroller && (cy < scroller.top || cy > scroller.bottom)) return false;
            const top = document.elementFromPoint(cx, cy);
            return !(top && (button.contains(top) || top.contains(button)));
          })
          .map((button) => button.getAttribute('aria-label') ?? button.textContent)"""
    )
    return found


def test_the_divider_by_keyboard_alone(notebook: Page) -> None:
    begin_empty(notebook)
    hand = Keys(notebook, (0, 0))
    hand.put("sine 1kHz 2V", 0, [-8, 0])
    hand.put("3k", 0, [0, -6])
    hand.put("1k", 1, [8, 0])
    hand.put("gnd", 0, [-8, 8])
    for points in ([[-8, -3], [-3, -6]], [[3, -6], [8, -3]], [[8, 3], [-8, 8]], [[-8, 3], [-8, 8]]):
        hand.wire(points)
    hand.name("out", [8, -3])
    expect(notebook.get_by_text("The circuit is complete")).to_be_visible()
    press = notebook.keyboard.press
    press("Alt+s")  # a station by its key; from its tab the analyses are a few tabs away
    analysis = notebook.get_by_role("button", name=re.compile("^Transient"))
    for _ in range(12):
        if analysis.evaluate("button => button === document.activeElement"):
            break
        press("Tab")
    press("Enter")
    expect(notebook.get_by_role("list", name="Readings")).to_contain_text("500\u00a0mV")
    for _ in range(3):  # from page to page, and round
        press("F6")
        if sheet(notebook).evaluate("e => e === document.activeElement"):
            break
    expect(sheet(notebook)).to_be_focused()
    press("Control+k")
    notebook.keyboard.type("dc sweep")
    press("Enter")
    slope = notebook.get_by_role("list", name="Readings")
    expect(slope).to_contain_text("mean slope")
    expect(slope).to_contain_text("0.25")


def test_the_divider_by_touch(open_window: OpenWindow) -> None:
    page = open_window(viewport={"width": 1024, "height": 700}, has_touch=True)
    hand = Finger(page)
    hand.begin()
    divider(hand)
    assert covered(page) == []
    divided(hand)
    assert covered(page) == []


def test_a_block_with_two_parameters_three_times_in_cascade(stranger: Stranger) -> None:
    """A ladder of three unlike dividers, against its node equations."""
    hand, page = stranger, stranger.page
    hand.put("9V", "V1", "voltage_source", (-24, 2))
    hand.put("1k", "R1", "resistor", (-16, -4))
    hand.put("2k", "R2", "resistor", (-11, 2), 1)
    hand.put("gnd", "G1", "ground", (-11, 8))
    hand.put("gnd", "G2", "ground", (-24, 8))
    hand.wire("V1.1", "R1.1")
    hand.wire("R1.2", "R2.1")
    hand.wire("R2.2", "G1.1")
    hand.wire("V1.2", "G2.1")
    hand.call("R1.1", "in")
    hand.call("R2.1", "out")
    # A frame around the pad, and a block of it.
    hand.drag(hand.spot((-21, -7.5)), hand.spot((-7, 11)))
    hand.click(page.get_by_role("button", name="Make a block"))
    hand.click(page.get_by_role("dialog").get_by_role("button", name="Open its drawing"))
    page.get_by_role("combobox", name="Side of out").select_option("right")
    hand.clicks += 1
    hand.click(page.get_by_role("button", name="Parameters"))
    for parameter, value in (("R_s", "1 kΩ"), ("R_p", "2 kΩ")):
        hand.click(page.get_by_role("button", name="Parameter", exact=True))
        hand.click(page.get_by_role("textbox", name="Name of the parameter").last)
        hand.press("ControlOrMeta+a")
        hand.type(parameter)
        hand.press("Tab", "ControlOrMeta+a")
        hand.type(value)
    hand.press("Escape")
    for part, parameter in (("R1", "R_s"), ("R2", "R_p")):
        hand.set(part, Resistance=parameter)
    hand.click(page.get_by_role("button", name="Back"))
    expect(hand.part("X1")).to_have_accessible_name(re.compile("from in to"))
    for k, at in ((2, (0, 6)), (3, (0, 16))):
        hand.type("Block 1")
        hand.press("Enter")
        expect(page.get_by_role("combobox", name="Type to place")).to_have_count(0)
        hand.page.mouse.move(*hand.spot(at))
        hand.at(at)
        expect(hand.part(f"X{k}")).to_be_visible()
    for first, second in ((1, 2), (2, 3)):
        hand.drag(hand.port(f"X{first}", "right"), hand.port(f"X{second}", "left"))
    for k, values in ((2, {"R_s": "2k", "R_p": "4"}), (3, {"R_s": "500"})):
        hand.open(f"X{k}")
        for label, text in values.items():
            hand.click(page.get_by_role("textbox", name=label, exact=True))
            hand.press("ControlOrMeta+a")
            hand.type(text)
        hand.press("Escape")
    expect(hand.part("X2")).to_have_accessible_name(re.compile("R_s = 2\u00a0kΩ, R_p = 4\u00a0Ω"))
    pads = ((1e3, 2e3), (2e3, 4.0), (500.0, 2e3))
    g = np.zeros((3, 3))
    for k, (series, across) in enumerate(pads):
        g[k, k] += 1 / series + 1 / across
        if k:
            g[k - 1, k - 1] += 1 / series
            g[k, k - 1] = g[k - 1, k] = -1 / series
    expected = np.linalg.solve(g, [9 / pads[0][0], 0, 0])
    hand.run("Operating point")
    table = page.get_by_role("table", name="Voltages")
    expect(table).to_be_visible()
    volts = [told(cell, "V") for cell in table.get_by_role("cell").all_inner_texts() if "V" in cell]
    for value in expected:
        assert min(abs(v - value) / value for v in volts) < 1e-3


def test_an_emitter_stage_with_gain_and_phase_between_two_curves(stranger: Stranger) -> None:
    """Unbypassed: the gain is -R_C/(R_E + r_e), any electronics text."""
    hand, page = stranger, stranger.page
    hand.put("sine 1kHz 50mV", "V1", "voltage_source", (-22, 6))
    hand.put("10u", "C1", "capacitor", (-16, 0))
    hand.put("npn", "Q1", "npn", (-2, 0))
    hand.put("56k", "R1", "resistor", (-8, -8), 1)
    hand.put("12k", "R2", "resistor", (-8, 8), 1)
    hand.put("2k2", "R3", "resistor", (-1, -8), 1)
    hand.put("470", "R4", "resistor", (-1, 8), 1)
    hand.put("12V", "V2", "voltage_source", (10, 0))
    hand.put("gnd", "G", "ground", (10, 14))
    hand.wire("V1.1", "C1.1")
    hand.wire("C1.2", "Q1.2")
    hand.wire("R1.2", "Q1.2")
    hand.wire("R1.2", "R2.1")
    hand.wire("R3.2", "Q1.1")
    hand.wire("Q1.3", "R4.1")
    hand.wire("R1.1", "R3.1")
    hand.wire("R3.1", "V2.1")
    hand.wire("V2.2", "G.1")
    hand.wire("R4.2", "G.1")
    hand.wire("R2.2", "R4.2")
    hand.wire("V1.2", "R2.2")
    hand.call("C1.1", "in")
    hand.call("Q1.1", "c")
    hand.solved()
    hand.run("Transient")
    hand.page.get_by_role("combobox", name="Start from").select_option("settled state")
    readings = page.get_by_role("list", name="Readings")
    hand.click(readings.get_by_role("listitem").filter(has=page.get_by_role(
        "button", name="Show V_in")).get_by_role("button", name=re.compile("mark it$")).first)  # fmt: skip
    hand.click(readings.get_by_role("listitem").filter(has=page.get_by_role(
        "button", name="Show V_c")).get_by_role("button", name=re.compile("mark it$")).first)  # fmt: skip
    # A on a peak of what goes in, B on one of what comes out.
    table = page.get_by_role("table", name="Markers")
    expect(table.get_by_role("combobox", name="Curve of marker B")).to_have_value(re.compile("V_c"))
    swing = hand.reading("V_c", "peak to peak", "V") / hand.reading("V_in", "peak to peak", "V")
    emitter = 12 * 12 / 68 - 0.65
    gain = 2200 / (470 + 25.9e-3 / (emitter / 470))
    assert swing == pytest.approx(gain, rel=0.03)
    assert abs(hand.angle_between()) == pytest.approx(180, abs=5)  # reversed


def test_a_half_wave_rectifier_with_a_diode_of_its_own(stranger: Stranger) -> None:
    """The diode's drop where it carries I: V_T·ln(I/I_S + 1), Shockley's equation."""
    hand = stranger
    hand.put("sine 50Hz 5V", "V1", "voltage_source", (-8, 0))
    hand.put("diode", "D1", "diode", (0, -6))
    hand.put("1k", "R1", "resistor", (8, 0), 1)
    hand.put("gnd", "G", "ground", (-8, 8))
    hand.wire("V1.1", "D1.1")
    hand.wire("D1.2", "R1.1")
    hand.wire("R1.2", "G.1")
    hand.wire("V1.2", "G.1")
    hand.call("R1.1", "out")
    hand.open("D1")
    hand.click(hand.page.get_by_text("More values"))
    hand.click(hand.page.get_by_role("textbox", name="Saturation current", exact=True))
    hand.press("ControlOrMeta+a")
    hand.type("1n")
    hand.press("Escape")
    hand.solved()
    hand.run("Transient")
    peak = hand.reading("V_out", "maximum", "V")
    drop = 8.617333e-5 * 300.15 * math.log(peak / 1e3 / 1e-9 + 1)
    assert peak == pytest.approx(5 - drop, rel=2e-3)
    assert hand.reading("V_out", "minimum", "V") == pytest.approx(0, abs=1e-5)  # 1 nA back, in 1 kΩ


def test_a_pulse_behind_two_sections_read_at_five_time_constants(stranger: Stranger) -> None:
    """What is left of a step behind two RC sections: any network theory text."""
    hand, page = stranger, stranger.page
    hand.put("pulse 0 5V 10ms", "V1", "voltage_source", (-16, 0))
    hand.put("1k", "R1", "resistor", (-8, -6))
    hand.put("100n", "C1", "capacitor", (-2, 0), 1)
    hand.put("2k", "R2", "resistor", (4, -6))
    hand.put("220n", "C2", "capacitor", (12, 0), 1)
    hand.put("gnd", "G", "ground", (-16, 8))
    hand.wire("V1.1", "R1.1")
    hand.wire("R1.2", "R2.1")
    hand.wire("R1.2", "C1.1")
    hand.wire("R2.2", "C2.1")
    hand.wire("C2.2", "C1.2")
    hand.wire("C1.2", "G.1")
    hand.wire("V1.2", "G.1")
    hand.call("R1.1", "in")
    hand.call("C2.1", "out")
    hand.solved()
    hand.run("Transient")
    hand.fill("Stop time", "5 ms")
    b = 1e3 * 100e-9 + 1e3 * 220e-9 + 2e3 * 220e-9
    root = math.sqrt(b * b - 4 * 1e3 * 100e-9 * 2e3 * 220e-9)
    slow, fast = (b + root) / 2, (b - root) / 2
    readings = page.get_by_role("list", name="Readings")
    expect(readings).to_contain_text("5\u00a0V")
    plot = page.get_by_role("group", name=re.compile("^Plot of")).locator(".u-over")
    plot.first.click(position={"x": 200, "y": 60})
    hand.clicks += 1
    place = page.get_by_role("textbox", name="Place of marker A")
    hand.click(place)
    hand.press("ControlOrMeta+a")
    hand.type(f"{5 * slow * 1e3:.5g} ms")
    hand.press("Enter")
    page.get_by_role("combobox", name="Curve of marker A").select_option("V_out")
    left = (slow * math.exp(-5) - fast * math.exp(-5 * slow / fast)) / (slow - fast)
    rows = page.get_by_role("table", name="Markers").get_by_role("row")
    row = rows.filter(has=page.get_by_role("rowheader", name=re.compile("out")))
    expect(row.get_by_role("cell").first).to_have_text(
        re.compile(f"^{5 * (1 - left):.3f}".rstrip("0"))
    )
    assert told(row.get_by_role("cell").first.inner_text(), "V") == pytest.approx(
        5 * (1 - left), rel=2e-4
    )


def test_a_unijunction_oscillator_in_two_plots(stranger: Stranger) -> None:
    """T = R·C·ln((V - V_V)/(V - V_P)), from valley to peak: any text on relaxation oscillators."""
    hand, page = stranger, stranger.page
    hand.put("12V", "V1", "voltage_source", (-16, 0))
    hand.put("100k", "R1", "resistor", (-6, -6), 1)
    hand.put("1u", "C1", "capacitor", (-6, 6), 1)
    hand.put("ujt", "Q1", "unijunction", (4, 1))
    hand.put("470", "R2", "resistor", (5, -8), 1)
    hand.put("47", "R3", "resistor", (5, 10), 1)
    hand.put("gnd", "G", "ground", (-16, 14))
    hand.wire("V1.1", "R1.1")
    hand.wire("R1.1", "R2.1")
    hand.wire("R1.2", "C1.1")
    hand.wire("R1.2", "Q1.1")
    hand.wire("R2.2", "Q1.3")
    hand.wire("Q1.2", "R3.1")
    hand.wire("R3.2", "C1.2")
    hand.wire("C1.2", "G.1")
    hand.wire("V1.2", "G.1")
    hand.call("C1.1", "e")
    hand.call("R3.1", "b")
    hand.solved()
    hand.run("Transient")
    figures = page.get_by_role("figure")
    expect(figures).to_have_count(1)
    # Its name is dragged from the one plot to below it.
    name = figures.first.get_by_text("b", exact=True).first.bounding_box()
    frame = figures.first.bounding_box()
    assert name
    assert frame
    hand.page.mouse.move(name["x"] + 3, name["y"] + 5)
    hand.page.mouse.down()
    hand.page.mouse.move(name["x"] + 30, name["y"] + 60, steps=5)
    target = page.get_by_text("Drop it here for a plot of its own")
    box = target.bounding_box()
    assert box
    hand.page.mouse.move(box["x"] + 60, box["y"] + box["height"] / 2, steps=5)
    hand.page.mouse.up()
    hand.clicks += 1
    expect(figures).to_have_count(2)
    peak, valley = (hand.reading("V_e", label, "V") for label in ("maximum", "minimum"))
    period = 100e3 * 1e-6 * math.log((12 - valley) / (12 - peak))
    assert hand.reading("V_e", "period", "s") == pytest.approx(period, rel=0.03)


def test_a_bridge_tuned_by_slider_while_it_is_watched(stranger: Stranger) -> None:
    """No current where R1/R2 = R3/R4: Wheatstone's rule."""
    hand, page = stranger, stranger.page
    hand.put("10V", "V1", "voltage_source", (-18, 0))
    hand.put("1k", "R1", "resistor", (-8, -8), 1)
    hand.put("2k", "R2", "resistor", (-8, 8), 1)
    hand.put("1.5k", "R3", "resistor", (8, -8), 1)
    hand.put("2.5k", "R4", "resistor", (8, 8), 1)
    hand.put("100", "R5", "resistor", (0, 0))
    hand.put("gnd", "G", "ground", (-18, 16))
    hand.wire("V1.1", "R1.1")
    hand.wire("R1.1", "R3.1")
    hand.wire("R1.2", "R2.1")
    hand.wire("R3.2", "R4.1")
    hand.wire("R1.2", "R5.1")
    hand.wire("R3.2", "R5.2")
    hand.wire("R2.2", "R4.2")
    hand.wire("R2.2", "G.1")
    hand.wire("V1.2", "G.1")
    hand.solved()
    hand.open("R4")
    card = page.get_by_role("dialog")
    bridge = sheet(page).locator("[data-note='current I_R5']").bounding_box()
    box = card.bounding_box()
    assert bridge
    assert box
    apart = box["x"] >= bridge["x"] + bridge["width"] or box["x"] + box["width"] <= bridge["x"]
    apart = (
        apart
        or box["y"] >= bridge["y"] + bridge["height"]
        or box["y"] + box["height"] <= bridge["y"]
    )
    assert apart  # what is watched is not covered
    hand.click(page.get_by_role("textbox", name="Resistance", exact=True))
    through = sheet(page).locator("[data-note='current I_R5']")
    for _ in range(12):
        told = through.text_content() or ""
        if "0\u00a0A" in told:
            break
        hand.press("ArrowUp")
        expect(through).not_to_have_text(told)
    expect(page.get_by_role("textbox", name="Resistance", exact=True)).to_have_value("3 kΩ")


def test_an_integrator_designed_in_predict(stranger: Stranger) -> None:
    """R = 1/(2πfC) for each of two corners; the upper corner of the gain is the lower of them."""
    hand, page = stranger, stranger.page
    hand.put("sine 100Hz 1V", "V1", "voltage_source", (-18, 6))
    hand.put("1k", "R1", "resistor", (-10, 0))
    hand.put("10n", "C1", "capacitor", (2, -8))
    hand.put("1k", "R2", "resistor", (2, -13))
    hand.put("opamp", "A1", "opamp", (2, 2))
    hand.put("gnd", "G", "ground", (-18, 12))
    hand.put("gnd", "G2", "ground", (-4, 8))
    hand.wire("V1.1", "R1.1")
    hand.wire("R1.2", "A1.2")
    hand.wire("R1.2", "C1.1")
    hand.wire("C1.1", "R2.1")
    hand.wire("C1.2", "R2.2")
    hand.wire("C1.2", "A1.3")
    hand.wire("A1.1", "G2.1")
    hand.wire("V1.2", "G.1")
    hand.call("R1.1", "in")
    hand.call("A1.3", "out")
    hand.solved()
    hand.click(page.get_by_role("tab", name="Predict"))
    hand.click(page.get_by_role("button", name="Line", exact=True))
    hand.type("R_in = 1/(2*pi*1 kHz*C1)")
    hand.press("Enter")
    hand.type("R_back = 1/(2*pi*100 Hz*C1)")
    for part, name in (("R1", "R_in"), ("R2", "R_back")):
        hand.open(part)
        hand.click(page.get_by_role("textbox", name="Resistance", exact=True))
        hand.press("ControlOrMeta+a")
        hand.type(name)
        hand.click(page.get_by_role("button", name="Make it a parameter"))
        hand.press("Escape")
    expect(hand.part("R2")).to_have_accessible_name(re.compile("159.\\d+\u00a0kΩ"))
    hand.run("Frequency sweep")
    hand.fill("From", "1 Hz")
    hand.show("V_out/V_in")
    assert hand.reading("V_out/V_in", "upper cutoff", "Hz") == pytest.approx(100, rel=2e-3)
    assert hand.reading("V_out/V_in", "maximum", "") == pytest.approx(10, rel=2e-3)


def test_a_phasor_network_with_j_and_angles(stranger: Stranger) -> None:
    """10 A ∠ 30° into j4 Ω beside 4 - j8 Ω: the current divider, any circuits text."""
    hand, page = stranger, stranger.page
    hand.put("10 A ∠ 30°", "I1", "current_source", (-10, 0))
    hand.put("j4", "Z1", "impedance", (0, 0), 1)
    hand.put("4 - j8", "Z2", "impedance", (10, 0), 1)
    hand.put("gnd", "G", "ground", (-10, 8))
    hand.wire("I1.2", "Z1.1")
    hand.wire("Z1.1", "Z2.1")
    hand.wire("Z2.2", "Z1.2")
    hand.wire("Z1.2", "G.1")
    hand.wire("I1.1", "G.1")
    hand.call("Z2.1", "out")
    expect(hand.part("I1")).to_have_accessible_name(re.compile("10\u00a0A ∠ 30°"))
    expect(hand.part("Z1")).to_have_accessible_name(re.compile(", j4\u00a0Ω, "))
    expect(hand.part("Z2")).to_have_accessible_name(re.compile(", 4 \u2212 j8\u00a0Ω, "))
    hand.click(page.get_by_role("button", name="Show phasors"))
    volts = 10 * cmath.rect(1, math.radians(30)) * 4j * (4 - 8j) / (4 - 4j)
    note = sheet(page).locator("[data-note^='label ']")
    angle = f"{math.degrees(cmath.phase(volts)):.4g}".replace("-", "\u2212")
    expect(note).to_contain_text(f"{abs(volts):.4g}\u00a0V ∠ {angle}°")
    # The same with j in the card of a part: 4 - j3 instead.
    hand.open("Z2")
    hand.click(page.get_by_role("textbox", name="Resistance", exact=True))
    hand.press("ControlOrMeta+a")
    hand.type("4 - j3")
    hand.press("Enter")
    expect(page.get_by_role("textbox", name="Reactance", exact=True)).to_have_value("-3 Ω")
    hand.press("Escape")
    volts = 10 * cmath.rect(1, math.radians(30)) * 4j * (4 - 3j) / (4 + 1j)
    expect(note).to_contain_text(f"{abs(volts):.4g}\u00a0V")


def test_a_lead_read_between_two_curves(stranger: Stranger) -> None:
    """An RC high-pass leads by arctan(1/(ωRC)): 53° at 1 kHz, 146 µs."""
    hand, page = stranger, stranger.page
    hand.put("sine 1kHz 1V", "V1", "voltage_source", (-8, 0))
    hand.put("100n", "C1", "capacitor", (0, -6))
    hand.put("1.21k", "R1", "resistor", (8, 0), 1)
    hand.put("gnd", "G", "ground", (-8, 8))
    hand.wire("V1.1", "C1.1")
    hand.wire("C1.2", "R1.1")
    hand.wire("R1.2", "G.1")
    hand.wire("V1.2", "G.1")
    hand.call("C1.1", "in")
    hand.call("R1.1", "out")
    hand.solved()
    hand.run("Transient")
    page.get_by_role("combobox", name="Start from").select_option("settled state")
    hand.clicks += 1
    readings = page.get_by_role("list", name="Readings").get_by_role("listitem")
    for curve in ("V_in", "V_out"):
        row = readings.filter(has=page.get_by_role("button", name=f"Show {curve}", exact=True))
        hand.click(row.get_by_role("button", name=re.compile("mark it$")).first)
    expect(page.get_by_label("Between the markers")).to_contain_text("phase of Vout to Vin")
    angle = math.degrees(math.atan(1 / (2 * math.pi * 1e3 * 1210 * 100e-9)))
    turned = hand.angle_between()
    assert turned == pytest.approx(angle, abs=0.05)
    assert -hand.between("B − A", "s") % 1e-3 == pytest.approx(angle / 360e3, rel=2e-3)


def test_a_resonant_low_pass_over_a_linear_axis(stranger: Stranger) -> None:
    """Its gain is largest at f_0·√(1 - 1/(2Q²)): any circuits text."""
    hand, page = stranger, stranger.page
    hand.put("sine 100MHz 1V", "V1", "voltage_source", (-12, 0))
    hand.put("30", "R1", "resistor", (-4, -6))
    hand.put("100n" + "H", "L1", "inductor", (4, -6))
    hand.put("10p", "C1", "capacitor", (12, 0), 1)
    hand.put("gnd", "G", "ground", (-12, 8))
    hand.wire("V1.1", "R1.1")
    hand.wire("R1.2", "L1.1")
    hand.wire("L1.2", "C1.1")
    hand.wire("C1.2", "G.1")
    hand.wire("V1.2", "G.1")
    hand.call("C1.1", "out")
    hand.solved()
    hand.run("Frequency sweep")
    hand.fill("From", "10 MHz")
    hand.fill("To", "1 GHz")
    hand.click(page.get_by_text("Axes", exact=True))
    hand.click(page.get_by_label("Log x axis"))
    expect(page.get_by_label("Log x axis")).not_to_be_checked()
    middle = 1 / (2 * math.pi * math.sqrt(100e-9 * 10e-12))
    quality = math.sqrt(100e-9 / 10e-12) / 30
    top = quality / math.sqrt(1 - 1 / (4 * quality**2))
    assert hand.reading("V_out", "maximum", "V") == pytest.approx(top, rel=2e-3)
    row = page.get_by_role("list", name="Readings").get_by_role("listitem").first
    hand.click(row.get_by_role("button", name=re.compile("mark it$")).first)
    place = page.get_by_role("textbox", name="Place of marker A")
    expected = middle * math.sqrt(1 - 1 / (2 * quality**2))
    assert told(place.input_value(), "Hz") == pytest.approx(expected, rel=1e-3)


def test_a_capacitor_under_a_sine_current_at_two_values(stranger: Stranger) -> None:
    """V = I/(ωC): twice the capacitance, half the voltage."""
    hand, page = stranger, stranger.page
    hand.put("1mA 1kHz sine", "I1", "current_source", (-8, 0))
    hand.put("1u", "C1", "capacitor", (4, 0), 1)
    hand.put("gnd", "G", "ground", (-8, 8))
    hand.wire("I1.2", "C1.1")
    hand.wire("C1.2", "G.1")
    hand.wire("I1.1", "G.1")
    hand.call("C1.1", "out")
    hand.run("Transient")
    page.get_by_role("combobox", name="Repeat for").select_option("C1")
    hand.clicks += 1
    hand.fill("Values", "1 µF, 2 µF")
    for farads in (1, 2):
        swing = hand.reading(f"V_out, C1 = {farads}\u00a0µF", "peak to peak", "V")
        assert swing == pytest.approx(2 * 1e-3 / (2 * math.pi * 1e3 * farads * 1e-6), rel=2e-3)
