"""From where to where motions go along each axis. Compiled."""
# mypy: disable-error-code="no-untyped-def,no-untyped-call"

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from truing.programs.arcs import axes, box_of
from truing.programs.compiled import compiled
from truing.programs.motions import Motions


def spans(motions: Motions) -> NDArray[np.float64]:
    """(n, 6): the least and the most of X, Y and Z that each motion comes to (mm): an arc may swing
    out further than its ends. NaN where neither end is known."""
    found = np.empty((len(motions.at), 6))
    _spans(motions.at, motions.how, found)
    return found


def whole_span(
    spans: NDArray[np.float64], of: NDArray[np.bool_], below_mm: float = math.inf
) -> NDArray[np.float64] | None:
    """(6,): the same of some of them together, those that come below a height; None where an axis
    of them is nowhere known."""
    found = np.array([np.inf, -np.inf] * 3)
    _whole(spans, of, below_mm, found)
    return found if np.isfinite(found).all() else None


def lowest(motions: Motions) -> float:
    """The lowest that any of them comes to (mm); infinite where no height is known."""
    return float(_lowest(motions.at, motions.how))


@compiled
def _spans(at, how, found):
    for n in range(len(at)):
        box_of(at[n], how[n], found[n])


@compiled
def _whole(spans, of, below, found):
    for n in range(len(spans)):
        if not of[n] or spans[n, 4] >= below:
            continue
        for axis in range(3):
            low, high = spans[n, 2 * axis], spans[n, 2 * axis + 1]
            # one that is known has both
            if not math.isnan(low):
                found[2 * axis] = min(found[2 * axis], low)
                found[2 * axis + 1] = max(found[2 * axis + 1], high)


@compiled
def _lowest(at, how):
    box = np.empty(6)
    least = np.inf
    for n in range(len(at)):
        if how[n, 1] >= 2 and axes(how[n, 2])[2] != 2:
            box_of(at[n], how[n], box)
            low = box[4]
        else:
            a, b = at[n, 2], at[n, 5]
            low = b if math.isnan(a) or b < a else a
        if not math.isnan(low):
            least = min(least, low)
    return least
