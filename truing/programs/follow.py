"""From words to motions: what each block does to the state that the blocks before it have left.

After the order of RS-274: feed mode, feed, speed, tool, spindle, dwell, plane, units, offsets,
distance mode, retract mode, then the motion. What is not followed is reported by line, and what
depends on it is not known (not a number) until the program states it anew.

Compiled. The state is an array of numbers and each step a small function of its own: one large one
takes a minute to compile.
"""
# mypy: disable-error-code="no-untyped-def,no-untyped-call"

from __future__ import annotations

import math

import numpy as np

from truing.measure.problem import Problem
from truing.programs.arcs import arc_angle, axes
from truing.programs.codes import read_words, set_state, stray
from truing.programs.compiled import compiled
from truing.programs.frames import Frames
from truing.programs.motions import Motions
from truing.programs.state import (
    ARC_ABSOLUTE,
    ASIDE,
    AXES,
    BY_CODE,
    CLAIMED,
    COMPENSATED,
    CUT,
    CYCLE_P,
    CYCLE_Q,
    CYCLE_R,
    CYCLE_Z,
    DWELL,
    ENDED,
    FEED,
    FEED_MODE,
    FROM,
    HIGH,
    LENGTH,
    MACHINE,
    MODE,
    MORE,
    MOST_MM,
    MOST_ODD,
    MOTION,
    MOVED,
    N_STATE,
    OFFSET,
    ONCE,
    OWN,
    OWN_ZERO,
    PLANE,
    RELATIVE,
    SAID_DISTANCE,
    SAID_FEED_MODE,
    SAID_OFFSET,
    SAID_UNITS,
    SCALE,
    SHIFT,
    SPEED,
    STIRS,
    STOP,
    TO_R,
    TURNS,
    UNTIL,
    F,
    I,
    J,
    K,
    L,
    P,
    Q,
    R,
    X,
    Y,
    Z,
    forget,
    frame_of,
    put,
    room,
    tell,
)
from truing.programs.tokens import DELETED, MALFORMED, NOT_FOLLOWED, Words

MOST_PECKS = 1000
MOST_REPEATS = 1000
MOST_ROUNDS = 1000
"""Of one arc."""
ARC_TOLERANCE_MM = 0.01
"""By which the two radii of an arc may differ: a last digit, rounded in either place."""
BACK_MM = 0.25
"""How far a peck draws back, or stops short of where the last one ended."""
MOST_MOTIONS = 1_100_000
"""A million lines, and what stands about them."""
MOST_TURNS = 2_000_000
"""That all arcs together make: one in each of a million lines, and some helices."""


def follow(words: Words, deleted: bool, frames: Frames | None = None) -> Motions:
    """Motions of a program; `deleted` leaves out what stands behind a slash. `frames` says where
    other zeros lie and how long tools are, as far as somebody stated it. Problem where there are
    too many motions."""
    stated = frames or Frames()
    at, how, odd, line = _follow(
        words.letter,
        words.value,
        words.start,
        words.line,
        words.mark,
        deleted,
        words.lines,
        stated.places(),
        stated.table(),
        stated.lengths_set,
    )
    if line:
        raise Problem(
            f"In line {line} it has made more motions than are read at once.",
            expected="Up to 1,000,000, and as many turns of arcs: split it where it changes its "
            "tool.",
            field="file",
        )
    return Motions(at, how, odd)


# --- motions --------------------------------------------------------------------------------------


@compiled
def zero_of(s, i):
    """Where an axis counts from."""
    return s[SHIFT + i] + s[MORE + i] + (s[LENGTH] if i == Z else 0.0)


@compiled
def _goal(s, have, val, goal, line, odd):
    for i in range(3):
        goal[i] = s[i]
        if have[23 + i]:
            goal[i] = val[23 + i] * s[SCALE] + (s[i] if s[RELATIVE] else zero_of(s, i))
        if abs(goal[i]) > MOST_MM:
            tell(odd, line, 23, 0.0)
            goal[i] = np.nan


@compiled
def _first_of(s, have, line, odd):
    """What a program should have stated before it moves for the first time."""
    if not s[SAID_UNITS]:
        tell(odd, line, 1, 0.0)
    if not s[SAID_DISTANCE]:
        tell(odd, line, 2, 0.0)
    if not s[SAID_OFFSET]:
        tell(odd, line, 5, 0.0)
    if not s[SAID_FEED_MODE]:
        tell(odd, line, 4, 0.0)
    up_alone = s[MODE] in (0, 10) and have[25] and not have[23] and not have[24]
    if not up_alone:
        tell(odd, line, 6, 0.0)
    s[MOVED] = 1


