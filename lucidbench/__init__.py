"""Lucid Bench: circuits by hand, simulated and on the bench, side by side."""

__version__ = "0.1.0"
