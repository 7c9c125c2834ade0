"""How wide a line a point cuts, over a face that is not level."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from truing.measure.words import Words, join, place, say, show, stated
from truing.programs.ground import Ground
from truing.programs.motions import X0, X1, Y0, Y1, Z0, Z1, Motions

Column = NDArray[np.float64]
Mask = NDArray[np.bool_]
EVERY_MM = 2.0
"""Along a line the width is worked out so often."""
MOST_PLACES = 50_000


class LineWidth(BaseModel):
    """Widths over everything that is cut (mm)."""

    least_mm: float
    most_mm: float
    words: Words


def line_width(motions: Motions, ground: Ground) -> LineWidth | None:
    """Of a V cutter: its tip, its runout, and 2·depth·tan(ψ/2), none where it does not touch.

    Depth is that of the face under it, by the map. None for other cutters, and where nothing is cut
    that could be known.
    """
    cutter = ground.cutter
    if not cutter.included_deg:
        return None
    x, y, z = _places(motions)
    left, front, right, rear = ground.board
    on = (x >= left) & (x <= right) & (y >= front) & (y <= rear)
    x, y, z = x[on], y[on], z[on]
    shallow, deep = (up - z for up in _face(ground, x, y))
    # what is on its way down or up at the highest place is no line
    cut = z < ground.highest_mm - 1e-6
    if not cut.any():
        return None
    x, y = x[cut], y[cut]
    opens = 2 * math.tan(math.radians(cutter.included_deg / 2))

    def wide_at(depth: Column) -> Column:
        return np.where(depth > 0, cutter.tip_mm + ground.tir_mm + depth * opens, 0.0)

    # where many points were read, a line is as narrow as over the lowest of them
    narrow, wide = wide_at(shallow[cut]), wide_at(deep[cut])
    least, most = int(np.argmin(narrow)), int(np.argmax(wide))
    told = [
        say(
            "Its line is {a} to {b} wide.",
            a=show(narrow[least], 0.01),
            b=show(wide[most], 0.01),
        )
    ]
    gone: Mask = narrow <= 0
    if gone.any():
        told.append(_where("It vanishes", gone, x, y))
    usual = float(np.median(wide))
    double: Mask = (wide > 2 * usual) & (usual > 0)
    if double.any():
        told.append(_where("It is more than twice as wide as elsewhere", double, x, y))
    return LineWidth(least_mm=float(narrow[least]), most_mm=float(wide[most]), words=join(told))


def _where(
    what: str, which: NDArray[np.bool_], x: NDArray[np.float64], y: NDArray[np.float64]
) -> Words:
    k = int(np.flatnonzero(which)[0])
    return say(
        "{what} about {at}{share}.",
        what=what,
        at=stated(f"X {place(round(float(x[k]), 1))} mm Y {place(round(float(y[k]), 1))} mm"),
        share=f", over {100 * which.mean():.0f} % of what is cut" if which.mean() > 0.01 else "",
    )


def _places(motions: Motions) -> tuple[Column, Column, Column]:
    """Places along the straight motions at a feed, and the ends of its arcs."""
    at = motions.at[motions.cuts & np.isfinite(motions.at[:, : Z1 + 1]).all(axis=1)]
    if not len(at):
        none = np.empty(0)
        return none, none, none
    far = np.hypot(at[:, X1] - at[:, X0], at[:, Y1] - at[:, Y0])
    n = np.maximum(1, np.ceil(far / EVERY_MM)).astype(int)
    n = np.minimum(n, max(1, MOST_PLACES // len(at)))
    row = np.repeat(np.arange(len(at)), n)
    t = (np.arange(n.sum()) - np.repeat(np.cumsum(n) - n, n) + 1) / n[row]
    ends = at[row]
    x, y, z = (
        ends[:, a] + (ends[:, b] - ends[:, a]) * t for a, b in ((X0, X1), (Y0, Y1), (Z0, Z1))
    )
    return x, y, z


def _face(ground: Ground, x: Column, y: Column) -> tuple[Column, Column]:
    """Height of the face at these places, at the least and at the most: by the map on a fine grid,
    or level."""
    if not ground.map:
        level = np.full(len(x), ground.top_mm)
        return level, level
    left, front, right, rear = ground.board
    gx, gy = np.linspace(left, right, 120), np.linspace(front, rear, 120)
    i = np.clip(np.rint((x - left) / (right - left) * 119).astype(int), 0, 119)
    j = np.clip(np.rint((y - front) / (rear - front) * 119).astype(int), 0, 119)
    face = ground.face
    return np.asarray(face.low(gx, gy)[j, i]), np.asarray(face.high(gx, gy)[j, i])
