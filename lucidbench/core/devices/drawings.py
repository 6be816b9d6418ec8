"""How each part is drawn: after IEC 60617 and, in the second drawing, IEEE Std 315.

Both from general acquaintance with the standards' shapes, redrawn on the grid: two-pin parts lie along
x from -3 to 3, transistors stand with their current path at x = 1, sensing pins are on the left.
"""

from __future__ import annotations

from lucidbench.core.devices.symbol import (
    CIRCLE,
    LEADS_TO_CIRCLE,
    SOURCE_PINS,
    TWO_PINS,
    Drawing,
    Pin,
    Sign,
    Symbol,
)

PLUS, MINUS = "+", "\u2212"
_DIAMOND = "M-1.5 0L0 -1.5L1.5 0L0 1.5Z"
_ARROW_RIGHT = "M1 0L0.2 -0.45V0.45Z"


def _both(
    pins: tuple[Pin, ...], body: tuple[float, float, float, float], drawing: Drawing
) -> Symbol:
    return Symbol(pins, body, drawing, drawing)


# --- resistors, storage -------------------------------------------------------------------------

_BOX = "M-1.6 -0.6H1.6V0.6H-1.6Z"
_ZIGZAG = "M-3 0H-1.65L-1.375 -0.7L-0.825 0.7L-0.275 -0.7L0.275 0.7L0.825 -0.7L1.375 0.7L1.65 0H3"
RESISTOR = Symbol(
    TWO_PINS,
    (-1.6, -0.7, 1.6, 0.7),
    Drawing(("M-3 0H-1.6M1.6 0H3", _BOX)),
    Drawing((_ZIGZAG,)),
)
IMPEDANCE = _both(
    TWO_PINS, (-1.6, -0.7, 1.6, 0.7), Drawing(("M-3 0H-1.6M1.6 0H3", _BOX, "M-1.6 0.6L1.6 -0.6"))
)
_SLIDER = "M0 -3V-1.2"
_SLIDER_HEAD = "M0 -0.6L-0.35 -1.35H0.35Z"
POTENTIOMETER = Symbol(
    (Pin("1", -3, 0), Pin("slider", 0, -3), Pin("2", 3, 0)),
    (-1.6, -0.7, 1.6, 0.7),
    Drawing(("M-3 0H-1.6M1.6 0H3", _BOX, _SLIDER), (_SLIDER_HEAD,)),
    Drawing((_ZIGZAG, _SLIDER), ("M0 -0.7L-0.35 -1.45H0.35Z",)),
)
CAPACITOR = Symbol(
    TWO_PINS,
    (-0.6, -1.3, 0.6, 1.3),
    Drawing(("M-3 0H-0.4M0.4 0H3", "M-0.4 -1.25V1.25M0.4 -1.25V1.25")),
    Drawing(("M-3 0H-0.4M0.35 0H3", "M-0.4 -1.25V1.25", "M0.75 -1.25Q-0.05 0 0.75 1.25")),
)
_COIL = "a0.5 0.5 0 0 1 1 0" * 4
INDUCTOR = _both(TWO_PINS, (-2.0, -0.65, 2.0, 0.25), Drawing((f"M-3 0H-2{_COIL}H3",)))
COUPLING = _both(
    (),
    (-1.7, -0.6, 1.7, 0.9),
    Drawing(
        ("M-1.2 0.45Q0 -0.95 1.2 0.45",),
        ("M-1.6 0.85L-1.35 0L-0.85 0.45Z", "M1.6 0.85L1.35 0L0.85 0.45Z"),
    ),
)
_LEFT_COIL = "M-3 -2H-1.1" + "a0.5 0.5 0 0 1 0 1" * 4 + "H-3"
_RIGHT_COIL = "M3 -2H1.1" + "a0.5 0.5 0 0 0 0 1" * 4 + "H3"
_DOT = "a0.2 0.2 0 1 0 0.4 0a0.2 0.2 0 1 0 -0.4 0"
TRANSFORMER = _both(
    (Pin("p1", -3, -2), Pin("p2", -3, 2), Pin("s1", 3, -2), Pin("s2", 3, 2)),
    (-1.9, -2.6, 1.9, 2.2),
    Drawing(
        (_LEFT_COIL, _RIGHT_COIL, "M-0.15 -2V2M0.15 -2V2"),
        (f"M-1.75 -1.3{_DOT}", f"M1.35 -1.3{_DOT}"),
    ),
)

