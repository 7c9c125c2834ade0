"""What is said of a job: sentences, bars, remedies, and what came out against what was foretold."""

from __future__ import annotations

from typing import Any

import pytest

from tests.core.helpers import FINE, case_of
from tests.core.jobbing import clock_plate, good, machine_of, poor, shared
from truing.jobs import Job, JobFit
from truing.jobs.decides import deciding
from truing.jobs.features import Hole, Outline, SmallCutter
from truing.jobs.first import fix_first
from truing.jobs.limits import limits_for
from truing.jobs.made import CameOut, Outcome, compare, made
from truing.jobs.starts import starting_jobs
from truing.jobs.told import told_feature, told_first, told_limits
from truing.jobs.words import cost_of, missing_kinds, sentence
from truing.kit.instruments import PlungerDial
from truing.machine import FORM_TITLES, starting_point
from truing.machine.subject import Subject
from truing.registry import kind

SQUARE = Job(name="j", features=[Outline(name="plate", x_mm=100, y_mm=50, square_tol_mm=0.05)])


def told(value: float, expanded: float = 0.1) -> JobFit:
    machine = machine_of()
    return shared(SQUARE, machine, good(machine, square=(value, expanded)))


@pytest.mark.parametrize(
    ("value", "says"),
    [
        (0.3, "Every feature fits. Nearest to its tolerance: plate: square, at most 0.040 mm"),
        (0.5, "Plate: square: up to 0.060 mm, and 0.05 mm is allowed; what was read cannot tell."),
        (0.9, "Plate: square would not come out: up to 0.100 mm where 0.05 mm is allowed."),
    ],
)
def test_the_sentence_names_what_limits_the_job(value: float, says: str) -> None:
    said = sentence(told(value))
    assert says in said.metric
    assert " in" in said.inch
    assert "mm" not in said.inch


def test_what_is_not_known_is_named_and_whether_it_would_do() -> None:
    machine = machine_of()
    known = {n: v for n, v in good(machine).items() if not n.startswith("scale")}
    said = sentence(shared(clock_plate(), machine, known)).metric
    assert said == "Not known yet: Test cut. With usual limits for the rest it would fit."
    # of many the first three are named, and the others counted
    titles = missing_kinds(shared(clock_plate(), machine, {}))
    assert len(titles) > 4
    many = sentence(shared(clock_plate(), machine, {})).metric
    assert many.startswith(
        f"Not known yet: {titles[0]}, {titles[1]}, {titles[2]} and {len(titles) - 3} more."
    )
    assert titles[3] not in many.partition(".")[0]
    fine = Job(name="j", features=[Outline(x_mm=200, y_mm=100, size_tol_mm=0.02)])
    said = sentence(shared(fine, machine, known)).metric
    assert "it may not fit: Outline or pattern of holes: of its size left to right" in said
    assert sentence(shared(Job(name="j", features=[]), machine, known)).metric.startswith(
        "It has no"
    )


def test_bars_are_shares_of_the_tolerance_and_say_what_a_remedy_would_leave() -> None:
    machine = machine_of()
    found = shared(clock_plate(), machine, poor(machine))
    features = [told_feature(f, found.ground) for f in found.features]
    for feature in features:
        for d in feature.demands:
            assert sum(s.of_tolerance for s in d.shares) == pytest.approx(d.of_tolerance, abs=0.02)
            assert all(0 <= s.leaves <= s.of_tolerance + 1e-9 for s in d.shares)
            sizes = [s.of_tolerance for s in d.shares]
            assert sizes == sorted(sizes, reverse=True)
            assert d.likely_of_tolerance <= d.of_tolerance + 1e-9
    square = next(d for f in features for d in f.demands if d.key == "square")
    assert square.answer == "no"
    assert square.shares[0].kind == "travel_square"
    assert square.shares[0].text.metric == "out of square by 0.091 mm over 60 mm"
    # with its check at the usual limit
    assert square.shares[0].leaves == pytest.approx(0.1 * 0.06 / 0.05)


def test_a_remedy_says_what_it_brings_and_what_is_read_again() -> None:
    machine = machine_of()
    found = shared(clock_plate(), machine, poor(machine))
    order = told_first(found, fix_first(found))
    assert order.minutes == sum(r.minutes for r in order.remedies)
    column = next(r for r in order.remedies if r.about.startswith("the head’s travel, front"))
    assert column.moves
    assert "Tram" in column.again
    assert "within limits" in column.text.metric
    unknown = shared(clock_plate(), machine, {})
    first = told_first(unknown, fix_first(unknown)).remedies
    assert not any(r.moves for r in first)
    assert all(r.text.metric.startswith("Nothing is known of") for r in first)


