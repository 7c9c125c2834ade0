"""A map of a bed: heights in steps, the points on it, and a section wherever it is wanted."""

from __future__ import annotations

import numpy as np
from scipy.interpolate import griddata

from truing.checks.bed_map.evaluate import BedMapFinding, lies
from truing.drawing.figures import ContourFigure, ContourPoint
from truing.measure.words import Words, plain, show

ACROSS = 48
"""Cells of the drawing along the longer side."""
STEPS = (0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0)
WANTED = 7
"""Bands between lowest and highest, about."""
MOST_SHOWN = 80
"""Points that a drawing marks one by one."""


def contour(finding: BedMapFinding, limit_mm: float) -> list[ContourFigure]:
    """Linear between the points, nothing outside of them; none where they enclose no area."""
    x = np.array([c.x_mm for c in finding.cells])
    y = np.array([c.y_mm for c in finding.cells])
    up = np.array([c.up_mm for c in finding.cells])
    wide, deep = float(np.ptp(x)), float(np.ptp(y))
    if min(wide, deep) <= 0:
        return []
    columns = ACROSS if wide >= deep else max(6, round(ACROSS * wide / deep))
    rows = ACROSS if deep > wide else max(6, round(ACROSS * deep / wide))
    xs = x.min() + wide * (np.arange(columns) + 0.5) / columns
    ys = y.min() + deep * (np.arange(rows) + 0.5) / rows
    gx, gy = np.meshgrid(xs, ys)
    cells = griddata((x, y), up, (gx, gy), method="linear")
    most = float(up.max())
    step = min(STEPS, key=lambda s: abs(np.log(max(most, 1e-4) / WANTED / s)))
    points = finding.cells if len(finding.cells) <= MOST_SHOWN else []
    return [
        ContourFigure(
            title=plain("Height over its lowest point, seen from above"),
            x_mm=[float(v) for v in xs],
            y_mm=[float(v) for v in ys],
            up_mm=[[None if np.isnan(v) else float(v) for v in row] for row in cells],
            step_mm=step,
            step_words=show(step, step / 10),
            most_words=show(most, max(step / 10, 1e-4)),
            limit_mm=limit_mm,
            points=[
                ContourPoint(
                    label=lies(p),
                    x_mm=p.x_mm,
                    y_mm=p.y_mm,
                    words=_up(p.up_mm, step),
                )
                for p in [*points, *([] if points else [finding.highest, finding.lowest])]
            ],
        )
    ]


def _up(up_mm: float, step_mm: float) -> Words:
    return show(up_mm, max(step_mm / 10, 1e-4))
