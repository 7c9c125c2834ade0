"""A bed by its heights, against surfaces that are known."""

from __future__ import annotations

import math
import re
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.helpers import START, about, case_of, known, readings
from truing.contract.logs import read_log
from truing.contract.readings import LogReading
from truing.kit.instruments import ScaleTrigger
from truing.machine import starting_point
from truing.machine.subject import Subject
from truing.measure.problem import Problem
from truing.registry import kind

BED = kind("bed_map")
PROBE = ScaleTrigger(resolution_mm=0.001, range_mm=120, repeatability_mm=0.001)
ROUTER = starting_point("gantry_router")
XS, YS = [-200.0, -80.0, 60.0, 210.0], [-150.0, -20.0, 140.0]


def surface(*shape: float) -> Any:
    c, a, b, p, q, s = shape
    return lambda x, y: c + a * x + b * y + p * x * x + q * y * y + s * x * y


def touched(up: Any, **more: Any) -> Any:
    lent = more.pop("lent", ())
    how = BED.setup_type(x_places_mm=XS, y_places_mm=YS, passes=1, **more)
    shown = [(s.key, how.sign * up(s.x_mm, s.y_mm)) for s in BED.stations(how)]
    return BED.weigh(case_of(BED, how, readings(shown), PROBE, machine=ROUTER, known=lent))


def logged(points: Any, **more: Any) -> Any:
    # what is asked about is tried by itself
    how = BED.setup_type(way="log", **{"log_is_right": True, **more})
    columns = {k: [float(p[i]) for p in points] for i, k in enumerate("xyz")}
    log = LogReading(id="l", station="log", read_at=START, columns=columns)
    station = BED.stations(how)[0]
    kept = BED.take_log(how, station, log)
    return BED.weigh(case_of(BED, how, [kept], PROBE, machine=ROUTER))


small = st.floats(-1e-4, 1e-4)


@given(small, small, st.floats(-1e-6, 1e-6), st.floats(-1e-6, 1e-6), st.floats(-1e-6, 1e-6))
def test_plane_and_shape_are_those_of_the_surface(
    a: float, b: float, p: float, q: float, s: float
) -> None:
    up = surface(40.0, a, b, p, q, s)
    case = touched(up)
    heights = [up(x, y) for x in XS for y in YS]
    assert case.get("area").estimate.value == pytest.approx(max(heights) - min(heights), abs=1e-6)
    # a bow stands in the middle over the line through both ends, anywhere across it
    wide, deep = XS[-1] - XS[0], YS[-1] - YS[0]
    middle = up((XS[0] + XS[-1]) / 2, 0) - (up(XS[0], 0) + up(XS[-1], 0)) / 2
    assert case.get("bow_x").estimate.value == pytest.approx(middle, abs=1e-6)
    assert case.get("bow_y").estimate.value == pytest.approx(-q * (deep / 2) ** 2, abs=1e-6)
    # and a corner off the plane of the other three, without what the bows do
    flat = surface(0, a, b, 0, 0, s)
    corner = flat(XS[-1], YS[-1]) - flat(XS[-1], YS[0]) - flat(XS[0], YS[-1]) + flat(XS[0], YS[0])
    assert case.get("twist").estimate.value == pytest.approx(corner, abs=1e-6)
    assert wide * deep * s == pytest.approx(corner, abs=1e-9)


@given(small, small)
def test_a_plane_is_all_tilt(a: float, b: float) -> None:
    case = touched(surface(0, a, b, 0, 0, 0))
    assert case.get("slope_x").estimate.value == pytest.approx(a * 1000, abs=1e-6)
    assert case.get("slope_y").estimate.value == pytest.approx(b * 1000, abs=1e-6)
    assert case.get("flatness").estimate.value == pytest.approx(0, abs=1e-9)


