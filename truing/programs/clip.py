"""Which part of a motion comes near what it could meet: the rest costs nothing. Compiled.

A program in the wrong unit runs for kilometres beside the board; what a check takes must follow the
number of its lines, not their length.
"""
# mypy: disable-error-code="no-untyped-def,no-untyped-call"

from __future__ import annotations

import math

import numpy as np

from truing.programs.arcs import arc_angle, arc_at, axes, chords
from truing.programs.compiled import compiled

ANGLE, TOTAL, STEP, TURN, WINDOW, WINDOWS, DONE, END = range(3, 11)
"""Of a walk along an arc, after its first angle, angle and radii … : see `begin_arc`."""
MOST_WINDOWS = 9


@compiled
def clip(c, box, top, span):
    """Whether a chord (from 0–2, to 3–5) comes over a box (left, front, right, rear) below a
    height; from where to where on it (0 … 1) into `span`."""
    t0, t1 = 0.0, 1.0
    for axis in range(3):
        far = c[3 + axis] - c[axis]
        high = box[2 + axis] if axis < 2 else top
        low = box[axis] if axis < 2 else -np.inf
        if far == 0.0:
            if c[axis] > high or c[axis] < low:
                return False
            continue
        a, b = (low - c[axis]) / far, (high - c[axis]) / far
        t0, t1 = max(t0, min(a, b)), min(t1, max(a, b))
    span[0], span[1] = t0, t1
    return t0 <= t1


@compiled
def cut_to(c, span):
    """Shorten a chord to a part of it."""
    for axis in range(3):
        a, far = c[axis], c[3 + axis] - c[axis]
        if span[1] < 1.0:
            c[3 + axis] = a + far * span[1]
        if span[0] > 0.0:
            c[axis] = a + far * span[0]


@compiled
def _crossings(row, p, q, radius, least, most, found):
    """Angles at which a circle passes the bounds of its two axes; how many."""
    n = 0
    for axis in (p, q):
        centre = row[6] if axis == p else row[7]
        for side in range(2):
            bound = least[axis] if side == 0 else most[axis]
            share = (bound - centre) / radius
            if not abs(share) < 1.0:
                continue
            if axis == p:
                a = math.acos(share)
                found[n], found[n + 1] = a, -a
            else:
                a = math.asin(share)
                found[n], found[n + 1] = a, math.pi - a
            n += 2
    return n


@compiled
def begin_arc(row, ways, box, top, off_mm, walk, windows):
    """Begin to walk along an arc in chords that leave it by no more than `off_mm`, where it comes
    over a box below a height; `walk` (14,) and `windows` (9, 2) hold where it is."""
    a0, angle, r0, r1 = arc_angle(row, ways)
    p, q, _ = axes(ways[2])
    radius = max(r0, r1)
    total, side = abs(angle), (1.0 if angle > 0 else -1.0)
    # where its ends differ it lies a little beside the circle, and a chord beside the arc
    more = abs(r1 - r0) + 2 * off_mm
    least = np.array([box[0] - more, box[1] - more, -np.inf])
    most = np.array([box[2] + more, box[3] + more, top + more])
    found = np.empty(8)
    n = _crossings(row, p, q, radius, least, most, found) if radius > 0.0 else 0
    # from the first angle on, the way that it turns
    for k in range(n):
        found[k] = ((found[k] - a0) * side) % (2 * math.pi)
    marks = np.empty(n + 2)
    marks[0], marks[n + 1] = 0.0, 2 * math.pi
    marks[1 : n + 1] = np.sort(found[:n])
    count = 0
    for k in range(n + 1):
        if marks[k + 1] <= marks[k]:
            continue
        middle = a0 + side * (marks[k] + marks[k + 1]) / 2
        at_p, at_q = row[6] + radius * math.cos(middle), row[7] + radius * math.sin(middle)
        if least[p] <= at_p <= most[p] and least[q] <= at_q <= most[q]:
            windows[count, 0], windows[count, 1] = marks[k], marks[k + 1]
            count += 1
    walk[0], walk[1], walk[2], walk[ANGLE] = a0, angle, r0, r1
    walk[TOTAL], walk[WINDOWS] = total, count
    walk[STEP] = total / chords((a0, angle, r0, r1), off_mm)
    walk[TURN] = walk[WINDOW] = 0.0
    walk[DONE] = walk[END] = -1.0


@compiled
def next_chord(row, ways, walk, windows, c):
    """Its next chord, into `c`; False when there is none any more."""
    arc = (walk[0], walk[1], walk[2], walk[ANGLE])
    total = walk[TOTAL]
    if walk[DONE] >= walk[END]:
        # on to the next window
        while True:
            turn, window = walk[TURN], int(walk[WINDOW])
            if window >= walk[WINDOWS]:
                walk[TURN], walk[WINDOW] = turn + 1.0, 0.0
                if walk[WINDOWS] == 0 or walk[TURN] * 2 * math.pi >= total:
                    return False
                continue
            walk[WINDOW] = window + 1.0
            begin = turn * 2 * math.pi + windows[window, 0]
            if begin >= total:
                return False
            walk[DONE] = begin
            walk[END] = min(total, turn * 2 * math.pi + windows[window, 1])
            arc_at(row, ways, arc, begin / total, c[3:])
            break
    for i in range(3):
        c[i] = c[3 + i]
    walk[DONE] = min(walk[END], walk[DONE] + walk[STEP])
    arc_at(row, ways, arc, walk[DONE] / total, c[3:])
    return True


@compiled
def a_walk():
    """Room for the walk along an arc."""
    return np.empty(14), np.empty((MOST_WINDOWS, 2))
