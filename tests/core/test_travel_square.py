"""A travel against a square: a tip carried in three dimensions along an edge that is set down,
turned about and turned over as a rigid body, on a table with a slope to its own travel."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from tests.core.cases import STOCK
from tests.core.helpers import FINE, about, case_of, known, readings
from truing.kit.tooling import Cylinder, Square
from truing.machine import starting_point
from truing.machine.subject import Subject
from truing.measure.problem import Problem
from truing.registry import kind

SQUARE, TRAM = kind("travel_square"), kind("spindle_tram")
AXIS = {"left_right": 0, "front_back": 1}
Vector = Any


class Shed:
    """World frame: the travels that carry the work span X and Y; the table slopes to them, and the
    square stands on the table. Everything is in mm."""

    def __init__(self, rise: tuple[float, float], slope: tuple[float, float], own: float) -> None:
        self.rise = np.array([rise[0] / 1000, rise[1] / 1000, 1.0])
        # the top rises to the right and to the rear
        self.normal = np.array([-slope[0] / 1000, -slope[1] / 1000, 1.0])
        self.own = own / 1000

    def edge(self, axis: int, pose: int, points: int) -> Vector:
        """The direction of the edge: square up from the table, and its own error away from the
        tip; turned half round on the table for the second time."""
        across = np.zeros(3)
        across[axis] = 1.0
        leans = points * self.own * across
        if pose == 2:
            leans = Rotation.from_rotvec(np.pi * self.normal).apply(leans)
        found = self.normal / np.linalg.norm(self.normal) + leans
        return found / found[2]

    def pushed_in(self, axis: int, pose: int, first: int, points: int, height: float) -> float:
        """How far the tip has been pushed in, that comes to a height: moved by the head, or, which
        is the same, stood still by while a knee carries the square down past it."""
        tip, edge = self.rise * height, self.edge(axis, pose, first) * height
        return float(points * (tip[axis] - edge[axis]))


def setup(**more: Any) -> Any:
    return SQUARE.setup_type(**{"passes": 1, "heights_mm": [20.0, 90.0, 160.0], **more})


def read(shed: Shed, how: Any, **more: Any) -> Any:
    axis = AXIS[how.upright[1]]
    first = how.points(1)
    seen = [
        (s.key, shed.pushed_in(axis, s.pose, first, s.points, s.at_mm))
        for s in SQUARE.stations(how)
    ]
    case = case_of(SQUARE, how, readings(seen), FINE, **more)
    return SQUARE.weigh(case)


def table(slope: tuple[float, float], **more: Any) -> Any:
    x, y = slope
    return known("table_travel", slope_x=about(x, 0.002), slope_y=about(y, 0.002), **more)


leans = st.floats(-2, 2)


@given(leans, leans, leans, leans, leans, st.sampled_from(["plus", "minus"]))
def test_a_square_that_is_turned_about_tells_the_travel_and_itself(
    x: float, y: float, sx: float, sy: float, own: float, tip: str
) -> None:
    for part, true, slope in (
        ("head_left_right", x, sx),
        ("knee_front_back", y, sy),
    ):
        shed = Shed((x, y), (sx, sy), own)
        case = read(shed, setup(part=part, tip=tip), known=[table((sx, sy))])
        # plus is up to the right or rear, whichever way the tip pointed
        assert case.finding.square.value == pytest.approx(true, abs=0.005)
        assert case.finding.to_table.value == pytest.approx(true + slope, abs=0.005)
        assert case.finding.own.value == pytest.approx(own, abs=0.005)


def test_what_leans_is_said_the_way_it_goes() -> None:
    for x, side in ((0.4, "right"), (-0.4, "left")):
        case = read(Shed((x, 0), (0, 0), 0.3), setup(), known=[table((0, 0))])
        assert f"the head drifts to the {side}: 0.400" in case.finding.quantities[0].sentence.metric
        assert case.judgement.verdict == "out"
    case = read(Shed((0, 0.3), (0, 0), -0.2), setup(part="quill_front_back"), known=[table((0, 0))])
    assert "the quill drifts to the rear" in case.finding.quantities[0].sentence.metric
    assert "leans toward the tip by 0.200" in case.get("own").sentence.metric


@pytest.mark.parametrize("heights", [[20.0, 160.0], [20.0, 90.0, 160.0]])
def test_where_it_goes_as_it_goes_up_is_drawn_from_two_heights_on(heights: list[float]) -> None:
    case = read(Shed((0.4, 0), (0, 0), 0.3), setup(heights_mm=heights), known=[table((0, 0))])
    [figure] = SQUARE.figures(case)
    [curve] = figure.curves
    assert [p.at_mm for p in curve.points] == heights
    # it drifts by its lean over what it rises, and may by the limit over that
    gone = curve.points[-1].off_mm - curve.points[0].off_mm
    assert gone == pytest.approx(0.4 * 0.140, abs=2e-3)
    assert figure.band_mm == pytest.approx(case.tolerances["square"] * 0.140)


def test_a_table_that_was_not_read_is_doubt_and_never_true() -> None:
    shed = Shed((0.0, 0.0), (0.0, 0.0), 0.2)
    assert read(shed, setup(), known=[table((0, 0))]).judgement.verdict == "true"
    stale = read(shed, setup(), known=[table((0, 0), fresh=False)])
    unread = read(shed, setup())
    for case, said in ((stale, "is stale"), (unread, "has not been read")):
        assert case.judgement.verdict == "too_close"
        [note] = [n for n in case.finding.notes if "Table and travel" in n.text.metric]
        assert said in note.text.metric
        way_out = case.judgement.judged[0].way_out
        assert way_out.passes is None
        assert "More passes will not decide it" in way_out.text.metric
        assert [a.kind for a in SQUARE.advise(case).asks] == ["table_travel"]
    # a travel that is far out is out whatever the table does
    assert read(Shed((0.5, 0), (0, 0), 0), setup()).judgement.verdict == "out"
    assert "of it is the table" in SQUARE.expect(unread).text.metric


@given(leans, leans, st.floats(-0.02, 0.02), st.sampled_from(["plus", "minus"]))
def test_a_cylinder_is_turned_under_a_tip_that_stays(
    x: float, own: float, grows: float, tip: str
) -> None:
    """Points of a cone that leans, turned about its own upright."""
    diameters = {"low_diameter_mm": 40.0, "high_diameter_mm": 40 + 2 * grows * 140 / 1000}
    how = setup(way="cylinder", tip=tip, **diameters, diameter_u_mm=0.0)
    points = how.points(1)
    seen = []
    for s in SQUARE.stations(how):
        assert s.points == points
        leans_by = own / 1000 * (1 if s.pose == 1 else -1)
        centre, radius = leans_by * s.at_mm, 20 + grows / 1000 * s.at_mm
        surface = centre - points * radius
        seen.append((s.key, 20 + points * (x / 1000 * s.at_mm - surface) - 20))
    case = SQUARE.weigh(case_of(SQUARE, how, readings(seen), FINE, known=[table((0, 0))]))
    assert case.finding.square.value == pytest.approx(x, abs=0.005)
    assert case.finding.own.value == pytest.approx(own, abs=0.005)
    # where nobody measured it, the taper is doubt: half of the diameter's over the length
    bare = SQUARE.weigh(case.but(setup=setup(way="cylinder", tip=tip, taper_mm=0.03, over_mm=150)))
    assert bare.finding.square.expanded - case.finding.square.expanded == pytest.approx(0.1)


def test_a_trusted_square_is_as_good_as_it_is_said_to_be_or_known_to_be() -> None:
    shed = Shed((0.05, 0), (0, 0), 0.12)
    how = setup(way="trusted", stated_mm=0.03, over_mm=150)
    lent = {"known": [table((0, 0))]}
    stated = read(shed, how, **lent)
    assert stated.finding.square.value == pytest.approx(-0.07, abs=0.005)
    assert stated.finding.square.expanded > 0.2
    for tip in ("plus", "minus"):
        piece = Square(own_mm_per_m=0.12, own_expanded_mm_per_m=0.01)
        how = setup(way="trusted", square="a", tip=tip)
        found = read(shed, how, pieces={"a": piece}, **lent).finding.square
        assert found.value == pytest.approx(0.05, abs=0.005)
        assert found.expanded < 0.03
    # a cylinder that is not turned brings its end and its taper: half of the diameter's
    bare = read(shed, setup(way="trusted", stated_mm=0.0), **lent).finding.square.expanded
    round_one = Cylinder(stated_mm=0.015, taper_mm=0.03, over_mm=150)
    how = setup(way="trusted", square="a")
    whole = read(shed, how, pieces={"a": round_one}, **lent).finding.square.expanded
    assert whole - bare == pytest.approx(0.1 + 0.1)
    # what is found of a square of the kit is kept with it, whichever way it stood
    for tip in ("plus", "minus"):
        [taught] = read(
            shed, setup(square="a", tip=tip), pieces={"a": Square()}, **lent
        ).finding.teaches
        assert taught.piece == "a"
        assert taught.figures["own_mm_per_m"] == pytest.approx(0.12, abs=0.005)
    for pieces, way in (
        ({}, "reversed"),
        ({"a": Cylinder()}, "reversed"),
        ({"a": Square()}, "cylinder"),
    ):
        with pytest.raises(Problem) as refused:
            read(shed, setup(square="a", way=way), pieces=pieces)
        assert refused.value.field == "square"


# --- in plan --------------------------------------------------------------------------------------


def lying(how: Any, skew: float, own: float, turns: tuple[float, float]) -> Any:
    """Both edges of a square that lies on the table, laid down a little turned each time; turned
    over about its blade as a rigid body."""
    right, rear = np.array([1.0, 0.0]), np.array([np.tan(skew / 1000), 1.0])
    seen = []
    for s in SQUARE.stations(how):
        blade = np.array([0.0, 1.0, 0.0])
        # the right angle and what is too much, from the blade clockwise to the stock
        stock = Rotation.from_euler("z", -np.pi / 2 - own / 1000).apply(blade)
        if s.pose == 2:
            stock = Rotation.from_rotvec(np.pi * blade).apply(stock)
        lies = Rotation.from_euler("z", turns[s.pose - 1] / 1000)
        edge = lies.apply(blade if s.edge == "blade" else stock)[:2]
        path, along, across = (rear, 1, 0) if s.edge == "blade" else (right, 0, 1)
        tip, at = path * s.at_mm / path[along], edge * s.at_mm / edge[along]
        seen.append((s.key, 5 + s.points * (tip[across] - at[across])))
    return readings(seen)


@given(leans, leans, leans, leans)
def test_two_slides_are_compared_by_a_square_that_is_turned_over(
    skew: float, own: float, one: float, other: float
) -> None:
    how = setup(part="plan")
    case = SQUARE.weigh(case_of(SQUARE, how, lying(how, skew, own, (one, other)), FINE))
    assert case.finding.square.value == pytest.approx(skew, abs=0.01)
    assert case.finding.own.value == pytest.approx(-own, abs=0.01)
    if abs(skew) > 0.1:
        side = "right" if skew > 0 else "left"
        assert f"drifts to the {side}" in case.finding.quantities[0].sentence.metric


@pytest.mark.parametrize(("skew", "own"), [(0.4, 0.0), (-0.3, 0.12), (0.0, -0.18)])
def test_a_trusted_square_that_lies_is_doubt_by_all_that_is_stated_of_it(
    skew: float, own: float
) -> None:
    """What stands up was found of another edge of it, and takes nothing off here."""
    how = setup(part="plan", way="trusted", stated_mm=0.03, over_mm=150)
    seen = lying(how, skew, own, (0.7, 0.0))
    stated = SQUARE.weigh(case_of(SQUARE, how, seen, FINE)).finding
    assert stated.square.value == pytest.approx(skew + own, abs=0.01)
    assert abs(stated.square.value - skew) < stated.square.expanded < 0.21
    piece = Square(stated_mm=0.02, over_mm=40, own_mm_per_m=own, own_expanded_mm_per_m=0.01)
    kit = how.model_copy(update={"square": "a"})
    found = SQUARE.weigh(case_of(SQUARE, kit, seen, FINE, pieces={"a": piece})).finding
    assert found.square.value == stated.square.value
    assert found.square.expanded == pytest.approx(0.5, abs=0.01)


def test_a_half_turn_on_the_table_is_refused_with_the_reason() -> None:
    half = setup(part="plan", turned="half")
    for refusing in (SQUARE.evaluate, SQUARE.expect):
        with pytest.raises(Problem, match="nothing can be separated") as refused:
            refusing(case_of(SQUARE, half, lying(setup(part="plan"), 1, 0, (0, 0)), FINE))
        assert refused.value.field == "turned"
    with pytest.raises(Problem, match="no second edge"):
        SQUARE.expect(case_of(SQUARE, setup(part="plan", way="cylinder"), (), FINE))


# --- bad input ------------------------------------------------------------------------------------


def test_unlike_heights_are_used_over_what_they_share_or_refused() -> None:
    shed = Shed((0.3, 0), (0, 0), 0.2)
    how = setup(heights_mm=[10.0, 50.0, 90.0, 130.0, 170.0])

    def some(keep: Any) -> Any:
        seen = [
            (s.key, shed.pushed_in(0, s.pose, 1, s.points, s.at_mm))
            for s in SQUARE.stations(how)
            if keep(s)
        ]
        return SQUARE.weigh(case_of(SQUARE, how, readings(seen), FINE, known=[table((0, 0))]))

    shared = some(lambda s: s.at_mm <= 90 if s.pose == 1 else s.at_mm >= 50)
    assert shared.finding.square.value == pytest.approx(0.3, abs=0.01)
    assert any("unlike heights" in n.text.metric for n in shared.finding.notes)
    assert shared.finding.at_mm == [50.0, 90.0]
    with pytest.raises(Problem, match="heights that do not meet"):
        some(lambda s: s.at_mm <= 50 if s.pose == 1 else s.at_mm >= 130)
    with pytest.raises(Problem, match="two places or more"):
        some(lambda s: s.pose == 1)
    how = setup(way="trusted", heights_mm=[10.0, 50.0])
    seen = [(s.key, 0.0) for s in SQUARE.stations(how)][:1]
    with pytest.raises(Problem, match="One place tells no slope"):
        SQUARE.weigh(case_of(SQUARE, how, readings(seen), FINE, known=[table((0, 0))]))
    with pytest.raises(ValueError, match="tip's own stroke"):
        setup(heights_mm=[20.0, 23.0])
    with pytest.raises(ValueError, match="not the same"):
        setup(heights_mm=[20.0, 20.0])


# --- spindle or column ----------------------------------------------------------------------------


def trammed(nod: float, machine: Any, **more: Any) -> Any:
    how = TRAM.setup_type(radius_mm=100.0, radius_u_mm=0.0, passes=1)
    seen = [(s.key, nod / 1000 * s.y_mm) for s in TRAM.stations(how)]
    return TRAM.weigh(case_of(TRAM, how, readings(seen), FINE, machine=machine, **more))


def travels(to_table: float, square: float, fresh: bool = True) -> Any:
    found = known(
        "travel_square",
        subject=Subject.part("head_front_back").text,
        fresh=fresh,
        to_table=about(to_table, 0.01),
        square=about(square, 0.01),
    )
    return found.model_copy(update={"limits": {"square": 0.1}})


def test_a_nod_is_told_apart_into_column_and_head() -> None:
    mill = starting_point("column_mill")
    case = trammed(0.5, mill, stock=STOCK, known=[travels(0.32, 0.3)])
    advice = TRAM.advise(case)
    said = " ".join(r.metric for r in advice.remarks)
    assert "the column’s travel has +0.320" in said.replace("0.32 ", "0.320 ")
    assert "the other +0.18" in said
    assert "out as well" in said
    assert not advice.asks
    [move] = [m for m in advice.moves if m.mechanism == "column_base"]
    # shims lean both alike: a rigid body
    taken = move.taken("nod")
    [note] = [n.metric for n in move.notes if "goes with it" in n.metric]
    assert f"from +0.300 ± 0.010 mm/m to {0.3 - taken:+.3f}".replace("-", "−") in note
    [drawn] = advice.figures
    assert [b.to_mm for b in drawn.bars] == pytest.approx([0.32, 0.5, 0.5])
    square = trammed(0.5, mill, stock=STOCK, known=[travels(0.02, 0.02)])
    said = " ".join(r.metric for r in TRAM.advise(square).remarks)
    assert "spoil the travel" in said


def test_what_is_not_known_of_the_travel_is_asked_for() -> None:
    mill = starting_point("column_mill")
    for lent, how in (
        ([], "has not been read"),
        ([travels(0.3, 0.3, fresh=False)], "touched since"),
    ):
        [asked] = TRAM.advise(trammed(0.5, mill, stock=STOCK, known=lent)).asks
        assert asked.kind == "travel_square"
        assert how in asked.why.metric
        # both answers are told
        assert "If the travel is square" in asked.why.metric
        assert "mend both at once" in asked.why.metric


def test_shims_for_the_travel_tell_what_they_do_to_the_spindle() -> None:
    spindle = known("spindle_tram", lean_x=about(0.1, 0.01), nod=about(-0.05, 0.01))
    shed = Shed((0.4, 0), (0, 0), 0)
    case = read(shed, setup(), known=[table((0, 0)), spindle], stock=STOCK)
    [move] = SQUARE.advise(case).moves
    assert "raise the right" in move.title.metric
    then = 0.1 - move.taken("square")
    assert any(
        f"its lean from +0.100 ± 0.010 mm/m to {then:+.3f}".replace("-", "−") in n.metric
        for n in move.notes
    )
    knee = read(
        shed,
        setup(part="knee_left_right"),
        known=[table((0, 0))],
        machine=starting_point("knee_mill"),
    )
    advice = SQUARE.advise(knee)
    assert not advice.moves
    assert "change neither this nor the tram" in advice.remarks[0].metric


def test_a_column_whose_foot_is_not_described_says_where_to_describe_it() -> None:
    shed, mill = Shed((0.4, 0), (0, 0), 0), starting_point("column_mill")
    bare = mill.model_copy(update={"base": None})
    told = {}
    for name, machine in (("with", mill), ("without", bare)):
        case = read(shed, setup(), known=[table((0, 0))], stock=STOCK, machine=machine)
        assert case.judgement.verdict == "out"
        told[name] = SQUARE.advise(case)
    assert told["with"].moves
    assert told["without"].moves == []
    said = [r.metric for r in told["without"].remarks]
    assert "The column’s foot is not described under Machine, so that no shims can be told." in said