def test_an_axis_that_counts_down_shows_less_where_it_is_high() -> None:
    up = surface(0, 2e-4, 0, 0, 0, 0)
    for counts in ("up", "down"):
        case = touched(up, counts=counts)
        assert case.get("slope_x").estimate.value == pytest.approx(0.2)
        assert any("Its right is high" in w.metric for w in case.finding.lines)


def test_a_log_is_read_like_the_same_places_touched() -> None:
    up = surface(40, 2e-4, -1e-4, 5e-7, 0, 2e-7)
    places = [(x, y, up(x, y)) for x in XS for y in YS]
    log, touch = logged(places), touched(up)
    for key in ("area", "slope_x", "slope_y", "bow_x", "twist"):
        assert log.get(key).estimate.value == pytest.approx(touch.get(key).estimate.value)
    assert log.finding.count == 12
    highest = max(places, key=lambda p: p[2])
    assert (log.finding.highest.x_mm, log.finding.highest.y_mm) == highest[:2]


def test_a_hundred_thousand_points_are_one_map() -> None:
    rng = np.random.default_rng(5)
    up = surface(40, 1e-4, 0, -1e-6, 0, 0)
    x, y = rng.uniform(-300, 300, 100_000), rng.uniform(-200, 200, 100_000)
    z = up(x, y) + rng.normal(0, 0.001, 100_000)
    case = logged(list(zip(x, y, z, strict=True)))
    assert case.get("slope_x").estimate.value == pytest.approx(0.1, abs=1e-3)
    assert case.get("bow_x").estimate.value == pytest.approx(0.09, abs=1e-3)
    # noise makes highest less lowest larger than it is, and the limits know it
    grid = [up(a, b) for a in np.linspace(-300, 300, 400) for b in (-200, 200)]
    area = case.get("area").estimate
    assert area.least - 1e-3 <= max(grid) - min(grid) <= area.most
    assert len(case.finding.cells) <= 700
    [drawn] = BED.figures(case)
    assert len(drawn.points) == 2


def test_of_many_screw_heads_the_five_highest_are_named() -> None:
    places = [(x, y, 40.0) for x in range(-200, 201, 20) for y in range(-190, 191, 20)]
    heads = {20 + 50 * n: round(0.2 + 0.05 * n, 2) for n in range(7)}
    for at, up in heads.items():
        places[at] = (*places[at][:2], 40 + up)
    found = logged(places).finding.specks
    assert [s.up_mm for s in found] == pytest.approx([0.5, 0.45, 0.4, 0.35, 0.3], abs=0.03)
    assert [(s.x_mm, s.y_mm) for s in found] == [places[at][:2] for at in list(heads)[:1:-1]]


def test_a_screw_head_is_named_and_not_dropped() -> None:
    places = [(x, y, 40.0) for x in range(-200, 201, 50) for y in range(-150, 151, 50)]
    clean = logged(places)
    assert not clean.finding.specks
    places[20] = (*places[20][:2], 40.3)
    found = logged(places)
    [speck] = found.finding.specks
    assert (speck.x_mm, speck.y_mm) == places[20][:2]
    assert found.get("area").estimate.value == pytest.approx(0.3)
    assert "a screw head" in found.finding.notes[-1].text.metric
    # where so few were read that the shape may be theirs, none is called one
    few = [(x, y, 40.3 if (x, y) == (0, 0) else 40.0) for x in (-99, 0, 90) for y in (-80, 0, 70)]
    assert not logged(few).finding.specks
    assert not logged([p for p in few if p != (-99, -80, 40.0)]).finding.specks


GRID = [(x, y) for x in np.linspace(-200, 200, 5) for y in np.linspace(-150, 150, 4)]


