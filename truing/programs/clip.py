"""Which part of a motion comes near what it could meet: the rest costs nothing. Compiled.

A program in the wrong unit runs for kilometres beside the board; what a check takes must follow the
number of its lines, not their length.
"""
# mypy: disable-error-code="no-untyped-def,no-untyped-call"

from __future__ import annotations

import math

import numpy as np

from truing.programs.arcs import arc_angle, axes, chords
from truing.programs.compiled import compiled

CHORD = 0
"""Of a walk along an arc: the chord that it is at, six values."""
FIRST, ANGLE, FROM_R, BY_R, TOTAL, STEP, TURN, WINDOW, WINDOWS, DONE, END = range(6, 17)
"""Its first angle, the angle it passes through, its first radius and by how much that grows; how
far it goes and in what steps (rad); where it is."""
COS, SIN, STEP_COS, STEP_SIN = range(17, 21)
"""Which way it lies from the arc's centre, and what a step turns that by."""
P, Q, ACROSS, AT_P, AT_Q, FROM_O, BY_O = range(21, 28)
"""Its three axes, its centre, and what it does along the third."""
MARKS = 28
"""Where the crossings of a box begin in it, nine of them and room for one more."""
MOST_WINDOWS = 9
SPANS = MARKS + MOST_WINDOWS + 1
"""Where its windows begin: from and to, of each."""


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
def _cross(walk, n, share, upright, a0, side):
    """Note the two angles at which a circle passes a bound, in the order of the walk; how many
    there are then."""
    if not abs(share) < 1.0:
        return n
    first = math.asin(share) if upright else math.acos(share)
    for k in range(2):
        angle = first
        if k == 1:
            angle = math.pi - first if upright else -first
        found = ((angle - a0) * side) % (2 * math.pi)
        i = MARKS + n
        while i > MARKS and walk[i - 1] > found:
            walk[i] = walk[i - 1]
            i -= 1
        walk[i] = found
        n += 1
    return n


@compiled
def _bounds(row, axis, box, low, top, more):
    """From where to where along an axis, seen from the arc's centre, it is of interest."""
    if axis == 2:
        return low - more, top + more
    return box[axis] - more, box[2 + axis] + more


@compiled
def begin_arc(row, ways, box, low, top, off_mm, step_mm, walk):
    """Begin to walk along an arc in chords that leave it by no more than `off_mm`, and are no
    longer than `step_mm`, where it comes over a box between two heights; `walk`, of `a_walk`, holds
    where it is. What is lower is left out only where its plane stands upright."""
    a0, angle, r0, r1 = arc_angle(row, ways)
    p, q, o = axes(ways[2])
    radius = max(r0, r1)
    total, side = abs(angle), (1.0 if angle > 0 else -1.0)
    # where its ends differ it lies a little beside the circle, and a chord beside the arc
    more = abs(r1 - r0) + 2 * off_mm
    p0, p1 = _bounds(row, p, box, low, top, more)
    q0, q1 = _bounds(row, q, box, low, top, more)
    p0, p1, q0, q1 = p0 - row[6], p1 - row[6], q0 - row[7], q1 - row[7]
    count, n = 0, 0
    if p0 <= -radius and p1 >= radius and q0 <= -radius and q1 >= radius:
        walk[SPANS], walk[SPANS + 1] = 0.0, 2 * math.pi
        count = 1
    elif radius > 0.0 and not (p0 > radius or p1 < -radius or q0 > radius or q1 < -radius):
        n = _cross(walk, n, p0 / radius, False, a0, side)
        n = _cross(walk, n, p1 / radius, False, a0, side)
        n = _cross(walk, n, q0 / radius, True, a0, side)
        n = _cross(walk, n, q1 / radius, True, a0, side)
        before = 0.0
        for k in range(n + 1):
            mark = walk[MARKS + k] if k < n else 2 * math.pi
            if mark <= before:
                continue
            middle = a0 + side * (before + mark) / 2
            at_p, at_q = radius * math.cos(middle), radius * math.sin(middle)
            if p0 <= at_p <= p1 and q0 <= at_q <= q1:
                walk[SPANS + 2 * count], walk[SPANS + 2 * count + 1] = before, mark
                count += 1
            before = mark
    walk[FIRST], walk[ANGLE], walk[FROM_R], walk[BY_R] = a0, angle, r0, r1 - r0
    walk[P], walk[Q], walk[ACROSS] = p, q, o
    walk[AT_P], walk[AT_Q], walk[FROM_O], walk[BY_O] = row[6], row[7], row[o], row[3 + o] - row[o]
    walk[TOTAL], walk[WINDOWS] = total, count
    if count:
        step = total / chords((a0, angle, r0, r1), off_mm)
        if radius > 0.0 and step * radius > step_mm:
            step = total / math.ceil(total * radius / step_mm)
        walk[STEP] = step
        walk[STEP_COS], walk[STEP_SIN] = math.cos(step), side * math.sin(step)
    walk[TURN] = walk[WINDOW] = 0.0
    walk[DONE] = walk[END] = -1.0


