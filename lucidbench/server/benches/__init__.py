"""Benches of the pages that measure: the stand-in, in a process of its own, or a real one its owner lists."""
