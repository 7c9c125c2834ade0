"""A gantry by its ends and corners: explicit heights, places and turns, homed at either end."""

from __future__ import annotations

import re
from datetime import UTC, datetime
from typing import Any

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from tests.core.cases import CASES
from tests.core.helpers import case_of, readings
from truing.contract.gather import gather
from truing.contract.readings import LogReading
from truing.contract.suggest import suggest
from truing.kit.instruments import Rule, ScaleTrigger
from truing.machine import Machine, starting_point
from truing.measure.problem import Problem
from truing.moves.changes import done, undone
from truing.registry import kind
from truing.standin.apply import apply
from truing.standin.evening import one_round
from truing.standin.hands import Hands
from truing.standin.kinds import gantry_level as simulated
from truing.standin.truth import GantryTruth, Truth

LEVEL, SQUARE = kind("gantry_level"), kind("gantry_square")
SCALE = ScaleTrigger(resolution_mm=0.001, repeatability_mm=0.001)
TAPE = Rule(repeatability_mm=0.01, resolution_mm=0.01, error_mm=0.005)
PLACES = [-280.0, 20.0, 310.0]


def router(**more: Any) -> Machine:
    machine = starting_point("gantry_router")
    assert machine.lift
    assert machine.gantry_drive
    pairs = {
        "lift": machine.lift.model_copy(update=more.get("lift", {})),
        "gantry_drive": machine.gantry_drive.model_copy(update=more.get("drive", {})),
    }
    rest = {k: v for k, v in more.items() if k not in ("lift", "drive")}
    return machine.model_copy(update={**pairs, **rest})


class Lifted:
    """Two ends, each so far from its switch as its offset says; the switches stand anyhow."""

    def __init__(self, switches: tuple[float, float]) -> None:
        self.switches = switches

    def ends(self, machine: Machine) -> tuple[float, float]:
        lift = machine.lift
        assert lift
        away = -1 if lift.homes == "top" else 1
        left, right = self.switches
        return left + away * lift.left_offset_mm, right + away * lift.right_offset_mm

    def contact(self, machine: Machine, x: float) -> float:
        """What an axis that counts up shows when a tip under the beam touches a flat bed."""
        lift = machine.lift
        assert lift
        left, right = self.ends(machine)
        share = (x - lift.left_x_mm) / (lift.right_x_mm - lift.left_x_mm)
        return 200.0 - (left + (right - left) * share)


def touched(machine: Machine, gantry: Lifted, **how: Any) -> Any:
    setup = LEVEL.propose(machine).model_copy(update={"places_mm": PLACES, **how})
    sign = -1 if setup.scale_counts == "down" else 1
    read = readings([(f"{x:g}", sign * gantry.contact(machine, x)) for x in PLACES] * setup.passes)
    case = case_of(LEVEL, setup, read, SCALE, machine=machine)
    return case.but(found=LEVEL.evaluate(case))


@pytest.mark.parametrize("homes", ["top", "bottom"])
@pytest.mark.parametrize("off", [0.4, -0.4, 1.9, -1.9])
@pytest.mark.parametrize("counts", ["up", "down"])
def test_new_offsets_level_a_gantry_homed_at_either_end(
    homes: str, off: float, counts: str
) -> None:
    machine = router(lift={"homes": homes, "left_offset_mm": 1.2, "right_offset_mm": 1.5})
    gantry = Lifted((100.0, 100.0 + off))
    left, right = gantry.ends(machine)
    case = touched(machine, gantry, scale_counts=counts)
    found = case.finding
    assert found.level.value == pytest.approx(right - left, abs=2e-3)
    assert ("The right end hangs" in found.quantities[0].sentence.metric) == (right > left)
    move = LEVEL.advise(case).moves[0]
    made = done(move, machine)
    assert made.lift
    assert min(made.lift.left_offset_mm, made.lift.right_offset_mm) >= made.lift.least_offset_mm
    left, right = gantry.ends(made)
    assert right - left == pytest.approx(0, abs=3e-3)
    assert undone(move, made) == machine
    # what is typed in is what the description then says
    assert [e.value_mm for e in move.entries] == pytest.approx(
        [made.lift.left_offset_mm, made.lift.right_offset_mm]
    )
    assert [e.before_mm for e in move.entries] == [1.2, 1.5]
    again = touched(made, gantry, scale_counts=counts).finding
    assert abs(again.level.value) < again.level.expanded + 3e-3


