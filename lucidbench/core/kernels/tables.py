"""A circuit as the kernels read it: plain arrays only."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

Reals = npt.NDArray[np.float64]
Integers = npt.NDArray[np.int32]


class Tables(NamedTuple):
    """The equation of one circuit with n unknowns and a pattern of m places.

    `rows`, `columns`: the places of G and C, shape (m,); `g`, `c`: their linear shares there.
    `constant`: the part of b that does not change, shape (n,). Waveforms add to it, row by row.
    Laws, u in number: use k has parameters `parameters[parameter_at[k]:parameter_at[k + 1]]`, its
    controls are `plus - minus` over `control_at`, its branches `source -> target` over `branch_at`,
    and its slots (four for each branch and control: +source, -source, -target, +target) begin at
    `slot_at[k]`; -1 is ground. `held` are the controls last used, for limiting.
    """

    n: int
    rows: Integers
    columns: Integers
    g: Reals
    c: Reals
    constant: Reals
    is_node: npt.NDArray[np.bool_]
    diagonal: Integers  # the place of (k, k) for each row k; -1 where the pattern has none
    wave_row: Integers
    wave_shape: Integers
    wave_at: Integers
    wave_data: Reals
    law: Integers
    parameter_at: Integers
    parameters: Reals
    control_at: Integers
    plus: Integers
    minus: Integers
    branch_at: Integers
    source: Integers
    target: Integers
    slot_at: Integers
    slots: Integers
    held: Reals


class Plan(NamedTuple):
    """How the matrix is factored: where each place goes, and for sparse ones in which order.

    Dense: place k goes to `slot[k]` = row·n + column, pivots are sought in each column. Sparse: rows
    and columns are permuted once and for all (`row_order[i]` is the row that becomes row i), and
    `start`, `column`, `middle` describe the filled pattern, row by row with its diagonal.
    """

    dense: bool
    size: int
    slot: Integers
    row_order: Integers
    column_order: Integers
    start: Integers
    column: Integers
    middle: Integers
