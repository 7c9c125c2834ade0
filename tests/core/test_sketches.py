"""Sketches: what is drawn to be done is what the simulated machine would take as an improvement."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from shapely.geometry import LineString, Polygon, box
from shapely.geometry import Point as Place

from tests.core.cases import CASES, Case
from truing.drawing.sketches import SketchFigure
from truing.machine import FORM_TITLES, starting_point
from truing.machine.ghost.sketch import Point
from truing.measure.problem import Problem
from truing.measure.words import plain
from truing.moves.sheet import _head, _within, move_sheet
from truing.registry import kind, registry
from truing.standin.apply import apply
from truing.standin.evening import one_round
from truing.standin.truth import Truth


@pytest.mark.parametrize("key", list(registry()))
def test_every_way_of_reading_is_drawn_on_every_machine_that_it_suits(key: str) -> None:
    core = kind(key)
    for form in FORM_TITLES:
        machine = starting_point(form)
        found = core.sketches(machine)
        if not core.suits(machine):
            assert found == []
        elif core.example(machine) is not None:
            # no two ways look, or are called, alike; a warm spindle looks like a cold one
            ways = 1 if key == "spindle_play" else len(core.takes_by_way())
            assert len(found) == len({f.title.metric for f in found}) == ways
            assert len({str(f.model_dump(exclude={"title", "shows"})) for f in found}) >= ways - 1


def test_what_is_gauged_lies_under_the_rod_and_nothing_else_does() -> None:
    """Blades and gauges are drawn just where the rod ends over the table; a dial needs none."""
    mill, tram = starting_point("column_mill"), kind("spindle_tram")
    for way in tram.takes_by_way():
        setup = tram.example(mill).model_copy(update={"way": way})
        figure = tram.sketch(setup, mill)
        r = setup.radius_mm
        rods = [line.points[-1] for line in figure.lines if not line.thin]
        ends = [p.v for p in rods if p.u == r]
        flat = [
            line.points
            for line in figure.lines
            if not line.thin and len(line.points) == 2 and line.points[0].v == line.points[1].v
        ]
        under = [p for p in flat if p[0].u < r < p[1].u and 0 < p[0].v < min(ends, default=0)]
        assert len(under) == (1 if way in ("gap", "two_bolts", "gauges") else 0), way


def test_a_machine_that_lost_its_parts_costs_no_more_than_its_picture() -> None:
    """A check that is open stays open while somebody describes the machine anew."""
    lost = dict.fromkeys(("feet", "rails", "head", "base", "gantry", "lift", "bracket", "board"))
    for key, core in registry().items():
        machine = next(m for f in FORM_TITLES if core.suits(m := starting_point(f)))
        setup = core.example(machine) or core.propose(machine)
        assert setup is not None
        less = machine.model_copy(
            update={**lost, "gantry_drive": None, "column": None, "slides": [], "spindle": False}
        )
        try:
            figure = core.sketch(setup, less)
        except Problem:
            # rails that are gone: it says so, at its field
            assert key.startswith("rail_")
            continue
        assert figure is None or figure.arrow is not None


def test_no_cutter_is_drawn_in_a_spindle_that_holds_an_arm() -> None:
    """What the steps take out first is not there."""
    for key, form in (("spindle_tram", "column_mill"), ("table_travel", "column_mill")):
        mill = starting_point(form)
        nose = 0.55 * mill.table_y_mm
        for figure in kind(key).sketches(mill):
            if figure.view == "plan":
                continue
            below = [
                line
                for line in figure.form
                if all(abs(p.u) < 0.1 * mill.table_y_mm for p in line)
                and min(p.v for p in line) > 0
                and max(p.v for p in line) <= nose + 1e-6
            ]
            assert below == [], figure.title.metric


def test_a_dial_is_drawn_where_it_is_read() -> None:
    mill = starting_point("column_mill")
    tram = kind("spindle_tram")
    [swing] = [f for f in tram.sketches(mill) if "dial over the table" in f.title.metric]
    [dial] = swing.dials
    # over the table, a swing's radius from the spindle
    assert (dial.tip.u, dial.tip.v) == (tram.example(mill).radius_mm, 0.0)
    square = kind("travel_square")
    for tip, side in (("plus", 1), ("minus", -1)):
        how = square.propose(mill).model_copy(update={"tip": tip})
        [dial] = square.sketch(how, mill).dials
        assert np.sign(dial.tip.u - dial.base.u) == side
    level = kind("gantry_level")
    router = starting_point("gantry_router")
    how = level.propose(router)
    assert [d.tip.u for d in level.sketch(how, router).dials] == how.places_mm


def solid(figure: SketchFigure) -> Polygon:
    """The largest thing that is set down."""
    rings = [[(p.u, p.v) for p in line.points] for line in figure.lines if line.closed]
    return max((Polygon(r) for r in rings), key=lambda s: s.area)


@pytest.mark.parametrize("way", ["reversed", "cylinder", "trusted"])
@pytest.mark.parametrize("tip", ["plus", "minus"])
def test_a_square_stands_with_every_place_that_is_read_on_its_edge(way: str, tip: str) -> None:
    mill, square = starting_point("column_mill"), kind("travel_square")
    how = square.propose(mill).model_copy(update={"way": way, "tip": tip})
    figure = square.sketch(how, mill)
    stands, [dial] = solid(figure), figure.dials
    left, foot, right, top = stands.bounds
    # it stands on the table, and what a square has less than a cylinder is between its arms
    assert foot == 0
    filled = stands.area / ((right - left) * top)
    assert filled == pytest.approx(1) if way == "cylinder" else 0.2 < filled < 0.6
    for height in how.heights_mm:
        assert stands.boundary.distance(Place(dial.tip.u, height)) < 1e-6
    # the tip only touches it, from outside, and between the lowest and the highest place
    assert LineString([(dial.base.u, dial.base.v), (dial.tip.u, dial.tip.v)]).touches(stands)
    path = [(p.u, p.v) for p in figure.arrow.points]
    assert [v for _, v in path] == [min(how.heights_mm), max(how.heights_mm)]
    assert not LineString(path).intersects(stands)
    assert ("half round" in figure.shows) == (way == "reversed")


@pytest.mark.parametrize(("blade", "stock"), [((20.0, 140.0), (15.0, 90.0)), ((10, 60), (12, 75))])
def test_a_square_lies_with_every_place_that_is_read_on_its_edges(blade: Any, stock: Any) -> None:
    mill, square = starting_point("column_mill"), kind("travel_square")
    stated = {"part": "plan", "blade_mm": list(blade), "stock_mm": list(stock)}
    how = square.propose(mill).model_copy(update=stated)
    figure = square.sketch(how, mill)
    lies, [dial] = solid(figure), figure.dials
    left, front, right, rear = lies.bounds
    # the blade to the rear along its left side, the stock to the right along its front
    assert rear == pytest.approx(-front)
    assert max(blade) < rear - front < 1.3 * max(blade)
    assert (left, dial.tip.u) == (0, 0)
    assert max(stock) < right < 1.3 * max(stock)
    for along in blade:
        assert lies.boundary.distance(Place(0, front + along)) < 1e-6
    for along in stock:
        assert lies.boundary.distance(Place(along, front)) < 1e-6
    thick = 0.3 * max(blade)
    assert lies.difference(box(0, front, thick, rear)).bounds[3] < front + thick
    # the dial comes to the blade from outside, and goes along it by the arrow
    assert dial.tip.v == pytest.approx(front + min(blade))
    assert dial.base.u < 0
    first, last = figure.arrow.points
    assert (first.v, last.v) == pytest.approx((dial.tip.v, front + max(blade)))
    assert first.u == last.u < dial.base.u


# --- moves ----------------------------------------------------------------------------------------


def way(figure: SketchFigure) -> tuple[float, float]:
    """Which way the arrow goes in its view."""
    assert figure.arrow is not None
    first, last = figure.arrow.points[0], figure.arrow.points[-1]
    return last.u - first.u, last.v - first.v


def rising(truth: Truth) -> Any:
    return truth.rising("head")


def along(arrow: SketchFigure, axis: int) -> float:
    return way(arrow)[axis]


def head(figure: SketchFigure, case: Case, before: Truth, after: Truth, how: Any) -> float:
    """A head or a column's foot: how far the top went where the arrow says."""
    du, dv = way(figure)
    axis = 0 if figure.view == "front" else 1
    upright = rising if case.kind == "travel_square" else Truth.axis
    top = (upright(after) - upright(before))[axis]
    if abs(du) > abs(dv):
        return float(top * np.sign(du))
    # one side of the foot goes up: the top goes to the other
    middle = sum(b.at.u for b in figure.bolts) / len(figure.bolts)
    assert figure.arrow is not None
    return float(-top * np.sign(figure.arrow.points[0].u - middle))


