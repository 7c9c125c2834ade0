"""Rails against explicit coordinates, brute force, and a bridge that rests on its corners."""

from __future__ import annotations

import math
from collections import Counter
from itertools import combinations_with_replacement, product
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from tests.core.cases import FINE
from tests.core.helpers import NOTHING, advise, case_of, evaluate, judge, readings
from truing.checks.rails import bolts_mm, pads_at, rail_xy
from truing.contract.history import History, MoveMade, PastRound
from truing.kit.instruments import Caliper, PlungerDial
from truing.kit.shims import Shim
from truing.machine import Pad, Rails, starting_point
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.lines import LINES, line_through
from truing.measure.problem import Problem
from truing.moves.changes import done, undone
from truing.moves.flatness import off_plane
from truing.moves.heights import plan_heights
from truing.registry import kind
from truing.standin.apply import apply
from truing.standin.evening import moved, one_round
from truing.standin.truth import RailsTruth, Truth

STRAIGHT, PARALLEL, TWIST = kind("rail_straight"), kind("rail_parallel"), kind("rail_twist")
ROUTER = starting_point("gantry_router")
DIAL = PlungerDial(graduation_mm=0.0002, range_mm=5, repeatability_mm=0.0001)
STOCK = [Shim(thickness_mm=t, count=12) for t in (0.02, 0.03, 0.05, 0.1, 0.2)]
PLACES = [0.0, 200.0, 400.0, 600.0, 800.0]


def stated(check: Any, part: str = "", **more: Any) -> Any:
    return check.setup_type(
        **{
            **check.propose(ROUTER, Subject.part(part) if part else THE_MACHINE).model_dump(),
            **more,
        }
    )


def values(finding: Any) -> dict[str, float]:
    return {q.key: q.estimate.value for q in finding.quantities}


POINTS = st.lists(st.floats(-0.2, 0.2), min_size=5, max_size=5)

# --- straight -------------------------------------------------------------------------------------


@given(POINTS)
@settings(max_examples=40)
def test_the_minimum_zone_is_the_narrowest_that_any_slope_gives(ys: list[float]) -> None:
    best = line_through(PLACES, ys, "min_zone")
    x, y = np.array(PLACES), np.array(ys)
    tried = min(np.ptp(y - m * x) for m in np.linspace(-0.002, 0.002, 4001))
    assert best.peak_to_valley <= tried + 1e-9
    assert best.peak_to_valley >= tried - 5e-4
    assert max(best.left) == pytest.approx(-min(best.left), abs=1e-9)
    for other in ("ends", "least_squares"):
        assert best.peak_to_valley <= line_through(PLACES, ys, other).peak_to_valley + 1e-9
    for which in LINES:
        line = line_through(PLACES, ys, which)
        assert line.offset + line.slope * x + line.left == pytest.approx(y, abs=1e-9)
    assert sum(line_through(PLACES, ys, "least_squares").left) == pytest.approx(0, abs=1e-9)
    with pytest.raises(ValueError, match="two places"):
        line_through([3.0, 3.0], [0.0, 1.0], "ends")


@given(POINTS, POINTS, st.sampled_from(["side", "height"]))
@settings(max_examples=40)
def test_a_reversal_takes_the_edge_out_whatever_its_shape(
    rail: list[float], edge: list[float], plane: str
) -> None:
    """Where tip and edge really are: the dial stands on the rail, the tip reaches for the edge."""
    how = stated(STRAIGHT, way="reversal", plane=plane, places_mm=PLACES, passes=1)
    shown = []
    for turn in "AB":
        # sideways A reaches to plus; upwards A reaches down. The edge's bumps stand out toward it.
        toward = 1 if (turn == "A") == (plane == "side") else -1
        for x, r, e in zip(PLACES, rail, edge, strict=True):
            carrier, face = toward * r, 1.0 - e
            shown.append((f"{turn}{x:g}", 0.5 - (face - carrier - 0.5)))
    finding = evaluate(STRAIGHT, how, readings(shown), DIAL, NOTHING)
    expected = line_through(PLACES, rail, "ends").left
    assert [b.off_mm for b in finding.bolts] == pytest.approx(expected, abs=1e-9)
    own = line_through(PLACES, edge, "ends").peak_to_valley
    measured = line_through(PLACES, [b.off_mm for b in finding.edge_mm], "ends").peak_to_valley
    assert measured == pytest.approx(own, abs=1e-9)


