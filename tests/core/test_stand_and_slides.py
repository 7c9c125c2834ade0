"""Levels, gibs and shims behind them, against worked cases and plain geometry."""

from __future__ import annotations

import io
import math
import re
from typing import Any

import ezdxf
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from tests.core.helpers import (
    NOTHING,
    advise,
    answers,
    case_of,
    evaluate,
    expect,
    figures,
    judge,
    readings,
)
from truing.checks.base_level.advise import lifts_mm
from truing.checks.common import at_place, turns_words
from truing.checks.slide_play.sketch import closed
from truing.contract.history import History, PastRound
from truing.drawing.dxf import to_dxf
from truing.drawing.svg import to_svg
from truing.kit.instruments import Caliper, Level, PlungerDial
from truing.kit.shims import Shim
from truing.machine import Feet, Foot, Machine, Slide, starting_point
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.problem import Problem
from truing.measure.words import Words
from truing.registry import kind

LEVEL, PLAY, GIB = kind("base_level"), kind("slide_play"), kind("gib_shim")
MILL, MICRO = starting_point("column_mill"), starting_point("micro_mill")
FINE_LEVEL = Level(sensitivity_mm_per_m=0.02, base_mm=200, repeatability_mm=1e-5, read_fraction=0.1)
DIAL = PlungerDial(graduation_mm=0.001, range_mm=5, repeatability_mm=0.0003)
MICROMETER = Caliper(resolution_mm=0.001, repeatability_mm=0.0005)


def stated(check: Any, machine: Machine, part: str = "", **more: Any) -> Any:
    return check.setup_type(
        **{
            **check.propose(machine, Subject.part(part) if part else THE_MACHINE).model_dump(),
            **more,
        }
    )


def values(finding: Any) -> dict[str, float]:
    return {q.key: q.estimate.value for q in finding.quantities}


# --- level ----------------------------------------------------------------------------------------

SLOPE = st.floats(-0.8, 0.8)


@given(SLOPE, SLOPE, st.floats(-1.5, 1.5), st.floats(-0.3, 0.3), st.booleans())
def test_a_level_turned_end_for_end_says_what_the_base_does(
    a: float, b: float, twist: float, own: float, by_right: bool
) -> None:
    """The base is built of slopes here, division by division, not of the fit's columns."""
    how = stated(
        LEVEL,
        MILL,
        across_x_mm=[-160, 0, 150],
        along_y_mm=[-90, 110],
        recorded="right" if by_right else "marked",
    )
    shown = []
    for s in LEVEL.stations(how):
        slope, at = (b, s.x_mm) if s.lies == "y" else (a, s.y_mm)
        slope_to_plus = slope + twist * at / 1000
        toward_marked = (slope_to_plus if s.marked > 0 else -slope_to_plus) + own
        said = toward_marked if not by_right else toward_marked * s.marked
        shown.append((s.key, said / 0.02 * FINE_LEVEL.division_mm))
    finding = evaluate(LEVEL, how, readings(shown), FINE_LEVEL, NOTHING)
    assert values(finding) == pytest.approx({"twist": twist, "slope_x": a, "slope_y": b}, abs=1e-6)
    assert finding.own_error.value == pytest.approx(own, abs=1e-6)


@pytest.mark.parametrize("school", ["twist", "earth"])
def test_the_drawn_corners_are_those_of_the_base(school: str) -> None:
    """Heights by adding up slopes in small steps, first along the front, then to the rear."""
    a, b, twist = 0.3, -0.2, 0.9
    how = stated(LEVEL, MILL, school=school)
    shown = []
    for s in LEVEL.stations(how):
        slope = b + twist * s.x_mm / 1000 if s.lies == "y" else a + twist * s.y_mm / 1000
        shown.append((s.key, s.marked * slope / 0.02 * FINE_LEVEL.division_mm))
    finding = evaluate(LEVEL, how, readings(shown), FINE_LEVEL, NOTHING)
    (drawn,) = figures(LEVEL, how, finding)
    a, b = (a, b) if school == "earth" else (0.0, 0.0)

    def height(x: float, y: float) -> float:
        rise, n = 0.0, 100
        for _ in range(n):
            rise += a / 1000 * x / n
        for _ in range(n):
            rise += (b + twist * x / 1000) / 1000 * y / n
        return rise

    for p in drawn.points:
        assert p.z_mm == pytest.approx(height(p.x_mm, p.y_mm), abs=1e-6)
        assert ("right" in p.label.metric) == (p.x_mm > 0)
        assert ("rear" in p.label.metric) == (p.y_mm > 0)