@compiled
def _place(walk):
    """Where the walk is, into the end of its chord."""
    t = walk[DONE] / walk[TOTAL]
    r = walk[FROM_R] + walk[BY_R] * t
    walk[3 + int(walk[P])] = walk[AT_P] + r * walk[COS]
    walk[3 + int(walk[Q])] = walk[AT_Q] + r * walk[SIN]
    walk[3 + int(walk[ACROSS])] = walk[FROM_O] + walk[BY_O] * t


@compiled
def _look(walk, angle):
    """Turn to an angle along the arc."""
    a = walk[FIRST] + (angle if walk[ANGLE] > 0 else -angle)
    walk[DONE] = angle
    walk[COS], walk[SIN] = math.cos(a), math.sin(a)


@compiled
def next_chord(walk):
    """Go on to its next chord; False when there is none any more."""
    if walk[DONE] >= walk[END]:
        # on to the next window
        while True:
            turn, window = walk[TURN], int(walk[WINDOW])
            if window >= walk[WINDOWS]:
                walk[TURN], walk[WINDOW] = turn + 1.0, 0.0
                if walk[WINDOWS] == 0 or walk[TURN] * 2 * math.pi >= walk[TOTAL]:
                    return False
                continue
            walk[WINDOW] = window + 1.0
            begin = turn * 2 * math.pi + walk[SPANS + 2 * window]
            if begin >= walk[TOTAL]:
                return False
            walk[END] = min(walk[TOTAL], turn * 2 * math.pi + walk[SPANS + 2 * window + 1])
            _look(walk, begin)
            _place(walk)
            break
    for i in range(3):
        walk[i] = walk[3 + i]
    if walk[DONE] + walk[STEP] < walk[END]:
        # turned on from where it was: what that is off after a hundred thousand steps is nothing
        cos, sin = walk[COS], walk[SIN]
        walk[COS] = cos * walk[STEP_COS] - sin * walk[STEP_SIN]
        walk[SIN] = sin * walk[STEP_COS] + cos * walk[STEP_SIN]
        walk[DONE] += walk[STEP]
    else:
        _look(walk, walk[END])
    _place(walk)
    return True


@compiled
def pass_by(walk, far_mm):
    """Go on by whole chords, without any of them, for up to so far within the window: its chord
    ends there; False where it stays where it is."""
    radius = walk[FROM_R] + max(walk[BY_R], 0.0)
    steps = math.floor(min(far_mm / (walk[STEP] * radius), (walk[END] - walk[DONE]) / walk[STEP]))
    if steps <= 1:
        return False
    _look(walk, walk[DONE] + steps * walk[STEP])
    _place(walk)
    return True


@compiled
def a_walk():
    """Room for the walk along an arc, and the chord of it (from 0–2, to 3–5)."""
    walk = np.empty(SPANS + 2 * MOST_WINDOWS)
    return walk, walk[CHORD : CHORD + 6]