@pytest.mark.parametrize("at", [0, 3, 9, 16, 19])
@pytest.mark.parametrize("off", [3.0, -3.0])
def test_a_place_is_held_against_its_neighbours_at_a_corner_too(at: int, off: float) -> None:
    """Twenty places on a bed that is tilted and bent: the one that stands off, and no other."""
    rng, up = np.random.default_rng(at), surface(40, 3e-4, -1e-4, 1e-6, -2e-6, 1e-6)
    places = [(x, y, up(x, y) + rng.normal(0, 0.01)) for x, y in GRID]
    assert not logged(places).finding.specks
    places[at] = (*places[at][:2], places[at][2] + off)
    finding = logged(places).finding
    [speck] = finding.specks
    assert (speck.x_mm, speck.y_mm) == places[at][:2]
    assert speck.up_mm == pytest.approx(off, abs=0.1)
    assert [h.deep_mm for h in finding.holes] == ([pytest.approx(3, abs=0.1)] if off < 0 else [])


def test_a_clean_map_cries_wolf_in_one_of_a_hundred_at_the_most() -> None:
    rng, up = np.random.default_rng(1), surface(40, 3e-4, -1e-4, 1e-6, -2e-6, 1e-6)
    cried = 0
    for _ in range(300):
        noise = rng.normal(0, 0.01, len(GRID))
        cried += bool(
            logged(
                [(x, y, up(x, y) + e) for (x, y), e in zip(GRID, noise, strict=True)]
            ).finding.specks
        )
    assert cried <= 6


def test_of_many_points_a_seam_and_a_pit_are_kept_by_their_height_and_depth() -> None:
    """Between two means may stand what no mean shows."""
    x, y = (v.ravel() for v in np.meshgrid(np.linspace(-480, 480, 101), np.linspace(-340, 340, 76)))
    z = 40 + 3e-4 * x + np.random.default_rng(2).normal(0, 0.002, len(x))
    z[np.abs(x - 33) < 4.5] += 1.0
    pit = (np.abs(x + 100) < 5) & (np.abs(y - 40) < 9)
    z[pit] -= 5
    finding = logged(list(zip(x, y, z, strict=True))).finding
    up = z - z.min()
    assert max(p.high_mm for p in finding.patches) == pytest.approx(up.max())
    assert min(p.low_mm for p in finding.patches) == pytest.approx(up[~pit].min())
    [hole] = finding.holes
    left, front, right, rear = hole.box
    inside = (left <= x) & (x <= right) & (front <= y) & (y <= rear)
    assert inside[pit].all()
    assert hole.deep_mm == pytest.approx(5, abs=0.05)
    assert [round(s.up_mm, 1) for s in finding.specks] == [-5.0, 1.0]
    for k in range(0, len(x), 7):
        mine = [p for p in finding.patches if p.box[0] <= x[k] <= p.box[2]]
        mine = [p for p in mine if p.box[1] <= y[k] <= p.box[3]]
        assert pit[k] or min(p.low_mm for p in mine) <= up[k] <= max(p.high_mm for p in mine)


WIDE, DEEP = ROUTER.table_x_mm, ROUTER.table_y_mm
AREA = [
    (x, y, 40.0)
    for x in np.linspace(-WIDE / 2 + 20, WIDE / 2 - 20, 6)
    for y in np.linspace(-DEEP / 2 + 20, DEEP / 2 - 20, 5)
]


def moved(by: float = 1.0, x: float = 0.0, y: float = 0.0) -> list[tuple[float, float, float]]:
    return [(a * by + x, b * by + y, z * by) for a, b, z in AREA]


@pytest.mark.parametrize(
    ("points", "stated", "asked"),
    [
        (moved(), {}, ""),
        (moved(x=WIDE / 2, y=DEEP / 2), {}, "off the bed"),
        (moved(x=WIDE / 2, y=DEEP / 2), {"log_zero": "corner"}, ""),
        (moved(x=70, y=-30), {"log_zero": "stated", "zero_x_mm": -70, "zero_y_mm": 30}, ""),
        (moved(1 / 25.4), {}, "in inches"),
        (moved(25.4), {}, "in millimetres"),
        (moved(0.06), {}, "no more than"),
        (moved(0.45, WIDE / 4, DEEP / 4), {}, "one quarter"),
        (moved(0.45, -WIDE / 4, DEEP / 4), {}, "one quarter"),
        (moved(0.45, WIDE / 4, DEEP / 4), {"log_is_right": True}, ""),
    ],
)
def test_a_log_of_another_zero_or_unit_is_asked_about_before_anything_is_concluded(
    points: Any, stated: Any, asked: str
) -> None:
    stated = {"log_is_right": False, **stated}
    if asked:
        with pytest.raises(Problem, match=asked) as told:
            logged(points, **stated)
        assert "right as it stands" in told.value.expected
        return
    finding = logged(points, **stated).finding
    if not stated["log_is_right"]:
        assert finding.cells[0].x_mm == pytest.approx(AREA[0][0])
        assert finding.cells[0].y_mm == pytest.approx(AREA[0][1])