# --- sources ------------------------------------------------------------------------------------

VOLTAGE_SOURCE = Symbol(
    SOURCE_PINS,
    (-1.5, -1.5, 1.5, 1.5),
    Drawing((CIRCLE, "M-3 0H3"), signs=(Sign(PLUS, -2.15, -0.85),)),
    Drawing((CIRCLE, LEADS_TO_CIRCLE), signs=(Sign(PLUS, -0.75, 0), Sign(MINUS, 0.75, 0))),
)
CURRENT_SOURCE = Symbol(
    TWO_PINS,
    (-1.5, -2.6, 1.5, 1.5),
    Drawing(
        (CIRCLE, LEADS_TO_CIRCLE, "M0 -1.5V1.5", "M-1 -2.1H0.6"), ("M1.2 -2.1L0.4 -2.5V-1.7Z",)
    ),
    Drawing((CIRCLE, LEADS_TO_CIRCLE, "M-0.9 0H0.4"), (_ARROW_RIGHT,)),
)
DEPENDENT_VOLTAGE = Symbol(
    SOURCE_PINS,
    (-1.5, -1.5, 1.5, 1.5),
    Drawing((_DIAMOND, "M-3 0H3"), signs=(Sign(PLUS, -2.15, -0.85),)),
    Drawing((_DIAMOND, LEADS_TO_CIRCLE), signs=(Sign(PLUS, -0.7, 0), Sign(MINUS, 0.7, 0))),
)
DEPENDENT_CURRENT = Symbol(
    TWO_PINS,
    (-1.5, -2.6, 1.5, 1.5),
    Drawing(
        (_DIAMOND, LEADS_TO_CIRCLE, "M0 -1.5V1.5", "M-1 -2.1H0.6"), ("M1.2 -2.1L0.4 -2.5V-1.7Z",)
    ),
    Drawing((_DIAMOND, LEADS_TO_CIRCLE, "M-0.9 0H0.4"), (_ARROW_RIGHT,)),
)

# The same standing at x = 1, with two sensing pins on the left that touch nothing inside.
_STANDING = "M1 -1.5L2.5 0L1 1.5L-0.5 0Z"
_SENSING = "M-3 -1H-1.9M-3 1H-1.9"
_TERMINALS = "M-1.9 -1a0.25 0.25 0 1 0 0.5 0a0.25 0.25 0 1 0 -0.5 0" \
             "M-1.9 1a0.25 0.25 0 1 0 0.5 0a0.25 0.25 0 1 0 -0.5 0"  # fmt: skip
_SENSE_SIGNS = (Sign(PLUS, -2.4, -1.75), Sign(MINUS, -2.4, 1.75))
_SENSE_PINS = (Pin("control +", -3, -1), Pin("control \u2212", -3, 1))
_CONTROLLED_BODY = (-2.9, -2.2, 2.6, 2.2)
SENSED_VOLTAGE = Symbol(
    (Pin(PLUS, 1, -3), Pin(MINUS, 1, 3), *_SENSE_PINS),
    _CONTROLLED_BODY,
    Drawing((_STANDING, "M1 -3V3", _SENSING, _TERMINALS), signs=(Sign(PLUS, 1.9, -1.9), *_SENSE_SIGNS)),
    Drawing(
        (_STANDING, "M1 -3V-1.5M1 1.5V3", _SENSING, _TERMINALS),
        signs=(Sign(PLUS, 1, -0.7), Sign(MINUS, 1, 0.7), *_SENSE_SIGNS),
    ),
)  # fmt: skip
SENSED_CURRENT = Symbol(
    (Pin("1", 1, -3), Pin("2", 1, 3), *_SENSE_PINS),
    _CONTROLLED_BODY,
    Drawing(
        (_STANDING, "M1 -3V-1.5M1 1.5V3", "M-0.5 0H2.5", "M2.2 1V1.8", _SENSING, _TERMINALS),
        ("M2.2 2.4L1.8 1.6H2.6Z",),
        _SENSE_SIGNS,
    ),
    Drawing(
        (_STANDING, "M1 -3V-1.5M1 1.5V3", "M1 -0.9V0.4", _SENSING, _TERMINALS),
        ("M1 1L0.55 0.2H1.45Z",),
        _SENSE_SIGNS,
    ),
)