@compiled
def _home(s, have, val, goal, at, how, n, line, odd, frames):
    """G28 and G30: to the stated point first, then home: the machine's own zero, of G28."""
    axes = have[AXES] or have[AXES + 1] or have[AXES + 2]
    if axes:
        _goal(s, have, val, goal, line, odd)
        n = put(at, how, n, s, goal, np.nan, np.nan, np.nan, line, 0, 0)
    s[STIRS] = s[STIRS] or not axes
    up = have[AXES + 2] or not axes
    for i in range(3):
        goal[i] = s[i]
        if have[AXES + i] or not axes:
            goal[i] = frames[OWN, i] if s[ONCE] == 280 else np.nan
    n = put(at, how, n, s, goal, np.nan, np.nan, np.nan, line, 0, 0)
    if up and not np.isfinite(s[Z]):
        # home is up: how far nobody said
        s[HIGH] = 1
    s[MOVED] = 1
    return n


@compiled
def _new_zero(s, have, val, line, odd, frames):
    """G92 and G10: another zero from here on, as far as where it lies can be told."""
    what = s[ONCE]
    lost = False
    for i in range(3):
        v = val[AXES + i] * s[SCALE]
        if what == 920 and have[AXES + i]:
            s[MORE + i] = s[i] - v - s[SHIFT + i] - (s[LENGTH] if i == Z else 0.0)
            lost = lost or not np.isfinite(s[MORE + i])
        elif what in (921, 922):
            s[ASIDE + i] = s[MORE + i] if what == 922 else 0.0
            s[MORE + i] = 0.0
        elif what == 923:
            s[MORE + i] = s[ASIDE + i]
        elif what == 100 and have[AXES + i]:
            row = int(val[P]) if have[P] and val[P] >= 1 else frame_of(max(int(s[OFFSET]), 540))
            if row > 9:
                continue
            if have[L] and val[L] == 20:
                frames[row, i] = s[i] - v - s[MORE + i] - (s[LENGTH] if i == Z else 0.0)
            else:
                frames[row, i] = frames[OWN, i] + v
            if row == frame_of(max(int(s[OFFSET]), 540)):
                s[SHIFT + i] = frames[row, i]
                lost = lost or not np.isfinite(frames[row, i])
    known = what in (920, 921, 922, 923)
    if what == 100:
        known = have[L] and val[L] in (2, 20) and not have[R]
    if lost or not known:
        tell(odd, line, 14, what / 10.0)
        forget(s)


@compiled
def _own_zero(s, have, val, goal, line, odd, frames):
    """G53: to a place of the machine's own, whatever offset holds."""
    lost = False
    for i in range(3):
        if not have[AXES + i]:
            continue
        goal[i] = frames[OWN, i] + val[AXES + i] * s[SCALE]
        lost = lost or (i < Z and not np.isfinite(goal[i]))
    if lost:
        tell(odd, line, 15, 0.0)
    if have[AXES + 2] and not np.isfinite(goal[Z]):
        if val[AXES + 2] == 0.0:
            # the machine's own zero is its top, on most
            if not s[OWN_ZERO]:
                tell(odd, line, 3, 0.0)
            s[OWN_ZERO] = 1
            return True
        if not lost:
            tell(odd, line, 15, 0.0)
    return False


@compiled
def _feed_of(s, have, length, line, odd):
    """Feed of a motion (mm/min), whichever way it is stated."""
    if s[FEED_MODE] == 93:
        if not have[F]:
            tell(odd, line, 39, 0.0)
            return 0.0
        return length * s[FEED]
    return s[FEED] * s[SPEED] if s[FEED_MODE] == 95 else s[FEED]


@compiled
def _line(s, have, goal, at, how, n, line, odd):
    mode = s[MODE]
    feed = np.nan
    if mode != 0:
        length = math.sqrt((goal[0] - s[X]) ** 2 + (goal[1] - s[Y]) ** 2 + (goal[2] - s[Z]) ** 2)
        feed = _feed_of(s, have, length, line, odd)
    if mode > 300:
        tell(odd, line, 18, 0.0)
        for i in range(3):
            if have[23 + i]:
                goal[i] = np.nan
    return put(at, how, n, s, goal, np.nan, np.nan, feed, line, 0 if mode == 0 else 1, 0)