def beam(figure: SketchFigure, case: Case, before: Truth, after: Truth, how: Any) -> float:
    """The right end of a gantry, against its left one."""

    def lean(t: Truth) -> float:
        return t.gantry.right_up_mm - t.gantry.left_up_mm

    return float((lean(after) - lean(before)) * np.sign(along(figure, 1)))


def driven(figure: SketchFigure, case: Case, before: Truth, after: Truth, how: Any) -> float:
    """The right end of a gantry, ahead of its left one."""
    ahead = after.gantry.right_ahead_mm - before.gantry.right_ahead_mm
    return float(ahead * np.sign(along(figure, 1)))


def faced(figure: SketchFigure, case: Case, before: Truth, after: Truth, how: Any) -> float:
    """A face, where the arrow ends: struck from the dial's side, or from behind."""
    face = how.subject.key
    assert figure.arrow is not None
    end = figure.arrow.points[-1].u * 0.9
    nearer = after.face(face).nearer_mm(end, how.face_mm)
    gone = before.face(face).nearer_mm(end, how.face_mm) - nearer
    return float(-gone if "toward the dial" in figure.shows else gone)


def rails(figure: SketchFigure, case: Case, before: Truth, after: Truth, how: Any) -> float:
    """The bolt that is drawn slack: how far its rail went across, or up."""
    assert figure.arrow is not None
    [slack] = [b.at for b in figure.bolts if not b.holds]
    length = before.rails.at_mm[-1]

    def change(name: str) -> float:
        old, new = getattr(before.rails, name), getattr(after.rails, name)
        return before.rails.along(new, slack.v + length / 2) - before.rails.along(
            old, slack.v + length / 2
        )

    if case.kind == "rail_straight" and how.plane == "side":
        return change("side_mm") * np.sign(along(figure, 0))
    if case.kind == "rail_parallel":
        return change("second_mm") * np.sign(along(figure, 0))
    # toward the rail a shim goes in, away from it one comes out
    inward = np.sign(-slack.u * along(figure, 0))
    return float(change("first_up_mm" if slack.u < 0 else "second_up_mm") * inward)


