"""Circuits by name, with figures from published equations or from closed forms of any circuits text.

Where no source stands beside one, its figure follows from Ohm's and Kirchhoff's laws written out there.
"""

from __future__ import annotations

from tests.zoo import Specimen
from tests.zoo.by_name import devices, moving, responses, resting, switching

NAMED: dict[str, Specimen] = dict(
    [
        *resting.circuits(),
        *devices.circuits(),
        *responses.circuits(),
        *moving.circuits(),
        *switching.circuits(),
    ]
)
