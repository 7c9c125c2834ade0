"""One way to run a program on its ground: what it bites, where it trespasses, how long it takes."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from truing.programs.ground import Ground
from truing.programs.motions import (
    FLAGS,
    LINE,
    SIDEWAYS,
    Motions,
)
from truing.programs.sweep import Swept, extent, sweep
from truing.programs.timing import Drives, Times, times
from truing.programs.trespass import trespass

TOUCHES_MM = 0.02
"""A bite that is one, and not the rounding of a grid or of a number."""
Mask = NDArray[np.bool_]
Progress = Callable[[float, int], None]
"""Called with the share that is done (0 … 1) and the line that is looked at, 0 for none yet; raises
to stop."""


@dataclass(frozen=True)
class Run:
    """One way to run a program: its motions, what they bit, how long they take."""

    motions: Motions
    swept: Swept
    times: Times
    trespass: NDArray[np.float32] | None
    ground: Ground
    rates_known: bool = True
    """Whether somebody stated how fast the machine goes by itself."""

    @property
    def bites_mm(self) -> NDArray[np.float32]:
        """The most that each takes off anywhere."""
        return self.swept.bites_mm

    @property
    def bit(self) -> Mask:
        """Motions that take something off."""
        return self.bites_mm > TOUCHES_MM

    @property
    def sideways(self) -> Mask:
        """Motions that go sideways, or may."""
        return np.asarray((self.motions.how[:, FLAGS] & SIDEWAYS) > 0)

    @cached_property
    def wide(self) -> tuple[tuple[NDArray[np.float64], NDArray[np.float64]], ...]:
        """The least and the most that each comes to in X, and in Y."""
        return extent(self.motions, 0), extent(self.motions, 1)

    @cached_property
    def low(self) -> NDArray[np.float64]:
        """The lowest that each comes to, as far as it is known."""
        return extent(self.motions, 2)[0]

    def over(self, box: tuple[float, float, float, float], more_mm: float) -> Mask:
        """Motions whose box comes over an area; a place that is not known may be anywhere."""
        beside = np.zeros(len(self.motions.at), np.bool_)
        for axis in (0, 1):
            low, high = self.wide[axis]
            # from a place that is not known it may come over anything
            known = np.isfinite(self.motions.at[:, [axis, 3 + axis]]).all(axis=1)
            beside |= known & ((high < box[axis] - more_mm) | (low > box[2 + axis] + more_mm))
        return ~beside


def run_of(
    motions: Motions,
    ground: Ground,
    drives: Drives | None,
    progress: Progress = lambda share, line: None,
) -> Run:
    """Run it: what each motion takes off, and how long it lasts. `progress` is told the share that
    is done (0 … 1) and the line that is looked at, and may raise to stop."""
    found = times(motions, drives or ground.drives)
    grid = ground.surface(motions)

    def at(done: int) -> None:
        progress(done / len(motions.at), int(motions.how[done, LINE]))

    swept = sweep(motions, ground.cutter.tool(), grid, at)
    keep = ground.keep_grid()
    return Run(
        motions,
        swept,
        found,
        trespass(motions, keep) if keep else None,
        ground,
        rates_known=drives is not None or ground.rapid_mm_min > 0,
    )


def extents(motions: Motions, of: Mask) -> list[float] | None:
    """Least X, Y, Z and most X, Y, Z of these motions (mm); None where one is nowhere known."""
    found = []
    # axis by axis: a copy of all of it would be as large as the program
    for axis in range(3):
        low, high = (ends[of] for ends in extent(motions, axis))
        if not np.isfinite(low).any():
            return None
        found.append((float(np.nanmin(low)), float(np.nanmax(high))))
    return [f[0] for f in found] + [f[1] for f in found]
