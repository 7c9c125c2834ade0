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
from truing.programs.compiled import compiled
from truing.programs.motions import Motions
from truing.programs.tokens import DELETED, MALFORMED, NOT_FOLLOWED, Words

MOST_ODD = 2000
MOST_MM = 1e6
"""From zero: further off nothing is believed."""
MOST_MOTIONS = 1_100_000
"""A million lines, and what stands about them."""
MOST_TURNS = 2_000_000
"""That all arcs together make: one in each of a million lines, and some helices."""
MOST_PECKS = 1000
MOST_REPEATS = 1000
MOST_ROUNDS = 1000
"""Of one arc."""
ARC_TOLERANCE_MM = 0.01
"""By which the two radii of an arc may differ: a last digit, rounded in either place."""
BACK_MM = 0.25
"""How far a peck draws back, or stops short of where the last one ended."""

# the state, by its places in one array
X, Y, Z = 0, 1, 2
SCALE, RELATIVE, ARC_ABSOLUTE, PLANE, MODE, FEED_MODE, FEED, SPEED, TURNS, TOOL = range(3, 13)
COMPENSATED, OFFSET, TO_R, CYCLE_Z, CYCLE_R, CYCLE_Q, CYCLE_P = range(13, 20)
SAID_UNITS, SAID_DISTANCE, SAID_FEED_MODE, SAID_OFFSET, MOVED, CUT, CHANGED, ENDED = range(20, 28)
# what one block says, likewise
ONCE, MOTION, MACHINE, DWELL, STOP, BLEND, CHANGE = range(28, 35)
N_STATE = 35
# letters by their places after A
F, I, J, K, L, P, Q, R, S, T = 5, 8, 9, 10, 11, 15, 16, 17, 18, 19


def follow(words: Words, deleted: bool) -> Motions:
    """Motions of a program; `deleted` leaves out what stands behind a slash. Problem where they are
    too many."""
    at, how, odd, line = _follow(
        words.letter, words.value, words.start, words.line, words.mark, deleted, words.lines
    )
    if line:
        raise Problem(
            f"In line {line} it has made more motions than are read at once.",
            expected="Up to 1,000,000, and as many turns of arcs: split it where it changes its "
            "tool.",
            field="file",
        )
    return Motions(at, how, odd)


# --- what is kept ---------------------------------------------------------------------------------


@compiled
def _room(at, how, n):
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
def _put(at, how, n, s, goal, c1, c2, feed, line, kind, cycle):
    """One motion from where it stands to its goal; it stands there afterwards."""
    for i in range(3):
        at[n, i], at[n, 3 + i] = s[i], goal[i]
        s[i] = goal[i]
    at[n, 6], at[n, 7], at[n, 8], at[n, 9] = c1, c2, feed, s[SPEED] * s[TURNS]
    how[n, 0], how[n, 1], how[n, 2] = line, kind, int(s[PLANE]) + 4 * cycle
    how[n, 3], how[n, 4] = 1, int(s[TOOL])
    return n + 1


@compiled
def _tell(odd, line, what, value):
    """`odd[-1, 0]` counts them."""
    k = int(odd[-1, 0])
    if k < len(odd) - 1:
        odd[k, 0], odd[k, 1], odd[k, 2] = line, what, value
        odd[-1, 0] = k + 1


@compiled
def _forget(s):
    s[X] = s[Y] = s[Z] = np.nan


# --- the words of a block -------------------------------------------------------------------------


@compiled
def _group(g):
    """Modal group of a G word (times ten): 1 motion, 2 plane, 3 distance, 4 arc distance, 5 feed
    mode, 6 units, 7 cutter compensation, 8 length, 9 retract, 10 offset, 11 path control, 12 what
    uses the axis words of its own block, 13 dwell, 14 machine's own place; 0 not known."""
    if g in (0, 10, 20, 30) or (730 <= g <= 890 and g % 10 == 0):
        return 0 if 740 <= g <= 790 or g in (840, 870, 880) else 1
    if 382 <= g <= 385:
        return 1
    if g in (170, 180, 190):
        return 2
    if g in (900, 910):
        return 3
    if g in (901, 911):
        return 4
    if g in (930, 940, 950):
        return 5
    if g in (200, 210):
        return 6
    if g in (400, 410, 420, 411, 421):
        return 7
    if g in (430, 431, 490):
        return 8
    if g in (980, 990):
        return 9
    if (540 <= g <= 590 and g % 10 == 0) or g in (591, 592, 593):
        return 10
    if g in (610, 611, 640):
        return 11
    if g in (100, 280, 281, 300, 301, 920, 921, 922, 923):
        return 12
    if g == 40:
        return 13
    return 14 if g == 530 else 0


