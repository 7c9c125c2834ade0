"""What a surfacing leaves standing round a clamp is there at the next one: boards are surfaced
twice by a slow cutter of the tests' own, which remembers what it left."""

from __future__ import annotations

import random
from dataclasses import replace

import numpy as np
import pytest
from shapely.geometry import Point, Polygon

from tests.core.boards import a_board, a_wish
from tests.core.running import run
from tests.core.test_surfacing import ran, yard_of
from truing.machine.board import Board, KeepOut
from truing.measure.problem import Problem
from truing.surfacing.facts import Facts
from truing.surfacing.foreign import Stated, ground_for
from truing.surfacing.life import more_times
from truing.surfacing.plan import Surfacing, make
from truing.surfacing.walls import MOST_CORNERS, after
from truing.surfacing.wish import Wish


def clamped(rng: random.Random) -> tuple[Facts, Wish]:
    facts = a_board(rng)
    clamp = KeepOut(
        name="strap",
        what="clamp",
        shape=rng.choice(["rectangle", "circle"]),
        x_mm=rng.uniform(-25, 25),
        y_mm=rng.uniform(-15, 15),
        across_mm=rng.uniform(8, 14),
        deep_mm=rng.uniform(8, 14),
        top_mm=15.0,
    )
    board = facts.board.model_copy(update={"keep_outs": [clamp]})
    wish = a_wish(rng, facts).model_copy(
        update={"diameter_mm": 16.0, "stepover_mm": 8.0, "zero": "highest", "plate_mm": 0.0}
    )
    return facts.model_copy(update={"board": board}), wish


def left_by(plan: Surfacing) -> list[list[tuple[float, float]]]:
    return [u.outline for u in plan.uncut if u.up_mm >= 0]


def once(seed: int) -> tuple[Facts, Wish, Surfacing, Board, np.ndarray, np.ndarray, np.ndarray]:
    """The first surfacing: the board as it is described after it, and as it really is: heights over
    the new face, and where, from mid bed."""
    facts, wish = clamped(random.Random(seed))
    plan = make(wish, facts)
    cut, _ = ran(plan, facts, wish)
    assert cut.harm == set()
    board = after(facts.board, plan.removed_mm, left_by(plan))
    up = cut.up - plan.levels[-1].z_mm
    return facts, wish, plan, board, up, cut.x + plan.origin[0], cut.y + plan.origin[1]


@pytest.mark.parametrize("seed", range(8))
def test_a_wall_round_a_clamp_is_remembered_and_cut_first_when_the_clamp_has_gone(
    seed: int,
) -> None:
    facts, wish, plan, board, up, x, y = once(seed)
    walls = [k for k in board.keep_outs if k.is_wall]
    assert walls
    assert all(len(k.corners_mm) <= 2 * MOST_CORNERS for k in walls)
    # all that stands is within one, and no higher than that says
    for j, i in np.argwhere(up > 0.02):
        here = [k for k in walls if Polygon(k.outline).buffer(1.5).covers(Point(x[i], y[j]))]
        assert here
        assert up[j, i] <= max(k.top_mm for k in here) + 0.002
    assert max(k.top_mm for k in walls) <= plan.removed_mm + 1e-4

    # the clamp is taken off, and the board skimmed again, by what is known of it alone
    bare = board.model_copy(update={"keep_outs": walls})
    again = facts.model_copy(update={"board": bare, "map": [], "map_expanded_mm": 0.0})
    second = wish.model_copy(update={"heights": "range", "range_mm": 0.0, "depth_mm": 0.2})
    two = make(second, again)
    assert two.report.faults == []
    assert two.removed_mm == pytest.approx(second.skim_mm)
    assert any("wall" in note.metric for note in two.notes)
    yard = yard_of(facts.model_copy(update={"board": bare}), second, two)
    yard = replace(yard, heights=up, kept=[], most_bite=0.2 + 0.01, floor=-9.0, safe=0.0)
    cut = run(two.program, yard)
    assert cut.harm == set()
    left = [Polygon(u.outline).buffer(1.5) for u in two.uncut]
    for j, i in np.argwhere(cut.up > two.levels[-1].z_mm + 0.002):
        assert any(u.covers(Point(x[i], y[j])) for u in left)
    # forgotten, it would have been met by the first pass at its whole height
    plain = again.model_copy(update={"board": bare.model_copy(update={"keep_outs": []})})
    if up.max() > 0.25:
        assert "bite" in run(make(second, plain).program, yard).harm
    # and once it is cut, nothing is remembered of it
    flat = after(bare, two.removed_mm, left_by(two))
    gone = [k for k in flat.keep_outs if k.is_wall and not any(_near(k, o) for o in left_by(two))]
    assert gone == []


