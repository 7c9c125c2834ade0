"""Motions: what a program makes a machine do, one after the other, and what was odd on the way."""

from __future__ import annotations

from enum import IntEnum
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray


class Kind(IntEnum):
    """What a motion is."""

    RAPID = 0
    FEED = 1
    CW = 2
    CCW = 3
    DWELL = 4
    PAUSE = 5


X0, Y0, Z0, X1, Y1, Z1, CENTRE_1, CENTRE_2, FEED, SPEED = range(10)
"""Columns of `Motions.at`: from, to (mm; not a number where it is not known), an arc's centre in
its plane, feed (mm/min; of a dwell its seconds), speed (rev/min; minus the wrong way round)."""
LINE, KIND, FLAGS, TURNS, TOOL = range(5)
"""Columns of `Motions.how`."""
PLANE, CYCLE, SIDEWAYS, RELATIVE, HIGH = 3, 4, 8, 16, 32
"""Bits of flags: 0 XY, 1 XZ, 2 YZ; part of a drilling cycle; goes sideways, or may; stated by
distances; begins at a height that is not known, but up."""


class Odd(IntEnum):
    """What was found while following a program. From `UNKNOWN_G` to `BLIND` the motion behind
    it is not known any more; from `ARC_RADII` on it is wrong; the others are remarks."""

    UNITS = 1
    DISTANCE = 2
    OWN_ZERO = 3
    FEED_MODE = 4
    OFFSET = 5
    FIRST_MOTION = 6
    ANOTHER_OFFSET = 7
    AFTER_END = 8
    NO_END = 9
    UNKNOWN_G = 10
    UNKNOWN_M = 11
    UNKNOWN_WORD = 12
    NOT_FOLLOWED = 13
    NEW_ZERO = 14
    MACHINE_PLACE = 15
    LENGTH = 17
    PROBED = 18
    TOOL_CHANGE = 19
    COMPENSATED = 20
    BLENDED = 21
    MALFORMED = 22
    BEYOND = 23
    BLIND = 24
    ARC_RADII = 30
    ARC_CENTRE = 31
    ARC_SMALL = 32
    NO_MODE = 33
    TWICE = 34
    TWO_OF_GROUP = 35
    CYCLE = 37
    VALUE = 38
    INVERSE = 39
    ROUNDS = 40
    STRAY = 41


UNFOLLOWED = range(Odd.UNKNOWN_G, Odd.ARC_RADII)
WRONG = range(Odd.ARC_RADII, Odd.STRAY + 1)


class Motions(NamedTuple):
    """`at` (n, 10) and `how` (n, 5), see the columns above; `odd` (k, 3): line, `Odd`, value."""

    at: NDArray[np.float64]
    how: NDArray[np.int32]
    odd: NDArray[np.float64]

    @property
    def cuts(self) -> NDArray[np.bool_]:
        """Which of them move at a feed."""
        kind = self.how[:, KIND]
        return np.asarray((kind >= Kind.FEED) & (kind <= Kind.CCW))

    @property
    def rapids(self) -> NDArray[np.bool_]:
        """Which of them go as fast as the machine can."""
        return np.asarray(self.how[:, KIND] == Kind.RAPID)


AXES = {0: (0, 1, 2), 1: (0, 2, 1), 2: (1, 2, 0)}
"""Of a plane: its two axes and the one across, as G17, G18 and G19 take them."""