def test_what_a_check_costs_is_its_largest_share_of_any_tolerance() -> None:
    machine = machine_of()
    found = shared(clock_plate(), machine, good(machine, square=(0.4, 0.02)))
    cost = cost_of("travel_square", found)
    assert cost is not None
    assert cost.ratio == pytest.approx(0.42 * 0.06 / 0.05)
    assert (
        cost.text.metric
        == "Pivots: square: out of square by 0.025 mm over 60 mm, of 0.05 mm in all."
    )
    assert cost_of("base_level", found) is None


def test_a_tooth_is_told_in_per_cent() -> None:
    machine = machine_of()
    job = Job(name="j", features=[SmallCutter(name="drill", chip_mm=0.02)])
    found = shared(job, machine, good(machine, tir=(0.004, 0.0)))
    demand = told_feature(found.features[0], found.ground).demands[0]
    # two teeth: one stands out by half the runout, and takes that twice
    assert (demand.most.metric, demand.tolerance.inch) == ("20 %", "50 %")


def test_limits_say_what_they_fill_and_what_cannot_be_decided() -> None:
    machine = machine_of()
    found = shared(clock_plate(), machine, {})
    limits = limits_for(found)
    asked: list[str] = []

    def decides(x: Any) -> list[str] | None:
        asked.append(x.kind)
        return {"travel_square": [], "table_travel": None}.get(x.kind, ["Dial"])

    shown = {x.kind: x for x in told_limits(found, limits, decides, {}).limits}
    assert set(asked) >= {"travel_square", "table_travel", "lost_motion"}
    assert shown["travel_square"].too_fine
    assert "Nothing in the kit" in shown["travel_square"].text.metric
    assert not shown["table_travel"].too_fine
    assert shown["lost_motion"].decided_by == ["Dial"]
    assert any(
        "its usual limit: it is not known" in w.metric
        for w in told_limits(found, limits, decides, {}).fixed
    )


def test_an_instrument_decides_what_is_four_times_its_doubt() -> None:
    machine = machine_of()
    rough = PlungerDial(graduation_mm=0.01, range_mm=10, repeatability_mm=0.005)
    kit = [("fine", FINE), ("rough", rough)]

    def who(limit: float) -> list[str] | None:
        subject = "part:left_right"
        return deciding(
            machine, kit, kind="lost_motion", subject=subject, tolerance="both_sides", limit=limit
        )

    assert who(1.0) == ["fine", "rough"]
    assert who(0.02) == ["fine"]
    assert who(0.0001) == []
    # by the check's own expectation with it
    core = kind("lost_motion")
    setup = core.propose(machine, Subject.read("part:left_right"))
    doubts = []
    for way in core.takes_by_way():
        stated = setup.model_copy(update={"way": way}) if way else setup
        case = case_of(core, stated, dial=rough, machine=machine)
        doubts.append(core.expect(case).expanded)
    assert who(4.05 * min(doubts)) == ["fine", "rough"]
    assert who(3.95 * min(doubts)) == ["fine"]


# --- what came out --------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("off", "compares", "within"),
    [
        (0.001, "better", True),
        (0.03, "as_foretold", True),
        (0.045, "worse", True),
        (0.2, "worse", False),
    ],
)
def test_what_came_out_is_held_against_both(off: float, compares: str, within: bool) -> None:
    then = made(told(0.3), "Avocet")
    came = Outcome(came_out=[CameOut(feature=0, key="square", off=off)])
    found = compare(then, came)[0]
    assert (found.compares, found.within) == (compares, within)
    assert found.look_at == (["travel_square"] if compares == "worse" else [])


def test_a_surprise_points_at_what_was_not_known_before_what_was() -> None:
    machine = machine_of()
    job = Job(name="j", features=[Hole(name="pin", place_tol_mm=0.1)])
    known = {n: v for n, v in good(machine).items() if n != "lost_y"}
    then = made(shared(job, machine, known), "Avocet")
    came = Outcome(came_out=[CameOut(feature=0, key="place", off=0.09)])
    found = compare(then, came)[0]
    assert found.look_at == ["lost_motion"]
    assert "was not known then" in found.text.metric
    # what the job did not ask for is no surprise
    odd = Outcome(came_out=[CameOut(feature=3, key="place", off=1)])
    assert compare(then, odd) == []


def test_the_starting_jobs_ask_something_of_every_machine() -> None:
    names = [job.name for job in starting_jobs()]
    assert len(set(names)) == 3
    for form in FORM_TITLES:
        machine = starting_point(form)
        for job in starting_jobs():
            found = shared(job, machine, {})
            assert found.answer in ("unknown", "outside")
            assert sentence(found).metric
