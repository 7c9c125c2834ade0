"""The piece from above, and what was foretold of it beside what it became."""

from __future__ import annotations

from truing.checks.cutting import CORNERS, LENGTHS
from truing.checks.test_cut.evaluate import CutCase
from truing.checks.test_cut.solve import row
from truing.drawing.figures import (
    BesideFigure,
    BesideRow,
    Figure,
    PlanFigure,
    Spot,
)
from truing.measure.words import plain, show


def figures(case: CutCase) -> list[Figure]:
    """Sides and corners against what they should be; then every comparison."""
    return [*_piece(case), *_beside(case)]


def _piece(case: CutCase) -> list[PlanFigure]:
    setup, means = case.setup, {s.station: s.mean_mm for s in case.finding.stations}
    spots = []
    step = case.instrument.step_mm / 10
    for key in LENGTHS:
        if key in ("d1", "d2") or key not in means:
            continue
        (ax, ay), (bx, by) = (CORNERS[c] for c in LENGTHS[key])
        off = means[key] - row(setup, key)[0]
        spots.append(
            Spot(
                label=f"{key} side",
                x_mm=(ax + bx) / 4 * setup.width_mm,
                y_mm=(ay + by) / 4 * setup.depth_mm,
                words=show(off, step, signed=True),
                sort="out" if off > 0 else "in" if off < 0 else "stay",
            )
        )
    if not spots:
        return []
    title = plain("Sides against the program, seen from above")
    return [PlanFigure(title=title, spots=spots, width_mm=setup.width_mm, depth_mm=setup.depth_mm)]


def _beside(case: CutCase) -> list[BesideFigure]:
    rows = []
    for item in case.finding.compared:
        ends = [item.foretold.low, item.foretold.high, item.found.low, item.found.high]
        # marks that show may be made by any lean that is large enough
        ends = [min(v, 3 * max(abs(e) for e in ends[:2]) + 1e-4) for v in ends]
        wide = max(abs(v) for v in ends) or 1.0
        rows.append(
            BesideRow(
                name=item.title,
                foretold=[v / wide for v in ends[:2]],
                found=[v / wide for v in ends[2:]],
                foretold_words=item.foretold.words,
                found_words=item.found.words,
                by=item.by,
                agrees=item.agrees,
            )
        )
    if not rows:
        return []
    return [BesideFigure(title=plain("What was foretold, and what the piece says"), rows=rows)]
