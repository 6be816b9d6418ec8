"""Every method of the line, by what it is for; importing this enters them into the registry."""

from __future__ import annotations

from lucidbench.server.live.method import METHODS
from lucidbench.server.live.methods import comparing, deriving, editing, measuring, running

__all__ = ["METHODS", "comparing", "deriving", "editing", "measuring", "running"]
