"""Shims from stock: under the pads of a bolted base, or behind one row of screws.

All pads are searched together as an integer programme, because rounding pad by pad leaves the
fourth one hanging and bends the base when it is bolted down.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import comb, gcd

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel
from scipy.optimize import Bounds, LinearConstraint, milp

from truing.kit.shims import Shim
from truing.machine import Pad
from truing.measure.problem import Problem
from truing.moves.pads import SAME_MM, nearest_leans, stacks_for

GAP = 1e-6
"""Relative gap to which each goal is solved."""
MOST_NODES = 20_000
"""After so many nodes a search is given up."""
MOST_SIZES = 12
"""Thicknesses that are searched together as an integer programme."""
NEAR_MM = 0.002
"""How near to the heights wanted stacks are as good as any: no shim is truer."""
LIFTS_MM = np.arange(0.0, 0.3, 0.001)
"""How far all stacks are raised together to where the tin serves them best."""


MOST_SUMS = 20_000
MOST_STEPS = 500_000
"""Heights that are looked through, and steps of making them up; thicknesses that take more are
thinned out first."""
MICRO = 1_000_000


class ShimPlan(BaseModel):
    """Stacks for every pad, and the plane they make."""

    stacks_mm: list[list[float]]
    slope_x_mm_per_m: float
    """What the stacks take off the lean to the right (mm/m), compared with those there now."""
    slope_y_mm_per_m: float
    off_plane_mm: float
    """Largest distance of a stack from the plane of the others; nil for three pads."""
    pad_by_pad: bool = False
    """The search for all pads together was too large: another set may come nearer."""


def pieces_of(stock: Sequence[Shim], there: Sequence[Sequence[float]]) -> Counter[float]:
    """Every piece that can be used: the stock, and what lies in the machine already."""
    count: Counter[float] = Counter()
    for shim in stock:
        count[round(shim.thickness_mm, 6)] += shim.count
    for stack in there:
        count.update(round(t, 6) for t in stack)
    return +count


def plan_pads(
    pads: Sequence[Pad],
    stock: Sequence[Shim],
    *,
    take_x_mm_per_m: float,
    take_y_mm_per_m: float,
    most_pieces: int,
) -> ShimPlan:
    """Stacks that take the given leans (mm/m, plus = top right, top rear) off a bolted base.

    All stacks lie on one plane within the stock's tolerance, if that can be; then, one after the
    other: the leans met as nearly as the stock allows; the least rocking; the lowest total height;
    the fewest pieces moved in or out.
    The search is cut off after `MOST_NODES`, never by a clock, so that the same case always has the
    same answer; cut off, each pad gets the stack nearest to the plane that is wanted, and
    `pad_by_pad` says so. Problem when there is not a single piece to choose from.
    """
    there = [[round(t, 6) for t in pad.shims_mm] for pad in pads]
    pieces = pieces_of(stock, there)
    if not pieces:
        xs, ys = [p.x_mm for p in pads], [p.y_mm for p in pads]
        raise empty_stock(
            abs(take_x_mm_per_m) * (max(xs) - min(xs)) / 1000
            + abs(take_y_mm_per_m) * (max(ys) - min(ys)) / 1000
        )
    rises = [(take_x_mm_per_m * p.x_mm + take_y_mm_per_m * p.y_mm) / 1000 for p in pads]
    lying = [sum(s) for s in there]
    pieces = useful(pieces, max(rises) - min(rises) + max(lying) - min(lying), there)
    sizes = searched(pieces, there)
    tolerance = max([s.tolerance_mm for s in stock] or [0.003])
    now_x, now_y = _plane([sum(s) for s in there], pads)[:2]
    wanted_x, wanted_y = now_x + take_x_mm_per_m, now_y + take_y_mm_per_m
    every = stacks_for(pieces, most_pieces)
    wanted = (wanted_x, wanted_y)
    stacks = every and nearest_leans(
        pads, every, there, wanted_mm_per_m=wanted, within_mm=tolerance
    )
    if not stacks and len(sizes) == len(pieces):
        model = PadModel(pads, sizes, there)
        model.limit_pieces(pieces, most_pieces)
        model.aim(wanted_x, wanted_y)
        least = (Goal("off_plane", floor=tolerance), Goal("miss"), Goal("off_plane"))
        counts = model.settle((*least, Goal("height"), Goal("changes")))
        stacks = stacks_of(counts, sizes) if counts is not None else None
    together = bool(stacks)
    if not stacks:
        rise = np.array([(wanted_x * p.x_mm + wanted_y * p.y_mm) / 1000 for p in pads])
        stacks = nearest_stacks(rise, pieces, most_pieces)
        # with so many thicknesses nothing that matters is nearer
        together = _off(rise, stacks) <= max(tolerance, NEAR_MM)
    x, y, off = _plane([sum(s) for s in stacks], pads)
    return ShimPlan(
        stacks_mm=stacks,
        slope_x_mm_per_m=x - now_x,
        slope_y_mm_per_m=y - now_y,
        off_plane_mm=off,
        pad_by_pad=not together,
    )


def searched(pieces: Counter[float], there: Sequence[Sequence[float]]) -> list[float]:
    """The thicknesses of a search: all, or where there are too many, what lies in the machine and
    then those of which there are most, spread over the range."""
    if len(pieces) <= MOST_SIZES:
        return sorted(pieces)
    kept = {t for stack in there for t in stack if t in pieces}
    rest = sorted(set(pieces) - kept)
    wanted = max(2, MOST_SIZES - len(kept))
    every = [rest[round(i * (len(rest) - 1) / (wanted - 1))] for i in range(wanted)]
    return sorted({*kept, *every})


SOLD_MM = (
    0.01,
    0.02,
    0.025,
    0.03,
    0.04,
    0.05,
    0.06,
    0.07,
    0.08,
    0.1,
    0.12,
    0.15,
    0.18,
    0.2,
    0.25,
    0.3,
    0.35,
    0.4,
    0.45,
    0.5,
    0.6,
    0.7,
    0.8,
    0.9,
    1.0,
    1.2,
    1.5,
    2.0,
)
"""Thicknesses that shim stock is usually sold in."""


def sold_near(wanted_mm: float, *, below: bool = False) -> float:
    """The usual thickness nearest to the one wanted; not above it when `below`."""
    fits = [t for t in SOLD_MM if t <= wanted_mm + SAME_MM] if below else list(SOLD_MM)
    return min(fits or SOLD_MM[:1], key=lambda t: abs(t - wanted_mm))


def empty_stock(wanted_mm: float) -> Problem:
    """There is nothing in the tin: what could be bought."""
    near = sold_near(wanted_mm)
    return Problem(
        "There is no shim stock in the kit.",
        expected=f"About {wanted_mm:.3f} mm is wanted; {near:g} mm is the nearest that is sold. "
        "Add what you have or buy under Kit.",
        field="stock",
    )


def stacks_of(counts: Sequence[Sequence[int]], sizes: Sequence[float]) -> list[list[float]]:
    return [
        [size for size, n in zip(sizes, row, strict=True) for _ in range(n)][::-1] for row in counts
    ]


def _plane(heights_mm: Sequence[float], pads: Sequence[Pad]) -> tuple[float, float, float]:
    """Slopes (mm/m) of the plane through pad heights, and the largest distance from it (mm)."""
    design = np.array([[p.x_mm, p.y_mm, 1.0] for p in pads])
    heights = np.asarray(heights_mm, dtype=float)
    fit = np.linalg.lstsq(design, heights, rcond=None)[0]
    left = heights - design @ fit
    return float(fit[0] * 1000), float(fit[1] * 1000), float(np.max(np.abs(left)))


def shorter_side(pads: Sequence[Pad]) -> float:
    """Shorter side of the pads' outline, mm: what a shim's thickness is divided by."""
    xs, ys = [p.x_mm for p in pads], [p.y_mm for p in pads]
    return max(1.0, min(max(xs) - min(xs), max(ys) - min(ys)))


class PadModel:
    """The integer programme: n[pad, size] pieces, a plane, and slack for each goal. `bare_mm` is
    how high each pad stands without any shim."""

    def __init__(
        self,
        pads: Sequence[Pad],
        sizes: Sequence[float],
        there: Sequence[Sequence[float]],
        bare_mm: Sequence[float] | None = None,
    ) -> None:
        self.pads, self.sizes = pads, sizes
        self.bare_mm = list(bare_mm) if bare_mm is not None else [0.0] * len(pads)
        self.n_counts = len(pads) * len(sizes)
        names = ["slope_x", "slope_y", "level", "off_plane", "miss", "tallest"]
        self.at = {name: self.n_counts + i for i, name in enumerate(names)}
        self.first_change = self.n_counts + len(names)
        self.size = self.first_change + self.n_counts
        self.rows: list[np.ndarray] = []
        self.low: list[float] = []
        self.high: list[float] = []
        self.reach = np.zeros(self.size)
        free = list(self.at.values())[:3]
        self.lower = np.zeros(self.size)
        self.lower[free] = -np.inf
        self._planes()
        self._changes(there)

    def count(self, pad: int, size: int) -> int:
        return pad * len(self.sizes) + size

    def add(self, cells: dict[int, float], low: float, high: float) -> None:
        row = np.zeros(self.size)
        for i, v in cells.items():
            row[i] = v
        self.rows.append(row)
        self.low.append(low)
        self.high.append(high)

    def _height(self, pad: int) -> dict[int, float]:
        return {self.count(pad, i): t for i, t in enumerate(self.sizes)}

    def _planes(self) -> None:
        for p, pad in enumerate(self.pads):
            plane = {
                self.at["slope_x"]: -pad.x_mm / 1000,
                self.at["slope_y"]: -pad.y_mm / 1000,
                self.at["level"]: -1.0,
            }
            slack = self.at["off_plane"]
            bare = self.bare_mm[p]
            self.add({**self._height(p), **plane, slack: -1.0}, -np.inf, -bare)
            self.add({**self._height(p), **plane, slack: 1.0}, -bare, np.inf)
            self.add({**self._height(p), self.at["tallest"]: -1.0}, -np.inf, 0.0)

    def _changes(self, there: Sequence[Sequence[float]]) -> None:
        for p, stack in enumerate(there):
            lying = Counter(stack)
            for i, size in enumerate(self.sizes):
                n = float(lying[size])
                cell, change = self.count(p, i), self.first_change + self.count(p, i)
                self.add({cell: 1.0, change: -1.0}, -np.inf, n)
                self.add({cell: 1.0, change: 1.0}, n, np.inf)

    def limit_pieces(self, pieces: Counter[float], most: int) -> None:
        for i, size in enumerate(self.sizes):
            cells = {self.count(p, i): 1.0 for p in range(len(self.pads))}
            self.add(cells, 0, float(pieces[size]))
        for p in range(len(self.pads)):
            self.add({self.count(p, i): 1.0 for i in range(len(self.sizes))}, 0, float(most))

    def aim(self, x_mm_per_m: float, y_mm_per_m: float) -> None:
        """The plane is the one that fits the stacks best, and what it misses is a goal."""
        at = np.array([[p.x_mm / 1000, p.y_mm / 1000, 1.0] for p in self.pads])
        for name, row in zip(("slope_x", "slope_y", "level"), np.linalg.pinv(at), strict=True):
            cells = {
                self.count(p, i): -w * t
                for p, w in enumerate(row)
                for i, t in enumerate(self.sizes)
            }
            bare = float(row @ np.array(self.bare_mm))
            self.add({self.at[name]: 1.0, **cells}, bare, bare)
        for name, wanted in (("slope_x", x_mm_per_m), ("slope_y", y_mm_per_m)):
            self.add({self.at[name]: 1.0, self.at["miss"]: -1.0}, -np.inf, wanted)
            self.add({self.at[name]: 1.0, self.at["miss"]: 1.0}, wanted, np.inf)

    def _goal(self, name: str) -> np.ndarray:
        cost = np.zeros(self.size)
        if name in self.at:
            cost[self.at[name]] = 1.0
        elif name == "height":
            for p in range(len(self.pads)):
                for cell, t in self._height(p).items():
                    cost[cell] = t
        else:
            cost[self.first_change :] = 1.0
        return cost

    def settle(
        self, goals: Sequence[Goal], *, nodes: int = MOST_NODES, gap: float = GAP
    ) -> list[list[int]] | None:
        """Counts by pad and size that are best for each goal in turn; None when one of the searches
        had to be given up before it had found any answer."""
        counts: list[list[int]] | None = None
        for goal in goals:
            found = self._solve(goal, nodes, gap)
            if found is None:
                # an answer to the goals before is better than none
                return counts
            counts = found
        return counts

    def _solve(self, goal: Goal, nodes: int, gap: float) -> list[list[int]] | None:
        cost = self._goal(goal.name)
        if goal.name in self.at:
            # nothing below the floor counts, so that the search ends as soon as it is reached
            at = self.at[goal.name]
            self.lower[at] = goal.floor
        whole = np.zeros(self.size, dtype=int)
        whole[: self.n_counts] = 1
        result = milp(
            cost,
            constraints=LinearConstraint(np.array(self.rows), self.low, self.high),
            integrality=whole,
            bounds=Bounds(self.lower, np.inf),
            options={"node_limit": nodes, "mip_rel_gap": gap},
        )
        if result.x is None:
            return None
        best = float(cost @ result.x)
        # wider than what the solver itself takes for feasible
        slack = max(SAME_MM, abs(best) * 1e-6)
        self.rows.append(cost)
        self.low.append(-np.inf)
        self.high.append(max(best, goal.floor) + slack)
        counts = np.rint(result.x[: self.n_counts]).astype(int)
        return [list(map(int, row)) for row in counts.reshape(len(self.pads), len(self.sizes))]


@dataclass(frozen=True)
class Goal:
    """What is made as small as can be; it then (not below `floor`) becomes a limit for the goals
    after it."""

    name: str
    floor: float = 0.0


def sums_of(pieces: Counter[float], most: int) -> Sequence[tuple[float, tuple[float, ...]]]:
    """Every height that can be made up, with the fewest pieces that make it.

    Thickness by thickness, each height kept once: as many steps as there are heights, not as there
    are stacks. Where thicknesses are so many and so odd that even the heights are too many, stacks
    are of fewer pieces; where that is not enough, those that the others come near to are left out.
    """
    return _known_sums(tuple(sorted(pieces.items())), most)


@lru_cache(maxsize=8)
def _known_sums(
    of: tuple[tuple[float, int], ...], most: int
) -> tuple[tuple[float, tuple[float, ...]], ...]:
    pieces = Counter(dict(of))
    # two of many sizes come nearer, and last longer, than four of few
    found = next((f for n in range(most, 1, -1) if (f := _sums(pieces, n)) is not None), None)
    if found is None:
        kept = searched(pieces, [])
        found = _sums(Counter({t: pieces[t] for t in kept}), most)
    # twelve thicknesses do not make too many, as long as stacks are as low as those of a machine
    assert found is not None
    return tuple(sorted((round(height / MICRO, 6), stack) for height, stack in found.items()))


def _sums(pieces: Counter[float], most: int) -> dict[int, tuple[float, ...]] | None:
    """Heights in millionths of a mm; None when that takes too long."""
    step = gcd(*(round(t * MICRO) for t in pieces))
    together = most * round(max(pieces, default=0.0) * MICRO) // max(1, step)
    if min(together, comb(len(pieces), most)) > 2 * MOST_SUMS:
        # odd ones, of which hardly any two stacks are of one height
        return None
    found: dict[int, tuple[float, ...]] = {0: ()}
    steps = 0
    for thickness in sorted(pieces):
        step = round(thickness * MICRO)
        # what the thinner ones make up: so no piece is taken more often than it is there
        for height, stack in list(found.items()):
            more = min(pieces[thickness], most - len(stack))
            steps += more
            for n in range(1, more + 1):
                known = found.get(height + n * step)
                if known is None or len(known) > len(stack) + n:
                    found[height + n * step] = (*stack, *[thickness] * n)
        if len(found) > MOST_SUMS or steps > MOST_STEPS:
            return None
    return found


def useful(
    pieces: Counter[float], reach_mm: float, there: Sequence[Sequence[float]]
) -> Counter[float]:
    """The pieces that stacks of up to so much can be made of with room to spare, and what lies in
    the machine; all of them where they are few enough to be searched together."""
    if len(pieces) <= MOST_SIZES:
        return pieces
    lying = {t for stack in there for t in stack}
    thin = sorted(pieces)[:MOST_SIZES]
    most = max(1.5 * reach_mm + LIFTS_MM[-1] / 2, thin[-1])
    return Counter({t: n for t, n in pieces.items() if t <= most or t in lying})


def nearest_of(
    sums: Sequence[tuple[float, tuple[float, ...]]],
    heights_mm: NDArray[np.float64],
    wanted_mm: float,
    left: Counter[float],
) -> tuple[float, ...] | None:
    """The stack nearest to that height that the pieces left make up, the one of fewest pieces on
    ties; None where there is none. `heights_mm` are those of `sums`."""
    miss = np.round(np.abs(heights_mm - wanted_mm), 6)
    found: tuple[float, tuple[float, ...]] | None = None
    # from the nearest on: most of them are never asked for
    for i in np.argsort(miss, kind="stable"):
        if found and miss[i] > found[0]:
            break
        stack = sums[i][1]
        lasts = all(left[t] >= n for t, n in Counter(stack).items())
        if lasts and (found is None or len(stack) < len(found[1])):
            found = (float(miss[i]), stack)
    return found[1] if found else None


def nearest_stacks(
    heights_mm: Sequence[float] | NDArray[np.float64], pieces: Counter[float], most: int
) -> list[list[float]]:
    """For each pad the stack nearest to the height wanted, seen from each other; those that want
    most come first while pieces last. All are raised together to where the tin serves them best."""
    wanted_mm = np.asarray(heights_mm, float)
    sums = sums_of(pieces, most)
    heights = np.array([h for h, _ in sums])
    above = wanted_mm - wanted_mm.min()
    between = (heights[1:] + heights[:-1]) / 2
    raised = above + LIFTS_MM[:, None]
    misses = np.abs(heights[np.searchsorted(between, raised)] - raised).max(axis=1)
    # the lowest of those that are as good as any, and a few of the best should pieces run out
    order = np.argsort(np.maximum(np.round(misses, 6), NEAR_MM), kind="stable")[:LOOKED_AT]
    best: tuple[float, list[list[float]]] | None = None
    # not raised at all, too: pieces last longest there
    for lift in raised[[0, *order]]:
        stacks = _while_they_last(lift, sums, heights, pieces)
        off = _off(wanted_mm, stacks)
        if best is None or off < best[0] - SAME_MM:
            best = (off, stacks)
        if off <= NEAR_MM:
            break
    assert best is not None
    return best[1]


LOOKED_AT = 24
"""Lifts that pieces are counted out for."""


def _while_they_last(
    wanted_mm: NDArray[np.float64],
    sums: Sequence[tuple[float, tuple[float, ...]]],
    heights_mm: NDArray[np.float64],
    pieces: Counter[float],
) -> list[list[float]]:
    left, found = pieces.copy(), {}
    for i in sorted(range(len(wanted_mm)), key=lambda i: -wanted_mm[i]):
        # a pad without any is always among them
        stack = nearest_of(sums, heights_mm, float(wanted_mm[i]), left) or ()
        left.subtract(stack)
        found[i] = sorted(stack, reverse=True)
    return [found[i] for i in range(len(wanted_mm))]


def _off(wanted_mm: NDArray[np.float64], stacks: Sequence[Sequence[float]]) -> float:
    """How far stacks stand off heights that are wanted seen from each other, at most."""
    off = np.array([sum(s) for s in stacks]) - wanted_mm
    return float(off.max() - off.min()) / 2


def best_stack(
    wanted_mm: float, stock: Sequence[Shim], *, there: Sequence[float] = (), most_pieces: int = 3
) -> list[float]:
    """The stack nearest to `wanted_mm` from the stock and the pieces that lie there; fewer pieces
    on ties. Exact search; an empty list when no shim at all is nearer."""
    wanted = round(wanted_mm, 6)
    sums = sums_of(pieces_of(stock, [there]), most_pieces)
    _, stack = min(sums, key=lambda s: (round(abs(s[0] - wanted), 6), len(s[1])))
    return sorted(stack, reverse=True)
