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
def chords(arc, off_mm):
    """Into how many chords an arc is divided so that none is further off it."""
    _, angle, r0, r1 = arc
    step = 2 * math.acos(max(-1.0, 1 - min(off_mm / max(r0, r1, 1e-9), 1.0)))
    return max(1, min(100_000, math.ceil(abs(angle) / max(step, 1e-6))))


@compiled
def box_of(row, ways, box):
    """The least and the most that a motion comes to in X, Y and Z, into `box` (6,): an arc, in any
    plane, may swing out further than its ends. NaN where neither end is known."""
    for axis in range(3):
        a, b = row[axis], row[3 + axis]
        # of two the one that is known
        box[2 * axis] = b if math.isnan(a) or b < a else a
        box[2 * axis + 1] = b if math.isnan(a) or b > a else a
    if ways[1] < 2 or ways[1] > 3 or not is_known(row, 8):
        return
    p, q, _ = axes(ways[2])
    a0, angle, r0, r1 = arc_angle(row, ways)
    r = max(r0, r1)
    around = abs(angle) >= 2 * math.pi
    for quarter in range(4):
        a = quarter * math.pi / 2
        if around or ((a - a0 if angle > 0 else a0 - a) % (2 * math.pi)) <= abs(angle):
            axis = p if quarter % 2 == 0 else q
            v = (row[6] if axis == p else row[7]) + (r if quarter < 2 else -r)
            box[2 * axis] = min(box[2 * axis], v)
            box[2 * axis + 1] = max(box[2 * axis + 1], v)
