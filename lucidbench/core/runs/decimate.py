"""Fewer points for the screen, with every peak kept."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

MOST_BUCKETS = 1_000  # about one for each pixel column of a wide plot


def thinned(curves: Sequence[npt.NDArray[np.float64]], count: int) -> npt.NDArray[np.intp]:
    """Which of `count` points to draw: of each bucket, the least and the largest of every curve."""
    if count <= 4 * MOST_BUCKETS or not curves:
        return np.arange(count)
    edges = np.linspace(0, count, MOST_BUCKETS + 1).astype(int)[:-1]
    kept = {0, count - 1}
    for curve in curves:
        for a, b in zip(edges, [*edges[1:], count], strict=True):
            piece = curve[a:b]
            kept |= {int(a + np.argmin(piece)), int(a + np.argmax(piece))}
    return np.array(sorted(kept), np.intp)