def test_a_level_of_unknown_sensitivity_is_asked_about_and_can_be_found_out() -> None:
    how = stated(LEVEL, MILL)
    unknown = Level(base_mm=250)
    with pytest.raises(Problem, match="put a feeler blade under one end") as told:
        expect(LEVEL, how, unknown, LEVEL.tolerances(MILL))
    assert told.value.field == "instrument"
    assert "not known" in unknown.reads_words.metric
    found = Level(base_mm=250, blade_mm=0.1, blade_divisions=8)
    assert found.level_sensitivity_mm_per_m == pytest.approx(0.05)
    assert found.read("2 div").mm == pytest.approx(2 * 0.05 * 0.25)
    with pytest.raises(ValidationError, match="read in divisions"):
        Level(unit="mm")


def test_stations_that_tell_no_twist_are_refused_by_name() -> None:
    how = stated(LEVEL, MILL)
    one_place = [(s.key, 0.0) for s in LEVEL.stations(how) if s.lies == "x" or s.x_mm < 0]
    with pytest.raises(Problem, match="one place only") as told:
        evaluate(LEVEL, how, readings(one_place), FINE_LEVEL, NOTHING)
    assert told.value.field == "across_x_mm"
    never_turned = [(s.key, 0.0) for s in LEVEL.stations(how) if s.marked > 0]
    with pytest.raises(Problem, match="has not been turned"):
        evaluate(LEVEL, how, readings(never_turned), FINE_LEVEL, NOTHING)
    with pytest.raises(ValidationError, match="Two places are the same"):
        stated(LEVEL, MILL, across_x_mm=[100, 100])


def test_feet_come_up_to_the_highest_and_three_of_them_cannot_untwist() -> None:
    assert MILL.feet
    # a slope of 1 mm/m to the right: the left feet of a 420 mm stand come up by 0.42
    assert lifts_mm(MILL.feet, 0.0, 1.0, 0.0) == pytest.approx([0.42, 0, 0.42, 0])
    # where the feet stand off the middle of the base they still bring it into one level
    away = Feet(
        pitch_mm=MILL.feet.pitch_mm,
        places=[
            f.model_copy(update={"x_mm": f.x_mm + 700, "y_mm": f.y_mm - 300})
            for f in MILL.feet.places
        ],
    )
    for twist, a, b in ((0.0, 1.0, 0.0), (0.5, 0.0, 0.0), (-0.4, 0.3, 0.7)):
        lifts = lifts_mm(away, twist, a, b)
        surface = [
            (a * f.x_mm + b * f.y_mm) / 1000 + twist * f.x_mm * f.y_mm / 1e6 for f in away.places
        ]
        level = [z + up for z, up in zip(surface, lifts, strict=True)]
        assert level == pytest.approx([level[0]] * 4)
        assert min(lifts) == pytest.approx(0, abs=1e-12)
    # a twist: both feet of the low diagonal by half of twist × length × width
    both = lifts_mm(MILL.feet, 0.5)
    assert both == pytest.approx([0, 0.5 * 0.42 * 0.38 / 2, 0.5 * 0.42 * 0.38 / 2, 0])
    three = [
        Foot(name=n, x_mm=x, y_mm=y)
        for n, x, y in (("a", -200, -150), ("b", 200, -150), ("c", 0, 200))
    ]
    tripod = MILL.model_copy(update={"feet": Feet(places=three)})
    how = stated(LEVEL, MILL)
    shown = [(s.key, s.marked * s.x_mm * 1e-4) for s in LEVEL.stations(how)]
    finding = evaluate(LEVEL, how, readings(shown), FINE_LEVEL, NOTHING)
    limits = LEVEL.tolerances(MILL)
    advice = advise(LEVEL, how, finding, limits, tripod, FINE_LEVEL, [], NOTHING)
    assert not advice.moves
    assert "Three feet cannot" in advice.remarks[0].metric
    told = advise(LEVEL, how, finding, limits, MILL, FINE_LEVEL, [], NOTHING).moves[0]
    up = [a for a in told.amounts if a.turns]
    assert [a.place for a in up] == ["front right", "rear left"]
    # or one of the two by what both would have come up
    assert turns_words(up[0].turns + up[1].turns) in told.notes[0].metric
    for amount in up:
        assert amount.turns == pytest.approx(amount.amount_mm / MILL.feet.pitch_mm)
        assert f"{amount.turns * 360:.0f}°" in str(amount.detail)


