"""How far pads stand off the one plane that they are nearest to."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations
from math import comb

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linprog

from truing.machine import Pad
from truing.moves.pads import SAME_MM

MOST_SUBSETS = 12_000
"""Of places that are looked at one after the other: of two dozen pads, all."""


class Flatness:
    """How far pads at these places stand off the plane that keeps the largest distance smallest.

    Of the heights of one place more than a plane can be laid through, some weighted sum is nil
    where they lie on one; their least largest distance from a plane is that sum over the sum of its
    weights' sizes, and that of all places is the largest of any so few (Helly's theorem: distances
    within a bound are slabs of planes, and slabs that meet so many at a time meet in one). Where
    places are many there are too many such sums, and it is a linear programme.
    """

    def __init__(self, pads: Sequence[Pad]) -> None:
        self.pads = pads
        at = places(pads)
        _, sizes, axes = np.linalg.svd(at, full_matrices=False)
        # places on one line are met by planes that differ in less than three numbers
        rank = int((sizes > 1e-6 * sizes[0]).sum())
        at = at @ axes[:rank].T
        self._many = comb(len(pads), rank + 1) > MOST_SUBSETS
        if self._many:
            return
        few = np.array(list(combinations(range(len(pads)), rank + 1)), dtype=np.intp)
        few = few.reshape(-1, rank + 1)
        weights = np.stack(
            [(-1) ** i * np.linalg.det(np.delete(at[few], i, axis=1)) for i in range(rank + 1)],
            axis=1,
        )
        whole = np.abs(weights).sum(axis=1)
        told = whole > 1e-9
        self._few, self._weights = few[told], weights[told] / whole[told, None]

    def off(self, heights_mm: NDArray[np.float64]) -> float:
        if self._many:
            return off_plane(self.pads, heights_mm)[1]
        sums = (heights_mm[self._few] * self._weights).sum(axis=1)
        return float(np.abs(sums).max(initial=0.0))


def off_plane(
    pads: Sequence[Pad], heights_mm: Sequence[float] | NDArray[np.float64]
) -> tuple[list[float], float]:
    """Distances from the plane that keeps the largest of them smallest (minimum zone), and that
    largest one: a linear programme."""
    n = len(pads)
    cost = np.array([0.0, 0.0, 0.0, 1.0])
    rows, limits = [], []
    for pad, h in zip(pads, heights_mm, strict=True):
        at = [pad.x_mm / 1000, pad.y_mm / 1000, 1.0]
        rows += [[*(-v for v in at), -1.0], [*at, -1.0]]
        limits += [-h, h]
    found = linprog(cost, A_ub=rows, b_ub=limits, bounds=[(None, None)] * 3 + [(0, None)])
    if found.x is None or n < 3:
        return [0.0] * n, 0.0
    a, b, c = (float(v) for v in found.x[:3])
    left = [
        float(h) - (a * p.x_mm / 1000 + b * p.y_mm / 1000 + c)
        for p, h in zip(pads, heights_mm, strict=True)
    ]
    return left, max(abs(v) for v in left)


def places(pads: Sequence[Pad]) -> NDArray[np.float64]:
    """Places of pads from their middle, up to 1 each way, and a 1 for the height: pads × 3."""
    xy = np.array([[p.x_mm, p.y_mm] for p in pads])
    xy = xy - xy.mean(axis=0)
    return np.column_stack([xy / np.maximum(np.abs(xy).max(axis=0), SAME_MM), np.ones(len(pads))])
