"""Exercises that are kept: every revision of each, and the notebook that lists them."""