def test_the_difference_of_two_touches_is_less_than_that_of_the_ends() -> None:
    machine = router()
    case = touched(machine, Lifted((100.0, 100.5)))
    assert machine.lift
    span = machine.lift.right_x_mm - machine.lift.left_x_mm
    raw = 0.5 * (PLACES[-1] - PLACES[0]) / span
    assert f"would be {raw:.3f} mm" in case.finding.lines[0].metric


@pytest.mark.parametrize("off", [0.5, -0.5])
def test_a_levelled_beam_takes_the_spindle_with_it(off: float) -> None:
    """The axis is turned with the beam, in three dimensions."""
    machine = router()
    assert machine.lift
    span = machine.lift.right_x_mm - machine.lift.left_x_mm
    case = touched(machine, Lifted((100.0, 100.0 + off)))
    move = LEVEL.advise(case).moves[0]
    # levelling lowers the right end by `off`: a turn about Y that takes +X down
    turned = Rotation.from_euler("y", np.arctan2(off, span)).apply([0.0, 0.0, 1.0])
    told = move.notes[0].metric
    assert ("to the right" in told) == (turned[0] > 0)
    assert float(re.findall(r"[\d.]+", told)[0]) == pytest.approx(abs(turned[0]) * 1000, abs=2e-3)
    truth = Truth(gantry=GantryTruth(right_up_mm=off))
    hands = Hands(rng=np.random.default_rng(0), machine=machine)
    after = simulated.ANSWERS["lift_home"](move, truth, hands)
    assert after.axis()[0] == pytest.approx(turned[0], abs=3e-5)
    # two radii of the arm see just that much
    assert after.gantry.height_mm(430) - after.gantry.height_mm(-430) == pytest.approx(0, abs=0.02)


def test_the_other_school_turns_the_stop_of_the_end_that_hangs_high() -> None:
    machine = router(lift={"stop_pitch_mm": 1.25})
    for off, end in ((0.5, "right"), (-0.5, "left")):
        moves = LEVEL.advise(touched(machine, Lifted((100.0, 100.0 + off)))).moves
        assert [m.instead for m in moves] == [False, True]
        [amount] = moves[1].amounts
        assert amount.place == f"{end} stop"
        assert amount.turns == pytest.approx(0.4, abs=0.01)
        assert amount.amount_mm == pytest.approx(-0.5, abs=0.01)
        # turned by hand on the simulated machine, from wherever its ends hang: that end alone sinks
        hung = GantryTruth(left_up_mm=0.2, right_up_mm=0.2 + off)
        hands = Hands(rng=np.random.default_rng(2), machine=machine)
        after = simulated.ANSWERS["lift_home"](moves[1], Truth(gantry=hung), hands).gantry
        sunk = {"left": 0.2 - after.left_up_mm, "right": 0.2 + off - after.right_up_mm}
        assert sunk[end] == pytest.approx(0.5, abs=0.051)
        assert sunk["left" if end == "right" else "right"] == 0
    by_hand = router(control="handwheels")
    assert [m.key for m in LEVEL.advise(touched(by_hand, Lifted((0.0, 0.5)))).moves] == ["stop"]


def test_three_places_show_a_bow_that_level_does_not() -> None:
    machine = router()
    setup = LEVEL.propose(machine).model_copy(update={"places_mm": PLACES})
    read = readings([(f"{x:g}", 40.0 + b) for x, b in zip(PLACES, (0, 0.2, 0), strict=True)] * 3)
    found = LEVEL.evaluate(case_of(LEVEL, setup, read, SCALE, machine=machine))
    bow = next(q for q in found.quantities if q.key == "bow")
    # the residual of a line of least squares through a triangle, highest less lowest
    line = np.polyfit(PLACES, [0, 0.2, 0], 1)
    left = np.array([0, 0.2, 0]) - np.polyval(line, PLACES)
    assert bow.estimate.value == pytest.approx(np.ptp(left), abs=1e-3)
    assert "cannot tell which" in bow.sentence.metric
    assert bow.tolerance_key is None


