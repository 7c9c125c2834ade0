"""What a program runs on: material, what must not be cut, how far the machine reaches, the cutter.

All in the program's own coordinates (mm): its origin and its Z zero.
"""

from __future__ import annotations

import math

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from truing.programs.cutters import Cutter, Stretch, stretches, widest
from truing.programs.face import Box, Face, Patch
from truing.programs.frames import Frames
from truing.programs.motions import Motions
from truing.programs.spans import whole_span
from truing.programs.sweep import Grid, deepest_below, work_over
from truing.programs.timing import Drives

MOST_CELLS = 400_000
MOST_WORK = 3e8
"""Cells that all motions together may touch: the grid is made coarser for it."""


class Kept(BaseModel):
    """Something in the way: its outline, and how high it comes."""

    model_config = ConfigDict(frozen=True)

    name: str
    outline: list[tuple[float, float]]
    """Corners in order; two or more."""
    top_mm: float
    may_cut: bool = False
    """Brass or a nail: a cutter survives it."""
    wall: bool = False
    """Of the material itself, higher than its face: it is cut like that."""

    @property
    def may_meet(self) -> bool:
        """Whether a cutter survives it."""
        return self.may_cut or self.wall

    @property
    def shape(self) -> shapely.Geometry:
        """Its area, or the line of a thin one."""
        if len(self.outline) < 3:
            return shapely.LineString(self.outline)
        return shapely.Polygon(self.outline).buffer(0)


