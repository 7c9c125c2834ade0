"""A program's path thinned out for a screen, and what it leaves, as a small grid."""

from __future__ import annotations

import math

import numpy as np
from pydantic import BaseModel

from truing.measure.words import Words, show
from truing.programs.ground import Ground
from truing.programs.motions import X0, X1, Y0, Y1, Z0, Z1, Motions
from truing.programs.relief import relief
from truing.programs.sweep import Grid, Tool

MOST_MOVES = 2000
MOST_CELLS = 12_000


class Picture(BaseModel):
    """Path and relief in the program's coordinates (mm)."""

    cuts: list[list[float]]
    """x0, y0, x1, y1, z of motions at a feed, thinned out."""
    rapids: list[list[float]]
    thinned: int
    """How many motions stand behind each that is drawn, about."""
    x_mm: list[float]
    y_mm: list[float]
    depth_mm: list[list[float]]
    """What is taken off, downward (mm)."""
    most_mm: float
    most_words: Words
    ridge_words: Words | None
    """What stands between the passes at the lowest level; None where that cannot be told."""


def picture(motions: Motions, ground: Ground, lean_x: float = 0.0, lean_y: float = 0.0) -> Picture:
    """For drawing; leans in mm per mm."""
    every = max(1, math.ceil(len(motions.at) / MOST_MOVES))
    at = motions.at
    known = np.isfinite(at[:, [X0, Y0, Z0, X1, Y1, Z1]]).all(axis=1)

    def lines(which: np.ndarray) -> list[list[float]]:
        rows = at[known & which][::every]
        return [[round(float(r[i]), 3) for i in (X0, Y0, X1, Y1, Z1)] for r in rows]

    left, front, right, rear = ground.board
    cell = math.sqrt(max((right - left) * (rear - front), 1e-6) / MOST_CELLS)
    grid = Grid.over(ground.board, cell, ground.highest_mm)
    tool = ground.cutter.tool(lean_x, lean_y)
    relief(motions, Tool(**{**tool.__dict__}), grid)
    depth = ground.highest_mm - grid.up
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
        ridge_words=_ridges(depth, most),
    )


def _ridges(depth: np.ndarray, most: float) -> Words | None:
    """Between highest and lowest of the deepest level's face, by its middle nine tenths."""
    face = depth[depth > most - 0.2]
    if most <= 0 or len(face) < 100:
        return None
    low, high = np.percentile(face, [5, 95])
    return show(float(high - low), 0.001)
