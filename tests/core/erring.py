"""A machine with errors that cuts parts, point by point: where its tool really goes, and what is
measured on the part afterwards. No formula is shared with the core.

Everything is told in the frame of the table: X to the right, Y to the rear, Z up from its top.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from truing.jobs.features import (
    AnyFeature,
    Engraving,
    Face,
    Hole,
    Outline,
    Slot,
    SmallCutter,
    Thickness,
    TwoSides,
    Wall,
)

RIDGE = 1e-3


@dataclass(frozen=True)
class Erring:
    """Errors by the names that jobs give them: slopes in mm per m, lengths in mm."""

    errors: Mapping[str, float] = field(default_factory=dict)

    def of(self, name: str) -> float:
        """Slopes in mm per mm, lengths in mm; nothing for one that is not told."""
        value = self.errors.get(name, 0.0)
        slopes = ("lean", "slope", "rise", "square", "scale", "jaw")
        return value / 1000 if name.startswith(slopes) else value

    def right(self) -> np.ndarray:
        """Where the tool goes over the table for each mm to the right, by its scale."""
        return np.array([1 + self.of("scale_x"), 0.0, -self.of("slope_x")])

    def rear(self) -> np.ndarray:
        """Where it goes for each mm to the rear: out of square, and with the table's slope."""
        return np.array([self.of("square"), 1 + self.of("scale_y"), -self.of("slope_y")])

    def up(self, riser: str) -> np.ndarray:
        """Where it goes for each mm up."""
        way = np.array([self.of("slope_x"), self.of("slope_y"), 1.0])
        for i, axis in enumerate("xy"):
            name = f"rise_{riser}_{axis}"
            # a quill of which nothing is known that way slides along its spindle
            along = riser == "quill" and name not in self.errors
            way[i] = self.axis()[i] if along else way[i] + self.of(name)
        return way

    def axis(self) -> np.ndarray:
        """Along the spindle, up."""
        return np.array([self.of("lean_x"), self.of("lean_y"), 1.0])

    def faced(self, x: np.ndarray, y: np.ndarray, f: Face | Thickness) -> np.ndarray:
        """Height over the table of a milled face at places: the lowest that the disc ever came
        there. Passes run along the feed, far beyond both ends."""
        along, across = (x, y) if f.feed == "x" else (y, x)
        pass_, step = (self.right(), self.rear()) if f.feed == "x" else (self.rear(), self.right())
        if f.one_pass:
            rows = [0.0]
        else:
            half = math.ceil((f.across_mm / 2 + f.cutter_mm) / f.stepover_mm)
            rows = [k * f.stepover_mm for k in range(-half, half + 1)]
        r = f.cutter_mm / 2
        low = np.full(x.shape, np.inf)
        a, b = self.of("lean_x"), self.of("lean_y")
        for row, angle in itertools.product(rows, np.linspace(0, math.pi, 2)):
            # over a whole pass every place is met by both rims of the disc, and by all between
            w = across - row
            chord = np.sqrt(np.maximum(0.0, r * r - w * w)) * math.cos(angle)
            centre = (along - chord)[..., None] * pass_ + row * step
            du, dv = (chord, w) if f.feed == "x" else (w, chord)
            z = centre[..., 2] - a * du - b * dv
            low = np.where(np.abs(w) <= r, np.minimum(low, z), low)
        return low

    def wall(self, f: Wall | TwoSides, riser: str) -> float:
        """How far a wall is off over its depth, whichever of two opposite walls is worse: each
        stands where the flank of the cutter came furthest, at any of its levels."""
        i = 0 if f.faces == "x" else 1
        z = -np.linspace(0.0, f.depth_mm, 601)
        levels = np.arange(f.level_mm, f.depth_mm - 1e-9, f.level_mm)
        plus, minus = np.full(z.shape, -np.inf), np.full(z.shape, np.inf)
        up, axis = self.up(riser), self.axis()
        for depth in [*levels, f.depth_mm]:
            tip = -depth * up[i]
            over = z + depth
            flank = tip + over * axis[i]
            reached = (over >= -1e-9) & (over <= f.flute_mm + 1e-9)
            plus = np.where(reached, np.maximum(plus, flank), plus)
            minus = np.where(reached, np.minimum(minus, flank), minus)
        return float(max(np.ptp(plus), np.ptp(minus)))


def measured(machine: Erring, f: AnyFeature, riser: str, board: bool) -> dict[str, float]:
    """What is found on the part for each of a feature's demands, as a size."""
    if isinstance(f, (Face, Thickness)):
        return _faced(machine, f)
    if isinstance(f, Wall):
        wall = machine.wall(f, riser)
        return {"upright": wall, "along": abs(machine.of(f"jaw_{f.held}")) * f.length_mm}
    if isinstance(f, TwoSides):
        # turned over, what leaned one way leans the other
        wall = machine.wall(f, riser)
        askew = machine.of(f"jaw_{f.held}") * f.length_mm
        return {"match": wall * 2 + abs(askew - -askew)}
    if isinstance(f, Hole):
        return _hole(machine, f, riser if f.by == "usual" else f.by)
    if isinstance(f, Slot):
        return {"width": _slot(machine, f)}
    if isinstance(f, Outline):
        return _outline(machine, f)
    if isinstance(f, Engraving):
        return _engraved(machine, f, board)
    assert isinstance(f, SmallCutter)
    return {"load": _thickest_chip(machine.of("tir"), f) - 1}


