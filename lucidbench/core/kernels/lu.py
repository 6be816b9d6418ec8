"""Factoring and solving, real or complex: dense with row exchange, sparse in a fixed order.

Golub and Van Loan, Matrix Computations, 4th ed., 2013, algorithm 3.4.1; the sparse form runs row by
row over a pattern that was filled beforehand (Duff, Erisman and Reid, Direct Methods for Sparse
Matrices, 2nd ed., 2017, chapter 10).
"""

from __future__ import annotations

from lucidbench.core.devices.laws.compiler import kernel

# In the fixed order: a row counted more often than this into another loses its digits, and a pivot that
# is less than this part of what it was made of has lost them; the order is sought anew then.
_MOST_SHARE = 1e10
_LEAST_LEFT = 1e-13
# Far along a ladder a wave dies away below the least number the processor handles at speed, and would
# linger there, each step ten times as slow; it is nothing long before.
_NOTHING = 1e-250


@kernel
def magnitude(z):
    """Of a real or complex number, near enough to choose a pivot by."""
    return abs(z.real) + abs(z.imag)


@kernel
def factor(plan, n, a, exchanges, scratch):
    """Factor in place the values `a`, shape (plan.size,). Returns -1, or the row without a pivot.

    Pivots are kept as their inverses: a product costs a tenth of a complex division. `exchanges`, of
    2n integers, keeps the rows exchanged, and behind them notes where a row has something.
    """
    if not plan.dense:
        return factor_in_order(plan, n, a, scratch)
    for k in range(n):
        best, at = 0.0, k
        for i in range(k, n):
            size = magnitude(a[i * n + k])
            if size > best:
                best, at = size, i
        if not best > 0.0:
            return k
        exchanges[k] = at
        if at != k:
            for j in range(n):
                a[k * n + j], a[at * n + j] = a[at * n + j], a[k * n + j]
        inverse = 1.0 / a[k * n + k]
        a[k * n + k] = inverse
        filled = 0
        for j in range(k + 1, n):
            if a[k * n + j] != 0.0:
                exchanges[n + filled] = j
                filled += 1
        for i in range(k + 1, n):
            below = a[i * n + k]
            if below != 0.0:
                share = below * inverse
                a[i * n + k] = share
                if 2 * filled < n - k:  # circuits leave most of a row empty
                    for m in range(filled):
                        j = exchanges[n + m]
                        a[i * n + j] -= share * a[k * n + j]
                else:
                    for j in range(k + 1, n):
                        a[i * n + j] -= share * a[k * n + j]
    return -1


@kernel
def factor_in_order(plan, n, a, scratch):
    start, column, middles = plan.start, plan.column, plan.middle
    for i in range(n):
        begin, end, middle = start[i], start[i + 1], middles[i]
        for k in range(begin, end):
            scratch[column[k]] = a[k]
        largest = magnitude(scratch[i])
        grown = False
        for k in range(begin, middle):
            j = column[k]
            share = scratch[j]
            if share != 0.0:
                share = share * a[middles[j]]
                scratch[j] = share
                grown = grown or magnitude(share) > _MOST_SHARE
                for m in range(middles[j] + 1, start[j + 1]):
                    scratch[column[m]] -= share * a[m]
                largest = max(largest, magnitude(scratch[i]))
        for k in range(begin, end):
            a[k] = scratch[column[k]]
            scratch[column[k]] = 0.0
        if grown or not magnitude(a[middle]) > _LEAST_LEFT * largest:
            return i
        a[middle] = 1.0 / a[middle]
    return -1


@kernel
def solve(plan, n, a, exchanges, r, scratch):
    """Solve in place for the right-hand side `r`, shape (n,)."""
    if plan.dense:
        for k in range(n):
            at = exchanges[k]
            if at != k:
                r[k], r[at] = r[at], r[k]
        for i in range(n):
            total = r[i]
            for j in range(i):
                total -= a[i * n + j] * r[j]
            r[i] = total
        for i in range(n - 1, -1, -1):
            total = r[i]
            for j in range(i + 1, n):
                total -= a[i * n + j] * r[j]
            r[i] = total * a[i * n + i]
        return
    start, column, middle = plan.start, plan.column, plan.middle
    row_order, column_order = plan.row_order, plan.column_order
    for i in range(n):
        total = r[row_order[i]]
        for k in range(start[i], middle[i]):
            total -= a[k] * scratch[column[k]]
        scratch[i] = total if magnitude(total) > _NOTHING else 0.0 * total
    for i in range(n - 1, -1, -1):
        total = scratch[i]
        for k in range(middle[i] + 1, start[i + 1]):
            total -= a[k] * scratch[column[k]]
        scratch[i] = total * a[middle[i]] if magnitude(total) > _NOTHING else 0.0 * total
    for i in range(n):
        r[column_order[i]] = scratch[i]
        scratch[i] = 0.0