def test_turns_are_said_as_a_person_says_them() -> None:
    assert [turns_words(t) for t in (0.3, 0.5, 1.0, 1.26, 2.0)] == [
        "¼ turn",
        "½ turn",
        "1 turn",
        "1¼ turns",
        "2 turns",
    ]
    assert turns_words(0.1) == "36°"


# --- play -----------------------------------------------------------------------------------------


def played(
    machine: Machine,
    plays: tuple[float, ...],
    feel: str = "free",
    part: str = "left_right",
    **more: Any,
) -> Any:
    how = stated(PLAY, machine, part, places_mm=[-100, 0, 100], passes=1, **more)
    shown = [
        *readings((f"{x:g}", v) for x, v in zip(how.places_mm, plays, strict=True)),
        *answers((f"{x:g}:feel", feel) for x in how.places_mm),
    ]
    finding = evaluate(PLAY, how, shown, DIAL, NOTHING)
    limits = PLAY.tolerances(machine)
    return (
        judge(PLAY, how, finding, limits),
        advise(PLAY, how, finding, limits, machine, DIAL, [], NOTHING),
        finding,
    )


def test_a_strip_gib_is_closed_by_its_pitch_and_a_tapered_one_by_its_taper() -> None:
    judged, advice, _ = played(MICRO, (0.053, 0.053, 0.053))
    assert judged.verdict == "out"
    take = 0.053 - PLAY.tolerances(MICRO)["play"] / 2
    screw = advice.moves[0].amounts[0]
    assert screw.turns == pytest.approx(take / 0.8)
    assert len(advice.moves[0].amounts) == 3
    _, advice, _ = played(MILL, (0.053, 0.053, 0.053), taper_mm_per_m=20.0)
    (screw,) = advice.moves[0].amounts
    # one turn drives it in by 0.8 mm, which closes 0.016
    assert screw.turns == pytest.approx(take / 0.016)
    # the same, but on a dovetail's flank at 35° to the dial and the screw
    _, flank, _ = played(MICRO, (0.053, 0.053, 0.053), screw_deg=35, reading_deg=35)
    assert flank.moves[0].amounts[0].turns == pytest.approx(take / 0.8)
    _, square, _ = played(MICRO, (0.053, 0.053, 0.053), reading_deg=35)
    ratio = math.cos(math.radians(35))
    assert square.moves[0].amounts[0].turns == pytest.approx(take / 0.8 * ratio)


