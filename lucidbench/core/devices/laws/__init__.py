"""The equations of the nonlinear parts, compiled once for every circuit.

Importing this package imports the compiler; only an analysis that steps or iterates does so. A law is
a function `law(p, u, i, q, gi, cq)`: from its parameters `p` and control differences `u` it writes
the current i[k] [A] and charge q[k] [C] of each of its branches, and their derivatives gi[k, m] =
di[k]/du[m], cq[k, m] = dq[k]/du[m]. All four arrive as zeros. `dispatch` picks the law by number.
"""
