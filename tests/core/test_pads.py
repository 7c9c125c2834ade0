"""Stacks for a few pads, against every set that there is and against an integer programme."""

from __future__ import annotations

from collections import Counter
from itertools import combinations_with_replacement, product
from typing import Any

import numpy as np
import pytest

import truing.moves.heights
import truing.moves.shims
from truing.kit.shims import Shim
from truing.machine import Pad, four_pads
from truing.moves.dealing import Dealer
from truing.moves.flatness import Flatness, off_plane
from truing.moves.heights import plan_heights
from truing.moves.pads import Stacks
from truing.moves.shims import plan_pads

SIZES = (0.01, 0.02, 0.025, 0.03, 0.05, 0.08, 0.1, 0.15, 0.2, 0.25, 0.5)


def stood(rng: np.random.Generator, *, fewest: int = 2) -> list[Pad]:
    """Pads of a base or a rail's ends, some with a shim below, some a little out of the square."""
    pads = four_pads(float(rng.integers(80, 900)), float(rng.integers(60, 800)))
    if rng.random() < 0.3:
        for pad in pads:
            pad.x_mm += float(rng.uniform(-20, 20))
    return pads[: int(rng.integers(fewest, 5))] if rng.random() < 0.4 else pads


def tin(rng: np.random.Generator, sizes: int) -> list[Shim]:
    tolerance = float(rng.choice([0.0, 0.002, 0.005]))
    return [
        Shim(thickness_mm=float(t), count=int(rng.choice([1, 2, 4, 20])), tolerance_mm=tolerance)
        for t in rng.choice(SIZES, size=sizes, replace=False)
    ]


def laid(rng: np.random.Generator, pads: list[Pad], stock: list[Shim]) -> None:
    for pad in pads:
        pad.shims_mm = [stock[0].thickness_mm] if rng.random() < 0.4 else []


def moved(stacks: Any, pads: list[Pad]) -> int:
    """Pieces that are put in or taken out, one by one."""
    count = 0
    for pad, stack in zip(pads, stacks, strict=True):
        lying, wanted = sorted(pad.shims_mm), sorted(stack)
        for t in {*lying, *wanted}:
            count += abs(lying.count(t) - wanted.count(t))
    return count


def off_one_plane(pads: list[Pad], heights: np.ndarray) -> np.ndarray:
    """The least that the worst pad can stand off a plane, sets × pads → sets. Of four pads all
    stand off the best plane equally far, each up or down: the best of the eight ways to do so."""
    if len(pads) < 4:
        return np.zeros(len(heights))
    at = np.array([[p.x_mm / 100, p.y_mm / 100, 1.0] for p in pads])
    best = np.full(len(heights), np.inf)
    for signs in product((1, -1), repeat=3):
        square = np.column_stack([at, [1, *signs]])
        if abs(np.linalg.det(square)) > 1e-6:
            best = np.minimum(best, np.abs(np.linalg.solve(square, heights.T)[3]))
    return best


@pytest.mark.parametrize("seed", range(25))
def test_no_set_of_stacks_lies_lower_or_moves_less_where_it_is_as_flat(seed: int) -> None:
    rng = np.random.default_rng(seed)
    pads, stock = stood(rng), tin(rng, 2)
    laid(rng, pads, stock)
    heights = [float(v) for v in rng.uniform(-0.12, 0.12, len(pads))]
    plan = plan_heights(pads, heights, stock, most_pieces=2)
    owned = Counter({s.thickness_mm: s.count for s in stock})
    owned.update(t for p in pads for t in p.shims_mm)
    choices = [s for n in range(3) for s in combinations_with_replacement(sorted(owned), n)]
    sets = [
        s
        for s in product(choices, repeat=len(pads))
        if all(sum(x.count(t) for x in s) <= n for t, n in owned.items())
    ]
    bare = np.array(heights) - [sum(p.shims_mm) for p in pads]
    stand = bare + np.array([[sum(x) for x in s] for s in sets])
    floor = stock[0].tolerance_mm / 2
    off = np.maximum(off_one_plane(pads, stand), floor)
    flat = [s for s, o in zip(sets, off, strict=True) if o <= off.min() + 2e-6]
    tallest = min(max(map(sum, s)) for s in flat)
    low = [s for s in flat if max(map(sum, s)) <= tallest + 2e-6]
    chosen = tuple(tuple(sorted(s)) for s in plan.stacks_mm)
    assert max(plan.off_plane_mm, floor) == pytest.approx(off.min(), abs=3e-6)
    assert max(map(sum, chosen)) == pytest.approx(tallest, abs=3e-6)
    assert moved(chosen, pads) == min(moved(s, pads) for s in low)
    assert chosen in sets, "more pieces than there are"