def _near(k: KeepOut, outline: list[tuple[float, float]]) -> bool:
    return Polygon(k.outline).intersects(Polygon(outline).buffer(1.5))


def test_a_wall_under_a_clamp_that_stays_grows() -> None:
    facts, wish, plan, board, up, x, y = once(1)
    again = facts.model_copy(update={"board": board, "map": [], "map_expanded_mm": 0.0})
    second = wish.model_copy(update={"heights": "range", "range_mm": 0.0, "skim_mm": 0.12})
    two = make(second, again)
    # it is not reached, so that nothing begins over it
    assert [level.z_mm for level in two.levels] == [pytest.approx(-0.12)]
    strap = next(k for k in board.keep_outs if k.name == "strap")
    told = max(
        u.up_mm for u in two.uncut if Polygon(u.outline).covers(Point(strap.x_mm, strap.y_mm))
    )
    stands = up[np.abs(y[:, None] - strap.y_mm) + np.abs(x[None, :] - strap.x_mm) < 6].max() + 0.12
    assert stands <= told + 1e-6
    assert told == pytest.approx(plan.removed_mm + 0.12, abs=1e-4)
    # and on, after the next
    third = after(board, two.removed_mm, left_by(two))
    assert max(k.top_mm for k in third.keep_outs if k.is_wall) == pytest.approx(told, abs=1e-3)


def test_programs_of_others_meet_it_too_and_z_is_not_zeroed_on_it() -> None:
    facts, wish, _, board, up, x, y = once(1)
    bare = board.model_copy(update={"keep_outs": [k for k in board.keep_outs if k.is_wall]})
    known = facts.model_copy(update={"board": bare, "map": []})
    ground = ground_for(Stated(x_mm=0, y_mm=0), known)
    assert ground.highest_mm == pytest.approx(max(k.top_mm for k in bare.keep_outs))
    assert ground.safe == pytest.approx(ground.highest_mm + 2.0)
    assert ground.keep_grid(ground.cutter) is None
    j, i = np.unravel_index(int(np.argmax(up)), up.shape)
    spot = wish.model_copy(
        update={
            "heights": "range",
            "zero": "spot",
            "zero_x_mm": float(x[i]),
            "zero_y_mm": float(y[j]),
        }
    )
    with pytest.raises(Problem, match="on a wall"):
        make(spot, known)


def test_how_often_is_one_figure_before_and_after() -> None:
    """What the board says now is one more than what a usual plan says will be left after it."""
    screw = KeepOut(name="screw", what="screw", x_mm=-60, top_mm=-5.0, across_mm=8)
    high = [(x, y, 0.3 if x > 0 else 0.0) for x in (-90.0, 0.0, 90.0) for y in (-60.0, 60.0)]
    facts = Facts(
        machine="Curlew",
        table_x_mm=200,
        table_y_mm=140,
        board=Board(thickness_mm=18, least_mm=8, keep_outs=[screw]),
        map=high,
        taken_mm=[0.4, 0.5, 0.4],
    )
    wish = Wish(reach_left_mm=-130, reach_right_mm=130, reach_front_mm=-100, reach_rear_mm=100)
    now = more_times(facts, wish.margin_mm)
    assert now
    # the screw is 5 under the low end, which is 0.3 under the high one: 5.3 − margin 2 at 0.4 each
    assert now == (8, 0.4)
    plan = make(wish.model_copy(update={"skim_mm": 0.1}), facts)
    assert plan.removed_mm == pytest.approx(0.4)
    assert plan.more_times == 7