def test_bolt_by_bolt_only_the_full_pass_counts() -> None:
    how = stated(STRAIGHT, way="bolts", places_mm=PLACES, edge_within_mm=0.0)
    keys = [f"{x:g}" for x in PLACES]
    setting = readings((k, 0.1) for k in keys)
    prompts = [s.prompt.metric for s in STRAIGHT.stations(how, setting[:2])]
    assert "push the rail until the dial shows +0.100 mm" in prompts[2]
    before = evaluate(STRAIGHT, how, setting, DIAL, NOTHING)
    assert not before.last_pass
    advice = advise(STRAIGHT, how, before, {"straight": 0.02}, ROUTER, DIAL, STOCK, NOTHING)
    assert not advice.moves
    both = readings(
        [
            *((k, 0.1) for k in keys),
            *((k, v) for k, v in zip(keys, (0.1, 0.1, 0.16, 0.1, 0.1), strict=True)),
        ]
    )
    assert STRAIGHT.next_station(how, both) is None
    after = evaluate(STRAIGHT, how, both, DIAL, NOTHING)
    assert after.straightness.value == pytest.approx(0.06)
    assert any("Bolt 3" in n.text.metric for n in after.notes)
    move = advise(STRAIGHT, how, after, {"straight": 0.02}, ROUTER, DIAL, STOCK, NOTHING).moves[0]
    (pushed,) = [a for a in move.amounts if a.amount_mm]
    assert pushed.place == "bolt 3"
    assert "0.060 mm to the left" in pushed.words.metric
    assert "the needle goes from +0.16 mm to +0.1 mm" in str(pushed.detail)


def test_noise_alone_is_not_called_bent() -> None:
    rough = PlungerDial(graduation_mm=0.01, range_mm=5, repeatability_mm=0.004)
    how = stated(
        STRAIGHT, places_mm=[float(x) for x in range(0, 1000, 100)], passes=2, edge_within_mm=0.0
    )
    out = 0
    for seed in range(60):
        rng = np.random.default_rng(seed)
        shown = [
            (f"{x:g}", round(rng.normal(0, 0.004) / 0.005) * 0.005)
            for _ in range(2)
            for x in how.places_mm
        ]
        finding = evaluate(STRAIGHT, how, readings(shown), rough, NOTHING)
        out += judge(STRAIGHT, how, finding, {"straight": 0.005}).verdict == "out"
    assert out <= 2


def test_unequal_and_missing_places() -> None:
    how = stated(STRAIGHT, places_mm=PLACES)
    with pytest.raises(Problem, match="2 of the bolts"):
        evaluate(STRAIGHT, how, readings([("0", 0.0), ("200", 0.1)]), DIAL, NOTHING)
    some = evaluate(STRAIGHT, how, readings([("0", 0.0), ("200", 0.1), ("800", 0)]), DIAL, NOTHING)
    assert sum("left out" in n.text.metric for n in some.notes) == 2
    only_a = stated(STRAIGHT, places_mm=PLACES, way="reversal")
    with pytest.raises(Problem, match="both passes"):
        evaluate(STRAIGHT, only_a, readings([("A0", 0.0), ("A200", 0.0)]), DIAL, NOTHING)
    for wrong in ([0, 300, 200], [0, 100, 100]):
        with pytest.raises(ValidationError):
            stated(STRAIGHT, places_mm=wrong)