class Ground(BaseModel):
    """Where a program runs."""

    model_config = ConfigDict(frozen=True)

    board: Box
    top_mm: float = 0.0
    """Height of the material where no map says otherwise."""
    map: list[tuple[float, float, float]] = Field(default_factory=list)
    """Places and heights of its face, in the program's coordinates."""
    patches: list[Patch] = Field(default_factory=list)
    """Where many points were read: the lowest and the highest of each part."""
    floor_mm: float | None = None
    """Below it too little would be left."""
    kept: list[Kept] = Field(default_factory=list)
    margin_mm: float = 2.0
    """Room that a cutter's rim keeps from what must not be cut."""
    reach: Box | None = None
    """Where the spindle's centre can go."""
    safe_mm: float | None = None
    """Height from which on sideways rapids are safe."""
    cutter: Cutter
    """The one in the spindle, and that of every tool that the table does not have."""
    tools: dict[int, Cutter] = Field(default_factory=dict)
    """Cutters by the number that a program calls them with."""
    body_mm: float = 0.0
    """Diameter of the nut or the spindle's body over the cutter; 0 for not stated."""
    tir_mm: float = 0.0
    """By which a point runs out."""
    below_mm: float = 0.0
    """How far the cutter's end stands below that."""
    lean_mm: float = 0.0
    """By which a leaning cutter cuts deeper than its centre."""
    most_feed_mm_min: float = 0.0
    most_rev_per_min: float = 0.0
    by_hand: bool = False
    """The spindle is switched by hand."""
    spin_up_s: float = 2.0
    rapid_mm_min: float = 0.0
    """How fast the machine goes by itself; 0 where nobody stated it."""
    accel_mm_s2: float = 0.0
    low_mm: float | None = None
    """The lowest that the spindle takes the cutter's end to; None for not known."""
    high_mm: float | None = None
    """And the highest."""
    frames: Frames = Frames()
    """Where other zeros lie, and how long tools are."""

    @property
    def highest_mm(self) -> float:
        """The highest place of the material."""
        face = max(self.top_mm, self.face.highest_mm) if self.map else self.top_mm
        return max([face, *(k.top_mm for k in self.kept if k.wall)])

    @property
    def face(self) -> Face:
        """Its face, as far as it is mapped."""
        return Face(self.map, self.patches)

    @property
    def drives(self) -> Drives:
        """What its axes can do, as far as that was stated."""
        usual = Drives()
        v, a = self.rapid_mm_min, self.accel_mm_s2
        return Drives(
            rapid_mm_min=(v, v, v) if v else usual.rapid_mm_min,
            accel_mm_s2=(a, a, a) if a else usual.accel_mm_s2,
        )

    @property
    def safe(self) -> float:
        """Height of a safe rapid."""
        return self.safe_mm if self.safe_mm is not None else self.highest_mm + 0.5

    def stretches(self, motions: Motions) -> list[Stretch]:
        """A program's motions by the cutter that they run with."""
        return stretches(motions, self.cutter, self.tools)

    def surface(self, motions: Motions, spans: NDArray[np.float64]) -> Grid:
        """Its face where a program comes below it, on a grid that is fine enough for every cutter
        and coarse enough for the path. `spans` are those of its motions."""
        parts = self.stretches(motions)
        known = np.asarray(np.isfinite(motions.at[:, :6]).all(axis=1))
        top = self.highest_mm
        box = self.around(spans, known, widest(parts), below_mm=top)
        left, front, right, rear = box
        area = max((right - left) * (rear - front), 1e-6)
        most = max(right - left, rear - front) / 20
        face = Grid.over(box, most, top)
        cuts = []
        for part in parts:
            ran = part.of(motions)
            # a point is as wide as it goes deep
            deep = max(deepest_below(ran, face), 0.0)
            cuts.append((ran, part.cutter.tool().discs(deep)))
        finest = min(float(discs[-1, 0]) for _, discs in cuts)
        cell = max(finest / 12, math.sqrt(area / MOST_CELLS))
        while cell < most:
            work = sum(work_over(ran, box, top, discs, cell) for ran, discs in cuts)
            if work <= MOST_WORK:
                break
            cell *= min(2.0, max(1.05, math.sqrt(work / MOST_WORK)))
        return self.grid(box, min(cell, most))

    def grid(self, box: Box, cell_mm: float) -> Grid:
        """Its face over a box, walls on it."""
        grid = Grid.over(box, cell_mm, self.top_mm)
        if self.map:
            grid.up = self.face.high(grid.x, grid.y).astype(np.float32)
        for k in self.kept:
            if k.wall:
                # by half a cell more: a rim between two places is not missed
                area = k.shape.buffer(cell_mm / 2)
                inside = shapely.contains_xy(area, *np.meshgrid(grid.x, grid.y))
                grid.up[inside] = np.maximum(grid.up[inside], k.top_mm)
        return grid

    def around(
        self,
        spans: NDArray[np.float64],
        of: NDArray[np.bool_],
        room_mm: float,
        below_mm: float = math.inf,
    ) -> Box:
        """What of the board lies under some motions where they come below a height, and room around
        it; all of it where none does."""
        span = whole_span(spans, of, below_mm)
        if span is None:
            return self.board
        x0, x1, y0, y1 = (float(v) for v in span[:4])
        left, front, right, rear = self.board
        box = (
            max(left, x0 - room_mm),
            max(front, y0 - room_mm),
            min(right, x1 + room_mm),
            min(rear, y1 + room_mm),
        )
        return box if box[0] < box[2] and box[1] < box[3] else self.board

    def keep_grid(self, cutter: Cutter) -> Grid | None:
        """Over everything in the way: the height that a cutter's centre must not come below."""
        shapes = [k for k in self.kept if not k.may_meet]
        if not shapes:
            return None
        # the cutter keeps clear of it, and so does the wider body over the cutter, from higher up
        reaches = [(cutter.diameter_mm / 2, 0.0)]
        if self.body_mm > cutter.diameter_mm:
            reaches.append((self.body_mm / 2, self.below_mm))
        parts = [
            (k.shape.buffer(radius + self.margin_mm), k.top_mm - below)
            for k in shapes
            for radius, below in reaches
        ]
        areas = [area for area, _ in parts]
        left, front, right, rear = shapely.total_bounds(np.array(areas))
        cell = max(math.sqrt((right - left) * (rear - front) / MOST_CELLS), 0.25)
        grid = Grid.over((left - cell, front - cell, right + cell, rear + cell), cell, -np.inf)
        for area, top in parts:
            # half a cell less, so that a path along its rim is not taken for one inside of it
            core = area.buffer(-0.75 * cell)
            if core.is_empty:
                continue
            left, front, right, rear = core.bounds
            i = slice(*np.searchsorted(grid.x, (left, right + cell)))
            j = slice(*np.searchsorted(grid.y, (front, rear + cell)))
            inside = shapely.contains_xy(core, *np.meshgrid(grid.x[i], grid.y[j]))
            np.maximum(grid.up[j, i], top, out=grid.up[j, i], where=inside)
        return grid
