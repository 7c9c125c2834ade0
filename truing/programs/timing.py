"""How long a program takes, from stop to stop.

Between two stops a machine speeds up, runs and slows down: ℓ/v + v/a where there is room for it
(ℓ ≥ v²/a), else 2·√(ℓ/a). It stops where it reverses or turns a corner, where a rapid ends, and
where the feed ends in a drilling stroke; not at every short piece of one smooth line.
"""
# mypy: disable-error-code="no-untyped-def,no-untyped-call"

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from truing.programs.arcs import arc_angle, axes, is_known
from truing.programs.compiled import compiled
from truing.programs.motions import Motions


@dataclass(frozen=True)
class Drives:
    """What a machine's axes can do: feeds in mm/min, acceleration in mm/s², X, Y, Z each."""

    rapid_mm_min: tuple[float, float, float] = (3000.0, 3000.0, 1500.0)
    accel_mm_s2: tuple[float, float, float] = (200.0, 200.0, 100.0)
    corner_deg: float = 20.0
    """A corner sharper than this is a stop."""


@dataclass(frozen=True)
class Times:
    """Seconds per motion (n,), 0 where it is not known; lengths along them (n,), mm."""

    seconds: NDArray[np.float64]
    length_mm: NDArray[np.float64]


def times(motions: Motions, drives: Drives) -> Times:
    """Time of every motion; a run's time is shared out over its pieces by their lengths."""
    n = len(motions.at)
    found = Times(np.zeros(n), np.zeros(n))
    _times(
        motions.at,
        motions.how,
        np.array(drives.rapid_mm_min),
        np.array(drives.accel_mm_s2),
        math.cos(math.radians(drives.corner_deg)),
        found.seconds,
        found.length_mm,
    )
    return found


@compiled
def _ends(row, ways, first, last):
    """Directions at both ends of a motion, as unit vectors; its length."""
    if ways[1] < 2:
        length = 0.0
        for i in range(3):
            first[i] = row[3 + i] - row[i]
            length += first[i] ** 2
        length = math.sqrt(length)
        for i in range(3):
            first[i] = first[i] / length if length > 0 else 0.0
            last[i] = first[i]
        return length
    p, q, o = axes(ways[2])
    a0, angle, r0, r1 = arc_angle(row, ways)
    flat = abs(angle) * (r0 + r1) / 2
    across = row[3 + o] - row[o]
    length = math.hypot(flat, across)
    side = 1.0 if angle > 0 else -1.0
    for a, to in ((a0, first), (a0 + angle, last)):
        to[p] = -side * math.sin(a) * flat / length
        to[q] = side * math.cos(a) * flat / length
        to[o] = across / length
    return length


@compiled
def _limit(way, most):
    """Most along a direction so that no axis passes its own."""
    found = np.inf
    for i in range(3):
        if abs(way[i]) > 1e-12:
            found = min(found, most[i] / abs(way[i]))
    return found


@compiled
def _times(at, how, rapid, accel, corner, seconds, lengths):
    first, last, before = np.empty(3), np.empty(3), np.zeros(3)
    start = 0
    run = 0.0
    speed = least = np.inf
    running = -1
    for n in range(len(at) + 1):
        stop = True
        length = 0.0
        v = a = np.inf
        if n < len(at):
            kind = how[n, 1]
            if kind == 4:
                seconds[n] = at[n, 8]
            if kind < 4 and is_known(at[n], 6):
                length = _ends(at[n], how[n], first, last)
                if length == 0.0:
                    continue
                lengths[n] = length
                v = _limit(first, rapid) / 60
                a = _limit(first, accel)
                if kind > 0:
                    v = min(v, at[n, 8] / 60) if at[n, 8] > 0 else v
                turn = first[0] * before[0] + first[1] * before[1] + first[2] * before[2]
                stop = kind == 0 or running == 0 or running < 0 or turn < corner
                stop = stop or abs(v - speed) > 0.3 * max(v, speed)
        if stop and run > 0.0:
            took = run / speed + speed / least
            if run < speed * speed / least:
                took = 2 * math.sqrt(run / least)
            for k in range(start, n):
                if lengths[k] > 0 and how[k, 1] < 4:
                    seconds[k] = took * lengths[k] / run
            run = 0.0
        if length > 0.0:
            if run == 0.0:
                start, speed, least = n, v, a
            run += length
            speed, least = min(speed, v), min(least, a)
            for i in range(3):
                before[i] = last[i]
            running = how[n, 1]
        else:
            running = -1
