"""Groups and shortest ways, against SciPy's sparse graphs."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components, shortest_path

from lucidbench.core.graphs import Groups, connected, tree_from, way_to

COUNT = 9
EDGES = st.lists(st.tuples(st.integers(0, COUNT - 1), st.integers(0, COUNT - 1)), max_size=14)


@given(EDGES)
def test_groups_and_ways_are_those_of_another_library(edges: list[tuple[int, int]]) -> None:
    ends = np.array(edges, dtype=int).reshape(-1, 2)
    matrix = coo_array((np.ones(len(edges)), (ends[:, 0], ends[:, 1])), shape=(COUNT, COUNT))
    count, labels = connected_components(matrix, directed=False)
    found = connected(range(COUNT), edges)
    assert len(found) == count
    assert all(len({labels[node] for node in group}) == 1 for group in found)
    groups = Groups[int]()
    closed = sum(not groups.join(a, b) for a, b in edges)
    assert closed == len(edges) - (COUNT - count)  # independent loops (Kirchhoff, 1847)
    tree = tree_from(
        0, lambda node: [(a + b - node, k) for k, (a, b) in enumerate(edges) if node in (a, b)]
    )
    steps = shortest_path(matrix, directed=False, unweighted=True, indices=0)
    for node in range(COUNT):
        way = way_to(node, tree)
        assert (len(way) if way is not None else np.inf) == steps[node]
        for k, (before, edge) in enumerate(way or ()):
            after = [*way, (node, None)][k + 1][0] if way else None
            assert {before, after} == set(edges[edge])
