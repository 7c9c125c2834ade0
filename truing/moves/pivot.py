"""Turning a part about a pivot: where to bring the needle, and what experience adds to that.

Source of the geometry: a part that turns by a small angle about a pivot moves each point of its
swing by angle × horizontal distance from the pivot.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from pydantic import BaseModel

from truing.contract.history import History, MoveMade
from truing.measure.estimate import combined
from truing.measure.spread import t_factor

LEAST_LEVER = 0.3
"""Share of the swing below which a station is too near the pivot to show a tap."""

TAP_SCATTER = 0.35
"""A tap lands within about a third of what was meant (95 %), hands and machines together."""


def needle_change_mm(take_off_mm_per_m: float, station_mm: float, pivot_mm: float) -> float:
    """Change of the reading (plus = pushed in) at `station_mm` along the lean's axis when the part
    turns about `pivot_mm` so that its lean drops by `take_off_mm_per_m`."""
    return -take_off_mm_per_m / 1000 * (station_mm - pivot_mm)


def pivot_from_tap_mm(
    station_mm: float, needle_change: float, lean_change_mm_per_m: float
) -> float:
    """Where a part really turned, from one tap: needle change in mm at a station, and the change
    of the lean. ZeroDivisionError when the lean did not change."""
    return station_mm - needle_change / (lean_change_mm_per_m / 1000)


def usual_shift(shifts: Sequence[float]) -> float | None:
    """Mean tightening shift (mm/m) once at least three of them are significant together."""
    n = len(shifts)
    if n < 3:
        return None
    mean = float(np.mean(shifts))
    scatter = float(np.std(shifts, ddof=1)) / math.sqrt(n)
    return mean if abs(mean) > t_factor(n - 1) * scatter else None


def share_left(before: float, after: float, aimed: float) -> float | None:
    """Share of the intended change that a tap left undone: 0 on the spot, negative past it,
    1 or more when it went the wrong way. None when nothing was to be changed."""
    meant = before - aimed
    return (after - aimed) / meant if meant else None


class Aim(BaseModel):
    """Where to aim a tap, in the unit of the quantity, and why it is not simply zero."""

    aim: float
    shift: float | None = None
    share_left: float | None = None
    left: float = 0.0
    """What is expected to be left after tightening."""


def aim(quantity: str, now: float, mechanism: str, history: History) -> Aim:
    """Aim so that what remains after tightening is nil, by what this machine did before.

    The tap coach needs two earlier taps that agree in sense; one is chance.
    """
    shift = usual_shift(history.shifts(mechanism, quantity))
    wanted = -(shift or 0.0)
    shares = _shares(quantity, mechanism, history)
    share = None
    if len(shares) >= 2 and len({s > 0 for s in shares}) == 1:
        mean = float(np.mean(shares))
        scatter = float(np.std(shares, ddof=1)) / math.sqrt(len(shares))
        if 2 * scatter < abs(mean) < 0.8:
            share = mean
    aimed = wanted if share is None else now + (wanted - now) / (1 - share)
    return Aim(aim=aimed, shift=shift, share_left=share)


def _shares(quantity: str, mechanism: str, history: History) -> list[float]:
    found = []
    for before, after in zip(history.past, history.past[1:], strict=False):
        move = before.move
        if before.sitting != after.sitting:
            continue
        if not _tapped(move, mechanism, quantity) or quantity not in after.values:
            continue
        assert move is not None
        was, now = before.values.get(quantity), after.values[quantity]
        if was is None:
            continue
        aimed = move.aimed[quantity]
        # below a few U the share is noise over noise
        if abs(was.value - aimed) < 3 * combined(was.expanded, now.expanded):
            continue
        tightened = move.shift.get(quantity, 0.0)
        share = share_left(was.value, now.value - tightened, aimed)
        if share is not None:
            found.append(share)
    return found


def _tapped(move: MoveMade | None, mechanism: str, quantity: str) -> bool:
    return move is not None and move.mechanism == mechanism and quantity in move.aimed