# --- a probe's log --------------------------------------------------------------------------------


def logged(columns: dict[str, list[float]], machine: Machine | None = None) -> Any:
    machine = machine or router()
    setup = LEVEL.propose(machine).model_copy(update={"way": "log"})
    [station] = LEVEL.stations(setup)
    log = LogReading(
        id="l", station="log", read_at=datetime(2026, 3, 1, tzinfo=UTC), columns=columns
    )
    kept = LEVEL.take_log(setup, station, log)
    return LEVEL.evaluate(case_of(LEVEL, setup, [kept], SCALE, machine=machine))


def test_the_slow_touches_of_a_log_count_and_the_fast_ones_are_told_of() -> None:
    rng = np.random.default_rng(4)
    rows = []
    for x in (-300.0, -299.2, -300.4, 280.0, 281.0, 280.3):
        level = 40.0 + 0.3 * x / 860
        rows += [(x, level - 0.08, 300.0), (x, level + rng.normal(0, 5e-4), 25.0)]
    xs, zs, feeds = (list(column) for column in zip(*rows, strict=True))
    found = logged({"X": xs, "z": zs, "F": feeds})
    assert [round(t.at_mm) for t in found.touches] == [-300, 280]
    assert found.level.value == pytest.approx(-0.3, abs=0.005)
    assert any("run on by +0.08" in n.text.metric for n in found.notes)
    # without a feed all of them count, and names may be left out
    slow = logged({"a": xs[1::2], "b": zs[1::2]})
    assert slow.level.value == pytest.approx(found.level.value, abs=1e-6)


@pytest.mark.parametrize(
    ("columns", "told"),
    [
        ({"x": [0.0, 1.0]}, "a column z"),
        ({"u": [0.0]}, "a column z"),
        ({"x": [0.0] * 2001, "z": [0.0] * 2001}, "a map"),
        ({"x": [10.0, 11.0, 12.0], "z": [0.0] * 3}, "One place"),
    ],
)
def test_a_log_that_tells_no_level_says_why(columns: dict[str, list[float]], told: str) -> None:
    with pytest.raises(Problem, match=told):
        logged(columns)


@pytest.mark.parametrize("places", [[0.0], [5.0, 5.0], [5.0, 7.0], []])
def test_places_that_are_one_place_are_refused(places: list[float]) -> None:
    with pytest.raises(ValueError, match="place"):
        LEVEL.setup_type(places_mm=places)


def test_places_outside_the_motors_are_asked_about_and_reckoned_with() -> None:
    """A beam that reaches beyond its motors, touched there: more than its ends differ by."""
    setup, machine = LEVEL.setup_type(places_mm=[-500.0, 500.0], passes=1), router()
    [doubt] = LEVEL.doubts(setup, machine)
    assert "−500 mm lies outside the motors, which stand at −430 mm and 430 mm" in doubt.metric
    seen = readings((s.key, 40.0 + 0.3 * s.at_mm / 860) for s in LEVEL.stations(setup))
    found = LEVEL.weigh(case_of(LEVEL, setup, seen, SCALE, machine=machine)).finding
    assert found.level.value == pytest.approx(-0.3, abs=0.005)
    assert any("outside the motors" in n.text.metric for n in found.notes)
    assert any(
        "outside the motors" in n.text.metric
        for n in logged({"x": [-9000.0, 300.0], "z": [0.0] * 2}).notes
    )
    with pytest.raises(ValueError, match="smaller than the least"):
        starting_point("gantry_router").lift.model_validate(  # type: ignore[union-attr]
            {"left_offset_mm": 0.1, "right_offset_mm": 2, "least_offset_mm": 0.5}
        )


# --- square ---------------------------------------------------------------------------------------


def corners(skew: float, scale: tuple[float, float], size: tuple[float, float]) -> dict[str, Any]:
    """Where four marks come to lie when X runs along a beam that is turned by `skew` (rad)."""
    beam = np.array([np.cos(skew), np.sin(skew)])
    return {
        f"{y} {x}": sx * size[0] / 2 * scale[0] * beam + np.array([0, sy * size[1] / 2 * scale[1]])
        for x, sx in (("left", -1), ("right", 1))
        for y, sy in (("front", -1), ("rear", 1))
    }


