"""A program's path thinned out for a screen, and what it leaves, as a small grid."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from pydantic import BaseModel

from truing.measure.words import Words, show
from truing.programs.arcs import arc_angle
from truing.programs.cutters import widest
from truing.programs.face import Box
from truing.programs.ground import Ground
from truing.programs.motions import (
    CENTRE_1,
    CENTRE_2,
    FLAGS,
    KIND,
    X0,
    X1,
    Y0,
    Y1,
    Z0,
    Z1,
    Kind,
    Motions,
)
from truing.programs.relief import CHORD_MM, relief
from truing.programs.spans import spans
from truing.programs.sweep import Grid, Tool, deepest_below, work_over
from truing.programs.width import LineWidth, line_width

MOST_MOVES = 2000
MOST_CELLS = 12_000
ARC_CHORDS = 60
MANY_ARCS = 20_000
COARSE_MM = 0.05
"""Of so many arcs the chords may leave them by more: nobody sees it on a screen."""
MOST_WORK = 5e7
"""Cells that all motions together may touch: the picture is made coarser for it."""
MOST_DRAWN = 2e8
"""Or may be reckoned to touch at its coarsest: of more, which go over each place many times, some
stand for all."""


class Picture(BaseModel):
    """Path and relief in the program's coordinates (mm)."""

    cuts: list[list[float]]
    """x0, y0, x1, y1, z of motions at a feed, thinned out."""
    rapids: list[list[float]]
    thinned: int
    """How many motions stand behind each line that is drawn, about."""
    x_mm: list[float]
    y_mm: list[float]
    depth_mm: list[list[float]]
    """What is taken off, downward (mm)."""
    most_mm: float
    most_words: Words
    ridge_words: Words | None
    """What stands between the passes at the lowest level; None where that cannot be told."""
    line: LineWidth | None = None
    """Of a point: how wide its line is over the board's map."""


def picture(motions: Motions, ground: Ground, lean_x: float = 0.0, lean_y: float = 0.0) -> Picture:
    """For drawing; leans in mm per mm."""
    every = max(1, math.ceil(len(motions.at) / MOST_MOVES))
    at = motions.at
    known = np.isfinite(at[:, [X0, Y0, Z0, X1, Y1, Z1]]).all(axis=1)

    def lines(which: np.ndarray) -> list[list[float]]:
        of = np.flatnonzero(known & which)[::every]
        found = [_lines(at[k], motions.how[k]) for k in of]
        all_of_them: list[list[float]] = np.round(
            np.concatenate([np.empty((0, 5)), *found]), 3
        ).tolist()
        return all_of_them

    parts = ground.stretches(motions)
    boxes = spans(motions)
    seen = ground.around(boxes, known & motions.cuts, widest(parts))
    runs = [(part.of(motions), part.cutter.tool(lean_x, lean_y)) for part in parts]
    cell, work = _cell(runs, ground, seen)
    fewer = math.ceil(work / MOST_DRAWN)
    runs = [
        (_some(ran, boxes[part.first : part.end, 4], fewer), tool)
        for part, (ran, tool) in zip(parts, runs, strict=True)
    ]
    grid = ground.grid(seen, cell)
    before = grid.up.copy()
    many = int((motions.how[:, KIND] >= Kind.CW).sum()) > MANY_ARCS
    for ran, tool in runs:
        relief(ran, tool, grid, max(COARSE_MM, cell / 5) if many else CHORD_MM)
    depth = before - grid.up
    most = float(depth.max(initial=0.0))
    return Picture(
        cuts=lines(motions.cuts),
        rapids=lines(motions.rapids),
        thinned=every,
        x_mm=[round(float(v), 3) for v in grid.x],
        y_mm=[round(float(v), 3) for v in grid.y],
        depth_mm=[[round(float(v), 3) for v in row] for row in depth],
        most_mm=most,
        most_words=show(most, 0.01),
        ridge_words=None if any(tool.slope for _, tool in runs) else _ridges(depth, most),
        line=line_width(motions, ground),
    )


def _some(ran: Motions, lowest: np.ndarray, every: int) -> Motions:
    """One of so many of them, about, and the deepest; `lowest` is how deep each comes."""
    if every <= 1:
        return ran
    low = np.where(ran.cuts, lowest, np.nan)
    # an odd step meets what goes by turns
    of = np.arange(0, len(low), every | 1)
    if np.isfinite(low).any():
        of = np.union1d(of, np.nanargmin(low))
    return ran._replace(at=ran.at[of], how=ran.how[of])


def _cell(runs: Sequence[tuple[Motions, Tool]], ground: Ground, box: Box) -> tuple[float, float]:
    """As fine as a screen shows it, unless that would take long for what runs to and fro in it; and
    how many cells all of it then touches, about."""
    left, front, right, rear = box
    cell = math.sqrt(max((right - left) * (rear - front), 1e-6) / MOST_CELLS)
    cell = max(cell, min(tool.radius_mm for _, tool in runs) / 500)
    coarse = max(right - left, rear - front) / 40
    face = Grid.over(box, max(coarse, cell), ground.highest_mm)
    widest = [(ran, tool.discs(max(deepest_below(ran, face), 0.0))[-1:]) for ran, tool in runs]

    def work() -> float:
        return sum(work_over(ran, box, ground.highest_mm, discs, cell) for ran, discs in widest)

    touched = work()
    while cell < coarse and touched > MOST_WORK:
        cell *= 1.4
        touched = work()
    return cell, touched


def _lines(row: np.ndarray, ways: np.ndarray) -> np.ndarray:
    """(n, 5): a motion seen from above, from and to, and the height at its end: one line, or the
    chords of an arc."""
    if ways[KIND] < Kind.CW or ways[FLAGS] & 3:
        return row[[X0, Y0, X1, Y1, Z1]][None]
    a0, angle, r0, r1 = arc_angle(row, ways)
    n = max(2, min(ARC_CHORDS, math.ceil(abs(angle) / 0.15)))
    t = np.linspace(0, 1, n + 1)
    a, r = a0 + angle * t, r0 + (r1 - r0) * t
    x, y = row[CENTRE_1] + r * np.cos(a), row[CENTRE_2] + r * np.sin(a)
    return np.column_stack([x[:-1], y[:-1], x[1:], y[1:], np.full(n, row[Z1])])


def _ridges(depth: np.ndarray, most: float) -> Words | None:
    """Between highest and lowest of the deepest level's face, by its middle nine tenths."""
    face = depth[depth > most - 0.2]
    if most <= 0 or len(face) < 100:
        return None
    low, high = np.percentile(face, [5, 95])
    return show(float(high - low), 0.001)