def _faced(machine: Erring, f: Face | Thickness) -> dict[str, float]:
    across = np.linspace(-f.across_mm / 2, f.across_mm / 2, 1601)
    length = f.x_mm if f.feed == "x" else f.y_mm
    along = np.linspace(-length / 2, length / 2, 7)
    u, v = np.meshgrid(along, across, indexing="ij")
    x, y = (u, v) if f.feed == "x" else (v, u)
    z = machine.faced(x, y, f)
    if isinstance(f, Thickness):
        return {"thick": float(np.ptp(z)) + machine.of("flat") * 0}
    # a face is flat against the plane that the travels span
    plane = -machine.of("slope_x") * x - machine.of("slope_y") * y
    return {"flat": float(np.ptp(z - plane)) + abs(machine.of("flat"))}


def _hole(machine: Erring, f: Hole, riser: str) -> dict[str, float]:
    up, axis = machine.up(riser), machine.axis()
    wander = (up * f.depth_mm)[:2]
    lost = [machine.of(f"lost_{a}") if f.approach == "both" else 0.0 for a in "xy"]
    shake = machine.of("shake")
    place = max(
        math.hypot(lost[0] + shake * math.cos(t), lost[1] + shake * math.sin(t))
        for t in np.linspace(0, 2 * math.pi, 73)
    )
    # the tool's point goes round by half its runout
    size = machine.of("tir") / 2 * 2
    if f.cutter == "fluted":
        deep = np.linspace(0, f.depth_mm, 101)
        # where the flank crosses the mouth while its point is so deep
        at = deep[:, None] * (axis - up)[:2]
        size += float(np.hypot(*(at[-1] - at[0])))
    return {"upright": float(np.hypot(*wander)), "place": place, "size": size}


def _slot(machine: Erring, f: Slot) -> float:
    across = "y" if f.runs == "x" else "x"
    phases = np.linspace(0, 2 * math.pi, 361)
    edge = machine.of("tir") / 2 * np.cos(phases)
    play = machine.of(f"play_{f.runs}")
    width = float(np.ptp(edge)) + play
    return width + (machine.of(f"lost_{across}") if f.ways == "both" else 0.0)


def _outline(machine: Erring, f: Outline) -> dict[str, float]:
    def stands(x: float, y: float, from_x: int, from_y: int) -> np.ndarray:
        """Where the tool stands, having come from one side each way: it trails by half of what is
        lost."""
        at = x * machine.right() + y * machine.rear()
        at[0] -= from_x * machine.of("lost_x") / 2
        at[1] -= from_y * machine.of("lost_y") / 2
        return at

    # an outline is come to from without, a pocket from within
    wide, deep = 0.0, 0.0
    for way in (1, -1):
        left, right = stands(0, 0, -way, 1)[0], stands(f.x_mm, 0, way, 1)[0]
        front, rear = stands(0, 0, 1, -way)[1], stands(0, f.y_mm, 1, way)[1]
        wide = max(wide, abs(float(right - left) - f.x_mm))
        deep = max(deep, abs(float(rear - front) - f.y_mm))
    corner = [stands(x, y, 1, 1) for x, y in ((0, 0), (f.x_mm, 0), (0, f.y_mm))]
    one, other = corner[1] - corner[0], corner[2] - corner[0]
    leans = np.dot(one[:2], other[:2]) / np.linalg.norm(one[:2]) / np.linalg.norm(other[:2])
    return {
        "square": abs(float(leans)) * max(f.x_mm, f.y_mm),
        "size_x": wide,
        "size_y": deep,
    }


def _engraved(machine: Erring, f: Engraving, board: bool) -> dict[str, float]:
    """Lines everywhere, after Z was zeroed anywhere on the area: a cone set to one depth."""
    x, y = (np.linspace(-s / 2, s / 2, 9) for s in (f.x_mm, f.y_mm))
    gx, gy = np.meshgrid(x, y)
    if board:
        high = machine.of("bed") * np.cos(gx * 3) * np.cos(gy * 2) / 2
    else:
        bumps = machine.of("flat") * np.sin(gx) * np.sin(gy) / 2
        high = machine.of("slope_x") * gx + machine.of("slope_y") * gy + bumps
    high = high.ravel()
    deep = f.depth_mm + high[:, None] - high[None, :]
    wide = 2 * deep * math.tan(math.radians(f.angle_deg) / 2) + machine.of("tir")
    meant = 2 * f.depth_mm * math.tan(math.radians(f.angle_deg) / 2)
    return {"line": float(np.abs(wide - meant).max()), "there": float(f.depth_mm - deep.min())}


def _thickest_chip(tir: float, f: SmallCutter) -> float:
    """Teeth that follow each other into the work, each taking what those before it left."""
    worst = 0.0
    for phase in np.linspace(0, 2 * math.pi, 37):
        front = 0.0
        for n in range(12 * f.teeth):
            k = n % f.teeth
            out = tir / 2 * math.cos(2 * math.pi * k / f.teeth + phase)
            reach = n * f.chip_mm + out
            if n >= 6 * f.teeth:
                worst = max(worst, (reach - front) / f.chip_mm)
            front = max(front, reach)
    return worst


def found_by(machine: Erring, uncertain: float, rng: Any = None) -> dict[str, tuple[float, float]]:
    """(value, U) of each error as somebody may have measured it: U is a share of its size and a
    little more, and the value off by what U allows."""
    found = {}
    for name, value in machine.errors.items():
        expanded = uncertain * (abs(value) + 1e-3)
        off = 0.0 if rng is None else float(rng.normal(0, expanded / 2))
        found[name] = (value + off, expanded)
    return found
