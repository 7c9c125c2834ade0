"""Stacks for up to four pads, found by looking at every set of them that can be the best.

Four pads lie on one plane, but for one number: how far their diagonals are out with each other. So
where three stacks are chosen the fourth has to lie within a narrow window, and of all that a tin
can make up only a few thousand sets have to be looked at, where an integer programme branches over
every piece. What is sought is the same; the programme remains for more pads, and for what is too
much here.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from itertools import combinations_with_replacement
from math import comb

import numpy as np
from numpy.typing import NDArray

from truing.machine import Pad

MOST_PADS = 4
"""That are searched together; with more an exact search takes longer than anyone waits."""
MOST_STACKS = 20_000
"""That are made up of the thicknesses there are."""
MOST_SETS = 1_000_000
"""Sets of heights that are looked at before it is left to another search."""
MOST_TRIED = 20_000
"""Sets of heights that the pieces are counted out for."""
SAME_MM = 1e-6
"""Heights no further apart are the same."""
FIRST_MISS = 0.002
"""How far off the leans wanted it is looked at first (mm/m); then twice as far, and so on."""

Heights = NDArray[np.float64]
Stack = tuple[float, ...]


class Stacks:
    """Every stack of at most so many pieces, by its height."""

    def __init__(self, pieces: Counter[float], most: int) -> None:
        self.pieces = pieces
        by_height: dict[float, list[Stack]] = defaultdict(list)
        sizes = sorted(pieces, reverse=True)
        for n in range(most + 1):
            for stack in combinations_with_replacement(sizes, n):
                if Counter(stack) <= pieces:
                    by_height[round(sum(stack), 6)].append(stack)
        self.heights: Heights = np.array(sorted(by_height))
        self.of = [by_height[h] for h in self.heights]

    def window(self, low: Heights, high: Heights) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """Indices of the first height not below `low` and of the first one above `high`."""
        first = np.searchsorted(self.heights, low - SAME_MM, side="left")
        return first, np.searchsorted(self.heights, high + SAME_MM, side="right")

    def fewest_moved(
        self, at: Sequence[int], there: Sequence[Sequence[float]]
    ) -> tuple[int, list[list[float]]] | None:
        """Stacks of these heights that can all lie there at once, and how many pieces are moved in
        or out for them: the fewest that can be. None where pieces do not last."""
        choices = []
        for i, lying in zip(at, there, strict=True):
            now = Counter(lying)
            costs = [(_moved(Counter(s), now), s) for s in self.of[i]]
            choices.append(sorted(costs))
        best: tuple[int, list[Stack]] | None = None

        def choose(pad: int, spent: int, used: Counter[float], chosen: list[Stack]) -> None:
            nonlocal best
            if best is not None and spent >= best[0]:
                return
            if pad == len(choices):
                best = (spent, chosen)
                return
            for cost, stack in choices[pad]:
                with_it = used + Counter(stack)
                if with_it <= self.pieces:
                    choose(pad + 1, spent + cost, with_it, [*chosen, stack])

        choose(0, 0, Counter(), [])
        return (best[0], [list(s) for s in best[1]]) if best else None


def stacks_for(pieces: Counter[float], most: int) -> Stacks | None:
    """None where there are too many to be looked at."""
    if comb(len(pieces) + most, most) > MOST_STACKS:
        return None
    return Stacks(pieces, most)


def _moved(stack: Counter[float], now: Counter[float]) -> int:
    return (stack - now).total() + (now - stack).total()


def askew(pads: Sequence[Pad]) -> Heights | None:
    """Weights of the pads' heights whose sum is nil where they lie on one plane; all nil where any
    heights do. None where pads are too many, or lie so that one number does not tell it."""
    at = np.array([[p.x_mm / 1000, p.y_mm / 1000, 1.0] for p in pads])
    if len(pads) > MOST_PADS:
        return None
    rank = int(np.linalg.matrix_rank(at))
    if rank == len(pads):
        return np.zeros(len(pads))
    if len(pads) - rank > 1:
        return None
    return np.asarray(np.linalg.svd(at.T)[2][-1])


def flattest(
    pads: Sequence[Pad],
    bare_mm: Sequence[float],
    stacks: Stacks,
    there: Sequence[Sequence[float]],
    within_mm: float,
) -> list[list[float]] | None:
    """Stacks that bring pads of these heights within so much of one plane: of those the lowest by
    their tallest stack, and of those the fewest pieces moved in or out. None where there are none,
    or where this is no way to search."""
    c = askew(pads)
    if c is None:
        return None
    # the largest distance from the plane that keeps it smallest is |c·h| / Σ|c|
    bound = within_mm * float(np.abs(c).sum())
    owed = -float(c @ np.array(bare_mm))
    looked = 0
    for tallest in range(len(stacks.heights)):
        looked += len(pads) * (tallest + 1) ** max(0, len(pads) - 2)
        if looked > MOST_SETS:
            return None
        sets = {s for pad in range(len(pads)) for s in _with(stacks, c, owed, bound, pad, tallest)}
        found = [kept for s in sorted(sets) if (kept := stacks.fewest_moved(s, there)) is not None]
        if found:
            return min(found)[1]
    return None


def least_off(
    pads: Sequence[Pad],
    bare_mm: Sequence[float],
    stacks: Stacks,
    there: Sequence[Sequence[float]],
    beyond_mm: float,
) -> float | None:
    """How near pads of these heights can be brought to one plane with pieces that last, where that
    is further off than `beyond_mm`. None where this is no way to search."""
    c = askew(pads)
    if c is None or not c.any():
        return None
    last = int(np.abs(c).argmax())
    free = [i for i in range(len(pads)) if i != last]
    if len(stacks.heights) ** len(free) > MOST_SETS:
        return None
    grid = np.indices((len(stacks.heights),) * len(free)).reshape(len(free), -1)
    left = -float(c @ np.array(bare_mm)) - c[free] @ stacks.heights[grid]
    whole = float(np.abs(c).sum())
    within = max(beyond_mm, SAME_MM)
    while True:
        within *= 2
        ends = np.sort(
            [(left - within * whole) / c[last], (left + within * whole) / c[last]], axis=0
        )
        each = _each(*stacks.window(ends[0], ends[1]))
        if each is None:
            return None
        which, at = each
        sets = np.empty((len(which), len(pads)), dtype=np.intp)
        sets[:, free], sets[:, last] = grid[:, which].T, at
        off = np.abs(left[which] - c[last] * stacks.heights[at]) / whole
        for k in np.argsort(off, kind="stable")[:MOST_TRIED]:
            if stacks.fewest_moved([int(i) for i in sets[k]], there) is not None:
                return float(off[k])
        if len(off) > MOST_TRIED:
            return None


def _with(
    stacks: Stacks, c: Heights, owed: float, bound: float, pad: int, tallest: int
) -> Iterator[tuple[int, ...]]:
    """Sets of heights (as indices) of which one pad has the tallest and no other a taller one, that
    come to what is owed within the bound."""
    n = len(c)
    others = [i for i in range(n) if i != pad]
    # the last one is looked for in its window: of those that matter the one that weighs most
    last = max(others, key=lambda i: abs(c[i])) if others else pad
    free = [i for i in others if i != last]
    sides = (tallest + 1,) * len(free)
    grid = np.indices(sides).reshape(len(free), -1) if free else np.zeros((0, 1), dtype=int)
    so_far = c[pad] * stacks.heights[tallest] + c[free] @ stacks.heights[grid]
    left = owed - np.atleast_1d(so_far)
    if last == pad or abs(c[last]) < 1e-12:
        ok = np.abs(left) <= bound + SAME_MM
        first, after = np.zeros(len(left), int), np.where(ok, tallest + 1 if others else 1, 0)
    else:
        ends = np.sort([(left - bound) / c[last], (left + bound) / c[last]], axis=0)
        first, after = stacks.window(ends[0], ends[1])
        after = np.minimum(after, tallest + 1)
    for k in np.flatnonzero(after > first):
        for j in range(int(first[k]), int(after[k])):
            at = [0] * n
            at[pad] = tallest
            for i, f in enumerate(free):
                at[f] = int(grid[i, k])
            if last != pad:
                at[last] = j
            yield tuple(at)


def nearest_leans(
    pads: Sequence[Pad],
    stacks: Stacks,
    there: Sequence[Sequence[float]],
    *,
    wanted_mm_per_m: tuple[float, float],
    within_mm: float,
) -> list[list[float]] | None:
    """Stacks on one plane within so much that come nearest to the leans wanted; of those, one after
    the other: the nearest to one plane, the lowest in all, the fewest pieces moved in or out. None
    where this is no way to search."""
    c = askew(pads)
    at = np.array([[p.x_mm / 1000, p.y_mm / 1000, 1.0] for p in pads])
    if c is None or np.linalg.matrix_rank(at) < 3:
        return None
    slopes = np.linalg.pinv(at)[:2]
    square = float(c @ c) or 1.0
    # the fit leaves c·(c·h)/(c·c) at each pad
    out_of_plane = np.abs(c) / square
    most_left = within_mm / float(out_of_plane.max()) if out_of_plane.any() else 0.0
    rise = at[:, :2] @ np.array(wanted_mm_per_m)
    from_first = at[:, :2] - at[0, :2]
    miss = FIRST_MISS
    while True:
        # how far a pad may then stand off the plane wanted, seen from the first one
        play = miss * np.abs(from_first).sum(axis=1) + most_left * (np.abs(c) + abs(c[0])) / square
        sets = _windows(stacks, rise - rise[0], play)
        if sets is None:
            return None
        h = stacks.heights[sets]
        lean = h @ slopes.T
        missed = np.abs(lean - np.array(wanted_mm_per_m)).max(axis=1)
        left = np.abs(h @ c) * float(out_of_plane.max())
        good = (missed <= miss + SAME_MM) & (left <= within_mm + SAME_MM)
        sets, missed, left, total = sets[good], missed[good], left[good], h[good].sum(axis=1)
        keys = np.round(np.column_stack([missed, left, total]) / SAME_MM).astype(np.int64)
        order = np.lexsort(keys.T[::-1])
        best: tuple[int, list[list[float]]] | None = None
        best_key: NDArray[np.int64] | None = None
        for tried, k in enumerate(order):
            if best_key is not None and (keys[k] != best_key).any():
                break
            if tried > MOST_TRIED:
                return None
            kept = stacks.fewest_moved([int(i) for i in sets[k]], there)
            if kept is not None and (best is None or kept < best):
                best, best_key = kept, keys[k]
        if best is not None:
            return best[1]
        # all bare lies on one plane too, so that this ends
        miss *= 2


def _windows(stacks: Stacks, rise: Heights, play: Heights) -> NDArray[np.intp] | None:
    """All sets of heights (as indices, sets × pads) that rise from the first pad to each other one
    by this much within its play; None where they are too many."""
    base = stacks.heights
    sets = np.arange(len(base))[:, None]
    for pad in range(1, len(rise)):
        wanted = base[sets[:, 0]] + rise[pad]
        each = _each(*stacks.window(wanted - play[pad], wanted + play[pad]))
        if each is None:
            return None
        which, at = each
        sets = np.column_stack([sets[which], at])
    return sets


def _each(
    first: NDArray[np.intp], after: NDArray[np.intp]
) -> tuple[NDArray[np.intp], NDArray[np.intp]] | None:
    """Every index of every window: of which window, and which. None where they are too many."""
    count = after - first
    if int(count.sum()) > MOST_SETS:
        return None
    which = np.repeat(np.arange(len(first)), count)
    within = np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count)
    return which, first[which] + within