# --- parallel -------------------------------------------------------------------------------------


def test_both_ways_of_following_the_second_rail_agree() -> None:
    apart = [600.03, 600.02, 600.0, 599.97, 599.98]
    by_caliper = stated(PARALLEL, way="distance", places_mm=PLACES, passes=1)
    by_dial = stated(PARALLEL, way="carriage", tip_on="inner", places_mm=PLACES, passes=1)
    outer = stated(PARALLEL, way="carriage", tip_on="outer", places_mm=PLACES, passes=1)
    caliper = Caliper(resolution_mm=0.001, repeatability_mm=0.0001, range_mm=700)
    keys = [f"{x:g}" for x in PLACES]
    found = [
        evaluate(PARALLEL, how, readings(zip(keys, shown, strict=True)), instrument, NOTHING)
        for how, instrument, shown in (
            (by_caliper, caliper, apart),
            (by_dial, DIAL, [600 - a for a in apart]),
            (outer, DIAL, [a - 600 for a in apart]),
        )
    ]
    slope = np.polyfit(PLACES, apart, 1)[0] * 800
    for finding in found:
        assert finding.taper.value == pytest.approx(slope, abs=1e-9)
        assert finding.bolts[0].off_mm == pytest.approx(apart[0] - np.mean(apart))
    limits = PARALLEL.tolerances(ROUTER)
    (move,) = advise(PARALLEL, by_dial, found[1], limits, ROUTER, DIAL, [], NOTHING).moves
    assert "0.030 mm toward the first" in move.amounts[0].words.metric
    assert "0.030 mm away from the first" in move.amounts[3].words.metric
    # pushed by so much, each bolt stands at the mean distance
    pushed = [a + m.amount_mm for a, m in zip(apart, move.amounts, strict=True)]
    assert pushed == pytest.approx([600.0] * 5, abs=limits["taper"])
    sorts = [s.sort for s in move.figures[0].spots]
    assert (sorts[0], sorts[3]) == ("in", "out")
    assert any("carriage set it" in s.metric for s in move.steps)


def test_the_drawing_of_a_rail_does_not_go_by_where_its_places_are_counted_from() -> None:
    def factor(first_mm: float) -> float:
        how = stated(PARALLEL, way="carriage", places_mm=[first_mm + p for p in PLACES], passes=1)
        keys = [s.key for s in PARALLEL.stations(how)]
        read = readings(zip(keys, [0.0, 0.4, 1.2, 0.8, 2.0], strict=True))
        [drawn] = PARALLEL.figures(PARALLEL.weigh(case_of(PARALLEL, how, read, DIAL)))
        return float(drawn.factor)

    assert factor(PLACES[0] + 700) == factor(0)


# --- twist ----------------------------------------------------------------------------------------

CORNERS = st.tuples(*[st.floats(-0.5, 0.5)] * 4)


@given(CORNERS)
@settings(max_examples=40)
def test_every_way_of_reading_a_twist_says_the_same(corners: tuple[float, ...]) -> None:
    """A bridge's middle lies midway between the corners it rests on; three feet lie on a plane."""
    fl, fr, rl, rr = corners
    middle = {"A": (fl + rr) / 2, "B": (fr + rl) / 2}
    w = middle["B"] - middle["A"]
    fourth = fr - (fl + rr - rl)
    named = {"front left": fl, "front right": fr, "rear left": rl, "rear right": rr}
    ways = [
        ({"way": "bridge", "sense": "fixed"}, middle),
        ({"way": "bridge", "sense": "riding"}, {k: -v for k, v in middle.items()}),
        ({"way": "fourth"}, {"fourth": fourth}),
        ({"way": "corners"}, named),
        ({"way": "corners", "heights_count": "down"}, {k: -v for k, v in named.items()}),
    ]
    for more, shown in ways:
        how = stated(TWIST, "fine", passes=1, **more)
        finding = evaluate(TWIST, how, readings(shown.items()), DIAL, NOTHING)
        assert finding.twist.value == pytest.approx(w, abs=1e-9), more
    if abs(w) > 0.01:
        assert finding.low == ("A" if w > 0 else "B")