@compiled
def _by_radius(s, goal, p, q, radius, ccw, centre):
    """Centre of an arc from its radius; what is wrong with it, and by how much."""
    dx, dy = goal[p] - s[p], goal[q] - s[q]
    chord = math.hypot(dx, dy)
    if chord == 0.0:
        return 31, 0.0
    h2 = radius * radius - chord * chord / 4
    short = h2 < -2 * ARC_TOLERANCE_MM * abs(radius)
    h = math.sqrt(max(0.0, h2)) / chord
    # the short arc keeps its centre to the left when it runs counter-clockwise
    side = 1.0 if ccw == (radius > 0) else -1.0
    centre[0] = (s[p] + goal[p]) / 2 - side * h * dy
    centre[1] = (s[q] + goal[q]) / 2 + side * h * dx
    return (32, chord / 2 - abs(radius)) if short else (0, 0.0)


@compiled
def _by_centre(s, goal, have, val, p, q, centre):
    """Centre of an arc as it is stated; what is wrong with it, and by how much."""
    # the letters I, J, K go with X, Y, Z
    wp, wq = I + p, I + q
    if not (have[wp] or have[wq]):
        return 31, 0.0
    if s[ARC_ABSOLUTE]:
        if not (have[wp] and have[wq]):
            return 31, 0.0
        centre[0] = val[wp] * s[SCALE] + zero_of(s, p)
        centre[1] = val[wq] * s[SCALE] + zero_of(s, q)
    else:
        centre[0] = s[p] + (val[wp] * s[SCALE] if have[wp] else 0.0)
        centre[1] = s[q] + (val[wq] * s[SCALE] if have[wq] else 0.0)
    from_radius = math.hypot(s[p] - centre[0], s[q] - centre[1])
    to_radius = math.hypot(goal[p] - centre[0], goal[q] - centre[1])
    if from_radius == 0.0:
        return 31, 0.0
    apart = abs(from_radius - to_radius)
    allowed = max(ARC_TOLERANCE_MM * s[SCALE] ** 0.5, 1e-4 * from_radius)
    return (30, apart) if apart > allowed else (0, 0.0)


@compiled
def _arc(s, have, val, goal, at, how, n, line, odd):
    p, q, o = axes(int(s[PLANE]))
    ccw = s[MODE] == 30
    centre = np.array([np.nan, np.nan])
    if have[R]:
        wrong, by = _by_radius(s, goal, p, q, val[R] * s[SCALE], ccw, centre)
    else:
        wrong, by = _by_centre(s, goal, have, val, p, q, centre)
    if have[P] and val[P] > MOST_ROUNDS:
        wrong, by = 40, 0.0
    if wrong:
        tell(odd, line, wrong, by)
    if wrong in (31, 32, 40):
        # how it went nobody knows; where it ends does stand there
        for i in range(3):
            s[i] = goal[i]
        s[o] = np.nan
        return n
    turns = int(max(1.0, val[P])) if have[P] else 1
    across = goal[o] - s[o]
    n = put(at, how, n, s, goal, centre[0], centre[1], s[FEED], line, 3 if ccw else 2, 0)
    how[n - 1, 3] = turns
    if s[FEED_MODE] != 94:
        _, angle, radius, _ = arc_angle(at[n - 1], how[n - 1])
        at[n - 1, 8] = _feed_of(s, have, math.hypot(angle * radius, across), line, odd)
    return n


@compiled
def _cycle_state(s, have, val, line, odd):
    """Take over what a drilling cycle states; False when it cannot be followed."""
    if have[R]:
        s[CYCLE_R] = val[R] * s[SCALE] + (s[Z] if s[RELATIVE] else zero_of(s, Z))
    if have[25]:
        s[CYCLE_Z] = val[25] * s[SCALE] + (s[CYCLE_R] if s[RELATIVE] else zero_of(s, Z))
    if have[Q]:
        s[CYCLE_Q] = val[Q] * s[SCALE]
    if have[P]:
        s[CYCLE_P] = val[P]
    wrong = -1
    if not s[CYCLE_R] >= s[CYCLE_Z]:
        wrong = 0
    elif s[MODE] in (730, 830):
        if not s[CYCLE_Q] > 0:
            wrong = 1
        elif (s[CYCLE_R] - s[CYCLE_Z]) / s[CYCLE_Q] > MOST_PECKS:
            wrong = 2
    elif s[PLANE] != 0:
        wrong = 3
    if wrong >= 0:
        tell(odd, line, 37, float(wrong))
        s[Z] = np.nan
    return wrong < 0


