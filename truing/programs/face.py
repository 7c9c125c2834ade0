"""The face of what is cut: heights from points, and of many points the highest and the lowest that
were met in each part.

All in one frame (mm). Where only a few hundred points were read, the face runs straight between
them. A log of thousands is kept in parts: between the means of two parts may stand a seam, so what
a cutter has to clear goes by the highest of each, and what it has to reach by the lowest.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

Box = tuple[float, float, float, float]
"""Left, front, right, rear."""
Point3 = tuple[float, float, float]
Column = NDArray[np.float64]

SMOOTH_MM = 0.02
"""So much about what slopes through them, points are a face; beyond it something stands there."""


class Part(BaseModel):
    """A rectangle of a face (mm)."""

    model_config = ConfigDict(frozen=True)

    left_mm: float
    front_mm: float
    right_mm: float
    rear_mm: float

    @classmethod
    def within(cls, box: Box, **more: float) -> Self:
        """Of a box, with what else is known of it."""
        left, front, right, rear = box
        return cls(left_mm=left, front_mm=front, right_mm=right, rear_mm=rear, **more)

    @property
    def box(self) -> Box:
        return self.left_mm, self.front_mm, self.right_mm, self.rear_mm

    @property
    def middle(self) -> tuple[float, float]:
        return (self.left_mm + self.right_mm) / 2, (self.front_mm + self.rear_mm) / 2


class Patch(Part):
    """A part of a face in which many points were read: the lowest and the highest (mm)."""

    low_mm: float
    high_mm: float

    def moved(self, x_mm: float, y_mm: float, up_mm: float) -> Patch:
        """The same, seen from another zero: by how much its places and heights get more."""
        left, front, right, rear = self.box
        return Patch.within(
            (left + x_mm, front + y_mm, right + x_mm, rear + y_mm),
            low_mm=self.low_mm + up_mm,
            high_mm=self.high_mm + up_mm,
        )


class Hole(Part):
    """A pit, hole or groove in a face, which no cut at its depth is to reach: the height of its
    floor, and how far that lies below what is around it (mm)."""

    low_mm: float
    deep_mm: float


def _within(box: Box, x_mm: float, y_mm: float) -> bool:
    left, front, right, rear = box
    return left <= x_mm <= right and front <= y_mm <= rear


@dataclass(frozen=True)
class Face:
    """Points (means of many, where there are patches) and patches."""

    points: Sequence[Point3]
    patches: Sequence[Patch] = ()

    def high(self, x: Column, y: Column) -> Column:
        """The highest that may stand at each place of a grid (len(y), len(x))."""
        return self._bound(x, y, 1)

    def low(self, x: Column, y: Column) -> Column:
        """The lowest that the face may be at each place of a grid (len(y), len(x))."""
        return self._bound(x, y, -1)

    def high_at(self, places: Sequence[tuple[float, float]]) -> float:
        """The highest of a few places."""
        x, y = np.array(places, float).reshape(-1, 2).T
        up = _at(self.points, x, y)
        if self.patches:
            up = np.maximum(up, _at(self._ends(1), x, y))
            boxes = np.array([p.box for p in self.patches])[:, :, None]
            inside = (boxes[:, 0] <= x) & (x < boxes[:, 2]) & (boxes[:, 1] <= y) & (y < boxes[:, 3])
            high = np.array([p.high_mm for p in self.patches])[:, None]
            up = np.maximum(up, np.where(inside, high, -np.inf).max(axis=0))
        return float(up.max())

    def about(self, x_mm: float, y_mm: float) -> tuple[float, float]:
        """The least and the most that the face may be at a place on which somebody zeroes: what is
        read there may be any of what lies about it, but for how it slopes."""

        def mean(places: Sequence[tuple[float, float]]) -> list[float]:
            return [
                float(heights(self.points, np.array([x]), np.array([y]))[0, 0]) for x, y in places
            ]

        [middle] = mean([(x_mm, y_mm)])
        here = [p for p in self.patches if _within(p.box, x_mm, y_mm)]
        if not here:
            return middle, middle
        low, high = min(p.low_mm for p in here), max(p.high_mm for p in here)
        below = above = 0.0
        for patch in here:
            left, front, right, rear = patch.box
            slope = mean([(left, front), (right, front), (left, rear), (right, rear)])
            below = max(below, min(slope) - patch.low_mm)
            above = max(above, patch.high_mm - max(slope))
        if max(below, above) > SMOOTH_MM:
            return low, high
        middle = min(max(middle, low), high)
        return middle - below, middle + above

    @property
    def highest_mm(self) -> float:
        """Of all that was read."""
        return max([*(p.high_mm for p in self.patches), *(z for _, _, z in self.points)])

    def _ends(self, side: int) -> list[Point3]:
        """What is met at least beyond the outermost parts, and between two of them."""
        return [(*p.middle, p.high_mm if side > 0 else p.low_mm) for p in self.patches]

    def _bound(self, x: Column, y: Column, side: int) -> Column:
        up = heights(self.points, x, y)
        if not self.patches:
            return up
        further = np.maximum if side > 0 else np.minimum
        up = further(up, heights(self._ends(side), x, y))
        for patch in self.patches:
            left, front, right, rear = patch.box
            i, j = np.searchsorted(x, (left, right)), np.searchsorted(y, (front, rear))
            part = up[j[0] : j[1], i[0] : i[1]]
            further(part, patch.high_mm if side > 0 else patch.low_mm, out=part)
        return up


def heights(
    points: Sequence[tuple[float, float, float]],
    x: NDArray[np.float64],
    y: NDArray[np.float64],
) -> NDArray[np.float64]:
    """Heights over a grid (len(y), len(x)) from points: linear between them, and outside of them
    as high as the highest of the nearest, since nothing is known there. Not to be written to."""
    return _heights(_known(points), np.asarray(x, float).tobytes(), np.asarray(y, float).tobytes())


def _known(points: Sequence[Point3]) -> tuple[tuple[float, ...], ...]:
    return tuple(tuple(map(float, point)) for point in points)


def _at(points: Sequence[Point3], x: Column, y: Column) -> Column:
    """As `heights`, at some places each by itself."""
    if len(points) < 4:
        return np.full(len(x), max((z for _, _, z in points), default=0.0))
    linear, nearest = _between(_known(points))
    found = np.asarray(linear(x, y))
    return np.where(np.isnan(found), nearest(x, y), found)


# one face is asked for several times: for both ways of reading a program, and for its picture
@lru_cache(maxsize=4)
def _heights(points: tuple[tuple[float, ...], ...], x: bytes, y: bytes) -> NDArray[np.float64]:
    from scipy.ndimage import maximum_filter

    gx, gy = np.meshgrid(np.frombuffer(x), np.frombuffer(y))
    if len(points) < 4:
        found = np.full(gx.shape, max((z for _, _, z in points), default=0.0))
    else:
        linear, nearest = _between(points)
        found = np.asarray(linear(gx, gy))
        outside = np.isnan(found)
        if outside.any():
            size = max(3, min(gx.shape) // 8)
            found[outside] = maximum_filter(nearest(gx, gy), size=size)[outside]
    found.flags.writeable = False
    return found


@lru_cache(maxsize=4)
def _between(points: tuple[tuple[float, ...], ...]) -> tuple[Any, Any]:
    """What stands between points of a map, and what is nearest to them."""
    from scipy.interpolate import LinearNDInterpolator, NearestNDInterpolator
    from scipy.spatial import QhullError

    places, up = np.array(points)[:, :2], np.array(points)[:, 2]
    nearest = NearestNDInterpolator(places, up)
    try:
        return LinearNDInterpolator(places, up), nearest
    except QhullError:
        # all in one row: nothing stands between them and a fourth
        return nearest, nearest
