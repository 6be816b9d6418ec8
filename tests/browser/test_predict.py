"""Predict as a student uses it: is my line right, show me the working, find me the value."""

from __future__ import annotations

import re

from playwright.sync_api import Locator, Page, expect

from tests.browser.hands import message, open_exercise, part, row, saved
from tests.browser.stranger import Stranger


def open_predict(page: Page, title: str) -> None:
    open_exercise(page, title)
    page.get_by_role("tab", name="Predict").click()


def add_line(page: Page, text: str) -> None:
    page.get_by_role("button", name="Line", exact=True).click()
    page.keyboard.type(text)
    page.keyboard.press("Escape")


def line(page: Page, text: str) -> Locator:
    """The line that says so, with all that stands below it."""
    lines = page.get_by_role("list", name="Working").get_by_role("listitem")
    field = page.get_by_role("combobox", name=re.compile(r"^Line \d+$"))
    texts = [each.input_value() for each in field.all()]
    return lines.filter(
        has=page.get_by_role("combobox", name=f"Line {texts.index(text) + 1}", exact=True)
    )


def show(page: Page, figure: str, how: str) -> Locator:
    region = page.get_by_role("region", name="Show the working")
    region.get_by_label("Figure to work out").select_option(figure)
    region.get_by_label("How it is meant").select_option(how)
    region.get_by_role("button", name="Show the working", exact=True).click()
    expect(region.get_by_role("list", name=re.compile("^Steps by"))).to_be_visible()
    return region


def step(region: Locator, formula: str) -> Locator:
    """The step whose typeset line has this in it."""
    return (
        region.get_by_role("listitem")
        .filter(has=region.page.get_by_text(formula, exact=False))
        .first
    )


def test_a_bridge_by_superposition_with_one_step_found_oneself(notebook: Page) -> None:
    open_predict(notebook, "Level bridge")
    region = show(notebook, "V_left", "rest")
    region.get_by_role("radio", name="Superposition").click()
    steps = region.get_by_role("list", name="Steps by Superposition").get_by_role("listitem")
    expect(steps.first).to_contain_text("V1 alone: V2 is a wire and I1 is a gap")
    expect(region.get_by_role("img", name=re.compile("circuit after step")).first).to_be_visible()
    expect(steps.last).to_contain_text("The shares of all sources add up")
    expect(steps.last).to_contain_text("6.206")
    # Pointing at a step lights what it speaks of on the drawing.
    together = steps.filter(has_text="R5 and R13 are in series").first
    together.hover()
    expect(part(notebook, "R5, resistor")).to_have_attribute("data-lit", "true")
    expect(part(notebook, "R2, resistor")).to_have_attribute("data-lit", "false")
    # A step hidden, written wrong, then right in other words.
    together.get_by_role("button", name=re.compile("your turn")).click()
    turn = notebook.get_by_label(re.compile("^Your turn"))
    expect(turn).to_be_focused()
    notebook.keyboard.type("R5 || R_13")
    notebook.keyboard.press("Enter")
    expect(region).to_contain_text("which is not what the circuit does")
    turn.click()
    notebook.keyboard.press("Control+a")
    notebook.keyboard.type("R5 + R1*R3/(R1 + R3)")
    notebook.keyboard.press("Enter")
    expect(region).to_contain_text("Right: the same by algebra.")
    # An equation, hidden and written down in another order.
    region.get_by_role("radio", name="Node equations").click()
    at_left = region.get_by_role("listitem").filter(has_text="At node left:")
    at_left.hover()
    at_left.get_by_role("button", name=re.compile("your turn")).click()
    notebook.keyboard.type("(V_left - V_a)/R1 + V_left/R3 = (V_right + V2 - V_left)/R5")
    notebook.keyboard.press("Enter")
    expect(at_left).to_contain_text("Right: the same equation")
    # A triangle made a star is drawn anew.
    region.get_by_role("radio", name="Superposition").click()
    star = steps.filter(has_text="The circuit with the star in place of the triangle").first
    expect(star.get_by_role("img", name=re.compile("circuit after step"))).to_be_visible()
    # A line taken over stands in one's own working.
    steps.last.hover()
    steps.last.get_by_role("button", name=re.compile("into the working")).click()
    saved(notebook)
    own = notebook.get_by_role("combobox", name=re.compile(r"^Line \d+$")).last
    expect(own).to_have_value("V_left = V_left_V1 + V_left_V2 + V_left_I1")