def test_rollers_are_turned_by_what_is_felt_since_no_figure_tells_how_far() -> None:
    carried = Machine(slides=[Slide(direction="left_right", gib="rollers", gib_screws=4)])
    _, advice, _ = played(carried, (0.053, 0.053, 0.053))
    (close,) = advice.moves
    assert close.title.metric == "Close the rollers: until the shake just goes"
    assert [a.place for a in close.amounts] == ["roller 1", "roller 2", "roller 3", "roller 4"]
    assert all(a.turns == 0 and a.amount_mm > 0 for a in close.amounts)
    assert "each eccentric until the shake at its roller just goes" in close.steps[1].metric
    _, advice, _ = played(carried, (0.001, 0.001, 0.001), feel="binds")
    (ease,) = advice.moves
    assert ease.title.metric == "Ease the rollers: a touch back"
    assert "until its roller just turns by hand" in ease.steps[1].metric
    drawn = [closed(m, carried, "left_right").shows.partition(";")[0] for m in (close, ease)]
    many = "The 4 eccentrics along the slide, from the middle outwards, are turned"
    assert drawn == [f"{many} toward the way", f"{many} away from it"]
    told = " ".join(s.metric for m in (close, ease) for s in m.steps)
    assert "screw" not in told
    assert "figure" not in told


@pytest.mark.parametrize("play", [0.03, 0.05, 0.4])
@pytest.mark.parametrize("gib", ["strip", "tapered"])
def test_a_gib_is_turned_by_degrees_as_they_are_told(gib: Any, play: float) -> None:
    """What the words say, on a flank that a screw of 0.8 mm drives: within a degree of the figure;
    and by feel, from where it just drags."""
    slide = Slide(direction="left_right", gib=gib, gib_pitch_mm=0.8)
    per_turn = 0.8 if gib == "strip" else 0.8 * 20 / 1000
    machine = MICRO.model_copy(update={"slides": [slide]})
    _, advice, _ = played(machine, (play, play, play), taper_mm_per_m=20.0)
    [move] = advice.moves
    said = move.amounts[0].words.metric
    found = re.fullmatch(r"(?:(\d+) turns?)?(?: and )?(?:(\d+)°)? in", said)
    assert found, said
    degrees = 360 * int(found[1] or 0) + int(found[2] or 0)
    taken = degrees / 360 * per_turn
    limit = PLAY.tolerances(MILL)["play"]
    assert play - taken == pytest.approx(limit / 2, abs=per_turn / 360)
    hand = str(move.amounts[0].detail.metric)
    minutes = re.search(r"(?:(\d+) hours?)?(?: and )?(?:(\d+) minutes?)?, ", hand)
    assert minutes
    told_minutes = 60 * int(minutes[1] or 0) + int(minutes[2] or 0)
    assert abs(told_minutes * 6 - degrees) <= 3.5
    [feel] = [n.metric for n in move.notes if n.metric.startswith("By feel")]
    back = re.search(r"back off by (?:(\d+) turns?)?(?: and )?(?:(\d+)°)?, and", feel)
    assert back
    off = (360 * int(back[1] or 0) + int(back[2] or 0)) / 360 * per_turn
    assert off == pytest.approx(limit / 2, abs=per_turn / 360)


def test_a_short_gib_with_one_screw_is_no_tapered_one() -> None:
    short = Machine(slides=[Slide(direction="left_right", gib="strip", gib_screws=1)])
    _, advice, _ = played(short, (0.053, 0.053, 0.053))
    (close,) = advice.moves
    assert [a.place for a in close.amounts] == ["adjusting screw"]
    assert "other end" not in close.steps[1].metric
    figure = closed(close, short, "left_right")
    assert figure.shows.startswith("The screw beside the gib goes in;")
    # one bolt is turned; a tapered gib has one at either end
    assert len(figure.bolts) == 1
    _, advice, _ = played(MILL, (0.053, 0.053, 0.053), taper_mm_per_m=20.0)
    assert "other end" in advice.moves[0].steps[1].metric
    assert len(closed(advice.moves[0], MILL, "left_right").bolts) == 2