@compiled
def _g_word(s, g, group, line, odd, any_motion):
    if group == 1:
        s[MOTION] = g
    elif group == 2:
        s[PLANE] = (g - 170) // 10
    elif group == 3:
        s[RELATIVE], s[SAID_DISTANCE] = g == 910, 1
    elif group == 4:
        s[ARC_ABSOLUTE] = g == 901
    elif group == 5:
        s[FEED_MODE], s[SAID_FEED_MODE] = g // 10, 1
        if g == 930:
            s[FEED] = 0
    elif group == 6:
        s[SCALE], s[SAID_UNITS] = 25.4 if g == 200 else 1.0, 1
    elif group == 7:
        s[COMPENSATED] = g != 400
        if g != 400:
            _tell(odd, line, 20, g / 10.0)
    elif group == 8:
        if g != 490:
            _tell(odd, line, 17, g / 10.0)
            s[Z] = np.nan
    elif group == 9:
        s[TO_R] = g == 990
    elif group == 10:
        if s[OFFSET] not in (0, g) and any_motion:
            _tell(odd, line, 7, g / 10.0)
            _forget(s)
        s[OFFSET], s[SAID_OFFSET] = g, 1
    elif group == 11:
        s[BLEND] = g == 640
    elif group == 12:
        s[ONCE] = g
    elif group == 13:
        s[DWELL] = 1
    else:
        s[MACHINE] = 1


@compiled
def _m_word(s, v, line, odd):
    code = round(v)
    if abs(v - code) > 1e-6:
        code = -1
    if code in (0, 1, 60):
        s[STOP] = 1
    elif code in (2, 30):
        s[ENDED] = 1
    elif code == 3:
        s[TURNS] = 1
    elif code == 4:
        s[TURNS] = -1
    elif code == 5:
        s[TURNS] = 0
    elif code == 6:
        s[CHANGE] = 1
    elif not 7 <= code <= 9:
        _tell(odd, line, 11, v)
        _forget(s)


@compiled
def _words(s, have, val, letters, values, line, odd, any_motion):
    """Read a block's words into the state, and its axis and other words into `have` and `val`."""
    for i in range(26):
        have[i] = False
    for i in range(ONCE, N_STATE):
        s[i] = 0
    s[MOTION] = -1
    used = 0
    for t in range(len(letters)):
        c, v = int(letters[t]), values[t]
        if c == 71:
            g = round(v * 10)
            group = _group(g) if abs(v * 10 - g) < 1e-6 else 0
            if group == 0:
                _tell(odd, line, 10, v)
                _forget(s)
                continue
            bit = 1 << group
            if used & bit:
                _tell(odd, line, 35, v)
            used |= bit
            _g_word(s, g, group, line, odd, any_motion)
        elif c == 77:
            _m_word(s, v, line, odd)
        elif c in (65, 66, 67, 69, 85, 86, 87):  # A B C E U V W
            _tell(odd, line, 12, float(c))
            _forget(s)
        else:
            if have[c - 65]:
                _tell(odd, line, 34, float(c))
            have[c - 65], val[c - 65] = True, v


@compiled
def _set_state(s, have, val, line, odd):
    """Feed, speed, tool: what holds for the motions to come."""
    if s[BLEND] and not have[P]:
        _tell(odd, line, 21, 0.0)
    if have[F]:
        if val[F] < 0:
            _tell(odd, line, 38, 70.0)
        else:
            s[FEED] = val[F] if s[FEED_MODE] == 93 else val[F] * s[SCALE]
    if have[S]:
        if val[S] < 0:
            _tell(odd, line, 38, 83.0)
        else:
            s[SPEED] = val[S]
    if have[T]:
        s[TOOL] = min(max(val[T], -1.0), 1e6)
    if s[CHANGE]:
        if s[CUT] or s[CHANGED]:
            _tell(odd, line, 19, s[TOOL])
            s[Z] = np.nan
        s[CHANGED] = 1


# --- motions --------------------------------------------------------------------------------------


