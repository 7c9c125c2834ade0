"""The words of a block: which codes are known, what each changes, and which words belong to it.
Compiled.
"""
# mypy: disable-error-code="no-untyped-def,no-untyped-call"

from __future__ import annotations

import numpy as np

from truing.programs.compiled import compiled
from truing.programs.state import (
    ARC_ABSOLUTE,
    AXES,
    BLEND,
    BY_CODE,
    CHANGE,
    CHANGED,
    CLAIMED,
    COMPENSATED,
    CUT,
    DWELL,
    ENDED,
    FEED,
    FEED_MODE,
    FROM,
    HIGH,
    LENGTH,
    MACHINE,
    MODE,
    MOTION,
    N_STATE,
    NEXT,
    OFFSET,
    ONCE,
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
    TOOL,
    TURNS,
    UNTIL,
    F,
    H,
    I,
    J,
    K,
    P,
    R,
    S,
    T,
    Z,
    forget,
    frame_of,
    tell,
)


@compiled
def group_of(g):
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
def _holds(g):
    """What ends a code that is not followed and holds on (times ten); 0 where it does not, −1 for a
    cycle, which another motion ends."""
    if g in (740, 760, 840, 870, 880):
        return -1
    if g == 680:
        return 690
    if g == 510:
        return 500
    if g == 160:
        return 150
    if g == 660:
        return 670
    return 520 if g == 520 else 0


@compiled
def _not_followed(s, g, v, line, odd):
    """A code that is not followed: the axis words of its block are its own, and what it did to the
    place nobody knows."""
    if g > 0 and g in (690, 500, 150, 670):
        # ends what was not followed; where none of it holds it says nothing
        if _holds(int(s[UNTIL])) == g:
            s[UNTIL] = 0
        return
    tell(odd, line, 10, v)
    forget(s)
    s[CLAIMED] = 1
    holds = _holds(g)
    if holds < 0:
        s[MODE] = g
    elif holds > 0:
        s[UNTIL] = g


@compiled
def _g_word(s, g, group, line, odd, any_motion, frames):
    if group == 1:
        s[MOTION] = g
    elif group == 2:
        s[PLANE] = (g - 170) // 10
    elif group == 3:
        s[RELATIVE], s[SAID_DISTANCE] = g == 910, 1
        s[FROM] = line
    elif group == 4:
        s[ARC_ABSOLUTE] = g == 901
    elif group == 5:
        # another way of stating it makes the feed that was stated mean nothing
        if s[FEED_MODE] != g // 10 or g == 930:
            s[FEED] = 0
        s[FEED_MODE], s[SAID_FEED_MODE] = g // 10, 1
    elif group == 6:
        s[SCALE], s[SAID_UNITS] = 25.4 if g == 200 else 1.0, 1
    elif group == 7:
        s[COMPENSATED] = g != 400
        if g != 400:
            tell(odd, line, 20, g / 10.0)
    elif group == 9:
        s[TO_R] = g == 990
    elif group == 10:
        _offset(s, g, line, odd, any_motion, frames)
    elif group == 11:
        s[BLEND] = g == 640
    elif group == 12:
        s[ONCE] = g
    elif group == 13:
        s[DWELL] = 1
    elif group == 14:
        s[MACHINE] = 1


@compiled
def _offset(s, g, line, odd, any_motion, frames):
    """Another zero: where it lies from the first one that the program uses."""
    s[SAID_OFFSET] = 1
    if s[OFFSET] == 0:
        s[OFFSET] = g
        if any_motion and g != 540:
            # what it did before was counted from G54, as a controller begins
            s[OFFSET] = 540
        for i in range(3):
            frames[frame_of(int(s[OFFSET])), i] = 0.0
    if s[OFFSET] == g:
        return
    s[OFFSET] = g
    lost = False
    for i in range(3):
        s[SHIFT + i] = frames[frame_of(g), i]
        lost = lost or not np.isfinite(s[SHIFT + i])
    if lost:
        tell(odd, line, 7, g / 10.0)
        forget(s)


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
        tell(odd, line, 11, v)
        forget(s)


