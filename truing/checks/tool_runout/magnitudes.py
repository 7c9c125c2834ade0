"""What swings alone can tell: sizes without directions."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

import numpy as np

from truing.measure.estimate import Estimate


def pair(angles_rad: Sequence[float], swings: Sequence[Estimate]) -> tuple[Estimate, Estimate]:
    """(larger, smaller) of the two that swings at three and more seats are made of, as TIR (mm).

    With the part above turned by ψ the swing is E² = a² + b² + 2ab·cos(ψ + δ), linear in its mean
    P = a² + b² and its wave Q = 2ab: a, b = (√(P + Q) ± √(P − Q))/2. Which of them is above cannot
    be told. ValueError with fewer than three seats.
    """
    a = np.asarray(angles_rad)
    if len(a) < 3:
        raise ValueError("three seats at least")
    inverse = np.linalg.pinv(np.column_stack([np.ones(len(a)), np.cos(a), np.sin(a)]))
    squares = np.array([s.value**2 for s in swings])
    doubt = np.array([2 * s.value * s.expanded + s.expanded**2 for s in swings])
    p, c, s = inverse @ squares
    big = np.sqrt((inverse**2) @ doubt**2)
    q, q_big = math.hypot(c, s), float(max(big[1:]))

    def split(p: float, q: float) -> tuple[float, float]:
        q = min(max(q, 0.0), max(p, 0.0))
        more, less = math.sqrt(max(p, 0.0) + q), math.sqrt(max(p, 0.0) - q)
        return (more + less) / 2, (more - less) / 2

    now = split(float(p), q)
    corners = [
        split(float(p) + i * float(big[0]), q + j * q_big)
        for i, j in itertools.product((-1, 0, 1), repeat=2)
    ]
    found = []
    for which, value in enumerate(now):
        low, high = min(x[which] for x in corners), max(x[which] for x in corners)
        estimate = Estimate.within("length", value, max(high - value, value - low))
        found.append(estimate.between(low, high))
    return found[0], found[1]


def apart(one: Estimate, other: Estimate) -> Estimate:
    """Twice the length of the difference of two vectors of which only the swings are known."""
    least = max(0.0, one.least - other.most, other.least - one.most)
    most = one.most + other.most
    return Estimate.within("length", (least + most) / 2, (most - least) / 2).between(least, most)