def twisted(w: float, machine: Any = ROUTER, history: History = NOTHING, **more: Any) -> Any:
    how = stated(TWIST, "fine", sense="fixed", passes=1, **more)
    finding = evaluate(TWIST, how, readings([("A", 0.0), ("B", w)]), DIAL, history)
    limits = TWIST.tolerances(machine)
    return finding, advise(TWIST, how, finding, limits, machine, DIAL, STOCK, history).moves[0]


def residual(move: Any, w: float) -> float:
    """The twist that is left with the stacks as chosen, from the four corners themselves."""
    added = {s.pad: sum(s.after_mm) - sum(s.before_mm) for s in move.stacks}
    b = (added["front right"] + added["rear left"]) / 2
    a = (added["front left"] + added["rear right"]) / 2
    return w + b - a


@pytest.mark.parametrize(("length", "most"), [(300.0, 10), (540.0, 10), (1100.0, 10), (6000.0, 10)])
def test_places_along_a_rail_are_proposed_evenly_and_not_too_many(length: float, most: int) -> None:
    rails = Rails(length_mm=length, apart_mm=400, bolt_pitch_mm=60)
    machine = ROUTER.model_copy(update={"rails": rails})
    places = kind("rail_twist").propose(machine).places_mm
    steps = np.diff(places)
    assert 5 <= len(places) <= most
    assert steps.max() <= 1.5 * steps.min()
    assert places[-1] - places[0] >= 0.75 * length


@given(st.floats(0.06, 0.6), st.sampled_from([1, -1]))
@settings(max_examples=15, deadline=None)
def test_shims_go_under_the_low_diagonal_and_the_prediction_is_of_those_chosen(
    size: float, sign: int
) -> None:
    w = size * sign
    _, move = twisted(w)
    assert move.predicted[0].after.value == pytest.approx(residual(move, w), abs=1e-6)
    assert abs(residual(move, w)) <= 0.011
    used = {t.thickness_mm: t.count for t in move.tin}
    assert all(n <= 12 for n in used.values())
    low = ("front left", "rear right") if w > 0 else ("front right", "rear left")
    assert sum(sum(s.after_mm) for s in move.stacks if s.pad in low) > 0
    assert all(len(s.after_mm) <= 3 for s in move.stacks)


def test_shims_that_lie_there_are_counted_and_taken_out_where_that_helps() -> None:
    _, first = twisted(0.4)
    shimmed = done(first, ROUTER)
    assert shimmed.rails
    assert sum(len(p.shims_mm) for p in shimmed.rails.packs) == sum(
        len(s.after_mm) for s in first.stacks
    )
    # now it is as far out the other way: the same shims come out again
    _, back = twisted(-0.4, shimmed)
    assert sum(sum(s.after_mm) for s in back.stacks) == pytest.approx(0, abs=0.02)
    assert "Lower the diagonal" in back.title.metric
    assert sum(t.count for t in back.tin) < 0
    assert undone(first, shimmed).rails.packs == []  # type: ignore[union-attr]
    # whichever of the two it is, it is named by its own corners
    _, other = twisted(0.4, done(twisted(-0.4)[1], ROUTER))
    for w, move, high in ((-0.4, back, "front left–rear right"), (0.4, other, None)):
        named = high or "front right–rear left"
        assert f"Lower the diagonal {named}:" in move.title.metric, w


