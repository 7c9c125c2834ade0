"""Whether a job fits, as far as that is known: what was not read, went stale, cannot be made."""

from __future__ import annotations

from itertools import combinations

import pytest

from tests.core.helpers import START, about, known
from tests.core.jobbing import (
    THINGS,
    clock_plate,
    good,
    machine_of,
    read,
    shared,
    states,
)
from truing.course.standing import Decision, Log, Tilt, standings
from truing.jobs import Job, fit, ground
from truing.jobs.features import (
    Hole,
    Outline,
    Wall,
)
from truing.jobs.witnesses import STANDS_IN
from truing.machine import FORM_TITLES
from truing.machine.parts import DIRECTIONS, Thing
from truing.measure.estimate import Estimate, Limits
from truing.registry import registry


def test_a_job_fits_only_when_all_it_rests_on_is_known_and_fresh() -> None:
    machine, job = machine_of(), clock_plate()
    told = good(machine)
    assert shared(job, machine, told).answer == "fits"
    leaned_on = {
        s.name for _, d in shared(job, machine, told).asked for h in d.shares for s in h.sources
    }
    assert leaned_on >= {"lean_x", "flat", "square", "scale_x", "lost_x", "shake", "rise_head_y"}
    for name in sorted(leaned_on):
        rest = {n: v for n, v in told.items() if n != name}
        missing = shared(job, machine, rest)
        assert missing.answer == "unknown", name
        share = next(
            h for _, d in missing.asked for h in d.shares if name in [s.name for s in h.sources]
        )
        assert share.state == "not_measured"
        assert share.share.most > 0
    stale = fit(job, ground(machine, read(machine, told, fresh=False)))
    assert stale.answer == "unknown"
    assert set(states(stale).values()) == {"stale"}


def test_the_usual_limit_stands_in_for_what_was_never_read() -> None:
    machine = machine_of()
    hole = Job(name="j", features=[Hole(depth_mm=50, upright_tol_mm=0.1)])
    found = shared(hole, machine, {}).features[0].demands[0]
    square = registry()["travel_square"].tolerances(machine)["square"]
    slope = registry()["table_travel"].tolerances(machine)["slope"]
    assert found.most == pytest.approx(2 * (square + slope) * 0.05)
    assert found.least == 0
    outline = Job(name="j", features=[Outline(x_mm=100, y_mm=50, size_tol_mm=0.2)])
    sizes = shared(outline, machine, {}).features[0].demands
    lost = registry()["lost_motion"].tolerances(machine)["both_sides"]
    assert sizes[0].most == pytest.approx(STANDS_IN["scale"] * 0.1 + lost)


def test_what_is_surely_too_much_does_not_fit_whatever_else_is_missing() -> None:
    machine = machine_of()
    found = shared(clock_plate(), machine, {"square": (2.0, 0.1)})
    assert found.answer == "no"
    assert found.worst is not None
    assert found.worst[1].demand.key == "square"


def test_too_close_is_said_between() -> None:
    machine = machine_of()
    job = Job(name="j", features=[Outline(x_mm=100, y_mm=100, square_tol_mm=0.05)])
    for value, expected in ((0.3, "fits"), (0.5, "close"), (0.7, "no")):
        assert shared(job, machine, good(machine, square=(value, 0.1))).answer == expected


def test_what_is_left_as_it_is_counts_with_its_figure_and_says_so() -> None:
    machine, job = machine_of(), clock_plate()
    told = read(machine, good(machine, square=(0.4, 0.02)))
    decided = Decision(id="d", kind="travel_square", at=START, reason="good enough")
    log = Log(decisions=[decided])
    found = standings(machine, log, built=list(registry()), now=START)
    left = fit(job, ground(machine, told, found))
    told_by = states(left)
    assert told_by["square"] == told_by["rise_head_x"] == "left"
    assert told_by["lean_x"] == "measured"
    assert left.answer == "fits"


def test_of_two_vices_the_worse_one_counts() -> None:
    second = Thing(key="v2", name="the small vice", sort="vice", runs="left_right")
    machine = machine_of().model_copy(update={"things": [*THINGS, second]})
    job = Job(name="j", features=[Wall(length_mm=100, along_tol_mm=0.02)])
    first = known("face_alignment", subject="thing:v1", face=about(0.05, 0.01))
    only_one = fit(job, ground(machine, [first]))
    assert only_one.answer == "unknown"
    other = known("face_alignment", subject="thing:v2", face=about(0.4, 0.01))
    both = fit(job, ground(machine, [first, other]))
    assert both.answer == "no"
    source = both.features[0].demands[0].shares[0].sources[0]
    assert (source.title, source.subject) == ("the small vice", "thing:v2")


def test_what_nothing_can_tell_is_not_known() -> None:
    machine = machine_of()
    every = dict(registry())
    registry().clear()
    try:
        found = fit(clock_plate(), ground(machine, []))
    finally:
        registry().update(every)
    assert found.answer == "unknown"
    assert {d.answer for _, d in found.asked} == {"unknown"}


def test_a_head_that_stands_tilted_is_not_known() -> None:
    machine = machine_of("micro_mill")
    tilted = Log(tilt=Tilt(at=START, said="the head was tilted by 30°"))
    now = standings(machine, tilted, built=list(registry()), now=START)
    if not any(s.withheld for s in now):
        pytest.skip("this head does not turn")
    found = fit(clock_plate(), ground(machine, read(machine, good(machine)), now))
    told_by = states(found)
    assert told_by["lean_x"] == told_by["lean_y"] == "not_measured"
    assert found.answer != "fits"