@pytest.mark.parametrize(
    ("direction", "minus", "plus"),
    [
        ("left_right", "left of", "right of"),
        ("front_back", "in front of", "behind"),
        ("up_down", "below", "above"),
    ],
)
def test_a_place_of_a_travel_is_told_by_its_side(direction: Any, minus: str, plus: str) -> None:
    assert at_place(-50.8, direction) == Words(
        metric=f"50.8 mm {minus} the middle", inch=f"2 in {minus} the middle"
    )
    assert at_place(50.8, direction).metric == f"50.8 mm {plus} the middle"
    assert at_place(0.0, direction).metric == "mid travel"


def test_a_worn_middle_is_recognised_and_never_tightened_on() -> None:
    _, advice, finding = played(MICRO, (0.004, 0.06, 0.005))
    assert finding.middle.value == pytest.approx(0.06 - 0.0045)
    assert "worn" in finding.lines[0].metric
    move = advice.moves[0] if advice.moves else None
    assert move is None or move.taken("play") <= 0.004
    judged, advice, _ = played(MICRO, (0.002, 0.06, 0.002))
    assert judged.verdict == "out"
    assert not advice.moves
    assert "nothing left to give" in advice.remarks[0].metric
    assert advice.leave


def test_the_middle_is_the_place_halfway_between_the_ends_read() -> None:
    """Also where all of them lie on one side of mid travel, and not evenly."""
    how = stated(PLAY, MICRO, "left_right", places_mm=[20, 50, 70, 100], passes=1)
    plays = {20: 0.01, 50: 0.08, 70: 0.02, 100: 0.03}
    finding = evaluate(PLAY, how, readings([(f"{x}", v) for x, v in plays.items()]), DIAL, NOTHING)
    assert finding.middle.value == pytest.approx(0.08 - (0.01 + 0.03) / 2)


def test_a_place_that_was_read_the_other_way_round_is_pointed_out_once_it_is_certain() -> None:
    for end, told in ((-0.03, ["100"]), (-0.0001, []), (0.0001, []), (0.03, [])):
        finding = played(MICRO, (0.03, 0.03, end))[2]
        notes = [n for n in finding.notes if "went the other way" in n.text.metric]
        assert [n.station for n in notes] == told, end


def test_wear_is_not_told_of_a_slide_that_is_even() -> None:
    """The same play at every place, read by a dial that scatters."""
    rng, runs, told, seen = np.random.default_rng(3), 300, 0, 0
    how = stated(PLAY, MICRO, "left_right", places_mm=[-60, -30, 0, 30, 60], passes=2)
    for worn in (0.0, 0.03):
        for _ in range(runs):
            shown = [
                (s.key, 0.02 + worn * (abs(s.at_mm) < 1) + rng.normal(0, 0.002))
                for _ in (1, 2)
                for s in PLAY.stations(how)
                if s.reads == "length"
            ]
            dial = PlungerDial(graduation_mm=0.002, range_mm=5, repeatability_mm=0.002)
            finding = evaluate(PLAY, how, readings(shown), dial, NOTHING)
            worse = any("worn" in x.metric for x in finding.lines)
            told, seen = told + (worse and not worn), seen + (worse and bool(worn))
    assert told / runs <= 0.01
    assert seen / runs >= 0.95


def test_what_binds_is_eased_however_small_its_play() -> None:
    judged, advice, _ = played(MICRO, (0.001, 0.001, 0.001), feel="binds")
    assert judged.verdict == "out"
    assert "binds" in judged.sentence.metric
    assert advice.moves[0].taken("play") < 0
    assert all(a.turns < 0 for a in advice.moves[0].amounts)
    # what binds is not left as it is; what shakes may be
    assert advice.leave is None
    assert played(MICRO, (0.053, 0.053, 0.053))[1].leave


def test_a_gib_at_its_end_and_carriages_have_nothing_to_turn() -> None:
    _, advice, _ = played(MILL, (0.05, 0.05, 0.05), at_its_end=True)
    assert not advice.moves
    assert "Shim behind a gib" in advice.remarks[0].metric
    carried = Machine(slides=[Slide(direction="left_right", gib="carriages")])
    _, advice, _ = played(carried, (0.05, 0.05, 0.05))
    assert "Carriages cannot be set" in advice.remarks[0].metric