def without(monkeypatch: pytest.MonkeyPatch) -> None:
    """Nothing is looked through: the integer programme has to find it."""
    for module in (truing.moves.shims, truing.moves.heights):
        monkeypatch.setattr(module, "stacks_for", lambda *_: None)


@pytest.mark.parametrize("seed", range(8))
def test_an_integer_programme_finds_nothing_better(
    seed: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    rng = np.random.default_rng(100 + seed)
    pads, stock = stood(rng, fewest=3), tin(rng, 5)
    laid(rng, pads, stock)
    x, y = (float(v) for v in rng.uniform(-0.8, 0.8, 2))
    heights = [float(v) for v in rng.uniform(-0.12, 0.12, len(pads))]
    within = stock[0].tolerance_mm

    def reached() -> list[float]:
        """All goals of both plans, in order."""
        lean = plan_pads(pads, stock, take_x_mm_per_m=x, take_y_mm_per_m=y, most_pieces=3)
        missed = max(abs(lean.slope_x_mm_per_m - x), abs(lean.slope_y_mm_per_m - y))
        flat = plan_heights(pads, heights, stock, most_pieces=3)
        return [
            *(max(lean.off_plane_mm, within), missed, lean.off_plane_mm),
            *(sum(map(sum, lean.stacks_mm)), moved(lean.stacks_mm, pads)),
            max(flat.off_plane_mm, within / 2),
            *(max(map(sum, flat.stacks_mm)), moved(flat.stacks_mm, pads)),
        ]

    looked = reached()
    without(monkeypatch)
    assert looked == pytest.approx(reached(), abs=1e-5)


def test_what_is_too_much_or_cannot_be_looked_through_is_planned_all_the_same(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    row = [Pad(name=str(i), x_mm=100.0 * i, y_mm=0.0) for i in range(4)]
    stock = [Shim(thickness_mm=t, count=20, tolerance_mm=0.002) for t in (0.05, 0.1, 0.2)]
    # four bolts in a row: one number does not tell whether they lie in one line
    plan = plan_heights(row, [0.0, 0.1, 0.2, 0.05], stock, most_pieces=3)
    assert plan.off_plane_mm <= 0.026
    # out of reach: the nearest that can be had
    far = plan_heights(four_pads(200, 100), [0.0, 0.0, 5.0, 0.0], stock[:1], most_pieces=1)
    assert far.off_plane_mm == pytest.approx((5 - 2 * 0.05) / 4, abs=1e-4)
    pads = four_pads(200, 100)
    whole = plan_pads(pads, stock, take_x_mm_per_m=0.5, take_y_mm_per_m=0, most_pieces=3)
    for name in ("MOST_STACKS", "MOST_SETS", "MOST_TRIED"):
        monkeypatch.setattr(f"truing.moves.pads.{name}", -1)
        again = plan_pads(pads, stock, take_x_mm_per_m=0.5, take_y_mm_per_m=0, most_pieces=3)
        assert again.slope_x_mm_per_m == pytest.approx(whole.slope_x_mm_per_m)
        assert not again.pad_by_pad
        assert plan_heights(pads, [0, 0.1, 0.1, 0], stock, most_pieces=3).off_plane_mm < 0.002
        monkeypatch.undo()


@pytest.mark.parametrize("lie", ["two rails", "anyhow", "one row", "one over another", "three"])
def test_how_far_off_one_plane_is_what_a_linear_programme_says(lie: str) -> None:
    rng = np.random.default_rng(len(lie))
    places = {
        "two rails": [(x, y) for x in (-300.0, 300.0) for y in range(0, 1200, 200)],
        "anyhow": list(rng.uniform(-500, 500, (9, 2))),
        "one row": [(0.6 * y, float(y)) for y in range(0, 900, 150)],
        "one over another": [(0.0, 0.0)] * 2 + list(rng.uniform(-500, 500, (4, 2))),
        "three": [(0.0, 0.0), (400.0, 0.0), (0.0, 250.0)],
    }[lie]
    pads = [Pad(name=str(i), x_mm=float(x), y_mm=float(y)) for i, (x, y) in enumerate(places)]
    flatness = Flatness(pads)
    for _ in range(12):
        heights = rng.normal(0, 0.1, len(pads))
        assert flatness.off(heights) == pytest.approx(off_plane(pads, heights)[1], abs=1e-6)
    leaning = np.array([0.3 * p.x_mm / 100 - 0.2 * p.y_mm / 100 + 4 for p in pads])
    assert flatness.off(leaning) < 1e-9


def test_many_places_are_left_to_the_linear_programme() -> None:
    pads = [Pad(name=str(i), x_mm=40.0 * (i % 6), y_mm=70.0 * (i // 6)) for i in range(36)]
    # one stands up in the middle of the rest: half of that is the least
    heights = np.array([0.08 if i == 14 else 0.0 for i in range(36)])
    assert Flatness(pads).off(heights) == pytest.approx(0.04, abs=1e-6)


@pytest.mark.parametrize("seed", range(30))
def test_pieces_are_dealt_out_wherever_they_can_be(seed: int) -> None:
    """A tin of three thicknesses that runs short, against every way to deal it out."""
    rng = np.random.default_rng(seed)
    owned = Counter({t: int(rng.integers(1, 4)) for t in (0.05, 0.1, 0.2)})
    wanted, within = rng.uniform(0.0, 0.3, 4), float(rng.choice([0.025, 0.05, 0.075]))
    choices = [s for n in range(3) for s in combinations_with_replacement(sorted(owned), n)]
    near = [[s for s in choices if abs(sum(s) - w) <= within] for w in wanted]
    can = any(Counter(t for s in each for t in s) <= owned for each in product(*near))
    got = Dealer(Stacks(owned, 2)).deal(wanted, within)
    assert (got is not None) == can
    if got is not None:
        assert Counter(t for stack in got for t in stack) <= owned
        assert all(abs(sum(s) - w) <= within + 1e-6 for s, w in zip(got, wanted, strict=True))
        assert max(map(len, got)) <= 2


def test_a_stack_of_one_height_is_the_one_that_moves_least_and_that_pieces_last_for() -> None:
    stacks = Stacks(Counter({0.1: 2, 0.05: 2}), 2)
    assert list(stacks.heights) == [0, 0.05, 0.1, 0.15, 0.2]
    tenth = 2
    assert stacks.of[tenth] == [(0.1,), (0.05, 0.05)]
    # two lie there as halves: they stay, and the other pad takes the whole one
    assert stacks.fewest_moved([tenth, tenth], [[0.05, 0.05], []]) == (1, [[0.05, 0.05], [0.1]])
    assert stacks.fewest_moved([tenth, tenth], [[], []]) == (2, [[0.1], [0.1]])
    assert stacks.fewest_moved([4, 4], [[], []]) is None


@pytest.mark.parametrize("count", [8, 24])
@pytest.mark.parametrize("pieces", [1, 20])
def test_a_tin_of_two_hundred_thicknesses_is_no_work_for_whole_numbers(
    monkeypatch: pytest.MonkeyPatch, count: int, pieces: int
) -> None:
    rng = np.random.default_rng(count + pieces)
    stock = [
        Shim(thickness_mm=float(t), count=pieces, tolerance_mm=0.003)
        for t in np.unique(rng.uniform(0.005, 3, 200).round(4))
    ]
    pads = [
        Pad(name=str(i), x_mm=400.0 * (i % 2), y_mm=150.0 * (i // 2), shims_mm=[0.1] * (i % 3))
        for i in range(count)
    ]
    heights = [float(h) for h in rng.uniform(0, 0.9, count)]
    # a search that is too long for anybody at the machine is not begun
    monkeypatch.setattr(truing.moves.shims, "milp", None)
    level = plan_heights(pads, heights, stock, most_pieces=4)
    tram = plan_pads(pads, stock, take_x_mm_per_m=0.8, take_y_mm_per_m=-0.1, most_pieces=4)
    lying = [sum(p.shims_mm) for p in pads]
    planes = [
        [h - old + sum(s) for h, old, s in zip(heights, lying, level.stacks_mm, strict=True)],
        [
            sum(s) - old - (0.8 * p.x_mm - 0.1 * p.y_mm) / 1000
            for p, old, s in zip(pads, [0.0] * count, tram.stacks_mm, strict=True)
        ],
    ]
    there = Counter(t for p in pads for t in p.shims_mm)
    for stacks, stood_at in zip((level.stacks_mm, tram.stacks_mm), planes, strict=True):
        used = Counter(t for s in stacks for t in s)
        assert used <= Counter({s.thickness_mm: s.count for s in stock}) + there
        assert max(map(len, stacks)) <= 4
        _, off = off_plane(pads, stood_at)
        # where there is one of each, pads take them from one another
        short = pieces == 1 and count == 24
        assert off < (0.03 if short else 0.005)
    # and it is said where that leaves more than shims are true to
    assert tram.pad_by_pad or not short
    assert not (tram.pad_by_pad and pieces == 20)
    assert abs(tram.slope_x_mm_per_m - 0.8) < 0.05
    assert abs(tram.slope_y_mm_per_m + 0.1) < 0.05