@pytest.mark.parametrize(
    ("value", "low", "high", "expected"),
    [
        (0.5, 0.4, 0.7, (0.4, 0.5, 0.7)),
        (-0.5, 0.4, 0.7, (-0.7, -0.5, -0.4)),
        # a size that may be nothing may have either sign
        (0.1, 0.0, 0.3, (-0.3, 0.1, 0.3)),
        (-0.1, 0.0, 0.3, (-0.3, -0.1, 0.3)),
    ],
)
def test_a_size_between_limits_keeps_its_sign(
    value: float, low: float, high: float, expected: tuple[float, float, float]
) -> None:
    machine = machine_of()
    size = Estimate(
        measure="slope", value=value, u=0.1, expanded=0.2, limits=Limits(low=low, high=high)
    )
    source = ground(machine, [known("spindle_tram", lean_x=size)]).source("lean_x")
    assert source is not None
    span = source.span
    assert (span.low, span.value, span.high) == expected
    assert (span.least, span.most) == (low, high)


def test_a_wall_on_the_table_needs_no_vice_and_one_in_a_vice_no_fence() -> None:
    machine = machine_of()
    fence = [t for t in machine.things if t.sort == "fence"] or [Thing(key="f", sort="fence")]
    fenced = machine.model_copy(update={"things": fence})

    def missing(held: str) -> list[str]:
        wall = Wall(length_mm=20, depth_mm=5, held=held, upright_tol_mm=1)
        found = shared(Job(name="j", features=[wall]), fenced, {})
        return list(found.features[0].outside)

    assert missing("table") == []
    assert missing("fence") == []
    assert missing("vice") == ["no vice is described for it"]


def test_the_worst_place_along_a_beam_counts() -> None:
    machine = machine_of("gantry_router")
    spread = known(
        "spindle_tram",
        **{"lean_x@-250": about(-0.3, 0.02), "lean_x@250": about(0.1, 0.02)},
    )
    source = ground(machine, [spread]).source("lean_x")
    assert source is not None
    assert (source.span.low, source.span.high) == pytest.approx((-0.32, 0.12))


def test_the_ridges_stand_in_for_a_tram_that_is_missing() -> None:
    machine = machine_of()
    ridges = known("ridge_reading", lean_x=about(0.1, 0.08))
    source = ground(machine, [ridges]).source("lean_x")
    assert source is not None
    assert source.weak
    assert source.state == "measured"
    assert source.kind == "spindle_tram"


def test_a_machine_that_cannot_make_it_says_why() -> None:
    mill = machine_of("micro_mill").model_copy(update={"things": []})
    asked = [
        (Outline(x_mm=900, y_mm=20, size_tol_mm=1), "more than its travel"),
        (Wall(length_mm=50, upright_tol_mm=1), "no vice"),
        (Hole(by="knee", upright_tol_mm=1), "no knee"),
        (Wall(length_mm=50, depth_mm=400, held="table", upright_tol_mm=1), "up–down"),
    ]
    for feature, why in asked:
        found = shared(Job(name="j", features=[feature]), mill, good(mill))
        assert found.answer == "outside"
        assert any(why in text for text in found.features[0].outside)
    frame = machine_of("frame").model_copy(update={"spindle": False})
    assert fit(clock_plate(), ground(frame, [])).answer == "outside"


@pytest.mark.parametrize("form", FORM_TITLES)
def test_a_slide_that_is_missing_is_named_by_the_features_that_need_it(form: str) -> None:
    machine = machine_of(form)
    if not machine.spindle:
        return
    for gone in machine.slides:
        rest = [s for s in machine.slides if s is not gone]
        bare = machine.model_copy(update={"slides": rest})
        told = shared(
            Job(name="j", features=[Outline(x_mm=20, y_mm=20, square_tol_mm=1)]), bare, {}
        ).features[0]
        named = f"it does not move {DIRECTIONS[gone.direction]}"
        assert (named in told.outside) == (gone.direction != "up_down")
        wall = Wall(length_mm=20, depth_mm=5, held="table", runs="x", upright_tol_mm=1)
        told = shared(Job(name="j", features=[wall]), bare, {}).features[0]
        # a quill or a knee takes it down where no slide does
        needed = gone.direction == "left_right" or (gone.direction == "up_down" and not bare.lifts)
        assert (named in told.outside) == needed


def test_a_job_stands_as_its_worst_feature_does() -> None:
    machine = machine_of()
    wide = {"x_mm": 100, "y_mm": 100}
    stand = {
        "fits": Outline(**wide, square_tol_mm=0.2),
        "close": Outline(**wide, square_tol_mm=0.05),
        "unknown": Hole(depth_mm=50, upright_tol_mm=0.1),
        "no": Outline(**wide, square_tol_mm=0.02),
        "outside": Outline(x_mm=5900, y_mm=100, square_tol_mm=1),
    }
    told = {"square": (0.5, 0.1)}
    for better, worse in combinations(stand, 2):
        for two in ((better, worse), (worse, better)):
            job = Job(name="j", features=[stand[key] for key in two])
            found = shared(job, machine, told)
            assert tuple(f.answer for f in found.features) == two
            assert found.answer == worse