def test_what_a_log_scatters_counts_and_not_what_its_probe_promises() -> None:
    """Promised to 0.001, scattering by 0.03: the slope lies within its U in 19 of 20 logs."""
    rng, covered = np.random.default_rng(3), 0
    x, y = (v.ravel() for v in np.meshgrid(np.linspace(-200, 200, 9), np.linspace(-150, 150, 7)))
    for _ in range(100):
        z = 40 + 2e-4 * x + rng.normal(0, 0.03, len(x))
        slope = logged(list(zip(x, y, z, strict=True))).get("slope_x").estimate
        covered += abs(slope.value - 0.2) <= slope.expanded
    assert covered >= 91


def test_a_map_with_places_unread_is_not_true() -> None:
    how = BED.setup_type(x_places_mm=XS, y_places_mm=YS, passes=1)
    shown = [(s.key, 40.0) for s in BED.stations(how)]
    for left, verdict in ((0, "true"), (1, "too_close"), (3, "too_close")):
        got = BED.weigh(
            case_of(BED, how, readings(shown[: len(shown) - left]), PROBE, machine=ROUTER)
        )
        assert got.judgement.verdict == verdict
        assert ("not been read" in got.judgement.sentence.metric) == bool(left)


def test_what_cannot_tell_a_plane_is_refused() -> None:
    for points, message in (
        ([(0, 0, 1), (1, 0, 1), (0, 1, 1)], "3 points that touched tell no plane"),
        ([(i, 2 * i, 1) for i in range(9)], "lie on one line"),
        ([(5, 5, 1)] * 9, "lie on one line"),
    ):
        with pytest.raises(Problem, match=message):
            logged(points)
    how = BED.setup_type(way="log")
    station = BED.stations(how)[0]

    def taken(**columns: list[float]) -> Any:
        log = LogReading(id="l", station="log", read_at=START, columns=columns)
        return BED.take_log(how, station, log).columns

    with pytest.raises(Problem, match="Columns x, y and z are needed"):
        taken(x=[1.0], height=[2.0])
    with pytest.raises(Problem, match="more than a map can have"):
        taken(x=[0.0] * 100_001, y=[0.0] * 100_001, z=[0.0] * 100_001)
    # three columns without names are x, y and z; touches that missed are left out
    four = [0.0, 1.0, 2.0, 3.0]
    assert taken(a=four, b=four, c=four) == {"x": four, "y": four, "z": four}
    marked = taken(X=[*four, 9.0], Y=[*four, 9.0], Z=[*four, 9.0], ok=[1, 1, 1, 1, 0])
    assert marked == {"x": four, "y": four, "z": four}
    with pytest.raises(ValueError, match="two or more places"):
        BED.setup_type(x_places_mm=[10, 10])
    # two rows show no bow, and none is told
    two = BED.setup_type(x_places_mm=XS, y_places_mm=[-100, 100], passes=1)
    flat = [(s.key, 0.0) for s in BED.stations(two)]
    case = BED.weigh(case_of(BED, two, readings(flat), PROBE, machine=ROUTER))
    assert case.get("bow_x") is None
    assert case.judgement.verdict == "true"


