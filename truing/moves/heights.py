"""Shims that bring pads of different heights onto one plane: rails, and whatever lies on them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from itertools import islice

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel
from scipy.optimize import linprog

from truing.kit.shims import Shim
from truing.machine import Pad
from truing.moves.dealing import Dealer, dealt
from truing.moves.flatness import Flatness, off_plane, places
from truing.moves.pads import MOST_PADS, SAME_MM, flattest, least_off, stacks_for
from truing.moves.shims import (
    Goal,
    PadModel,
    empty_stock,
    nearest_of,
    pieces_of,
    searched,
    stacks_of,
    sums_of,
    useful,
)

MANY_NODES = 300
MANY_GAP = 0.02
"""Of the search for many pads as an integer programme, which is given up sooner."""
TIP_MM = 0.01
TIPS, LIFTS = 17, 49
"""How many ways a plane is tipped and raised to where the stock serves it best: by twice as much as
stacks are apart, and TIP_MM at least."""
FEW, AMPLE = 24, 2.0
"""Pads times thicknesses that whole numbers are searched for in a moment; with more of them it is
only where pieces dealt out leave pads further off than so many times what is near."""
NEAR_MM = 0.0005
"""How near to what a full tin would reach stacks need no further search: less than any shim is true
to."""
KEPT, TRIALS, LOOKED_AT = 60, 60, 12
SPREAD = 300
FINER = (0.2, 0.1, 0.05, 0.025, 0.01)
"""The best of those planes, so many trials round each of them in ever finer steps (as shares of how
far stacks are apart), and how many of the best are looked at stack by stack. Before they are made
finer, so many of them are kept for dealing pieces out where those run short."""


NEAREST = 12
"""Stacks for each of two pads that are tried against each other."""


class LevelPlan(BaseModel):
    """Stacks that bring every pad onto one plane, and what is left."""

    stacks_mm: list[list[float]]
    left_mm: list[float]
    """How far each pad then stands off the plane; plus is high."""
    off_plane_mm: float


def plan_heights(
    pads: Sequence[Pad],
    heights_mm: Sequence[float],
    stock: Sequence[Shim],
    *,
    most_pieces: int,
) -> LevelPlan:
    """Stacks that bring pads of these heights (with the shims that lie there now) onto one plane.

    Which plane is free; goals, one after the other: the largest distance from it, not below half of
    the stock's tolerance; the lowest tallest stack; the fewest pieces moved in or out. Up to
    `MOST_PADS` pads are searched together, as an integer programme where that is too much to be
    looked through. Of more each gets its nearest stack under the best of many planes; where the
    stock runs short it is bettered two pads at a time, and where that does not come near what a
    full tin would reach, pieces are dealt out under each of many planes. A search for all together
    competes with that where it leaves much, or where whole numbers are few. Problem as in
    `plan_pads`.
    """
    there = [[round(t, 6) for t in pad.shims_mm] for pad in pads]
    pieces = pieces_of(stock, there)
    if not pieces:
        raise empty_stock(max(heights_mm) - min(heights_mm))
    stacks = None
    if len(pads) <= MOST_PADS:
        stacks = _jointly(pads, heights_mm, there, stock, pieces, most_pieces)
    if stacks is None:
        stacks = _many(pads, heights_mm, there, stock, pieces, most_pieces)
    then = [h - sum(old) + sum(new) for h, old, new in zip(heights_mm, there, stacks, strict=True)]
    left, off = off_plane(pads, then)
    return LevelPlan(stacks_mm=stacks, left_mm=left, off_plane_mm=off)


def _jointly(
    pads: Sequence[Pad],
    heights_mm: Sequence[float],
    there: Sequence[Sequence[float]],
    stock: Sequence[Shim],
    pieces: Counter[float],
    most_pieces: int,
) -> list[list[float]] | None:
    tolerance = max([s.tolerance_mm for s in stock] or [0.003])
    bare = [h - sum(t) for h, t in zip(heights_mm, there, strict=True)]
    every = stacks_for(pieces, most_pieces)
    if every:
        exact = flattest(pads, bare, every, there, tolerance / 2)
        if exact is None:
            least = least_off(pads, bare, every, there, tolerance / 2)
            exact = None if least is None else flattest(pads, bare, every, there, least)
        if exact is not None:
            return exact
    sizes = searched(pieces, there)
    model = PadModel(pads, sizes, there, bare)
    model.limit_pieces(pieces, most_pieces)
    goals = (Goal("off_plane", floor=tolerance / 2), Goal("tallest"), Goal("changes"))
    counts = model.settle(goals)
    return stacks_of(counts, sizes) if counts is not None else None


def _many(
    pads: Sequence[Pad],
    heights_mm: Sequence[float],
    there: Sequence[Sequence[float]],
    stock: Sequence[Shim],
    pieces: Counter[float],
    most_pieces: int,
) -> list[list[float]]:
    bare = np.array([h - sum(t) for h, t in zip(heights_mm, there, strict=True)])
    pieces = useful(pieces, float((_from_above(pads, bare) - bare).max()), there)
    enough = max([s.tolerance_mm for s in stock] or [0.003]) / 2
    flatness = Flatness(pads)

    def off(stacks: Sequence[Sequence[float]]) -> float:
        return flatness.off(_stood(bare, stacks))

    best, planes, reach = _over_planes(pads, heights_mm, there, pieces, most_pieces, flatness)
    near = max(min(reach), enough) + NEAR_MM
    if off(best) > near:
        best = bettered(flatness, bare, best, pieces, most_pieces, enough)
    fewer = (stacks_for(pieces, n) for n in range(most_pieces, 0, -1))
    every = next((stacks for stacks in fewer if stacks), None)
    if off(best) > near and every:
        best = dealt(Dealer(every), planes, reach, off, best, enough)
        best = bettered(flatness, bare, best, pieces, most_pieces, enough)
    sizes = searched(pieces, there)
    if len(sizes) < len(pieces):
        # what is left out for the programme serves better dealt out as it is
        return best
    few = len(pads) * len(sizes) <= FEW or every is None
    if off(best) <= (near if few else AMPLE * near):
        return best
    model = PadModel(pads, sizes, there, list(bare))
    model.limit_pieces(pieces, most_pieces)
    goal = Goal("off_plane", floor=enough)
    counts = model.settle((goal,), nodes=MANY_NODES, gap=MANY_GAP)
    if counts is not None:
        best = min(best, stacks_of(counts, sizes), key=off)
    return bettered(flatness, bare, best, pieces, most_pieces, enough)


def _stood(bare: NDArray[np.float64], stacks: Sequence[Sequence[float]]) -> NDArray[np.float64]:
    return np.asarray(bare + np.array([sum(s) for s in stacks]))


def bettered(
    flatness: Flatness,
    bare: NDArray[np.float64],
    stacks: list[list[float]],
    pieces: Counter[float],
    most_pieces: int,
    enough: float,
) -> list[list[float]]:
    """The pad that stands furthest off changes its stack, alone or with pieces from another pad, as
    long as that brings all of them nearer to one plane, or until they are near `enough`."""
    sums = [(h, Counter(s)) for h, s in sums_of(pieces, most_pieces)]
    heights = np.array([h for h, _ in sums])
    left, off = off_plane(flatness.pads, _stood(bare, stacks))
    while off > enough:
        better: tuple[float, list[list[float]]] | None = None
        worst = max(range(len(left)), key=lambda i: abs(left[i]))
        for other in range(len(left)):
            pair = _pair(left, stacks, worst, other, sums, heights, pieces)
            if pair is None:
                continue
            trial = list(stacks)
            trial[worst], trial[other] = pair
            then = flatness.off(_stood(bare, trial))
            if then < off - SAME_MM and (better is None or then < better[0] - SAME_MM):
                better = (then, trial)
        if better is None:
            break
        stacks = better[1]
        left, off = off_plane(flatness.pads, _stood(bare, stacks))
    return stacks


def _pair(
    left: Sequence[float],
    stacks: Sequence[Sequence[float]],
    one: int,
    other: int,
    sums: Sequence[tuple[float, Counter[float]]],
    heights: NDArray[np.float64],
    pieces: Counter[float],
) -> tuple[list[float], list[float]] | None:
    """Stacks for two pads, from what they have and what is free, that leave the worse of them
    nearest to the plane as it lies; `one` alone where both are the same."""
    used = Counter(t for i, s in enumerate(stacks) if i not in (one, other) for t in s)
    free = pieces - used
    want = [sum(stacks[i]) - left[i] for i in (one, other)]
    near = [
        # looked through from the nearest on: most of them are never asked for
        list(islice(_free(sums, np.argsort(np.abs(heights - w), kind="stable"), free), NEAREST))
        for w in want
    ]
    best: tuple[float, Counter[float], Counter[float]] | None = None
    for h, s in near[0]:
        for k, t in near[1] if one != other else [(want[1], Counter[float]())]:
            miss = max(abs(h - want[0]), abs(k - want[1]))
            if (best is None or miss < best[0]) and s + t <= free:
                best = (miss, s, t)
    if best is None:
        return None
    first, second = (sorted(c.elements(), reverse=True) for c in best[1:])
    return (first, second) if one != other else (first, first)


def _free(
    sums: Sequence[tuple[float, Counter[float]]], order: NDArray[np.intp], free: Counter[float]
) -> Iterator[tuple[float, Counter[float]]]:
    """Those that free pieces make up, in an order."""
    for i in order:
        if all(free[t] >= n for t, n in sums[i][1].items()):
            yield sums[i]


def _over_planes(
    pads: Sequence[Pad],
    heights_mm: Sequence[float],
    there: Sequence[Sequence[float]],
    pieces: Counter[float],
    most_pieces: int,
    flatness: Flatness,
) -> tuple[list[list[float]], NDArray[np.float64], list[float]]:
    """Under each of many planes the nearest stack for every pad; of those the stacks that come
    nearest to one plane. Beside them the heights that are wanted under the best of those planes
    (planes × pads), and how near to each of them pads would come with pieces enough.

    Heights that can be stacked stand apart by the thinnest shim; which of them a plane falls
    between is what counts, so the plane is searched for: from the one that touches the bare pads
    from above, raised, lowered and tipped on a grid, then round the best of those ever more finely.
    """
    bare = np.array([h - sum(t) for h, t in zip(heights_mm, there, strict=True)])
    wanted = _from_above(pads, bare) - bare
    sums = sums_of(pieces, most_pieces)
    heights = np.array([h for h, _ in sums])
    between = (heights[1:] + heights[:-1]) / 2
    at = places(pads)

    def misses(planes: NDArray[np.float64]) -> NDArray[np.float64]:
        high = wanted + planes @ at.T
        nearest = heights[np.searchsorted(between, high)]
        return np.asarray(np.abs(nearest - high).max(axis=1))

    apart = float(np.diff(heights).max(initial=TIP_MM, where=heights[1:] <= wanted.max() + TIP_MM))
    tips, lifts = np.linspace(-2 * apart, 2 * apart, TIPS), np.linspace(-apart, 2 * apart, LIFTS)
    planes = np.array(np.meshgrid(tips, tips, lifts)).reshape(3, -1).T
    spread = planes[np.argsort(misses(planes), kind="stable")[:SPREAD]]
    planes = spread[:KEPT]
    # the same for the same pads, whenever asked
    rng = np.random.default_rng(0)
    for share in FINER:
        round_them = planes[:, None, :] + rng.normal(0.0, share * apart, (len(planes), TRIALS, 3))
        tried = np.vstack([planes, round_them.reshape(-1, 3)])
        planes = tried[np.argsort(misses(tried), kind="stable")[:KEPT]]
    best: tuple[tuple[float, float, int], list[list[float]]] | None = None
    for plane in planes[:LOOKED_AT]:
        stacks = _nearest(wanted + at @ plane, sums, heights, pieces)
        if stacks is None:
            continue
        off = flatness.off(_stood(bare, stacks))
        changed = sum(Counter(s) != Counter(t) for s, t in zip(stacks, there, strict=True))
        key = (round(off, 3), max(sum(s) for s in stacks), changed)
        if best is None or key < best[0]:
            best = (key, stacks)
    stacks = best[1] if best else [list(t) for t in there]
    # the finest lie close together: where pieces run short it takes planes of more sorts
    planes = np.vstack([planes, spread])
    return stacks, wanted + planes @ at.T, [float(v) for v in misses(planes)]


def _from_above(pads: Sequence[Pad], bare: NDArray[np.float64]) -> NDArray[np.float64]:
    """Heights at the pads of the plane that lies on the highest of them and asks for the least
    shimming in all: a linear programme."""
    at = np.array([[p.x_mm / 1000, p.y_mm / 1000, 1.0] for p in pads])
    found = linprog(at.sum(axis=0), A_ub=-at, b_ub=-bare, bounds=[(None, None)] * 3)
    if found.x is None:
        return np.full(len(pads), float(bare.max()))
    return np.asarray(at @ found.x)


def _nearest(
    wanted: NDArray[np.float64],
    sums: Sequence[tuple[float, tuple[float, ...]]],
    heights: NDArray[np.float64],
    pieces: Counter[float],
) -> list[list[float]] | None:
    """The nearest stack for each pad; those that want most come first while pieces last."""
    picks = np.abs(heights[None, :] - wanted[:, None]).argmin(axis=1)
    stacks = [sorted(sums[i][1], reverse=True) for i in picks]
    used = Counter(t for stack in stacks for t in stack)
    if all(pieces[t] >= n for t, n in used.items()):
        return stacks
    left = pieces.copy()
    found: dict[int, list[float]] = {}
    for i in sorted(range(len(wanted)), key=lambda i: -wanted[i]):
        stack = nearest_of(sums, heights, wanted[i], left)
        if stack is None:
            return None
        left.subtract(stack)
        found[i] = sorted(stack, reverse=True)
    return [found[i] for i in range(len(wanted))]
