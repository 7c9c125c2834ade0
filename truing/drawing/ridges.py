"""What passes beside one another leave, in section."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from truing.drawing.figures import RidgesFigure, RidgeStrip, magnification
from truing.effects.ridges import Feed, ridge, section
from truing.measure.words import Words, plain, say, show
from truing.surfacing.choose import StepChoice
from truing.surfacing.wish import Wish

POINTS = 120
LEAST_STEP_MM = 5e-4
"""A step that is lower is drawn and not told."""
FED: dict[Feed, str] = {"x": "left–right", "y": "front–back"}
ENDS: dict[Feed, tuple[str, str]] = {"x": ("front", "rear"), "y": ("left", "right")}


@dataclass(frozen=True)
class Cut:
    """Passes of a flat disc, fed one way, by a spindle that leans (mm per mm)."""

    feed: Feed
    diameter_mm: float
    stepover_mm: float
    lean_x: float
    nod: float

    @property
    def leans(self) -> tuple[float, float]:
        """(along, across) the feed."""
        return (self.lean_x, self.nod) if self.feed == "x" else (self.nod, self.lean_x)


def ridges_figure(title: Words, cuts: Sequence[Cut]) -> RidgesFigure | None:
    """A section across the passes of each; None where nothing stands."""
    found = [(c, ridge(c.diameter_mm, c.stepover_mm, *c.leans)) for c in cuts]
    worst = max((r.height_mm for _, r in found), default=0.0)
    if worst <= 0:
        return None
    strips = []
    for c, r in found:
        at, up = section(c.diameter_mm, c.stepover_mm, *c.leans)
        # the few places where it jumps must stay in
        keep = np.unique([*np.linspace(0, len(at) - 1, POINTS).astype(int), *_jumps(up)])
        step = say("step {t}", t=show(r.step_mm, 0.001))
        strips.append(
            RidgeStrip(
                name=f"Fed {FED[c.feed]}",
                low_end=ENDS[c.feed][0],
                high_end=ENDS[c.feed][1],
                at_mm=[round(float(v), 4) for v in at[keep]],
                up_mm=[round(float(v), 7) for v in up[keep]],
                words=say(
                    "{h} high, {step}",
                    h=show(r.height_mm, 0.001),
                    step=step if r.step_mm >= LEAST_STEP_MM else plain("no step"),
                ),
            )
        )
    factor = magnification(worst, 2 * min(c.stepover_mm for c in cuts), share=0.065)
    return RidgesFigure(title=title, strips=strips, factor=factor)


def planned_ridges(wish: Wish, choice: StepChoice) -> RidgesFigure | None:
    """What a plan leaves at the most; None where the lean is not known, or nothing stands."""
    if choice.worst_leans is None or not wish.skims:
        return None
    lean_x, nod = (v / 1000 for v in choice.worst_leans)
    cut = Cut(choice.along, wish.flat_mm, choice.stepover_mm, lean_x, nod)
    return ridges_figure(plain("What stays between its passes, at the most"), [cut])


def _jumps(up: NDArray[np.float64]) -> list[int]:
    change = np.abs(np.diff(up))
    steep = np.flatnonzero(change > 5 * np.median(change) + 1e-12)
    return [int(i) for s in steep for i in (s, s + 1)]