def test_shims_on_the_wrong_diagonal_are_recognised() -> None:
    finding, move = twisted(0.2)
    made = MoveMade(key=move.key, mechanism=move.mechanism, aimed={"twist": 0.0})
    past = PastRound(number=1, values={"twist": finding.twist}, move=made)
    wrong, _ = twisted(0.4, history=History(past=[past]))
    assert any("wrong diagonal" in n.text.metric for n in wrong.notes)
    half_done, _ = twisted(0.12, history=History(past=[past]))
    assert not any("diagonal" in n.text.metric for n in half_done.notes)


def test_shims_that_went_under_the_wrong_diagonal_are_moved_from_where_they_lie() -> None:
    """Followed on the simulated rails by somebody who mixes the corners up once."""
    rng = np.random.default_rng(6)
    core, machine = TWIST, ROUTER
    how = stated(TWIST, "fine", way="corners", heights_count="up")
    at = [0.0, 1100.0]
    rails = RailsTruth(at_mm=at, second_up_mm=[0.0, 0.4], first_up_mm=[0.0, 0.0], apart_mm=860)
    rails = rails.model_copy(update={"side_mm": [0.0] * 2, "second_mm": [0.0] * 2})
    truth = Truth(rails=rails, noise_share=0.1)
    stock = [Shim(thickness_mm=t, count=8) for t in (0.02, 0.05, 0.1, 0.2)]
    case = case_of(core, how, dial=FINE, machine=machine, stock=stock)
    case = core.weigh(case.but(readings=one_round(core, how, truth, FINE, rng)))
    move = core.advise(case).moves[0]
    assert len(core.advise(case).moves) == 1
    over = {"front left": "front right", "front right": "front left"}
    over |= {"rear left": "rear right", "rear right": "rear left"}
    added = {s.pad: s.after_mm for s in move.stacks}
    mixed_up = move.model_copy(
        update={
            "stacks": [s.model_copy(update={"after_mm": added[over[s.pad]]}) for s in move.stacks]
        }
    )
    truth = apply("rail_twist", mixed_up, truth, machine, rng)
    case = moved(core, case, move)
    case = core.weigh(case.but(readings=one_round(core, case.setup, truth, FINE, rng)))
    assert abs(case.finding.twist.value) > 0.3
    crossed, meant = core.advise(case).moves
    assert meant.instead
    lie = {s.pad for s in crossed.stacks if s.before_mm}
    assert lie == {over[p] for p, after in added.items() if after}
    assert all(name in crossed.title.metric for name in lie)
    truth = apply("rail_twist", crossed, truth, case.machine, rng)
    # the record has them where they are now, and so has the tin
    assert done(crossed, case.machine).rails.packs != case.machine.rails.packs
    case = moved(core, case, crossed)
    case = core.weigh(case.but(readings=one_round(core, case.setup, truth, FINE, rng)))
    assert case.judgement.verdict == "true"
    there = Counter(t for p in case.machine.rails.packs for t in p.shims_mm)
    lies = Counter(t for s in crossed.stacks for t in s.after_mm)
    assert there == lies


def test_places_on_one_rail_only_and_more_stack_than_the_bolt_allows() -> None:
    how = stated(TWIST, "fine", way="stations", places_mm=PLACES)
    one = readings((f"first:{x:g}", 0.0) for x in PLACES)
    with pytest.raises(Problem, match="one line"):
        evaluate(TWIST, how, one, DIAL, NOTHING)
    with pytest.raises(Problem, match="Not read yet: diagonal A"):
        evaluate(TWIST, stated(TWIST, "fine"), readings([("B", 0.0)]), DIAL, NOTHING)
    short = ROUTER.model_copy(update={"rails": Rails(length_mm=1100, apart_mm=860, most_pieces=1)})
    _, move = twisted(0.9, short)
    assert all(len(s.after_mm) <= 1 for s in move.stacks)
    assert move.predicted[0].after.value == pytest.approx(residual(move, 0.9), abs=1e-6)
    assert abs(move.predicted[0].after.value) > 0.4