@compiled
def _goal(s, have, val, goal, line, odd):
    for i in range(3):
        goal[i] = s[i]
        if have[23 + i]:
            goal[i] = val[23 + i] * s[SCALE] + (s[i] if s[RELATIVE] else 0.0)
        if abs(goal[i]) > MOST_MM:
            _tell(odd, line, 23, 0.0)
            goal[i] = np.nan


@compiled
def _first_of(s, have, line, odd):
    """What a program should have stated before it moves for the first time."""
    if not s[SAID_UNITS]:
        _tell(odd, line, 1, 0.0)
    if not s[SAID_DISTANCE]:
        _tell(odd, line, 2, 0.0)
    if not s[SAID_OFFSET]:
        _tell(odd, line, 5, 0.0)
    if not s[SAID_FEED_MODE]:
        _tell(odd, line, 4, 0.0)
    up_alone = s[MODE] in (0, 10) and have[25] and not have[23] and not have[24]
    if not up_alone:
        _tell(odd, line, 6, 0.0)
    s[MOVED] = 1


@compiled
def _once(s, have, val, goal, at, how, n, line, odd):
    """Homes, zeros and offsets: what is known after them."""
    axes = have[23] or have[24] or have[25]
    what = s[ONCE]
    if what in (280, 300):
        if axes:
            _goal(s, have, val, goal, line, odd)
            n = _put(at, how, n, s, goal, np.nan, np.nan, np.nan, line, 0, 0)
            for i in range(3):
                if have[23 + i]:
                    s[i] = np.nan
        else:
            _forget(s)
        s[MOVED] = 1
        return n
    _tell(odd, line, 14, what / 10.0)
    if what == 920:
        for i in range(3):
            if have[23 + i]:
                s[i] = val[23 + i] * s[SCALE]
    elif what not in (281, 301):
        _forget(s)
    return n


@compiled
def _feed_of(s, have, length, line, odd):
    """Feed of a motion (mm/min), whichever way it is stated."""
    if s[FEED_MODE] == 93:
        if not have[F]:
            _tell(odd, line, 39, 0.0)
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
        _tell(odd, line, 18, 0.0)
        for i in range(3):
            if have[23 + i]:
                goal[i] = np.nan
    return _put(at, how, n, s, goal, np.nan, np.nan, feed, line, 0 if mode == 0 else 1, 0)


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
        centre[0], centre[1] = val[wp] * s[SCALE], val[wq] * s[SCALE]
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
        _tell(odd, line, wrong, by)
    if wrong in (31, 32, 40):
        # how it went nobody knows; where it ends does stand there
        for i in range(3):
            s[i] = goal[i]
        s[o] = np.nan
        return n
    turns = int(max(1.0, val[P])) if have[P] else 1
    across = goal[o] - s[o]
    n = _put(at, how, n, s, goal, centre[0], centre[1], s[FEED], line, 3 if ccw else 2, 0)
    how[n - 1, 3] = turns
    if s[FEED_MODE] != 94:
        _, angle, radius, _ = arc_angle(at[n - 1], how[n - 1])
        at[n - 1, 8] = _feed_of(s, have, math.hypot(angle * radius, across), line, odd)
    return n


@compiled
def _cycle_state(s, have, val, line, odd):
    """Take over what a drilling cycle states; False when it cannot be followed."""
    if have[R]:
        s[CYCLE_R] = val[R] * s[SCALE] + (s[Z] if s[RELATIVE] else 0.0)
    if have[25]:
        s[CYCLE_Z] = val[25] * s[SCALE] + (s[CYCLE_R] if s[RELATIVE] else 0.0)
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
        _tell(odd, line, 37, float(wrong))
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
        n = _put(at, how, n, s, goal, nan, nan, nan, line, 0, 0)
    goal[0], goal[1], goal[2] = x, y, s[Z]
    n = _put(at, how, n, s, goal, nan, nan, nan, line, 0, 0)
    goal[2] = high
    n = _put(at, how, n, s, goal, nan, nan, nan, line, 0, 0)
    steps = 1
    if mode in (730, 830):
        steps = max(1, math.ceil((high - low) / s[CYCLE_Q] - 1e-9))
    for k in range(steps):
        done = s[Z]
        if k > 0:
            goal[2] = high if mode == 830 else done + BACK_MM
            n = _put(at, how, n, s, goal, nan, nan, nan, line, 0, 1)
            goal[2] = done + BACK_MM
            n = _put(at, how, n, s, goal, nan, nan, nan, line, 0, 1)
        goal[2] = low if k == steps - 1 else high - (k + 1) * s[CYCLE_Q]
        n = _put(at, how, n, s, goal, nan, nan, feed, line, 1, 1)
    if mode in (820, 890) and s[CYCLE_P] > 0:
        n = _put(at, how, n, s, goal, nan, nan, s[CYCLE_P], line, 4, 1)
    if mode in (850, 890):
        goal[2] = high
        n = _put(at, how, n, s, goal, nan, nan, feed, line, 1, 1)
    goal[2] = high if s[TO_R] else clear
    return _put(at, how, n, s, goal, nan, nan, nan, line, 0, 1)


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
        _tell(odd, line, 33, 0.0)
        _forget(s)
        return False
    turns = s[MOTION] in (20, 30) and (have[I] or have[J] or have[K])
    return axes or turns