def measured(
    machine: Machine,
    skew: float,
    scale: tuple[float, float] = (1.0, 1.0),
    size: tuple[float, float] = (600.0, 800.0),
    **how: Any,
) -> Any:
    setup = SQUARE.setup_type(width_mm=size[0], depth_mm=size[1], **how)
    marks = corners(skew, scale, size)
    plan = SQUARE.stations(setup)
    read = []
    for station in plan:
        start, end = station.label.metric.split(" – ")
        read.append((station.key, float(np.linalg.norm(marks[end] - marks[start]))))
    case = case_of(SQUARE, setup, readings(read * setup.passes), TAPE, machine=machine)
    return case.but(found=SQUARE.evaluate(case))


@pytest.mark.parametrize("skew", [0.002, -0.002, 0.0002, 0.03, -0.03])
@pytest.mark.parametrize("size", [(600.0, 800.0), (300.0, 900.0)])
def test_diagonals_tell_the_skew_of_four_marks(skew: float, size: tuple[float, float]) -> None:
    case = measured(router(), skew, size=size)
    found = case.finding
    assert found.skew.value == pytest.approx(skew * 1000, abs=found.skew.expanded)
    if abs(skew) > 0.001:
        assert ("The right end of the gantry is ahead" in found.quantities[0].sentence.metric) == (
            skew > 0
        )


@pytest.mark.parametrize("homes", ["front", "rear"])
@pytest.mark.parametrize("skew", [0.002, -0.002])
def test_new_offsets_square_a_gantry_homed_at_either_end(homes: str, skew: float) -> None:
    drive = {"homes": homes, "left_offset_mm": 1.0, "right_offset_mm": 1.0, "least_offset_mm": 0.5}
    machine = router(drive=drive)
    case = measured(machine, skew)
    move = SQUARE.advise(case).moves[0]
    made = done(move, machine)
    pair = made.gantry_drive
    assert pair
    assert min(pair.left_offset_mm, pair.right_offset_mm) >= 0.5
    # each end stands off its switch by its offset, away from where it homes
    away = 1 if homes == "front" else -1
    span = pair.right_x_mm - pair.left_x_mm
    ahead = skew * span + away * ((pair.right_offset_mm - 1.0) - (pair.left_offset_mm - 1.0))
    assert ahead == pytest.approx(0, abs=case.finding.skew.expanded * span / 1000 + 2e-3)
    assert abs(measured(made, ahead / span).finding.skew.value) < 0.06


def test_sides_tell_the_scale_of_each_axis_and_it_is_not_set() -> None:
    case = measured(router(), 0.001, scale=(1.001, 0.9985))
    scale = {q.key: q for q in case.finding.quantities if q.key.startswith("scale")}
    assert scale["scale_x"].estimate.value == pytest.approx(1.0, abs=0.02)
    assert scale["scale_y"].estimate.value == pytest.approx(-1.5, abs=0.02)
    assert "by 0.99900" in scale["scale_x"].sentence.metric
    assert "by 1.00150" in scale["scale_y"].sentence.metric
    assert all(c.path.startswith("gantry_drive") for c in SQUARE.advise(case).moves[0].changes)
    alone = measured(router(), 0.001, sides=False)
    assert [q.key for q in alone.finding.quantities] == ["square"]


def test_lengths_that_are_of_no_rectangle_are_refused_or_asked_about() -> None:
    setup = SQUARE.setup_type(width_mm=600, depth_mm=800, sides=True, passes=1)
    right = {"d1": 1000.4, "d2": 999.6, "front": 600.0, "rear": 600.0, "left": 800, "right": 800}

    def found(**other: float) -> Any:
        case = case_of(SQUARE, setup, readings({**right, **other}.items()), TAPE, machine=router())
        return SQUARE.evaluate(case)

    assert not any("same edge" in n.text.metric for n in found().notes)
    assert any("same edge" in n.text.metric for n in found(d1=1002.0, d2=1001.2).notes)
    with pytest.raises(Problem, match="where a rectangle of 600 × 800 mm has 1000"):
        found(d1=1100.0)
    with pytest.raises(Problem, match="600 × 800"):
        found(front=610 / 25.4)
    alone = case_of(SQUARE, setup, readings([("d1", 1000.0)]), TAPE, machine=router())
    with pytest.raises(Problem, match="Both diagonals"):
        SQUARE.evaluate(alone)


