"""What stands off all around it: chips, screw heads, seams; pits, holes, grooves.

Of a few hundred points each is held against the surface through its neighbours. A log of thousands
is put into bins, and what is narrower than `WIDE_MM` is what an opening or a closing of it takes
away (grey-scale morphology).
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage, special

Heights = NDArray[np.float64]
FEW = 600
"""Points up to which each is looked at by itself."""
LEAST = 12
"""Of fewer the shape that they stand off may be theirs."""
AROUND = 12
"""Neighbours that tell how high it should be at a place."""
CRY_WOLF = 0.005
"""Rounds in which a clean point is called odd, on either side."""
MEDIANS = 0.37
"""What the median of sizes tells of a scatter, beside what all of them would (its efficiency)."""
MOST_GAIN = 10.0
"""By which a bend may make a reading's scatter larger where it foretells the next: beyond that a
plane foretells it better."""
MOST_FEW = 20
TIMES = 7.0
"""Of many points: so many times what they scatter."""
LEAST_MM = 0.1
"""And by that much: what is flatter is felt by nobody."""
WIDE_MM = 30.0
"""What is wider is the face itself."""
MOST_BINS = 8100
MOST_SHARE = 0.1
"""Of all: more than that is no speck but the bed."""


@dataclass(frozen=True)
class Odd:
    """Something that stands off: its furthest point, by how much (mm, plus up), and all of it."""

    at: int
    off_mm: float
    members: NDArray[np.intp]
    room_mm: float
    """How far around its points it may reach without another having been touched."""


def odd_ones(x: Heights, y: Heights, z: Heights, shape: Heights, stated_mm: float) -> list[Odd]:
    """What stands off, furthest first; `shape` (n,) is the bed's own at each point, `stated_mm`
    the standard deviation that a reading has at the least. None of fewer than `LEAST` points."""
    if len(x) < LEAST:
        return []
    found = _of_few(x, y, z, stated_mm) if len(x) <= FEW else _of_many(x, y, z - shape, stated_mm)
    for side in (1, -1):
        of_side = [odd for odd in found if side * odd.off_mm > 0]
        if sum(len(odd.members) for odd in of_side) > max(1.0, MOST_SHARE * len(x)):
            found = [odd for odd in found if side * odd.off_mm <= 0]
    return sorted(found, key=lambda odd: -abs(odd.off_mm))


def scatter_of(x: Heights, y: Heights, z: Heights, shape: Heights) -> tuple[float, int]:
    """Standard deviation of heights off the surface that runs through those around them, robust
    against what stands off, and its degrees of freedom; (0, 0) where too few were read."""
    n = len(x)
    if n < LEAST:
        return 0.0, 0
    if n <= FEW:
        off, gain, _ = _off_neighbours(x, y, z, np.ones(n, np.bool_))
        return _spread(off / gain), n - 6
    bins = _Bins.of(x, y)
    off = z - shape
    left = off - bins.of_each("mean", off)[bins.j, bins.i]
    inside = bins.count[bins.j, bins.i]
    several = inside > 1
    if not several.any():
        return 0.0, 0
    share = np.sqrt(inside[several] / (inside[several] - 1))
    return _spread(left[several] * share), int(n - (bins.count > 0).sum())


def _spread(values: Heights) -> float:
    return 1.4826 * float(np.median(np.abs(values - np.median(values))))


# --- few points, each by its neighbours -----------------------------------------------------------


def _off_neighbours(
    x: Heights, y: Heights, z: Heights, counts: NDArray[np.bool_]
) -> tuple[Heights, Heights, Heights]:
    """Of each point: how far it stands off the surface through its neighbours that count (mm), by
    what one reading's own scatter is to be multiplied for that, and how far the next one is."""
    from scipy.spatial import cKDTree

    known = np.flatnonzero(counts)
    k = min(AROUND, len(known) - 1)
    tree = cKDTree(np.column_stack([x[known], y[known]]))
    far, near = map(np.asarray, tree.query(np.column_stack([x, y]), k=k + 1))
    # itself is among them where it counts: it goes, else the furthest does
    own = known[near] == np.arange(len(x))[:, None]
    own[:, -1] |= ~own.any(axis=1)
    near = known[near[~own].reshape(len(x), k)]
    next_one = np.where(own[:, 0], far[:, 1], far[:, 0])
    u, v = x[near] - x[:, None], y[near] - y[:, None]
    size = np.maximum(np.abs(u), np.abs(v)).max(axis=1)[:, None]
    u, v = u / size, v / size
    one = np.ones_like(u)
    # bent where that can be told from so many, else a plane; at the place itself only the 1 counts
    bent = np.stack([one, u, v, u * u, u * v, v * v], axis=2)
    flat = bent[:, :, :3]
    best = np.full(len(x), np.inf)
    weights = np.zeros((len(x), k))
    for design in (flat, bent):
        if design.shape[2] >= k - 1:
            continue
        pinv = np.linalg.pinv(design, rcond=1e-6)
        whole = np.linalg.matrix_rank(design, tol=1e-6) == design.shape[2]
        w = pinv[:, 0, :]
        grown = (w**2).sum(axis=1)
        take = whole & ((grown < MOST_GAIN**2) | ~np.isfinite(best))
        weights[take], best[take] = w[take], grown[take]
    off = z - (weights * z[near]).sum(axis=1)
    return np.where(np.isfinite(best), off, 0.0), np.sqrt(1 + np.minimum(best, 1e6)), next_one


