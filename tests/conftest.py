"""What holds for every test: random examples may take as long as the machine needs."""

from __future__ import annotations

from hypothesis import settings

settings.register_profile("unhurried", deadline=None)
settings.load_profile("unhurried")