def test_diagonals_are_asked_about_once_they_are_out_by_more_than_the_tape_is() -> None:
    setup = SQUARE.setup_type(width_mm=600, depth_mm=800, sides=True, passes=1)
    sides = {"front": 600.0, "rear": 600.0, "left": 800.0, "right": 800.0}

    def asked(out: float) -> bool:
        read = readings({"d1": 1000.3 + out, "d2": 999.7 + out, **sides}.items())
        found = SQUARE.evaluate(case_of(SQUARE, setup, read, TAPE, machine=router()))
        return any("same edge" in n.text.metric for n in found.notes)

    case = case_of(SQUARE, setup, readings([("d1", 1000.0), ("d2", 1000.0)]), TAPE)
    known_to = max(m.expanded_mm for m in gather(case, SQUARE.stations(setup)).means.values())
    for way in (1, -1):
        assert not asked(way * 2 * known_to)
        assert asked(way * 3 * known_to)


def test_an_instrument_that_does_not_reach_is_no_choice() -> None:
    setup = SQUARE.setup_type(width_mm=600, depth_mm=800)
    short = Rule(resolution_mm=0.01, repeatability_mm=0.01, range_mm=900)
    with pytest.raises(Problem, match="reaches 900 mm, and the diagonals are 1000"):
        SQUARE.expect(case_of(SQUARE, setup, dial=short, machine=router()))
    kit = [("s", "short", short), ("l", "long", TAPE)]
    told = suggest(SQUARE, lambda i: case_of(SQUARE, setup, dial=i, machine=router()), kit)
    assert [c.name for c in told.choices] == ["long"]


def test_it_is_said_before_the_first_reading_whether_a_tape_can_decide_it() -> None:
    coarse, fine = Rule(), TAPE
    small = SQUARE.setup_type(width_mm=200, depth_mm=200)
    large = SQUARE.setup_type(width_mm=600, depth_mm=800)
    for setup, tape, enough in ((large, coarse, False), (large, fine, True), (small, fine, False)):
        told = SQUARE.expect(case_of(SQUARE, setup, dial=tape, machine=router()))
        assert told.enough == enough
        assert ("has to be known within" in told.text.metric) == (not enough)


@pytest.mark.parametrize("skew", [0.6, -0.9])
def test_a_gantry_pushed_against_its_stops_is_square_once_one_of_them_is_set(skew: float) -> None:
    """Without a controller: the end that is ahead goes back by what its stop was moved."""
    core, rng = kind("gantry_square"), np.random.default_rng(3)
    case = next(c for c in CASES if c.kind == "gantry_square")
    machine = case.machine.model_copy(update={"control": "readout"})
    stated = case.case().but(machine=machine)
    truth = Truth(gantry=GantryTruth(right_ahead_mm=skew))
    read = one_round(core, stated.setup, truth, stated.instrument, rng)
    [move] = core.advise(core.weigh(stated.but(readings=read))).moves
    assert ("right" if skew > 0 else "left") in move.title.metric
    after = apply(core.key, move, truth, machine, rng).gantry.right_ahead_mm
    assert abs(after) <= 0.1 * abs(skew) + 0.08


def test_what_a_tape_can_never_decide_names_what_can() -> None:
    """A tape of the shop against a fifth of a millimetre in a metre; a gantry on two motors."""
    machine = router()
    how = SQUARE.setup_type(width_mm=600, depth_mm=800, passes=2)
    told = SQUARE.expect(case_of(SQUARE, how, dial=Rule(), machine=machine))
    assert "never call it true" in told.text.metric
    assert "left–right against front–back" in told.text.metric
    travels = kind("travel_square")
    titles = [title for _, title in travels.course.subjects_of(machine)]
    assert "left–right against front–back" in titles
    fine = SQUARE.expect(case_of(SQUARE, how, dial=TAPE, machine=machine))
    assert "Square travel" not in fine.text.metric
