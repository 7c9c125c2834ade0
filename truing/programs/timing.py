"""How long a program takes, from stop to stop.

Along each motion a machine holds its feed and no axis passes its own rates; it speeds up and slows
down evenly, and where one motion goes on smoothly into the next it passes as fast as the slower of
the two lets it. It stops where it reverses or turns a corner, where a rapid begins or ends, at a
dwell and at a pause. That is the stated model: what a controller adds for blending is its own.
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
    """Time of every motion, by looking ahead as far as the next stop."""
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
def _limits(at, how, rapid, accel, corner, seconds, lengths, v, a, enter):
    """Length of each motion, its most speed (mm/s) and acceleration, and the speed at which it may
    begin: 0 at a stop."""
    first, last, before = np.empty(3), np.empty(3), np.zeros(3)
    running, speed = -1, 0.0
    for n in range(len(at)):
        kind = how[n, 1]
        if kind == 4:
            seconds[n] = at[n, 8]
        if kind > 3 or not is_known(at[n], 6):
            running = -1
            continue
        length = _ends(at[n], how[n], first, last)
        if length == 0.0:
            continue
        lengths[n] = length
        v[n], a[n] = _limit(first, rapid) / 60, _limit(first, accel)
        if kind > 0 and at[n, 8] > 0:
            v[n] = min(v[n], at[n, 8] / 60)
        turn = first[0] * before[0] + first[1] * before[1] + first[2] * before[2]
        stop = kind == 0 or running <= 0 or turn < corner
        enter[n] = 0.0 if stop else min(speed, v[n])
        for i in range(3):
            before[i] = last[i]
        running, speed = kind, v[n]


@compiled
def _times(at, how, rapid, accel, corner, seconds, lengths):
    size = len(at)
    v, a, enter = np.zeros(size), np.zeros(size), np.zeros(size)
    _limits(at, how, rapid, accel, corner, seconds, lengths, v, a, enter)
    # backward: no faster into a motion than it can slow down along it to what follows
    leave = 0.0
    for n in range(size - 1, -1, -1):
        if how[n, 1] > 3 or not is_known(at[n], 6):
            leave = 0.0
        if lengths[n] > 0.0:
            enter[n] = min(enter[n], math.sqrt(leave * leave + 2 * a[n] * lengths[n]))
            leave = enter[n]
    # forward: no faster out of it than it can speed up along it
    before = -1
    for n in range(size + 1):
        here = n < size and lengths[n] > 0.0
        ends = n == size or how[n, 1] > 3 or not is_known(at[n], 6)
        if not here and not ends:
            continue
        if before >= 0:
            k = before
            most = math.sqrt(enter[k] * enter[k] + 2 * a[k] * lengths[k])
            leave = min(enter[n], most) if here else 0.0
            if here:
                enter[n] = leave
            seconds[k] = _lasts(lengths[k], enter[k], leave, v[k], a[k])
        before = n if here else -1


@compiled
def _lasts(length, begin, end, most, accel):
    """Seconds for a length from one speed to another, by way of the most that there is room for."""
    peak = math.sqrt((2 * accel * length + begin * begin + end * end) / 2)
    if peak <= most:
        return max(0.0, 2 * peak - begin - end) / accel
    run = length - (2 * most * most - begin * begin - end * end) / (2 * accel)
    return (2 * most - begin - end) / accel + run / most
