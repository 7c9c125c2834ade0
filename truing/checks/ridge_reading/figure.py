"""The ridges as they would stand, in section."""

from __future__ import annotations

import numpy as np

from truing.checks.ridge_reading.evaluate import RidgeCase
from truing.checks.ridge_reading.setup import FED, Patch
from truing.drawing.figures import RidgesFigure, RidgeStrip, magnification
from truing.measure.words import plain, say, show
from truing.surfacing.ridges import ridge, section

POINTS = 120
LEAST_STEP_MM = 5e-4


def sections(case: RidgeCase) -> list[RidgesFigure]:
    """Across the bands of each patch, for the leans that fit best; none where nothing bounds
    them, or where there is nothing to see."""
    setup, finding = case.setup, case.finding
    if any(f.high is None for f in (finding.lean_x, finding.nod)) or finding.contradicts:
        return []
    # where a side is not known, it is drawn as if it were the plus one
    lean_x, nod = (f.best * (f.side or 1) / 1000 for f in (finding.lean_x, finding.nod))
    flat, step = setup.flat_mm, setup.stepover_mm
    strips = []
    worst = 0.0
    patches: tuple[Patch, ...] = setup.cut
    for patch in patches:
        along, across = (lean_x, nod) if patch == "x" else (nod, lean_x)
        at, up = section(flat, step, along, across)
        found = ridge(flat, step, along, across)
        worst = max(worst, found.height_mm)
        # the few places where it jumps must stay in
        keep = np.unique([*np.linspace(0, len(at) - 1, POINTS).astype(int), *_jumps(up)])
        ends = ("front", "rear") if patch == "x" else ("left", "right")
        strips.append(
            RidgeStrip(
                name=f"Fed {FED[patch][0]}",
                low_end=ends[0],
                high_end=ends[1],
                at_mm=[round(float(v), 4) for v in at[keep]],
                up_mm=[round(float(v), 7) for v in up[keep]],
                words=say(
                    "{h} high, {step}",
                    h=show(found.height_mm, 0.001),
                    step=say("step {t}", t=show(found.step_mm, 0.001))
                    if found.step_mm >= LEAST_STEP_MM
                    else plain("no step"),
                ),
            )
        )
    if worst <= 0:
        return []
    factor = magnification(worst, 2 * step, share=0.065)
    title = plain("A section across the bands, as these leans would leave them")
    return [RidgesFigure(title=title, strips=strips, factor=factor)]


def _jumps(up: np.ndarray) -> list[int]:
    change = np.abs(np.diff(up))
    steep = np.flatnonzero(change > 5 * np.median(change) + 1e-12)
    return [int(i) for s in steep for i in (s, s + 1)]