# --- shim behind a gib ----------------------------------------------------------------------------

TIN = [Shim(thickness_mm=t, count=2) for t in (0.1, 0.2, 0.3, 0.5)]


def gib(thick: float, thin: float, stock: Any = TIN, **more: Any) -> Any:
    how = stated(GIB, MILL, apart_mm=120, wanted_mm=18, passes=1, **more)
    finding = evaluate(GIB, how, readings([("thick", thick), ("thin", thin)]), MICROMETER, NOTHING)
    limits = GIB.tolerances(MILL)
    return how, finding, advise(GIB, how, finding, limits, MILL, MICROMETER, stock, NOTHING)


def test_the_shim_is_taper_times_shift_from_stock_at_or_below_it() -> None:
    # 2.4 mm in 120 is one in fifty; 18 mm back wants 0.36
    how, finding, advice = gib(7.4, 5.0)
    assert values(finding) == pytest.approx({"shift": 18, "taper": 20, "shim": 0.36})
    move = advice.moves[0]
    assert move.stacks[0].after_mm == [0.3]
    assert move.predicted[0].after.value == pytest.approx(18 - 15)
    # 0.2 mm on a taper of one in fifty is 10 mm of it
    assert any(
        "next size down, 0.200 mm: it brings the gib back by 10.0 mm" in n.metric
        for n in move.notes
    )
    # the real shift gives back the real taper
    after = GIB.following(how, move)
    assert (after.way, after.fitted_mm) == ("fitted", 0.3)
    before = PastRound(number=1, values={q.key: q.estimate for q in finding.quantities})
    fitted = evaluate(GIB, after, readings([("shift", 14.0)]), MICROMETER, History(past=[before]))
    assert values(fitted)["taper"] == pytest.approx(0.3 / 14 * 1000)
    assert values(fitted)["shift"] == pytest.approx(4.0)
    assert "20.0" in fitted.lines[-1].metric


@pytest.mark.parametrize(
    ("thick", "thin", "words"),
    [
        (6.0, 6.0005, "no taper can be told"),
        (5.0, 7.4, "swapped"),
        (6.0, -0.2, "cannot be"),
    ],
)
def test_no_taper_and_a_reversed_one_are_explained(thick: float, thin: float, words: str) -> None:
    with pytest.raises(Problem, match=words) as told:
        gib(thick, thin)
    assert told.value.field == "readings"


def test_an_empty_tin_names_what_could_be_bought() -> None:
    _, _, advice = gib(7.4, 5.0, stock=[])
    assert "0.35 mm is the nearest that is sold" in advice.moves[0].needs.metric
    _, _, advice = gib(7.4, 5.0, stock=[Shim(thickness_mm=0.5, count=4)])
    assert "0.350 mm is the nearest" in advice.moves[0].needs.metric


def test_the_template_is_true_to_size_in_every_format() -> None:
    how, finding, _ = gib(
        7.4,
        5.0,
        length_mm=180,
        width_mm=22,
        tab_mm=8,
        relief_mm=10,
        oil_holes_mm=[40, 120],
        oil_hole_mm=4,
    )
    drawn = GIB.drawing(case_of(GIB, how, found=finding))
    document = ezdxf.read(io.StringIO(to_dxf(drawn)))
    assert document.header["$INSUNITS"] == 4
    outline = next(e for e in document.modelspace().query("LWPOLYLINE") if e.closed)
    xs, ys = zip(*[(p[0], p[1]) for p in outline.get_points()], strict=True)
    # the tab stands out at the thin end; at the thick end the screw's relief is cut in
    assert max(xs) - min(xs) == pytest.approx(180 + 8)
    assert max(ys) - min(ys) == pytest.approx(22)
    holes = document.modelspace().query("CIRCLE")
    assert sorted(c.dxf.center.x - min(xs) for c in holes) == pytest.approx([40, 120])
    assert {c.dxf.radius for c in holes} == {2.0}
    svg = to_svg(drawn)
    assert f'width="{drawn.width_mm:g}mm"' in svg
    assert f'viewBox="0 0 {drawn.width_mm:g} {drawn.height_mm:g}"' in svg
    bar = next(s for s in drawn.shapes if s.type == "line" and s.layer == "paper")
    assert bar.points[1][0] - bar.points[0][0] == pytest.approx(100)