def test_an_empty_tin_under_rails_names_the_nearest_that_is_sold() -> None:
    how = stated(TWIST, "fine", sense="fixed", passes=1)
    finding = evaluate(TWIST, how, readings([("A", 0.0), ("B", 0.22)]), DIAL, NOTHING)
    move = advise(TWIST, how, finding, TWIST.tolerances(ROUTER), ROUTER, DIAL, [], NOTHING).moves[0]
    assert "0.2 mm is the nearest that is sold" in move.needs.metric


# --- the solver -----------------------------------------------------------------------------------


@given(st.lists(st.floats(0, 0.25), min_size=4, max_size=4))
@settings(max_examples=12, deadline=None)
def test_no_set_of_shims_beats_the_one_that_is_found(heights: list[float]) -> None:
    pads = [
        Pad(name=str(i), x_mm=x, y_mm=y)
        for i, (x, y) in enumerate([(-300, -400), (300, -400), (-300, 400), (300, 400)])
    ]
    sizes = (0.05, 0.12)
    stock = [Shim(thickness_mm=t, count=9, tolerance_mm=0.0) for t in sizes]
    plan = plan_heights(pads, heights, stock, most_pieces=2)
    sums = [0.0, *(sum(c) for n in (1, 2) for c in combinations_with_replacement(sizes, n))]
    # four corners of a rectangle: the smallest largest distance is a quarter of the diagonals'
    best = min(
        abs((h[0] + h[3]) - (h[1] + h[2])) / 4
        for added in product(sums, repeat=4)
        for h in [[a + b for a, b in zip(heights, added, strict=True)]]
    )
    assert plan.off_plane_mm == pytest.approx(best, abs=1e-5)


@pytest.mark.parametrize("full", [False, True])
@pytest.mark.parametrize("seed", range(8))
def test_six_places_are_served_as_well_as_a_tin_can(seed: int, full: bool) -> None:
    """A nearly empty tin or a full one, against every way of dealing it out."""
    rng = np.random.default_rng(seed)
    pads = [Pad(name=f"{x}{i}", x_mm=x, y_mm=i * 400.0) for x in (-300, 300) for i in range(3)]
    heights = list(rng.normal(0, 0.06, 6))
    owned = {t: 12 if full else int(rng.integers(1, 4)) for t in (0.05, 0.1)}
    stock = [Shim(thickness_mm=t, count=n, tolerance_mm=0.0) for t, n in owned.items()]
    plan = plan_heights(pads, heights, stock, most_pieces=2)
    stacks = [(0, 0), (1, 0), (0, 1), (1, 1), (2, 0), (0, 2)]
    picks = np.array(list(product(range(6), repeat=6)))
    counts = np.array(stacks)[picks]
    picks = picks[(counts.sum(axis=1) <= list(owned.values())).all(axis=1)]
    added = (np.array(stacks) @ [0.05, 0.1])[picks]
    # the root mean square about the best plane is no more than the largest distance from any: who
    # stands worse by that than the best so far need not be looked at
    design = np.array([[p.x_mm, p.y_mm, 1.0] for p in pads])
    stand = np.array(heights) + added
    least = np.sqrt(((stand - stand @ np.linalg.pinv(design).T @ design.T) ** 2).mean(axis=1))
    best = math.inf
    for i in np.argsort(least):
        if least[i] >= best:
            break
        best = min(best, off_plane(pads, list(stand[i]))[1])
    assert plan.off_plane_mm <= best * 1.02 + 1e-6


