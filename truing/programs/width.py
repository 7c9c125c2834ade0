"""How wide a line a point cuts, over a face that is not level."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from truing.measure.words import Words, join, place, say, show, stated
from truing.programs.cutters import Cutter
from truing.programs.ground import Ground
from truing.programs.motions import X0, X1, Y0, Y1, Z0, Z1, Motions

Column = NDArray[np.float64]
Mask = NDArray[np.bool_]
EVERY_MM = 2.0
"""Along a line the width is worked out so often."""
MOST_PLACES = 50_000
AT_ONCE = 50_000
"""Motions: what all of them take at once would be as much as the program."""


class LineWidth(BaseModel):
    """Widths over everything that is cut (mm)."""

    least_mm: float
    most_mm: float
    words: Words


def line_width(motions: Motions, ground: Ground) -> LineWidth | None:
    """Of points: the tip, its runout, and 2·depth·tan(ψ/2), none where it does not touch.

    Depth is that of the face under it, by the map. None for other cutters, and where nothing is cut
    that could be known.
    """
    found = [
        line
        for part in ground.stretches(motions)
        if part.cutter.included_deg
        for line in _lines(part.of(motions), ground, part.cutter)
    ]
    if not found:
        return None
    x, y, narrow, wide = (np.concatenate(column) for column in zip(*found, strict=True))
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


def _lines(
    motions: Motions, ground: Ground, cutter: Cutter
) -> Iterator[tuple[Column, Column, Column, Column]]:
    """Places that a point cuts: x, y, how narrow its line may be there and how wide (mm); a part of
    the motions at a time."""
    left, front, right, rear = ground.board
    opens = 2 * math.tan(math.radians(cutter.included_deg / 2))

    def wide_at(depth: Column) -> Column:
        return np.where(depth > 0, cutter.tip_mm + ground.tir_mm + depth * opens, 0.0)

    for k in range(0, len(motions.at), AT_ONCE):
        here = slice(k, k + AT_ONCE)
        part = Motions(motions.at[here], motions.how[here], motions.odd)
        x, y, z = _places(part, max(1, MOST_PLACES // max(1, len(motions.at))))
        # what is on its way down or up at the highest place is no line
        on = (x >= left) & (x <= right) & (y >= front) & (y <= rear)
        on &= z < ground.highest_mm - 1e-6
        if not on.any():
            continue
        x, y, z = x[on], y[on], z[on]
        # where many points were read, a line is as narrow as over the lowest of them
        shallow, deep = _face(ground, x, y)
        yield x, y, wide_at(shallow - z), wide_at(deep - z)


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


def _places(motions: Motions, most: int) -> tuple[Column, Column, Column]:
    """Places along the straight motions at a feed, so many on each at the most, and the ends of its
    arcs."""
    at = motions.at[motions.cuts & np.isfinite(motions.at[:, : Z1 + 1]).all(axis=1)]
    if not len(at):
        none = np.empty(0)
        return none, none, none
    far = np.hypot(at[:, X1] - at[:, X0], at[:, Y1] - at[:, Y0])
    n = np.maximum(1, np.ceil(far / EVERY_MM)).astype(int)
    n = np.minimum(n, most)
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
