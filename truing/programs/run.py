"""One way to run a program on its ground: what it bites, where it trespasses, how long it takes."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from truing.programs.cutters import Cutter, Stretch, by_motion
from truing.programs.face import Box
from truing.programs.ground import Ground
from truing.programs.motions import (
    FLAGS,
    LINE,
    SIDEWAYS,
    Motions,
)
from truing.programs.spans import spans
from truing.programs.sweep import Grid, Swept, sweep, together
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
    parts: list[Stretch]
    """Its motions by the cutter that they run with."""
    spans: NDArray[np.float64]
    """(n, 6): the least and the most of X, Y and Z that each comes to."""
    rates_known: bool = True
    """Whether somebody stated how fast the machine goes by itself."""

    def cutter_at(self, k: int) -> Cutter:
        """What motion `k` runs with."""
        return next(part.cutter for part in self.parts if k < part.end)

    def of_cutters(self, what: str) -> NDArray[Any]:
        """What a field of the cutters is for each motion (n,), or for all of them ()."""
        return by_motion(self.parts, what)

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

    @property
    def low(self) -> NDArray[np.float64]:
        """The lowest that each comes to, as far as it is known."""
        return self.spans[:, 4]

    def over(self, box: Box, more_mm: float | NDArray[np.float64]) -> Mask:
        """Motions whose box comes over an area; a place that is not known may be anywhere."""
        beside = np.zeros(len(self.motions.at), np.bool_)
        for axis in (0, 1):
            low, high = self.spans[:, 2 * axis], self.spans[:, 2 * axis + 1]
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
    boxes = spans(motions)
    grid = ground.surface(motions, boxes)
    parts = ground.stretches(motions)
    swept, deep = [], []
    keeps: dict[Cutter, Grid | None] = {}
    for part in parts:
        ran = part.of(motions)

        def at(done: int, first: int = part.first) -> None:
            k = first + done
            progress(k / len(motions.at), int(motions.how[k, LINE]))

        swept.append(sweep(ran, part.cutter.tool(), grid, at))
        if part.cutter not in keeps:
            keeps[part.cutter] = ground.keep_grid(part.cutter)
        keep = keeps[part.cutter]
        if keep is not None:
            deep.append(trespass(ran, keep))
    return Run(
        motions,
        swept[0] if len(swept) == 1 else together(swept),
        found,
        np.concatenate(deep) if deep else None,
        ground,
        parts,
        boxes,
        rates_known=drives is not None or ground.rapid_mm_min > 0,
    )