@pytest.mark.parametrize("spare", [0, 1, 3])
@pytest.mark.parametrize("seed", range(6))
def test_pieces_that_run_short_are_dealt_out_as_they_once_lay(seed: int, spare: int) -> None:
    """Ten places that lay on one plane but for two microns, with the pieces that lay under them
    back in the tin, and a few of each beside: any wrong one under a place is wanted elsewhere."""
    rng = np.random.default_rng(seed)
    pads = [Pad(name=f"{x}{i}", x_mm=x, y_mm=i * 300.0) for x in (-250.0, 250) for i in range(5)]
    sizes = (0.02, 0.03, 0.05, 0.1, 0.2, 0.3)
    lay = [[float(t) for t in rng.choice(sizes, size=rng.integers(0, 4))] for _ in pads]
    owned = Counter(t for stack in lay for t in stack)
    at = np.array([[p.x_mm / 1000, p.y_mm / 1000, 1.0] for p in pads])
    heights = at @ [0.2, -0.1, 0.9] - [sum(s) for s in lay] + rng.uniform(-0.002, 0.002, 10)
    stock = [Shim(thickness_mm=t, count=owned[t] + spare, tolerance_mm=0.0) for t in sizes]
    plan = plan_heights(pads, list(heights), stock, most_pieces=3)
    used = Counter(t for stack in plan.stacks_mm for t in stack)
    assert all(n <= owned[t] + spare for t, n in used.items())
    assert max(map(len, plan.stacks_mm)) <= 3
    then = heights + [sum(s) for s in plan.stacks_mm]
    left = then - at @ np.linalg.lstsq(at, then, rcond=None)[0]
    # anybody's plane is no nearer than the one that is nearest
    assert plan.off_plane_mm <= float(np.abs(left).max()) + 1e-9
    assert plan.off_plane_mm <= (0.006 if spare < 2 else 0.003)


def test_shims_that_lie_where_no_bolt_is_are_taken_along() -> None:
    """Packs under the corners that were read, a little way from the last bolts."""
    packs = [
        Pad(name="front left", x_mm=-300, y_mm=-500, shims_mm=[0.2]),
        Pad(name="rear right", x_mm=300, y_mm=500, shims_mm=[0.1]),
    ]
    rails = Rails(length_mm=1120, apart_mm=600, bolt_pitch_mm=180, packs=packs)
    pads = pads_at(rails, [("first", 20.0, "a"), ("second", 20.0, "b"), ("second", 1100.0, "c")])
    assert [p.shims_mm for p in pads] == [[0.2], [], [0.1]]
    # each pack counts once, at the place nearest to it
    near = pads_at(rails, [("first", 20.0, "a"), ("first", 80.0, "b"), ("first", 560.0, "c")])
    assert [p.shims_mm for p in near] == [[], [0.2], []]


def test_many_bolts_are_served_within_what_the_stock_can_do() -> None:
    for seed in range(3):
        rng = np.random.default_rng(seed)
        pads = [Pad(name=f"{x}{i}", x_mm=x, y_mm=i * 90.0) for x in (-400, 400) for i in range(10)]
        heights = list(rng.normal(0, 0.08, len(pads)))
        stock = [Shim(thickness_mm=t, count=30) for t in (0.01, 0.02, 0.03, 0.05, 0.1, 0.2)]
        plan = plan_heights(pads, heights, stock, most_pieces=3)
        assert plan.off_plane_mm <= 0.008
        assert off_plane(pads, heights)[1] > 0.08
        for i, t in enumerate((0.01, 0.02, 0.03, 0.05, 0.1, 0.2)):
            assert sum(s.count(t) for s in plan.stacks_mm) <= stock[i].count


@pytest.mark.parametrize(
    ("runs", "first", "second"),
    [
        ("front_back", (-430, -550), (430, 550)),
        ("left_right", (-550, -430), (550, 430)),
    ],
)
def test_a_place_on_a_rail_stands_where_it_is_on_the_machine(
    runs: Any, first: tuple[float, float], second: tuple[float, float]
) -> None:
    rails = Rails(length_mm=1100, apart_mm=860, runs=runs)
    assert rail_xy(rails, "first", 0.0) == first
    assert rail_xy(rails, "second", 1100.0) == second
    assert bolts_mm(rails)[0] >= 0
    assert bolts_mm(rails)[-1] <= 1100
    assert len(bolts_mm(rails)) <= 12