REPORTS = """hello, ready
ok
[note: three axes]
[P:-200.000,-150.000,-1.250:1]
ok
[P:200.000,-150.000,-1.240:1]
[P:200.000,150.000,-1.230:0]
<idle>
[P:200.000,150.000,-1.235:1]
[P:-200.000,150.000,-1.245:1]
"""


@pytest.mark.parametrize(
    ("order", "turned"),
    [("xyz", (0, 1, 2)), ("yxz", (1, 0, 2)), ("zxy", (2, 0, 1)), ("xzy", (0, 2, 1))],
)
def test_a_log_without_names_goes_by_the_order_that_is_stated(order: str, turned: Any) -> None:
    """Reports in brackets among a controller's other lines, or bare figures: the same map."""
    places = [(-200.0, -150.0, -1.25), (200.0, -150.0, -1.24), (200.0, 150.0, -1.235)]
    places.append((-200.0, 150.0, -1.245))
    setup = BED.setup_type(way="log", order=order)
    [station] = BED.stations(setup)

    def taken(text: str) -> Any:
        log = LogReading(id="l", station="log", read_at=START, columns=read_log(text))
        return BED.take_log(setup, station, log).columns

    rows = [[p[i] for i in turned] for p in places]
    bare = "\n".join(f"{a} {b} {c}" for a, b, c in rows)
    marked = "\n".join(f"{a}, {b}, {c}, 1" for a, b, c in rows) + "\n9, 9, 9, 0"
    kept = {"x": [p[0] for p in places], "y": [p[1] for p in places], "z": [p[2] for p in places]}
    assert taken(bare) == taken(marked) == kept
    if order == "xyz":
        assert taken(REPORTS) == kept
        assert taken("x,y,z\n" + bare.replace(" ", ",")) == kept
    # names count for more than an order
    named = "z;x;y\n" + "\n".join(f"{p[2]};{p[0]};{p[1]}" for p in places)
    assert taken(named) == kept
    with pytest.raises(Problem, match="Columns x, y and z"):
        taken("1 2 3 4\n" * 5)


def test_brackets_without_points_are_no_log() -> None:
    with pytest.raises(Problem, match=r"\[note: three axes\]"):
        read_log("[note: three axes]\n[hello]\n")


def test_a_tilt_on_a_table_is_told_apart_by_the_bare_table() -> None:
    tilted = surface(40, 5e-4, -3e-4, 0, 0, 0)
    mill = starting_point("column_mill")
    case = touched(tilted).but(machine=mill)
    assert [a.kind for a in BED.advise(case).asks] == ["table_travel"]
    lent = known(
        "table_travel", slope_x=about(0.4, 0.02, "slope"), slope_y=about(-0.3, 0.02, "slope")
    )
    told = BED.advise(case.but(known=[lent]))
    assert told.asks == []
    words = " ".join(r.metric for r in told.remarks)
    assert re.search(r"left to right.*: of the map’s tilt \+0\.10", words)
    assert re.search(r"front to rear.*: of the map’s tilt [+−]?0\.00", words)
    # one way known, the other not: the one is told, the other asked for
    for key, way in (("slope_x", "left to right"), ("slope_y", "front to rear")):
        half = BED.advise(
            case.but(known=[known("table_travel", **{key: about(0.3, 0.02, "slope")})])
        )
        assert [a.kind for a in half.asks] == ["table_travel"]
        assert [way in r.metric for r in half.remarks if "bare table" in r.metric] == [True]


def test_a_twist_is_the_boards_only_where_the_rails_lie_in_one_plane() -> None:
    twisted = surface(40, 0, 0, 0, 0, 5e-6)
    case = touched(twisted)
    assert case.machine.rails is not None
    assert "rail_twist" in [a.kind for a in BED.advise(case).asks]
    for verdict, says in (("true", "the twist is the board’s"), ("out", "do not lie in one")):
        coarse = known("rail_twist", twist=about(0.02, 0.01)).model_copy(
            update={"verdict": verdict, "subject": Subject.part("coarse").text}
        )
        assert "rail_twist" in [a.kind for a in BED.advise(case.but(known=[coarse])).asks]
        lent = coarse.model_copy(update={"subject": Subject.part("fine").text})
        told = BED.advise(case.but(known=[lent]))
        assert "rail_twist" not in [a.kind for a in told.asks]
        assert says in " ".join(r.metric for r in told.remarks)