@compiled
def _hole(s, goal, x, y, at, how, n, line, feed):
    """[up to R][to X Y][down to R][in, in pecks][dwell][out]: room for it was made before."""
    nan = np.nan
    high, low, mode = s[CYCLE_R], s[CYCLE_Z], s[MODE]
    clear = max(s[Z], high) if s[Z] == s[Z] else nan
    goal[0], goal[1], goal[2] = s[X], s[Y], high
    if s[Z] < high:
        n = put(at, how, n, s, goal, nan, nan, nan, line, 0, 0)
    goal[0], goal[1], goal[2] = x, y, s[Z]
    n = put(at, how, n, s, goal, nan, nan, nan, line, 0, 0)
    goal[2] = high
    n = put(at, how, n, s, goal, nan, nan, nan, line, 0, 0)
    steps = 1
    if mode in (730, 830):
        steps = max(1, math.ceil((high - low) / s[CYCLE_Q] - 1e-9))
    for k in range(steps):
        done = s[Z]
        if k > 0:
            goal[2] = high if mode == 830 else done + BACK_MM
            n = put(at, how, n, s, goal, nan, nan, nan, line, 0, 1)
            goal[2] = done + BACK_MM
            n = put(at, how, n, s, goal, nan, nan, nan, line, 0, 1)
        goal[2] = low if k == steps - 1 else high - (k + 1) * s[CYCLE_Q]
        n = put(at, how, n, s, goal, nan, nan, feed, line, 1, 1)
    if mode in (820, 890) and s[CYCLE_P] > 0:
        n = put(at, how, n, s, goal, nan, nan, s[CYCLE_P], line, 4, 1)
    if mode in (850, 890):
        goal[2] = high
        n = put(at, how, n, s, goal, nan, nan, feed, line, 1, 1)
    goal[2] = high if s[TO_R] else clear
    return put(at, how, n, s, goal, nan, nan, nan, line, 0, 1)


# --- block by block -------------------------------------------------------------------------------


@compiled
def _mode(s, have, val, line, odd):
    """Which motion a block asks for: its own, or the one that goes on; False for none."""
    axes = (have[23] or have[24] or have[25]) and not s[ONCE]
    if s[MOTION] >= 0:
        s[MODE] = s[MOTION]
        if s[MODE] < 400:
            s[CYCLE_Z] = s[CYCLE_R] = s[CYCLE_Q] = np.nan
    if s[MODE] == 800:
        s[MODE] = -1
    if axes and s[MODE] < 0:
        tell(odd, line, 33, 0.0)
        forget(s)
        return False
    turns = s[MOTION] in (20, 30) and (have[I] or have[J] or have[K])
    if axes or turns:
        stray(s, have, odd, line, s[MODE], int(s[PLANE]))
    elif have[I] or have[J] or have[K]:
        stray(s, have, odd, line, 0.0, 0)
    return axes or turns


@compiled
def _changes_tools(letters, values):
    found = 0
    for k in range(len(letters)):
        found += letters[k] == 77 and values[k] == 6.0
    return found > 0


@compiled
def _blind(s, have, line, odd):
    """By a distance from a place that is not known: told once."""
    if s[RELATIVE] and not s[MACHINE] and not s[UNTIL]:
        for i in range(3):
            if have[AXES + i] and s[i] != s[i] and s[FROM] > 0:
                tell(odd, line, 24, s[FROM])
                s[FROM] = 0
                return


