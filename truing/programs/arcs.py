"""Where an arc goes, in any of the three planes. Compiled."""
# mypy: disable-error-code="no-untyped-def,no-untyped-call"

from __future__ import annotations

import math

from truing.programs.compiled import compiled


@compiled
def is_known(row, most):
    """Whether the first `most` values of a motion are there."""
    return math.isfinite(row[:most].sum())


@compiled
def axes(flags):
    """The two axes of an arc's plane, in the order in which it turns, and the one across."""
    plane = flags & 3
    return (0, 1, 2) if plane == 0 else ((2, 0, 1) if plane == 1 else (1, 2, 0))


@compiled
def arc_angle(row, ways):
    """(first angle, angle passed through, plus counter-clockwise, from and to radius) of an arc."""
    p, q, _ = axes(ways[2])
    a0 = math.atan2(row[q] - row[7], row[p] - row[6])
    a1 = math.atan2(row[3 + q] - row[7], row[3 + p] - row[6])
    full = 2 * math.pi
    angle = (a1 - a0) % full if ways[1] == 3 else (a0 - a1) % full
    if angle < 1e-9:
        angle = full
    angle += full * (ways[3] - 1)
    r0 = math.hypot(row[p] - row[6], row[q] - row[7])
    r1 = math.hypot(row[3 + p] - row[6], row[3 + q] - row[7])
    return a0, (angle if ways[1] == 3 else -angle), r0, r1


@compiled
def arc_at(row, ways, arc, t, to):
    """The place `t` (0 … 1) along an arc, its radius growing evenly where its ends'
    differ; into `to`. `arc` is what `arc_angle` tells of it."""
    p, q, o = axes(ways[2])
    a0, angle, r0, r1 = arc
    a = a0 + angle * t
    r = r0 + (r1 - r0) * t
    to[p] = row[6] + r * math.cos(a)
    to[q] = row[7] + r * math.sin(a)
    to[o] = row[o] + (row[3 + o] - row[o]) * t


@compiled
def chords(arc, off_mm):
    """Into how many chords an arc is divided so that none is further off it."""
    _, angle, r0, r1 = arc
    step = 2 * math.acos(max(-1.0, 1 - min(off_mm / max(r0, r1, 1e-9), 1.0)))
    return max(1, min(100_000, math.ceil(abs(angle) / max(step, 1e-6))))


@compiled
def arc_extent(row, ways, axis):
    """The least and the most of X, Y or Z (0, 1, 2) along an arc in any plane."""
    p, q, _ = axes(ways[2])
    a0, angle, r0, r1 = arc_angle(row, ways)
    r = max(r0, r1)
    low, high = min(row[axis], row[3 + axis]), max(row[axis], row[3 + axis])
    for quarter in range(4):
        a = quarter * math.pi / 2
        along = (a - a0) % (2 * math.pi) if angle > 0 else (a0 - a) % (2 * math.pi)
        if along <= abs(angle):
            if axis == p:
                v = row[6] + r * math.cos(a)
            elif axis == q:
                v = row[7] + r * math.sin(a)
            else:
                continue
            low, high = min(low, v), max(high, v)
    return low, high