def test_a_tilt_is_the_boards_or_the_gantrys_until_the_gantry_was_read() -> None:
    tilted = surface(40, 5e-4, 0, 0, 0, 0)
    assert [a.kind for a in BED.advise(touched(tilted)).asks] == ["gantry_level"]
    level = known("gantry_level", level=about(0.01, 0.01, "length"))
    told = BED.advise(touched(tilted, lent=[level]))
    assert told.asks == []
    assert "+0.010 ± 0.010 mm from end to end" in told.remarks[-1].metric
    stale = level.model_copy(update={"fresh": False})
    assert BED.advise(touched(tilted, lent=[stale])).asks
    # a bed that is only bent says nothing of the gantry
    bent = surface(40, 0, 0, 4e-6, 0, 0)
    even = [(x, y, bent(x, y)) for x in (-200, -70, 70, 200) for y in (-150, 0, 150)]
    assert BED.advise(logged(even)).asks == []
    # what is left of the board is looked at before it is cut
    thin = ROUTER.model_copy(
        update={"board": ROUTER.board.model_copy(update={"thickness_mm": 8.1, "least_mm": 8.0})}
    )
    case = touched(tilted).but(machine=thin)
    assert "a new board comes first" in BED.advise(case).remarks[-1].metric


@pytest.mark.parametrize(
    "most", [0.005, 0.01, 0.02, 0.04, 0.07, 0.15, 0.3, 0.7, 1.5, 4.0, 7.0, 15.0]
)
def test_bands_are_about_seven_in_steps_that_people_count_by(most: float) -> None:
    corners = [(0, 0, 0.0), (600, 0, most / 2), (0, 400, most / 2), (600, 400, most)]
    [drawn] = BED.figures(logged([*corners, (300, 200, most / 2)]))
    assert 4 <= most / drawn.step_mm <= 11
    assert f"{drawn.step_mm:e}"[0] in "125"


def test_the_drawing_goes_by_the_heights_and_stays_inside_of_them() -> None:
    up = surface(0, 4e-4, 2e-4, 0, 0, 0)
    [drawn] = BED.figures(touched(up))
    lowest = up(XS[0], YS[0])
    for j, y in enumerate(drawn.y_mm):
        for i, x in enumerate(drawn.x_mm):
            value = drawn.up_mm[j][i]
            assert value == pytest.approx(up(x, y) - lowest, abs=1e-6)
            assert XS[0] < x < XS[-1]
            assert YS[0] < y < YS[-1]
    assert drawn.y_mm == sorted(drawn.y_mm)
    most = up(XS[-1], YS[-1]) - lowest
    assert 3 <= most / drawn.step_mm <= 15
    # a strip is drawn in cells as well, and is no line
    for turned in (False, True):
        strip = [(x, y, 1e-4 * x) for x in (0.0, 300.0, 600.0) for y in (0.0, 15.0, 30.0)]
        [drawn] = BED.figures(logged([(y, x, z) if turned else (x, y, z) for x, y, z in strip]))
        sizes = len(drawn.x_mm), len(drawn.y_mm)
        assert min(sizes) == 6
        assert max(sizes) > 20
        assert (sizes[0] < sizes[1]) == turned
    # a triangle has nothing outside of it
    three = [(0, 0, 0), (100, 0, 0), (0, 100, 0), (10, 10, 0.01)]
    [corner] = BED.figures(logged(three))
    outside = [v for row in corner.up_mm for v in row if v is None]
    assert outside
    assert all(v is None or math.isfinite(v) for row in corner.up_mm for v in row)
