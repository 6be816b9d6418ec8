"""For whoever works on Lucid Bench: checks, the development servers, what is generated."""

from pathlib import Path

HOME = Path(__file__).resolve().parents[1]
WEB = HOME / "web"