def test_a_stage_s_bias_is_priced_and_its_gain_worked_out(notebook: Page) -> None:
    open_predict(notebook, "Hydrophone stage")
    lines = notebook.get_by_role("list", name="Working").get_by_role("listitem")
    first = lines.filter(has_text="The base current of Q1 is neglected").first
    expect(first).to_contain_text(
        re.compile(r"Beside the simulation: [\d.]+\s% here, up to [\d.]+\s% over the tolerances")
    )
    expect(first.get_by_role("img", name=re.compile("Error over β of Q1"))).to_be_visible()
    gain = lines.filter(has_text="then hybrid-π").first
    expect(gain).to_contain_text("The base current of Q1 is neglected")
    # The whole textbook form in place of the rule of thumb.
    whole = "V_b = 0.7 V + 181*R4*(V2*R2/(R1 + R2) - 0.7 V)/((R1 || R2) + 181*R4)"
    notebook.get_by_role("combobox", name="Line 1", exact=True).click()
    notebook.keyboard.press("Control+a")
    notebook.keyboard.type(whole)
    notebook.keyboard.press("Escape")
    expect(line(notebook, whole)).to_contain_text("Equal to the textbook form")
    region = show(notebook, "V_out", "gain")
    steps = region.get_by_role("list", name="Steps by Bias and hybrid-π")
    expect(steps).to_contain_text("A silicon junction that conducts")
    expect(steps).to_contain_text("What a load sees")
    expect(steps).to_contain_text("−189")


def test_an_integrator_from_its_specification_to_values_put_in(notebook: Page) -> None:
    open_predict(notebook, "Flow integrator")
    for text in ("f_low = 15 Hz ± 10 %", "f_one = 330 Hz", "R1 = ?", "R2 = ?"):
        add_line(notebook, text)
    asked = line(notebook, "R1 = ?")
    expect(asked).to_contain_text("4.823")
    table = asked.get_by_role("table")
    expect(table).to_contain_text("4.7")
    expect(table).to_contain_text("% of builds meet it")
    asked.get_by_label("Series").select_option("E96")
    expect(table).to_contain_text("4.87")
    asked.get_by_role("button", name="Put in R1 = 4.87").click()
    expect(message(notebook, "R1 is 4.87")).to_be_visible()
    expect(part(notebook, "R1, resistor, 4.87 kΩ")).to_be_visible()
    saved(notebook)
    notebook.keyboard.press("Control+z")
    expect(part(notebook, "R1, resistor, 10 kΩ")).to_be_visible()


def test_loaded_and_unloaded_ladder_and_the_curve_in_pencil(notebook: Page) -> None:
    open_predict(notebook, "Anti-alias ladder")
    unloaded = "V_out/V_in = 1/((1 + j*2*pi*f*R1*C1)*(1 + j*2*pi*f*R2*C2))"
    loaded = "V_out/V_in = 1/(1 + j*2*pi*f*(R1*C1 + R1*C2 + R2*C2) + (j*2*pi*f)^2*R1*C1*R2*C2)"
    add_line(notebook, unloaded)
    told = line(notebook, unloaded)
    expect(told).to_contain_text("of the largest value")
    expect(told.get_by_role("img", name=re.compile("Error over f"))).to_be_visible()
    add_line(notebook, loaded)
    expect(line(notebook, loaded)).to_contain_text("exact")
    notebook.get_by_role("tab", name="Simulate").click()
    notebook.get_by_role("list", name="Runs").get_by_text("Response", exact=True).click()
    expect(notebook.get_by_role("figure").first).to_contain_text("1/((1 + j*2*pi*f*R1*C1)")


