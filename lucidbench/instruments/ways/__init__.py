"""The ways to measure, one module each: what is set, where leads go, and how it is taken, step by step."""

from __future__ import annotations

from lucidbench.instruments.ways.base import Column, Lead, Taken, Taking, Way
from lucidbench.instruments.ways.component import COMPONENT
from lucidbench.instruments.ways.curve import CURVE
from lucidbench.instruments.ways.meter import METER
from lucidbench.instruments.ways.record import RECORD
from lucidbench.instruments.ways.response import RESPONSE

WAYS = {way.key: way for way in (METER, RECORD, RESPONSE, CURVE, COMPONENT)}

__all__ = ["WAYS", "Column", "Lead", "Taken", "Taking", "Way"]
