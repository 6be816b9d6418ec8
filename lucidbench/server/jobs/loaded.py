"""Imported before processes are forked, so that each begins with the engine loaded and compiled."""

from __future__ import annotations

from lucidbench.core.analyses.warm import warm
from lucidbench.server.jobs import work

warm()
__all__ = ["work"]