@pytest.mark.parametrize(
    "change",
    [
        {"oil_holes_mm": [5, 500]},
        {"oil_holes_mm": [178.1], "length_mm": 180, "oil_hole_mm": 4},
        {"oil_holes_mm": [1.9], "length_mm": 180, "oil_hole_mm": 4},
        {"oil_holes_mm": [50, 52]},
        {"relief_mm": 60, "width_mm": 10},
        {"oil_holes_mm": [50], "oil_hole_mm": 25, "width_mm": 20},
        {"apart_mm": 0},
        {"wanted_mm": -3},
    ],
)
def test_a_template_that_cannot_be_cut_is_refused(change: dict[str, Any]) -> None:
    with pytest.raises(ValidationError):
        stated(GIB, MILL, **change)


# --- shim over shim -------------------------------------------------------------------------------


def test_a_gib_that_came_back_too_far_says_so_and_by_how_much() -> None:
    how = GIB.propose(MILL).model_copy(
        update={"way": "fitted", "fitted_mm": 0.5, "there_mm": [], "wanted_mm": 20.0}
    )
    caliper = Caliper(resolution_mm=0.01, repeatability_mm=0.005)
    found = GIB.weigh(case_of(GIB, how, readings([("shift", 25.0)] * 3), caliper, machine=MILL))
    [told] = [q.sentence.metric for q in found.finding.quantities if q.key == "shift"]
    assert told.startswith("The gib came back 5.0")
    assert "further than wanted" in told


@pytest.mark.parametrize(("before", "now"), [(0.0, 0.3), (0.2, 0.5), (0.5, 0.3)])
def test_a_shim_over_a_shim_tells_the_taper_of_what_was_added(before: float, now: float) -> None:
    """A wedge of one in fifty, moved by its own geometry: 20 mm for each 0.4 mm behind it."""
    core = kind("gib_shim")
    there = [before] if before else []
    shift = (now - before) * 50
    how = core.propose(MILL).model_copy(
        update={"way": "fitted", "fitted_mm": now, "there_mm": there, "wanted_mm": 20.0}
    )
    caliper = Caliper(resolution_mm=0.01, repeatability_mm=0.005)
    read = readings([("shift", shift)] * 3)
    stock = [Shim(thickness_mm=t, count=2) for t in (0.1, 0.2, 0.3, 0.5, 0.6, 0.7, 0.8)]
    case = case_of(core, how, read, caliper, machine=MILL, stock=stock)
    found = core.weigh(case)
    assert found.finding.taper.value == pytest.approx(20.0)
    assert found.finding.missing.value == pytest.approx(20.0 - shift)
    [told] = [q.sentence.metric for q in found.finding.quantities if q.key == "shift"]
    assert ("short of where it should" in told) == (shift < 20.0)
    # what is asked for next starts from where the gib sits now
    move = next(m for m in core.remedies(found).moves)
    if move.stacks:
        following = core.following(how, move)
        assert following.there_mm == [now]
        assert following.wanted_mm == pytest.approx(20.0 - shift)
        added = following.fitted_mm - now
        again = readings([("shift", added * 50)] * 3)
        then = core.evaluate(found.but(setup=following, readings=again, found=None, judged=None))
        assert then.taper.value == pytest.approx(20.0)
    wrong = readings([("shift", -shift)] * 3)
    with pytest.raises(Problem, match="other way"):
        core.evaluate(case.but(readings=wrong))