@compiled
def _follow(
    letters, values, starts, lines, marks, deleted, last_line, places, lengths, lengths_set
):
    blocks = len(lines)
    at, how = np.empty((blocks + 64, 10)), np.empty((blocks + 64, 5), np.int32)
    odd = np.zeros((MOST_ODD + 1, 3))
    s = np.zeros(N_STATE)
    forget(s)
    s[SCALE], s[MODE], s[FEED_MODE] = 1.0, -1, 94
    s[CYCLE_Z] = s[CYCLE_R] = s[CYCLE_Q] = np.nan
    s[BY_CODE] = _changes_tools(letters, values)
    frames = places.copy()
    goal, have, val = np.empty(3), np.zeros(26, np.bool_), np.zeros(26)
    n, turns = 0, 0.0
    for b in range(blocks):
        line, mark = int(lines[b]), int(marks[b])
        if n > MOST_MOTIONS or turns > MOST_TURNS:
            return at[:0], how[:0], odd[:0], line
        if mark & DELETED and deleted:
            continue
        if s[ENDED]:
            tell(odd, line, 8, 0.0)
            break
        if mark & (NOT_FOLLOWED | MALFORMED):
            tell(odd, line, 13 if mark & NOT_FOLLOWED else 22, 0.0)
            # what stood there may have moved any axis
            forget(s)
            continue
        if n + 8 >= len(at):
            at, how = room(at, how, n)
        a, z = int(starts[b]), int(starts[b + 1])
        length = read_words(s, have, val, letters[a:z], values[a:z], line, odd, n > 0, frames)
        set_state(s, have, val, line, odd, length, lengths, lengths_set)
        if s[DWELL]:
            if have[P] and val[P] < 0:
                tell(odd, line, 38, 80.0)
            goal[0], goal[1], goal[2] = s[X], s[Y], s[Z]
            wait = max(0.0, val[P]) if have[P] else 0.0
            n = put(at, how, n, s, goal, np.nan, np.nan, wait, line, 4, 0)
        if s[ONCE] in (280, 300):
            n = _home(s, have, val, goal, at, how, n, line, odd, frames)
        elif s[ONCE] in (100, 920, 921, 922, 923):
            _new_zero(s, have, val, line, odd, frames)
        if s[CLAIMED]:
            # the axis words of a code that is not followed are its own
            continue
        if _mode(s, have, val, line, odd):
            if not s[MOVED]:
                _first_of(s, have, line, odd)
            _goal(s, have, val, goal, line, odd)
            up = s[MACHINE] and _own_zero(s, have, val, goal, line, odd, frames)
            _blind(s, have, line, odd)
            if s[UNTIL]:
                for i in range(3):
                    if i < Z or s[UNTIL] in (510, 520, 660):
                        goal[i] = np.nan
            if s[COMPENSATED] and (have[23] or have[24]):
                goal[0] = goal[1] = np.nan
            s[CUT] = s[CUT] or s[MODE] in (10, 20, 30) or s[MODE] > 400
            if s[MODE] in (20, 30):
                n = _arc(s, have, val, goal, at, how, n, line, odd)
                turns += how[n - 1, 3] if n > 0 else 0
            elif s[MODE] < 400:
                n = _line(s, have, goal, at, how, n, line, odd)
                s[HIGH] = s[HIGH] or up
            elif s[MODE] in (740, 760, 840, 870, 880):
                forget(s)
            elif _cycle_state(s, have, val, line, odd):
                feed = _feed_of(s, have, abs(s[CYCLE_R] - s[CYCLE_Z]), line, odd)
                steps = 1
                if s[MODE] in (730, 830):
                    steps = math.ceil((s[CYCLE_R] - s[CYCLE_Z]) / s[CYCLE_Q])
                x, y = goal[0], goal[1]
                repeats = int(min(max(val[L], 1.0), MOST_REPEATS)) if have[L] else 1
                for lap in range(repeats):
                    if n > MOST_MOTIONS:
                        break
                    if lap and s[RELATIVE]:
                        x += val[23] * s[SCALE] if have[23] else 0.0
                        y += val[24] * s[SCALE] if have[24] else 0.0
                    if n + 3 * steps + 16 >= len(at):
                        at, how = room(at, how, n + 3 * steps + 16)
                    n = _hole(s, goal, x, y, at, how, n, line, feed)
        if s[STOP]:
            goal[0], goal[1], goal[2] = s[X], s[Y], s[Z]
            n = put(at, how, n, s, goal, np.nan, np.nan, np.nan, line, 5, 0)
    if not s[ENDED]:
        tell(odd, int(last_line), 9, s[SPEED] * s[TURNS])
    return at[:n], how[:n], odd[: int(odd[-1, 0])], 0