@compiled
def read_words(s, have, val, letters, values, line, odd, any_motion, frames):
    """Read a block's words into the state, and its axis and other words into `have` and `val`."""
    for i in range(26):
        have[i] = False
    for i in range(ONCE, N_STATE):
        s[i] = 0
    s[MOTION] = -1
    used = 0
    length = -1
    for t in range(len(letters)):
        c, v = int(letters[t]), values[t]
        if c == 71:
            g = round(v * 10)
            exact = abs(v * 10 - g) < 1e-6
            group = group_of(g) if exact else 0
            if group == 0:
                _not_followed(s, g if exact else -1, v, line, odd)
                continue
            bit = 1 << group
            if used & bit:
                tell(odd, line, 35, v)
            used |= bit
            if group == 8:
                length = g
            _g_word(s, g, group, line, odd, any_motion, frames)
        elif c == 77:
            _m_word(s, v, line, odd)
        elif c in (65, 66, 67, 69, 85, 86, 87):  # A B C E U V W
            tell(odd, line, 12, float(c))
            forget(s)
        else:
            if have[c - 65]:
                tell(odd, line, 34, float(c))
            have[c - 65], val[c - 65] = True, v
    s[STIRS] = have[AXES] or have[AXES + 1]
    if s[UNTIL] == 520 and s[CLAIMED]:
        zero = True
        for i in range(3):
            zero = zero and (not have[AXES + i] or val[AXES + i] == 0.0)
        s[UNTIL] = 0 if zero else 520
    return length


@compiled
def _length_of(lengths, tool):
    """What a tool is longer than the one that Z was zeroed with (mm); NaN where nobody said."""
    for k in range(len(lengths)):
        if lengths[k, 0] == tool:
            return lengths[k, 1]
    return np.nan


@compiled
def set_state(s, have, val, line, odd, length, lengths, lengths_set):
    """Feed, speed, tool, length: what holds for the motions to come."""
    if s[BLEND] and not have[P]:
        tell(odd, line, 21, 0.0)
    if have[F]:
        if val[F] < 0:
            tell(odd, line, 38, 70.0)
        else:
            s[FEED] = val[F] if s[FEED_MODE] == 93 else val[F] * s[SCALE]
    if have[S]:
        if val[S] < 0:
            tell(odd, line, 38, 83.0)
        else:
            s[SPEED] = val[S]
    if have[T]:
        s[NEXT] = min(max(val[T], -1.0), 1e6)
        if not s[BY_CODE]:
            s[TOOL] = s[NEXT]
    if s[CHANGE]:
        before = _length_of(lengths, s[TOOL])
        s[TOOL] = s[NEXT]
        stands = _length_of(lengths, s[TOOL])
        if np.isfinite(stands):
            # the first one is that which Z was zeroed with, if nobody said how long it is
            s[LENGTH] += (before if np.isfinite(before) else 0.0) - stands
        known = lengths_set or np.isfinite(stands)
        if (s[CUT] or s[CHANGED]) and not known:
            tell(odd, line, 19, s[TOOL])
        if s[CUT] or s[CHANGED] or known:
            # where a tool is changed it is up, and no two stand out alike
            s[Z], s[HIGH] = np.nan, 1.0
        s[CHANGED] = 1
    if length >= 0:
        _take_length(s, have, val, line, odd, length, lengths, lengths_set)


@compiled
def _take_length(s, have, val, line, odd, g, lengths, lengths_set):
    """G43 takes a length off, G49 none: by how much the end of the cutter comes to stand off."""
    if lengths_set:
        return
    stands = _length_of(lengths, s[TOOL])
    if g == 490:
        s[LENGTH] = -stands if np.isfinite(stands) and s[TOOL] != 0 else 0.0
    else:
        taken = _length_of(lengths, val[H] if have[H] else s[TOOL])
        s[LENGTH] = taken - stands if g == 430 else np.nan
    if not np.isfinite(s[LENGTH]):
        tell(odd, line, 17, g / 10.0)
        s[LENGTH] = 0.0
        s[Z] = np.nan


@compiled
def stray(s, have, odd, line, mode, plane):
    """A word that belongs to no code of its block: somebody meant another one."""
    if s[ONCE] == 100 or s[CLAIMED] or s[DWELL]:
        return
    for word in (I, J, K):
        if not have[word]:
            continue
        # the letters of a centre go with the axes of its plane
        across = (word - I) == (2, 1, 0)[plane]
        if mode in (0, 10) or (mode in (20, 30) and across):
            tell(odd, line, 41, float(word + 65))
    if have[R]:
        centred = have[I] or have[J] or have[K]
        if mode in (0, 10) or (mode in (20, 30) and centred):
            tell(odd, line, 41, float(R + 65))
