"""What to say of an instant at which a coil's flux jumped: an error, or a note, with the coil's name."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from lucidbench.core.equations.shared_flux import fluxes, following
from lucidbench.core.equations.system import Array, System
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import Element, listed
from lucidbench.core.units import engineering

# Of the energy that coupled coils hold: what may be lost within an instant as their leakage. More, and
# a current was cut off that had nowhere to go.
_LEAKED = 0.5
# Times the sources' voltages: what a coil that is cut off makes beyond it is told.
_SPIKE = 30.0
_MOSTLY = 0.3  # of its current, that a contact carries on
_OPEN = "off_resistance"
_KEPT = 1e-3  # of a flux: nearer, it is as much as another


def weigh_jump(system: System, jump: Array, time: float, from_given: bool = False) -> str | None:
    """A note on what leaked, or None where nothing did. Raises CircuitError where a coil's current was
    cut off with nowhere to go, or was forced to step.

    `jump`, shape (5, n), holds unknowns and charges before and after, and where flux was lost; `time`
    is the instant [s], at which a run begins `from_given` currents or not.
    """
    before, q_before, after, q_after, lost_in = jump.copy()
    follow = following(system)
    q_before, q_after = fluxes(follow, q_before), fluxes(follow, q_after)
    at = engineering(time, "s", 6)
    if from_given and (together := _come_together(system, jump)):
        return (
            f"At {at} {listed(together)} are given currents that one path cannot carry together: they come "
            f"to one at once, and the flux of the path is kept."
        )
    note = None
    for group in _coupled(system):
        rows = [system.own_rows[name][0] for name in group]
        cut = [k for k, row in enumerate(rows) if lost_in[row] > 0]
        if not cut:
            continue
        worst = max(cut, key=lambda k: abs(q_before[rows[k]] - q_after[rows[k]]))
        name, row = group[worst], rows[worst]
        if from_given and len(group) == 1 and q_after[row]:
            before[row] = after[row] * q_before[row] / q_after[row]  # only its flux was given
        # A coil's row holds its flux with the sign turned.
        had = -0.5 * float(before[rows] @ q_before[rows])
        has = -0.5 * float(after[rows] @ q_after[rows])
        amperes = engineering(abs(before[row]), "A", 3)
        if has > had:
            raise CircuitError(
                f"At {at} the current of {name} would have to step from {amperes} to "
                f"{engineering(abs(after[row]), 'A', 3)}, which takes a voltage without end. Give what "
                f"drives it a rise, or put a resistor across {name}.",
                (name,),
            )
        spikes = any(lost_in[rows[k]] > 1 for k in cut)
        if (spikes or has < (1 - _LEAKED) * had) and _is_open_as_told(system):
            note = (
                f"At {at} the {amperes} through {name} have no way but through an open contact: what voltage "
                f"they make there for an instant is far beyond those of the sources, and is left out. Put a "
                f"diode or a resistor across {name}, or a capacitor across what opens."
            )
            continue
        if spikes or has < (1 - _LEAKED) * had:
            raise CircuitError(
                f"At {at} the {amperes} through {name} have nowhere to go: what is in series with it "
                f"stops conducting, and its voltage would rise without end. Put a diode or a resistor "
                f"across {name}, or a capacitor across what opens.",
                (name,),
            )
        note = (
            f"From {at} on, each time the current of {name} is cut off, the part of its flux that no "
            f"other coil shares is lost at once; a capacitor or a clamp across it would take that."
        )
    return note


def _is_open_as_told(system: System) -> bool:
    """Whether of every contact that is open it is said what it conducts: more than the usual nothing."""
    contacts = [e for e in system.circuit if e.device.description.opens]
    usual = [e.device.defaults[_OPEN] for e in contacts]
    return bool(contacts) and all(
        e.values.get(_OPEN, ohms) < ohms for e, ohms in zip(contacts, usual, strict=True)
    )


def spike_told(system: System, ends: Array, lengths: Array, unknowns: Array) -> str | None:
    """A note on the first switch that opens with a coil's current in it, and on the voltage that its
    resistance makes of that; None where none is far above those of the sources.

    `ends` [s], `lengths` [s] and `unknowns`, shape (steps, n), are those of the run's steps; at an event
    the length is 0.
    """
    events = 1 + np.flatnonzero(lengths[1:] == 0.0)
    opening = [e for e in system.circuit if e.device.description.opens]
    coils = [e for e in system.circuit if e.device.description.stores == "flux"]
    if not (len(events) and opening and coils):
        return None

    def at(node: str) -> Array | float:
        row = system.row(node)
        return unknowns[:, row] if row >= 0 else 0.0

    def across(element: Element) -> Array:
        first, second = element.nodes[:2]
        return np.broadcast_to(at(first) - at(second), len(unknowns))

    sources = [np.abs(across(e)).max() for e in system.circuit if e.imposes == "V"]
    beyond = _SPIKE * max(sources, default=1.0)
    volts = np.array([across(contact)[events] for contact in opening])
    where = np.flatnonzero(np.abs(volts).max(axis=0) > beyond)
    if not len(where):
        return None
    first, event = where[0], events[where[0]]
    highest = int(np.abs(volts[:, first]).argmax())
    contact, height = opening[highest], abs(float(volts[highest, first]))
    coil = max(coils, key=lambda e: abs(across(e)[event]))
    amperes = abs(float(unknowns[event - 1, system.own_rows[coil.name][0]]))
    if height < _MOSTLY * amperes * contact.device.value(contact, _OPEN):
        return None  # it has another way, as through a winding coupled to it
    return (
        f"At {engineering(ends[event], 's', 6)} the {engineering(amperes, 'A', 3)} through {coil.name} "
        f"have no way but through {contact.name}, which opens: {engineering(height, 'V', 3)} "
        f"across it. A diode or a resistor across {coil.name}, or a capacitor across {contact.name}, "
        f"takes the current over."
    )


def _come_together(system: System, jump: Array) -> list[str]:
    """The coils whose given currents differ along one path: what one loses of its flux the others take."""
    _, q_before, _, q_after, lost_in = jump
    coils = [e.name for e in system.circuit if e.device.description.stores == "flux"]
    rows = {name: system.own_rows[name][0] for name in coils}
    moved = [
        name for name, row in rows.items() if lost_in[row] > 0 or q_before[row] != q_after[row]
    ]
    change = np.array([q_after[rows[name]] - q_before[rows[name]] for name in moved])
    flux = np.array([q_after[rows[name]] for name in moved])
    if len(moved) < 2 or not np.any(np.abs(flux) > _KEPT * np.abs(change).max()):
        return []
    # Along one path each loses or takes as much as the others together, whichever way round it lies.
    largest = np.abs(change).max()
    is_kept = 2 * largest <= np.abs(change).sum() * (1 + _KEPT)
    return moved if is_kept else []


def _coupled(system: System) -> Iterator[list[str]]:
    """The coils, those that share flux together."""
    group_of = {e.name: [e.name] for e in system.circuit if e.device.description.stores == "flux"}
    for element in system.circuit:
        if element.device.description.couples:
            one, other = (group_of[system.circuit.element(name).name] for name in element.refers)
            if one is not other:
                one += other
                group_of.update(dict.fromkeys(other, one))
    seen: list[list[str]] = []
    for group in group_of.values():
        if not any(group is known for known in seen):
            seen.append(group)
    yield from seen
