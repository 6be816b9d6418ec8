"""A formula of circuit quantities, run as a small program that carries its derivatives along."""

from __future__ import annotations

import math

from lucidbench.core.devices.laws.compiler import kernel
from lucidbench.core.devices.laws.junction import exponential

STACK = 24
CONTROLS = 8
CONSTANT, CONTROL, TIME, ADD, SUBTRACT, MULTIPLY, DIVIDE, POWER, NEGATE = range(9)
ABS, SQRT, EXP, LN, LG, SIN, COS, TAN, ATAN, TANH, MINIMUM, MAXIMUM = range(9, 21)
_TINY = 1e-300


@kernel
def expression(p, u, t, i, gi, stack):
    """The value into i[0], its slopes into gi[0, m]. Division by zero and the like are kept finite.

    `stack`, shape (STACK, CONTROLS + 1), is scratch: slopes, and the value in the last column.
    """
    controls = len(u)
    value = stack[:, CONTROLS]
    slope = stack
    top = -1
    k = 0
    while k < len(p):
        op = int(p[k])
        k += 1
        if op == CONSTANT:
            top += 1
            value[top] = p[k]
            slope[top, :controls] = 0.0
            k += 1
        elif op == CONTROL:
            top += 1
            m = int(p[k])
            value[top] = u[m]
            slope[top, :controls] = 0.0
            slope[top, m] = 1.0
            k += 1
        elif op == TIME:
            top += 1
            value[top] = t
            slope[top, :controls] = 0.0
        elif op <= POWER or op >= MINIMUM:
            a, b = value[top - 1], value[top]
            by_a, by_b = 1.0, 1.0
            if op == ADD:
                result = a + b
            elif op == SUBTRACT:
                result = a - b
                by_b = -1.0
            elif op == MULTIPLY:
                result = a * b
                by_a, by_b = b, a
            elif op == DIVIDE:
                safe = b if abs(b) > _TINY else math.copysign(_TINY, b)
                result = a / safe
                by_a, by_b = 1.0 / safe, -result / safe
            elif op == POWER:
                if a < 0.0 and b != math.floor(b):
                    result, by_a, by_b = 0.0, 0.0, 0.0
                else:
                    base = a if a != 0.0 or b > 0.0 else _TINY
                    result = base**b
                    by_a = b * base ** (b - 1.0) if base != 0.0 else (1.0 if b == 1.0 else 0.0)
                    by_b = result * math.log(base) if base > 0.0 else 0.0
            else:
                first = a <= b if op == MINIMUM else a >= b
                result = a if first else b
                by_a = 1.0 if first else 0.0
                by_b = 1.0 - by_a
            top -= 1
            value[top] = result
            for m in range(controls):
                slope[top, m] = by_a * slope[top, m] + by_b * slope[top + 1, m]
        else:
            a = value[top]
            if op == NEGATE:
                result, by_a = -a, -1.0
            elif op == ABS:
                result, by_a = abs(a), (1.0 if a >= 0.0 else -1.0)
            elif op == SQRT:
                result = math.sqrt(max(a, 0.0))
                by_a = 0.5 / result if result > 0.0 else 0.0
            elif op == EXP:
                result, by_a = exponential(a)
            elif op == LN:
                result, by_a = math.log(max(a, _TINY)), 1.0 / max(a, _TINY)
            elif op == LG:
                result = math.log10(max(a, _TINY))
                by_a = 1.0 / (max(a, _TINY) * math.log(10.0))
            elif op == SIN:
                result, by_a = math.sin(a), math.cos(a)
            elif op == COS:
                result, by_a = math.cos(a), -math.sin(a)
            elif op == TAN:
                result = math.tan(a)
                by_a = 1.0 + result * result
            elif op == ATAN:
                result, by_a = math.atan(a), 1.0 / (1.0 + a * a)
            else:
                result = math.tanh(a)
                by_a = 1.0 - result * result
            value[top] = result
            for m in range(controls):
                slope[top, m] *= by_a
    i[0] = value[0]
    for m in range(controls):
        gi[0, m] = slope[0, m]