@compiled
def _follow(letters, values, starts, lines, marks, deleted, last_line):
    blocks = len(lines)
    at, how = np.empty((blocks + 64, 10)), np.empty((blocks + 64, 5), np.int32)
    odd = np.zeros((MOST_ODD + 1, 3))
    s = np.zeros(N_STATE)
    _forget(s)
    s[SCALE], s[MODE], s[FEED_MODE] = 1.0, -1, 94
    s[CYCLE_Z] = s[CYCLE_R] = s[CYCLE_Q] = np.nan
    goal, have, val = np.empty(3), np.zeros(26, np.bool_), np.zeros(26)
    n, turns = 0, 0.0
    for b in range(blocks):
        line, mark = int(lines[b]), int(marks[b])
        if n > MOST_MOTIONS or turns > MOST_TURNS:
            return at[:0], how[:0], odd[:0], line
        if mark & DELETED and deleted:
            continue
        if s[ENDED]:
            _tell(odd, line, 8, 0.0)
            break
        if mark & (NOT_FOLLOWED | MALFORMED):
            _tell(odd, line, 13 if mark & NOT_FOLLOWED else 22, 0.0)
            # what stood there may have moved any axis
            _forget(s)
            continue
        if n + 8 >= len(at):
            at, how = _room(at, how, n)
        a, z = int(starts[b]), int(starts[b + 1])
        _words(s, have, val, letters[a:z], values[a:z], line, odd, n > 0)
        _set_state(s, have, val, line, odd)
        if s[DWELL]:
            if have[P] and val[P] < 0:
                _tell(odd, line, 38, 80.0)
            goal[0], goal[1], goal[2] = s[X], s[Y], s[Z]
            wait = max(0.0, val[P]) if have[P] else 0.0
            n = _put(at, how, n, s, goal, np.nan, np.nan, wait, line, 4, 0)
        if s[ONCE]:
            n = _once(s, have, val, goal, at, how, n, line, odd)
        if _mode(s, have, val, line, odd):
            if not s[MOVED]:
                _first_of(s, have, line, odd)
            _goal(s, have, val, goal, line, odd)
            if s[MACHINE]:
                _tell(odd, line, 15, 0.0)
                for i in range(3):
                    if have[23 + i]:
                        goal[i] = np.nan
            if s[COMPENSATED] and (have[23] or have[24]):
                goal[0] = goal[1] = np.nan
            s[CUT] = s[CUT] or s[MODE] in (10, 20, 30) or s[MODE] > 400
            if s[MODE] in (20, 30):
                n = _arc(s, have, val, goal, at, how, n, line, odd)
                turns += how[n - 1, 3] if n > 0 else 0
            elif s[MODE] < 400:
                n = _line(s, have, goal, at, how, n, line, odd)
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
                        at, how = _room(at, how, n + 3 * steps + 16)
                    n = _hole(s, goal, x, y, at, how, n, line, feed)
        if s[STOP]:
            goal[0], goal[1], goal[2] = s[X], s[Y], s[Z]
            n = _put(at, how, n, s, goal, np.nan, np.nan, np.nan, line, 5, 0)
    if not s[ENDED]:
        _tell(odd, int(last_line), 9, s[SPEED] * s[TURNS])
    return at[:n], how[:n], odd[: int(odd[-1, 0])], 0