# --- semiconductors -----------------------------------------------------------------------------

DIODE_PINS = (Pin("anode", -3, 0), Pin("cathode", 3, 0))
_TRIANGLE = "M-0.85 -0.95L0.85 0L-0.85 0.95Z"
_BAR = "M0.85 -0.95V0.95"


def _diode(
    bar: str, strokes: tuple[str, ...] = (), filled: tuple[str, ...] = (), top: float = -1.05
) -> Symbol:
    return Symbol(
        DIODE_PINS,
        (-0.95, top, 1.2 if top < -1.1 else 0.95, 1.05),
        Drawing(("M-3 0H3", _TRIANGLE, bar, *strokes), filled),
        Drawing(("M-3 0H-0.85M0.85 0H3", bar, *strokes), (_TRIANGLE, *filled)),
    )  # fmt: skip


DIODE = _diode(_BAR)
ZENER = _diode("M0.4 -0.95H0.85V0.95H1.3")
LED = _diode(
    _BAR,
    ("M-0.1 -1.2L0.5 -1.95M0.8 -1L1.4 -1.75",),
    ("M0.75 -2.25L0.62 -1.66L0.24 -1.96Z", "M1.65 -2.05L1.52 -1.46L1.14 -1.76Z"),
    top=-2.25,
)
_ENVELOPE = "M-1.75 0a2 2 0 1 0 4 0a2 2 0 1 0 -4 0"
_TRANSISTOR_BODY = (-1.5, -1.9, 1.4, 1.9)


def _bipolar(upper: str, lower: str, head: str) -> Symbol:
    strokes = ("M-3 0H-0.6", "M-0.6 -1.2V1.2", "M-0.6 -0.5L1 -1.6V-3", "M-0.6 0.5L1 1.6V3")
    return Symbol(
        # The order of pins is collector, base, emitter, whichever stands on top.
        (Pin("C", 1, -3 if upper == "C" else 3), Pin("B", -3, 0), Pin("E", 1, 3 if upper == "C" else -3)),
        _TRANSISTOR_BODY,
        Drawing(strokes, (head,)),
        Drawing((*strokes, _ENVELOPE), (head,)),
    )  # fmt: skip


NPN = _bipolar("C", "E", "M0.85 1.5L0.02 1.33L0.4 0.79Z")
PNP = _bipolar("E", "C", "M-0.4 -0.64L0.43 -0.81L0.05 -1.35Z")


def _insulated_gate(drain_on_top: bool, head: str) -> Symbol:
    """Enhancement MOSFET, its bulk tied to its source."""
    to_source = 1 if drain_on_top else -1
    strokes = (
        "M-3 0H-1.1M-1.1 -1.2V1.2",
        "M-0.6 -1.4V-0.7M-0.6 -0.35V0.35M-0.6 0.7V1.4",
        "M1 -3V-1.05H-0.6",
        "M1 3V1.05H-0.6",
        f"M-0.6 0H1V{1.05 * to_source}",
    )
    drain, source = (-3, 3) if drain_on_top else (3, -3)
    return Symbol(
        (Pin("D", 1, drain), Pin("G", -3, 0), Pin("S", 1, source)),
        (-1.3, -1.6, 1.3, 1.6),
        Drawing(strokes, (head,)),
        Drawing((*strokes, _ENVELOPE), (head,)),
    )


NMOS = _insulated_gate(True, "M-0.55 0L0.2 -0.35V0.35Z")
PMOS = _insulated_gate(False, "M0.5 0L-0.25 -0.35V0.35Z")


