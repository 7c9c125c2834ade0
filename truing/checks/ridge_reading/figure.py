"""The ridges as they would stand, in section."""

from __future__ import annotations

from truing.checks.ridge_reading.evaluate import RidgeCase
from truing.drawing.figures import RidgesFigure
from truing.drawing.ridges import Cut, ridges_figure
from truing.measure.words import plain


def sections(case: RidgeCase) -> list[RidgesFigure]:
    """Across the bands of each patch, for the leans that fit best; none where nothing bounds
    them, or where there is nothing to see."""
    setup, finding = case.setup, case.finding
    if any(f.high is None for f in (finding.lean_x, finding.nod)) or finding.contradicts:
        return []
    # where a side is not known, it is drawn as if it were the plus one
    lean_x, nod = (f.best * (f.side or 1) / 1000 for f in (finding.lean_x, finding.nod))
    cuts = [Cut(p, setup.flat_mm, setup.step_of(p), lean_x, nod) for p in setup.cut]
    drawn = ridges_figure(
        plain("A section across the bands, as these leans would leave them"), cuts
    )
    return [drawn] if drawn else []