def _of_few(x: Heights, y: Heights, z: Heights, stated_mm: float) -> list[Odd]:
    """One after the other: the point without which the others agree best."""
    n = len(x)
    counts = np.ones(n, np.bool_)
    found: list[Odd] = []
    while len(found) < min(MOST_FEW, n - LEAST + 1):
        off, gain, _ = _off_neighbours(x, y, z, counts)
        ratio = np.where(counts, np.abs(off) / gain, 0.0)
        best: tuple[float, int] | None = None
        for i in np.argsort(-ratio)[:6]:
            rest = counts.copy()
            rest[i] = False
            apart, by, _ = _off_neighbours(x, y, z, rest)
            nu = MEDIANS * max(int(rest.sum()) - 6, 1)
            s = _spread((apart / by)[rest])
            if s < stated_mm:
                # what is stated counts as four degrees of freedom, unless it is contradicted
                s, nu = math.sqrt((4 * stated_mm**2 + nu * s**2) / (4 + nu)), nu + 4
            limit = float(special.stdtrit(nu, 1 - CRY_WOLF / (2 * n)))
            sure = abs(apart[i]) / by[i] / (limit * s)
            if sure > 1 and (best is None or sure > best[0]):
                best = (sure, int(i))
        if best is None:
            break
        counts[best[1]] = False
        found.append(Odd(best[1], 0.0, np.array([best[1]]), 0.0))
    if not found:
        return []
    off, _, near = _off_neighbours(x, y, z, counts)
    return [Odd(o.at, float(off[o.at]), o.members, float(near[o.at]) / 2) for o in found]


# --- many points, in bins -------------------------------------------------------------------------


@dataclass(frozen=True)
class _Bins:
    i: NDArray[np.intp]
    j: NDArray[np.intp]
    count: NDArray[np.intp]
    size_mm: float

    @classmethod
    def of(cls, x: Heights, y: Heights) -> _Bins:
        wide, deep = max(float(np.ptp(x)), 1e-9), max(float(np.ptp(y)), 1e-9)
        # three in each, about
        most = min(MOST_BINS, len(x) // 3)
        size = math.sqrt(wide * deep / most)
        nx, ny = max(1, round(wide / size)), max(1, round(deep / size))
        i = np.minimum((nx * (x - x.min()) / wide).astype(np.intp), nx - 1)
        j = np.minimum((ny * (y - y.min()) / deep).astype(np.intp), ny - 1)
        count = np.bincount(j * nx + i, minlength=nx * ny).reshape(ny, nx)
        return cls(i, j, count, size)

    def of_each(self, what: Literal["mean", "max"], values: Heights) -> Heights:
        """Of each bin; of an empty one that of the nearest which is not."""
        shape, at = self.count.shape, self.j * self.count.shape[1] + self.i
        if what == "mean":
            total = np.bincount(at, weights=values, minlength=self.count.size)
            found = total / np.maximum(self.count.ravel(), 1)
        else:
            found = np.full(self.count.size, -np.inf)
            np.maximum.at(found, at, values)
        found = found.reshape(shape)
        empty = self.count == 0
        if empty.any():
            near = ndimage.distance_transform_edt(
                empty, return_distances=False, return_indices=True
            )
            found = found[tuple(near)]
        return np.asarray(found)


def _of_many(x: Heights, y: Heights, off: Heights, stated_mm: float) -> list[Odd]:
    bins = _Bins.of(x, y)
    limit = max(
        LEAST_MM, TIMES * max(_spread(off - bins.of_each("mean", off)[bins.j, bins.i]), stated_mm)
    )
    size = 2 * math.ceil(WIDE_MM / 2 / bins.size_mm) + 1
    window = (min(size, bins.count.shape[0]), min(size, bins.count.shape[1]))
    found: list[Odd] = []
    for side in (1, -1):
        # of a bin that a seam only touches the rest is no hole: the highest of each, or the lowest
        high, low = bins.of_each("max", side * off), -bins.of_each("max", -side * off)
        # and what lies between two seams is none either: it stands out of a face without holes
        filled = np.maximum(high, ndimage.grey_closing(low, window, mode="nearest"))
        around = ndimage.grey_opening(filled, window, mode="nearest")
        apart = side * off - around[bins.j, bins.i]
        which = np.flatnonzero(apart > limit)
        found += [
            Odd(at, side * float(apart[at]), members, bins.size_mm / 2)
            for at, members in _together(bins, which, apart)
        ]
    return found


def _together(
    bins: _Bins, which: NDArray[np.intp], apart: Heights
) -> Iterator[tuple[int, NDArray[np.intp]]]:
    """(furthest, all) of the points that lie in bins beside each other."""
    if not len(which):
        return
    there = np.zeros(bins.count.shape, np.bool_)
    there[bins.j[which], bins.i[which]] = True
    label, _ = ndimage.label(there, np.ones((3, 3)))
    mine = label[bins.j[which], bins.i[which]]
    order = np.argsort(mine, kind="stable")
    for members in np.split(which[order], np.flatnonzero(np.diff(mine[order])) + 1):
        yield int(members[np.argmax(apart[members])]), members