def _junction_gate(drain_on_top: bool, head: str) -> Symbol:
    strokes = ("M-3 0H-0.4", "M-0.4 -1.3V1.3", "M1 -3V-0.9H-0.4", "M1 3V0.9H-0.4")
    drain, source = (-3, 3) if drain_on_top else (3, -3)
    return Symbol(
        (Pin("D", 1, drain), Pin("G", -3, 0), Pin("S", 1, source)),
        (-1.3, -1.4, 1.3, 1.4),
        Drawing(strokes, (head,)),
        Drawing((*strokes, _ENVELOPE), (head,)),
    )


NJF = _junction_gate(True, "M-0.4 0L-1.2 -0.35V0.35Z")
PJF = _junction_gate(False, "M-1.25 0L-0.45 -0.35V0.35Z")
_UNIJUNCTION = ("M-3 -1H-1.6L-0.7 -0.31", "M-0.3 -1.4V1.4", "M1 -3V-1H-0.3", "M1 3V1H-0.3")
_UNIJUNCTION_HEAD = "M-0.3 0L-1.08 -0.19L-0.72 -0.68Z"
UNIJUNCTION = Symbol(
    (Pin("E", -3, -1), Pin("B1", 1, 3), Pin("B2", 1, -3)),
    (-1.7, -1.5, 1.3, 1.5),
    Drawing(_UNIJUNCTION, (_UNIJUNCTION_HEAD,)),
    Drawing((*_UNIJUNCTION, _ENVELOPE), (_UNIJUNCTION_HEAD,)),
)

# --- amplifiers, switches, meters, reference ----------------------------------------------------


def _amplifier(supplies: bool) -> Symbol:
    pins = (Pin(PLUS, -4, 2), Pin(MINUS, -4, -2), Pin("out", 4, 0))
    power = (Pin("V+", 0, -4), Pin("V\u2212", 0, 4)) if supplies else ()
    signs = (Sign(MINUS, -1.3, -1.75), Sign(PLUS, -1.3, 1.75))
    box = ("M-2.2 -3H2.2V3H-2.2Z", "M-4 -2H-2.2M-4 2H-2.2M2.2 0H4", "M-0.4 -2.4L0.3 -2L-0.4 -1.6Z",
           *(("M0 -4V-3M0 4V3",) if supplies else ()))  # fmt: skip
    triangle = ("M-2.2 -3V3L3 0Z", "M-4 -2H-2.2M-4 2H-2.2M3 0H4",
                *(("M0 -4V-1.73M0 4V1.73",) if supplies else ()))  # fmt: skip
    return Symbol(
        (*pins, *power),
        (-2.2, -3, 3, 3),
        Drawing(box, signs=(Sign(MINUS, -1.5, -2), Sign(PLUS, -1.5, 2), Sign("∞", 1.15, -2))),
        Drawing(triangle, signs=signs),
    )


OPAMP = _amplifier(False)
POWERED_OPAMP = _amplifier(True)
VOLTAGE_SWITCH = _both(
    (Pin("1", 1, -3), Pin("2", 1, 3), *_SENSE_PINS),
    _CONTROLLED_BODY,
    Drawing(
        ("M1 -3V-1.1", "M1 3V1.1L-0.05 -0.85", "M-0.9 0H-0.55M-0.25 0H0.1", _SENSING, _TERMINALS),
        signs=_SENSE_SIGNS,
    ),
)
TIMED_SWITCH = _both(
    TWO_PINS,
    (-1.3, -1.5, 1.3, 0.4),
    Drawing(("M-3 0H-1.1L0.85 -1.15", "M1.1 0H3", "M0.9 0.3V-0.3"), signs=(Sign("t", -0.6, -1.3),)),
)


def _meter(letter: str) -> Symbol:
    return _both(
        SOURCE_PINS,
        (-1.5, -1.5, 1.5, 1.5),
        Drawing((CIRCLE, LEADS_TO_CIRCLE), signs=(Sign(letter, 0, 0), Sign(PLUS, -2.15, -0.85))),
    )


VOLTMETER = _meter("V")
AMMETER = _meter("A")
GROUND = _both(
    (Pin("ground", 0, 0),),
    (-1.0, 0.9, 1.0, 1.95),
    Drawing(("M0 0V1", "M-1 1H1", "M-0.65 1.45H0.65", "M-0.3 1.9H0.3")),
)