def feet(figure: SketchFigure, case: Case, before: Truth, after: Truth, how: Any) -> float:
    """The base over the foot nearest to the arrow, against the middle of the others."""
    assert figure.arrow is not None
    arrow = figure.arrow.points[0].u
    each = [
        (abs(f.x_mm - arrow), f.out_mm - b.out_mm)
        for b, f in zip(before.stand.feet, after.stand.feet, strict=True)
    ]
    nearest = min(away for away, _ in each)
    return max(up for away, up in each if away == nearest) * float(np.sign(along(figure, 1)))


def gib(figure: SketchFigure, case: Case, before: Truth, after: Truth, how: Any) -> float:
    """An arrow that ends at a screw closes the gib, one that begins there eases it."""
    assert figure.arrow is not None

    def reach(p: Any) -> float:
        return min(np.hypot(p.u - b.at.u, p.v - b.at.v) for b in figure.bolts)

    first, last = figure.arrow.points
    slides = before.slide(how.slide), after.slide(how.slide)
    closed = slides[0].clearance_mm - slides[1].clearance_mm
    return float(closed * np.sign(reach(first) - reach(last)))


def block(figure: SketchFigure, case: Case, before: Truth, after: Truth, how: Any) -> float:
    """The slack block, toward the dial that is drawn on it."""
    [dial] = figure.dials
    [slack] = {(b.at.u > 0) for b in figure.bolts if not b.holds}
    assert (dial.tip.u > 0) == slack
    key = f"{int(slack)}{'h' if figure.view == 'plan' else 'v'}"
    # the stand-in's dial shows more where the block stands nearer to it
    nearer = [t.slide(how.slide).blocks_mm[key] for t in (before, after)]
    to_dial = (dial.base.u - dial.tip.u, dial.base.v - dial.tip.v)
    toward = np.sign(np.dot(way(figure), to_dial))
    return float((nearer[1] - nearer[0]) * toward)


