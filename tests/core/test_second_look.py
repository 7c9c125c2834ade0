"""What shows only on a second look: the second round, the second foot, the other stack, the machine
that lacks a part."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from tests.core.helpers import START, TRAM, about, case_of, readings, setup
from truing.contract.history import History, MoveMade, PastRound
from truing.contract.move import Move, PadStack
from truing.course.gates import gates
from truing.course.kinds import suiting
from truing.course.plan import Plan, changes, plan
from truing.course.standing import Log, Result, standings
from truing.kit.instruments import Caliper, Level, PlungerDial
from truing.kit.shims import Shim
from truing.machine import Column, Machine, Slide, starting_point
from truing.machine.ghost import ghost
from truing.machine.parts import Feet, Foot
from truing.measure.fields import exact
from truing.measure.lengths import parse_length
from truing.measure.words import Words, plain
from truing.moves.pivot import aim
from truing.moves.shims import sold_near
from truing.registry import kind, registry
from truing.standin.hands import Hands
from truing.standin.kinds.spindle_tram import ANSWERS
from truing.standin.truth import Truth


def test_a_spindle_that_rises_by_anything_has_a_travel_to_be_square() -> None:
    bare = Machine(slides=[Slide(direction="left_right")], base=None, column=None)
    cases = {
        "nothing": (bare, False),
        "a column": (bare.model_copy(update={"column": Column()}), True),
        "a slide": (Machine(slides=[Slide(direction="up_down")], column=None), True),
        "no spindle": (Machine(slides=[Slide(direction="up_down")], spindle=False), False),
    }
    for name, (machine, rises) in cases.items():
        assert ("travel_square" in [k.key for k in suiting(machine)]) == rises, name


def test_divisions_are_offered_where_there_are_some() -> None:
    assert PlungerDial().units[0] == "div"
    assert Caliper().units == ["mm", "µm", "in", "thou", "tenths"]


@pytest.mark.parametrize(
    ("mm", "metric", "inch"),
    [
        (70, "70 mm", "2.7559 in"),
        (62, "62 mm", "2.4409 in"),
        (12.7, "12.7 mm", "0.5 in"),
        (0.25, "0.25 mm", "0.00984 in"),
        (-0.25, "−0.25 mm", "−0.00984 in"),
        (0.02, "0.02 mm", "0.000787 in"),
        (0.0508, "0.0508 mm", "0.002 in"),
        (2540, "2540 mm", "100 in"),
        (0, "0 mm", "0 in"),
    ],
)
def test_a_stated_length_keeps_the_noughts_that_count(mm: float, metric: str, inch: str) -> None:
    assert exact(mm) == Words(metric=metric, inch=inch)


@pytest.mark.parametrize(
    ("text", "mm"), [("1,234.5 mm", 1234.5), ("1.234,5 mm", 1234.5), ("1,234,567 µm", 1234.567)]
)
def test_marks_that_group_are_told_from_the_decimal_one(text: str, mm: float) -> None:
    assert parse_length(text).mm == mm


def test_a_lean_is_told_over_the_length_that_was_asked_for() -> None:
    read = readings([("12", 0.0), ("3", 0.02), ("6", 0.0), ("9", -0.02)] * 2)
    found = TRAM.evaluate(case_of(TRAM, setup(span_mm=400.0), read))
    lean = next(q for q in found.quantities if q.key == "lean_x")
    # 0.2 mm/m over 0.4 m, known to a two-hundredth of that or so
    assert "0.080" in lean.sentence.metric
    assert "400 mm" in lean.sentence.metric
    doubt = float(lean.sentence.metric.split("± ")[3].split(" ")[0])
    assert doubt == pytest.approx(lean.estimate.expanded * 0.4, rel=0.1)


# --- a second round -------------------------------------------------------------------------------


def past(key: str, was: float, meant: float, mechanism: Any) -> History:
    """One round that found `was`, after which a move was to leave `meant`."""
    made = MoveMade(key="x", mechanism=mechanism, aimed={key: meant}, shift={})
    values = {key: about(was, measure="length")}
    return History(
        sitting="now", past=[PastRound(number=1, sitting="now", values=values, move=made)]
    )


@pytest.mark.parametrize(
    ("now", "wrong"), [(0.38, True), (0.40, True), (0.02, False), (0.20, False), (-0.2, False)]
)
def test_shims_under_the_wrong_diagonal_are_found_out(now: float, wrong: bool) -> None:
    """0.2 were there and 0.19 were to go: what grows to 0.39 was lifted the wrong way."""
    core, machine = kind("rail_twist"), starting_point("gantry_router")
    how = core.propose(machine).model_copy(update={"way": "bridge"})
    twist = now
    read = readings([("A", -twist / 2), ("B", twist / 2)] * 2)
    first = core.evaluate(case_of(core, how, read, machine=machine)).twist.value
    # whichever way the bridge counts, the round before found half as much of the same
    history = past("twist", first / now * 0.2, first / now * 0.01, "rail_packs")
    found = core.evaluate(case_of(core, how, read, history=history, machine=machine))
    assert any("wrong diagonal" in n.text.metric for n in found.notes) == wrong


def test_what_stays_of_a_twist_is_told_as_a_lean_of_the_bridge() -> None:
    core, machine = kind("rail_twist"), starting_point("gantry_router")
    how = core.propose(machine).model_copy(update={"way": "bridge"})
    read = readings([("A", -0.2), ("B", 0.2)] * 3)
    stock = [Shim(thickness_mm=0.3, count=2)]
    case = case_of(core, how, read, machine=machine, stock=stock)
    case = case.but(found=core.evaluate(case))
    move = core.advise(case).moves[0]
    told = " ".join(w.metric for w in [*move.notes, *move.steps])
    left = float(told.split("With these shims ")[1].split(" mm")[0])
    lean = float(told.split("leans by ")[1].split(" mm/m")[0])
    assert lean == pytest.approx(2 * left / how.apart_mm * 1000, abs=0.002)


def four_feet() -> Machine:
    corners = [("FL", -200, -150), ("FR", 200, -150), ("RL", -200, 150), ("RR", 200, 150)]
    places = [Foot(name=n, x_mm=x, y_mm=y) for n, x, y in corners]
    return Machine(feet=Feet(places=places, pitch_mm=1.5, flats=6))


def test_a_twist_too_small_for_two_feet_is_given_to_one_of_them() -> None:
    core, machine = kind("base_level"), four_feet()
    how = core.propose(machine)
    level = Level(sensitivity_mm_per_m=0.02)
    case = case_of(core, how, dial=level, machine=machine, limits={"twist": 0.02})

    def turned(twist: float) -> list[float]:
        plan = core.stations(how)
        slopes = [s.y_mm if s.lies == "x" else s.x_mm for s in plan]
        shown = [
            (s.key, s.marked * twist * at / 1000 / 1000 * 200)
            for s, at in zip(plan, slopes, strict=True)
        ]
        judged = case.but(readings=readings(shown * 3))
        judged = judged.but(found=core.evaluate(judged))
        moves = core.advise(judged).moves
        return [a.turns for a in moves[0].amounts] if moves else []

    large, small = turned(2.0), turned(0.1)
    assert sum(t > 0 for t in large) == 2
    assert sum(t > 0 for t in small) == 1
    # the lift in the middle of the twist is the same, whoever makes it
    assert sum(small) / sum(large) == pytest.approx(0.1 / 2.0, rel=0.1)


def test_what_a_compensation_learnt_about_the_dial_is_kept() -> None:
    core, machine = kind("lost_motion"), starting_point("gantry_router")
    how = core.propose(machine)
    entry = {"setting": "X", "value_mm": 0.05, "words": plain("0.05 mm")}
    move = Move.model_validate(
        {
            "key": "compensate",
            "mechanism": "drive_settings",
            "title": plain("Enter it"),
            "steps": [],
            "predicted": [],
            "takes": [],
            "entries": [entry],
            "about": "in",
        }
    )
    for before, learnt in (("unknown", "in"), ("out", "out")):
        now = core.following(how.model_copy(update={"plus_is": before}), move)
        assert (now.plus_is, now.compensation_mm) == (learnt, 0.05)
    silent = core.following(how, move.model_copy(update={"about": ""}))
    assert silent.plus_is == how.plus_is
    assert core.following(how, None) == how


def test_a_bracket_turns_by_what_its_stacks_have_changed() -> None:
    """In rotations: the upper stack goes from 0.1 to 0.3, the lower from 0.2 to 0.25."""
    machine = starting_point("gantry_router")
    assert machine.bracket is not None
    half = machine.bracket.spacing_mm / 2
    stacks = [
        PadStack(pad="top", x_mm=0, y_mm=half, before_mm=[0.1], after_mm=[0.3], words=plain("")),
        PadStack(pad="low", x_mm=0, y_mm=-half, before_mm=[0.2], after_mm=[0.25], words=plain("")),
    ]
    move = Move.model_construct(stacks=stacks, mechanism="bracket")
    rng = np.random.default_rng(0)
    hands = Hands(rng=rng, machine=machine)
    turned = [ANSWERS["bracket"](move, Truth(), hands).head_about_x_mrad for _ in range(400)]
    # plates in front of the bracket: a thicker top leans it to the operator, 0.15 mm over the pitch
    assert abs(np.mean(turned)) == pytest.approx(0.15 / (2 * half) * 1000, abs=0.01)


def test_what_tightening_did_is_not_held_against_the_tap() -> None:
    """A tap that lands on the spot, and bolts that pull it off by 0.3 each time."""
    rounds = []
    for number, was in enumerate((1.0, 1.0, 1.0), 1):
        made = MoveMade(key="turn", mechanism="head_pivot", aimed={"lean_x": 0.0})
        pulled = made.model_copy(update={"shift": {"lean_x": 0.3 + 0.001 * number}})
        rounds += [
            PastRound(number=number, sitting="now", values={"lean_x": about(was)}, move=pulled),
            PastRound(number=number, sitting="now", values={"lean_x": about(0.3)}),
        ]
    found = aim("lean_x", 0.8, "head_pivot", History(sitting="now", past=rounds))
    assert found.shift == pytest.approx(0.302)
    assert found.share_left == pytest.approx(0, abs=0.01), "it left nothing undone"
    assert found.aim == pytest.approx(-0.302, abs=0.005)


def test_what_is_sold_near_a_thickness() -> None:
    assert sold_near(0.1) == 0.1
    assert sold_near(0.1, below=True) == 0.1
    assert sold_near(0.119, below=True) == 0.1
    assert sold_near(0.119) == 0.12
    assert sold_near(0.001, below=True) == 0.01
    assert sold_near(9.0) == 2.0


def test_a_gate_asks_about_the_stage_that_it_freezes() -> None:
    router = starting_point("gantry_router")

    def asked(**verdicts: Any) -> list[str]:
        results = [
            Result(kind="rail_twist", subject=f"part:{stage}", at=START, verdict=verdict)
            for stage, verdict in verdicts.items()
        ]
        found = standings(router, Log(results=results), built=["rail_twist"], now=START)
        cast = next(g for g in gates(router, found) if g.key == "cast")
        return [i.status for i in cast.open]

    assert asked(coarse="true", fine="out") == []
    assert asked(coarse="out", fine="true") == [], "what is finer holds for it as well"
    assert asked(coarse="out", fine="out") == ["out"]
    assert asked(coarse="true") == []
    assert asked(fine="true") == []
    assert asked() == ["unmeasured"]


# --- what is said, and drawn ----------------------------------------------------------------------


def test_a_changed_order_and_the_number_of_what_stays_are_told() -> None:
    mill = starting_point("column_mill")
    found = standings(mill, Log(), built=list(registry()), now=START)
    made = plan(mill, found, 600)
    kinds = [s.kind for s in made.steps]
    assert len(kinds) > 2
    swapped = [kinds[1], kinds[0], *kinds[2:]]
    assert [w.metric for w in changes(kinds, made, [])] == []
    assert [w.metric for w in changes(swapped, made, [])] == ["The order has changed."]
    assert "The order has changed." not in [w.metric for w in changes(kinds[1:], made, [])]
    few = plan(mill, found, made.steps[0].minutes + 10)
    count = len(few.left)
    assert f"{count} check{'s stay' if count != 1 else ' stays'} open" in few.sentence.metric
    all_but_one = next(
        p for p in (plan(mill, found, m) for m in range(60, 900, 5)) if len(p.left) == 1
    )
    assert isinstance(all_but_one, Plan)
    assert " 1 check stays open" in all_but_one.sentence.metric


def test_a_stand_reaches_to_its_feet_behind_and_in_front() -> None:
    def reach(front: float, rear: float) -> tuple[float, float]:
        corners = (("f", -50, front), ("g", 50, front), ("h", 0, rear))
        places = [Foot(name=n, x_mm=x, y_mm=y) for n, x, y in corners]
        machine = starting_point("column_mill").model_copy(update={"feet": Feet(places=places)})
        parts = [p for p in ghost(machine, {}).parts if (p.name, p.view) == ("Base", "side")]
        across = [point.u for line in parts[0].outlines for point in line]
        return min(across), max(across)

    short, behind, before = reach(-100, 100), reach(-100, 3000), reach(-3000, 100)
    assert behind[1] - short[1] > 500
    assert behind[0] == short[0]
    assert before[1] == short[1]
    assert short[0] - before[0] > 500
