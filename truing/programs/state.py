"""What a program has stated so far, and how a motion comes of it. Compiled: the state is an array
of numbers.
"""
# mypy: disable-error-code="no-untyped-def,no-untyped-call"

from __future__ import annotations

import numpy as np

from truing.programs.compiled import compiled

MOST_ODD = 2000
MOST_MM = 1e6
"""From zero: further off nothing is believed."""

# the state, by its places in one array
X, Y, Z = 0, 1, 2
SCALE, RELATIVE, ARC_ABSOLUTE, PLANE, MODE, FEED_MODE, FEED, SPEED, TURNS, TOOL = range(3, 13)
COMPENSATED, OFFSET, TO_R, CYCLE_Z, CYCLE_R, CYCLE_Q, CYCLE_P = range(13, 20)
SAID_UNITS, SAID_DISTANCE, SAID_FEED_MODE, SAID_OFFSET, MOVED, CUT, CHANGED, ENDED = range(20, 28)
# where its zero lies: of the offset that holds, of G92, of what G92.2 put aside
SHIFT, MORE, ASIDE = 28, 31, 34
NEXT, BY_CODE, LENGTH, HIGH, UNTIL, FROM, OWN_ZERO = range(37, 44)
"""The tool that T asked for, whether M6 changes it, the length that G43 takes off, whether Z is not
known but up, the code not followed that still holds, the line of the last G90 or G91, whether the
machine's own zero was asked about."""
# what one block says, likewise
ONCE, MOTION, MACHINE, DWELL, STOP, BLEND, CHANGE, STIRS, CLAIMED = range(44, 53)
N_STATE = 53
# letters by their places after A
F, H, I, J, K, L, P, Q, R, S, T = 5, 7, 8, 9, 10, 11, 15, 16, 17, 18, 19
AXES = 23
OWN = 0
"""Row of the machine's own zero among the frames; those of G54 to G59.3 are 1 to 9."""


@compiled
def frame_of(offset):
    """Row of an offset (times ten) among the frames."""
    return 1 + (offset - 540) // 10 if offset <= 590 else offset - 590 + 6


@compiled
def room(at, how, n):
    size = 2 * n + 64
    more, ways = np.empty((size, 10)), np.empty((size, 5), np.int32)
    # element by element: a slice would compile text for errors that cannot occur
    for k in range(len(at)):
        for i in range(10):
            more[k, i] = at[k, i]
        for i in range(5):
            ways[k, i] = how[k, i]
    return more, ways


@compiled
def put(at, how, n, s, goal, c1, c2, feed, line, kind, cycle):
    """One motion from where it stands to its goal; it stands there afterwards."""
    side = kind in (2, 3)
    for i in range(2):
        if goal[i] != goal[i] and s[i] != s[i]:
            # from a place that is not known to another one: only if it was told to go
            side = side or s[STIRS] > 0
        else:
            side = side or not abs(goal[i] - s[i]) < 1e-6
    high = s[HIGH]
    if goal[Z] == goal[Z]:
        s[HIGH] = 0
    for i in range(3):
        at[n, i], at[n, 3 + i] = s[i], goal[i]
        s[i] = goal[i]
    at[n, 6], at[n, 7], at[n, 8], at[n, 9] = c1, c2, feed, s[SPEED] * s[TURNS]
    flags = int(s[PLANE]) + 4 * cycle + (8 if side else 0) + (16 if s[RELATIVE] else 0)
    flags += 32 if high else 0
    how[n, 0], how[n, 1], how[n, 2] = line, kind, flags
    how[n, 3], how[n, 4] = 1, int(s[TOOL])
    return n + 1


@compiled
def tell(odd, line, what, value):
    """`odd[-1, 0]` counts them."""
    k = int(odd[-1, 0])
    if k < len(odd) - 1:
        odd[k, 0], odd[k, 1], odd[k, 2] = line, what, value
        odd[-1, 0] = k + 1


@compiled
def forget(s):
    s[X] = s[Y] = s[Z] = np.nan
    s[HIGH] = 0