SEEN = {
    ("spindle_tram", "swing"): head,
    ("spindle_tram", "micro mill"): head,
    ("travel_square", "a square turned about"): head,
    ("travel_square", "front to back, tip to the front"): head,
    ("ridge_reading", "the step test"): head,
    ("gantry_level", "touches"): beam,
    ("gantry_square", "a bar with two points"): driven,
    ("column_turn", "a face"): faced,
    ("face_alignment", "a vice"): faced,
    ("rail_straight", "a pass"): rails,
    ("rail_straight", "reversal, in height"): rails,
    ("rail_parallel", "by the carriage"): rails,
    ("rail_twist", "four corners"): rails,
    ("rail_twist", "many places"): rails,
    ("base_level", "end for end"): feet,
    ("slide_play", "strip gib"): gib,
    ("slide_play", "tapered gib"): gib,
    ("screw_centre", "both ends"): block,
}
"""How far what the arrow stands for really went along it, on the simulated machine."""
MOVED = [c for c in CASES if (c.kind, c.name) in SEEN]


@pytest.mark.parametrize("case", MOVED, ids=[f"{c.kind}: {c.name}" for c in MOVED])
def test_the_arrow_goes_the_way_that_the_move_takes_it(case: Case) -> None:
    core, how, drawn = kind(case.kind), case.setup(), 0
    for seed in range(12):
        rng = np.random.default_rng(seed)
        truth = case.truth(rng, case.machine, how)
        stated = case.case()
        read = one_round(core, how, truth, case.instrument, rng)
        weighed = core.weigh(stated.but(readings=read))
        for move in core.advise(weighed).moves[:1]:
            if move.needs is not None or move.sketch is None or move.sketch.arrow is None:
                continue
            drawn += 1
            after = apply(case.kind, move, truth, case.machine, rng)
            gone = SEEN[case.kind, case.name](move.sketch, case, truth, after, how)
            assert gone > 0, move.title.metric
            # something is loose; all but feet and gibs have a bolt that holds meanwhile
            held = {b.holds for b in move.sketch.bolts}
            assert False in held
            assert True in held or case.kind in ("base_level", "slide_play")
            # and it goes along on paper
            sheet = move_sheet(move, "Heron", "metric")
            told = " ".join(s.text for s in sheet.shapes if s.type == "text")
            assert move.sketch.shows[:40] in told
    assert drawn >= 5


def test_all_of_them_are_played() -> None:
    assert {(c.kind, c.name) for c in MOVED} == set(SEEN)


spot_ = st.tuples(*[st.floats(-30, 30).map(lambda v: round(v, 1))] * 2)


@given(one=spot_, other=spot_)
def test_only_what_lies_in_the_window_of_a_picture_is_printed(one: Any, other: Any) -> None:
    """Against a shapely box."""
    assume(math.dist(one, other) > 0.5)
    blank: dict[str, Any] = {key: [] for key in ("form", "lines", "dials", "bolts")}
    low, high = Point(u=-12, v=-7), Point(u=9, v=14)
    window = SketchFigure(
        title=plain("t"), shows="", view="front", arrow=None, low=low, high=high, **blank
    )
    found = _within(window, Point(u=one[0], v=one[1]), Point(u=other[0], v=other[1]))
    wanted = LineString([one, other]).intersection(box(-12, -7, 9, 14))
    if found is None:
        assert wanted.length < 1e-6
    else:
        ends = LineString([(p.u, p.v) for p in found])
        assert ends.hausdorff_distance(wanted) < 1e-6


@given(before=spot_, tip=spot_)
def test_the_barbs_of_a_printed_arrow_trail_behind_its_tip(before: Any, tip: Any) -> None:
    assume(math.dist(before, tip) > 0.5)
    left, at, right = (complex(*p) for p in _head(before, tip))
    ahead = complex(*tip) - complex(*before)
    assert at == complex(*tip)
    for barb in (left, right):
        trail = (barb - at) / (ahead / abs(ahead))
        assert trail.real < 0
        assert abs(trail) == pytest.approx(2.6)
        assert abs(trail.imag) < -trail.real
    assert abs((left - at) - (right - at)) == pytest.approx(2 * 2.6 * math.sin(0.5))