def test_a_wrong_line_is_led_to_the_right_one_by_completing_names(notebook: Page) -> None:
    open_predict(notebook, "Battery sense")
    notebook.get_by_role("button", name="Heading").click()
    notebook.keyboard.type("Once more")
    notebook.keyboard.press("Enter")
    notebook.keyboard.type("I_R")
    names = notebook.get_by_role("listbox", name="Names")
    expect(names).to_contain_text("current through R2")
    notebook.keyboard.press("ArrowDown")
    notebook.keyboard.press("ArrowDown")
    notebook.keyboard.press("Enter")
    notebook.keyboard.type(" = V1/(R1 || R2)")
    own = notebook.get_by_role("combobox", name=re.compile(r"^Line \d+$")).last
    expect(own).to_have_value("I_R2 = V1/(R1 || R2)")
    # Typed on at once behind a name that Tab completed.
    notebook.get_by_role("button", name="Line", exact=True).click()
    notebook.keyboard.type("sq")
    notebook.keyboard.press("Tab")
    notebook.keyboard.type("R1*R2")
    notebook.keyboard.press("End")
    notebook.keyboard.type(" + V_o")
    notebook.keyboard.press("Tab")
    notebook.keyboard.type("/(1 mA)")
    expect(own).to_have_value("sqrt(R1*R2) + V_out/(1 mA)")
    notebook.get_by_role("button", name="Remove line 10").click()
    told = line(notebook, "I_R2 = V1/(R1 || R2)")
    expect(told).to_contain_text("not right")
    expect(told).to_contain_text("Right would be I_R2 = V1/(R1 + R2)")
    own.click()
    notebook.keyboard.press("Control+a")
    notebook.keyboard.type("I_R2 = V1/(R1 + R2)")
    expect(line(notebook, "I_R2 = V1/(R1 + R2)")).to_contain_text("exact")
    expect(notebook.get_by_label("Heading", exact=True)).to_have_value("Once more")


def test_a_line_of_sines_is_held_against_phasors_from_an_empty_sheet(notebook: Page) -> None:
    """What it is about stands at the line, follows from what it says, and is set where one wants it so."""
    hand = Stranger(notebook)
    hand.begin()
    hand.put("sine 1V 1k", "V1", "voltage_source", (-8, 0))
    hand.put("1k", "R1", "resistor", (0, -6))
    hand.put("100n", "C1", "capacitor", (8, 0), 1)
    hand.put("gnd", "G", "ground", (-8, 5))
    hand.wire("V1.1", "R1.1")
    hand.wire("R1.2", "C1.1")
    hand.wire("C1.2", "G.1")
    hand.wire("V1.2", "G.1")
    hand.call("C1.1", "out")
    hand.solved()
    notebook.get_by_role("tab", name="Predict").click()
    for text in (
        "V_out = V1/(1 + j*2*pi*(1 kHz)*R1*C1)", "abs(H) = 1/sqrt(1 - (2*pi*f*R1*C1)^2)",
        "V_R1 = V1 - V_out", "R_all = R1",
    ):  # fmt: skip
        add_line(notebook, text)
    first = line(notebook, "V_out = V1/(1 + j*2*pi*(1 kHz)*R1*C1)")
    about = first.get_by_label("What the line is about")
    expect(about.locator("option:checked")).to_have_text("phasor at 1 kHz")
    expect(first.get_by_text("exact", exact=True)).to_be_visible()
    over = line(notebook, "abs(H) = 1/sqrt(1 - (2*pi*f*R1*C1)^2)")
    expect(over).to_contain_text("abs(H) = 1/sqrt(1 + (2*pi*f*R1*C1)^2)")
    across = line(notebook, "V_R1 = V1 - V_out")
    expect(across.get_by_text("exact", exact=True)).to_be_visible()
    about.select_option("rest")
    expect(first.get_by_text("exact", exact=True)).to_have_count(0)
    about.select_option("")
    notebook.get_by_role("tab", name="Compare").click()
    told = row(notebook, "V_out")
    expect(told).to_contain_text("846.7")
    expect(told).to_contain_text("32.14")
    expect(told).to_contain_text("agree")
