"""Lost motion, screws, ladders and walks: worked cases with their own numbers."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from tests.core.helpers import (
    NOTHING,
    START,
    advise,
    answers,
    case_of,
    evaluate,
    expect,
    figures,
    judge,
    readings,
)
from truing.checks.drive_proof.evaluate import reached
from truing.checks.inspection.evaluate import scale_length_mm
from truing.checks.lost_motion.links import LINKS_OF
from truing.contract.history import History, MoveMade, PastRound
from truing.contract.readings import ObservationReading, Place
from truing.kit.instruments import PlungerDial, Rule
from truing.machine import Machine, starting_point
from truing.machine.mechanisms import mechanisms_of
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.estimate import Estimate
from truing.measure.problem import Problem
from truing.moves.changes import done, undone
from truing.registry import kind
from truing.standin.apply import apply
from truing.standin.evening import one_round
from truing.standin.truth import SlideTruth, Truth

LOST, CENTRE, PROOF, WALK = (
    kind(k) for k in ("lost_motion", "screw_centre", "drive_proof", "inspection")
)
MILL, ROUTER = starting_point("column_mill"), starting_point("gantry_router")
DIAL = PlungerDial(graduation_mm=0.001, range_mm=10, repeatability_mm=0.0003)


def stated(check: Any, machine: Machine = MILL, part: str = "left_right", **more: Any) -> Any:
    return check.setup_type(
        **{
            **check.propose(machine, Subject.part(part) if part else THE_MACHINE).model_dump(),
            **more,
        }
    )


# --- lost motion ----------------------------------------------------------------------------------


def chased(
    at: tuple[float, ...],
    machine: Machine = MILL,
    sense: int = 1,
    history: History = NOTHING,
    links: dict[str, float] | None = None,
    **more: Any,
) -> Any:
    links = links or {}
    how = stated(
        LOST,
        machine,
        places_mm=[-100, 0, 100],
        passes=1,
        **{"read_bearing": False, **{f"read_{k}": True for k in links}, **more},
    )
    shown = []
    for x, lost in zip(how.places_mm, at, strict=True):
        shown += [(f"{x:g}-", 0.5), (f"{x:g}+", 0.5 + sense * lost)]
    finding = evaluate(LOST, how, readings([*shown, *links.items()]), DIAL, history)
    limits = LOST.tolerances(machine)
    return (
        finding,
        judge(LOST, how, finding, limits),
        advise(LOST, how, finding, limits, machine, DIAL, [], history),
        how,
    )


def test_which_way_the_dial_counts_does_not_matter() -> None:
    for sense in (1, -1):
        finding, judged, *_ = chased((0.05, 0.07, 0.06), sense=sense)
        assert finding.mean.value == pytest.approx(0.06)
        assert next(p.lost for p in finding.places if p.at_mm == 0).value == pytest.approx(0.07)
        assert finding.uneven.value == pytest.approx(0.02)
        assert judged.verdict == "out"
        assert "at mid travel" in judged.sentence.metric
    _, judged, *_ = chased((0.03, 0.03, 0.03))
    assert judged.verdict == "out"
    _, judged, *_ = chased((0.03, 0.03, 0.03), cutting="one")
    assert judged.verdict == "true"


def test_a_share_got_by_subtraction_is_marked_and_never_judged() -> None:
    finding, judged, advice, _ = chased((0.10, 0.10, 0.10), links={"bearing": 0.03, "nut": 0.05})
    shares = {q.key: q for q in finding.quantities if q.key.startswith("share:")}
    rest = shares["share:rest"]
    assert rest.estimate.value == pytest.approx(0.02)
    assert rest.deduced
    assert rest.words.metric.endswith("(deduced)")
    assert not shares["share:bearing"].deduced
    # it carries the doubt of everything it was got from
    assert rest.estimate.expanded > shares["share:bearing"].estimate.expanded * 1.5
    assert {j.quantity for j in judged.judged} == {"lost"}
    sorts = {b.label.metric: b.sort for b in figures(LOST, stated(LOST), finding)[0].bars}
    assert sorts["all the rest (deduced)"] == "deduced"
    # the largest share comes first, the others are named instead
    assert [m.key for m in advice.moves] == ["remedy:nut", "remedy:bearing"]
    assert advice.moves[1].instead
    assert advice.moves[0].predicted[0].after.value == pytest.approx(0.10 - 0.8 * 0.05)


def driven_by(drive: str) -> Machine:
    """A mill whose long slide is driven in this way, and the others by screws."""
    slides = [
        s.model_copy(update={"drive": drive}) if s.direction == "left_right" else s
        for s in MILL.slides
    ]
    return MILL.model_copy(update={"slides": slides})


@pytest.mark.parametrize("drive", ["screw", "ball_screw", "rack", "worm", "belt"])
def test_every_link_of_a_drive_is_found_and_mended_as_what_it_is(drive: str) -> None:
    """On the simulated machine one link has nearly all of the slack: it is told, its remedy is of
    this drive, and once it is made the slack is gone."""
    machine = driven_by(drive)
    rng = np.random.default_rng(2)
    links = LINKS_OF[drive]  # type: ignore[index]
    titles = set()
    for worst in links:
        truth = Truth(
            slides={"left_right": SlideTruth(links_mm=dict.fromkeys(links, 0.001) | {worst: 0.2})}
        )
        how = stated(LOST, machine, places_mm=[0.0], **{f"read_{k}": True for k in links})
        assert LOST.doubts(how, machine) == []
        read = one_round(LOST, how, truth, DIAL, rng)
        case = LOST.weigh(case_of(LOST, how, read, DIAL, machine=machine))
        move = LOST.advise(case).moves[0]
        assert move.about == worst
        assert move.mechanism in mechanisms_of(machine)
        assert "nut" not in move.title.metric.lower() or drive in ("screw", "ball_screw")
        titles.add(move.title.metric.partition(":")[0])
        after = apply("lost_motion", move, truth, machine, rng)
        assert sum(after.slides["left_right"].links_mm.values()) < 0.06
    assert len(titles) == len(links)


@pytest.mark.parametrize(
    ("drive", "has", "lacks"),
    [
        ("rack", {"mesh", "clutch"}, {"worm", "belt", "pulley"}),
        ("worm", {"worm", "mesh"}, {"belt", "pulley"}),
        ("belt", {"belt", "pulley"}, {"worm", "mesh"}),
    ],
)
def test_only_the_links_that_a_slide_has_are_asked_for(
    drive: str, has: set[str], lacks: set[str]
) -> None:
    machine = driven_by(drive)
    asked = LOST.form(machine)["properties"]
    for link in has:
        assert "left_right" in asked[f"read_{link}"]["x-form"]["when"]["slide"]
    assert asked["read_nut"]["x-form"]["when"]["slide"] == ["front_back", "up_down"]
    assert all(asked[f"read_{link}"]["x-form"]["when"]["slide"] == [] for link in lacks)
    # nothing but the form knows: what is stated otherwise is told to be of another drive
    wrong = stated(LOST, machine, read_nut=True, read_bearing=False)
    assert [d.metric for d in LOST.doubts(wrong, machine)] == [
        "This slide has no nut on the screw: it is driven otherwise."
    ]
    # nobody has read the links: what is looked at first is of this drive
    _finding, _, advice, _ = chased((0.1,) * 3, machine)
    assert advice.moves[0].about in LINKS_OF[drive]  # type: ignore[index]
    assert "end float" not in advice.remarks[0].metric


def test_compensation_takes_the_mean_and_leaves_the_unevenness() -> None:
    _, _, advice, how = chased((0.04, 0.09, 0.05), ROUTER)
    move = next(m for m in advice.moves if m.key == "compensate")
    assert move.entries[0].value_mm == pytest.approx(0.06)
    assert move.predicted[0].after.value == pytest.approx(0.09 - 0.06)
    assert "0.050 mm of unevenness stays" in move.notes[0].metric
    after = done(move, ROUTER)
    assert after.slide("left_right").compensation_mm == pytest.approx(0.06)  # type: ignore[union-attr]
    assert LOST.following(how, move).compensation_mm == pytest.approx(0.06)
    assert undone(move, after) == ROUTER
    assert not any(m.key == "compensate" for m in chased((0.1,) * 3, MILL)[2].moves)


@pytest.mark.parametrize("counts", ["plus", "minus"])
@pytest.mark.parametrize(("slack", "compensated"), [(0.05, 0.08), (0.05, 0.02), (0.05, 0.0)])
def test_compensation_ends_where_the_slack_is_from_either_side(
    slack: float, compensated: float, counts: str
) -> None:
    """A slide that is moved by its own simple model: command, slack, what the controller adds."""
    machine = ROUTER
    how = stated(LOST, machine, places_mm=[0.0], passes=2, plus_is=counts, read_bearing=False)
    entered = compensated
    for _ in range(2):
        how = how.model_copy(update={"compensation_mm": entered})
        # coming down to a figure the nut crosses the slack; the controller runs ahead by its own
        stands = (slack - entered) * (1 if counts == "plus" else -1)
        shown = [("0-", 0.5), ("0+", 0.5 + stands)] * 2
        case = LOST.weigh(case_of(LOST, how, readings(shown), DIAL, machine=machine))
        assert case.finding.mean.value == pytest.approx(slack - entered)
        ahead = "runs ahead" in case.judgement.sentence.metric
        assert ahead == (entered > slack + 1e-9)
        moves = LOST.advise(case).moves
        if abs(slack - entered) < 1e-9:
            break
        move = next(m for m in moves if m.key == "compensate")
        assert ahead == (len(moves) == 1), "what is too much is not cured by a spanner"
        entered = move.entries[0].value_mm
    assert entered == pytest.approx(slack, abs=1e-6)


def test_with_a_sign_that_nobody_knows_nothing_is_entered() -> None:
    """Read with compensation on and no word of which way the dial counts: less and more look
    alike."""
    for sense in (1, -1):
        _, judged, advice, how = chased(
            (0.03,) * 3, ROUTER, sense, compensation_mm=0.08, links={"nut": 0.05}
        )
        assert judged.verdict == "out"
        assert "loses" not in judged.sentence.metric + judged.sentence.inch
        assert "short or ahead" in judged.sentence.metric
        # neither a spanner nor a figure before the sign is known
        assert not advice.moves
        assert any("whether the dial counts up" in r.metric for r in advice.remarks)
        known = how.model_copy(update={"plus_is": "plus"})
        seen = readings([("-100-", 0.5), ("-100+", 0.5 + 0.03 * sense)])
        told = evaluate(LOST, known, seen, DIAL, NOTHING)
        assert ("loses" if sense > 0 else "runs ahead") in told.quantities[0].sentence.metric
    # where nothing is compensated the lag itself tells, and the next round knows
    _, _, advice, how = chased((0.05,) * 3, ROUTER, sense=-1)
    move = next(m for m in advice.moves if m.key == "compensate")
    assert LOST.following(how, move).plus_is == "minus"


@pytest.mark.parametrize(
    ("wrong", "field"),
    [
        # up to speed within six thousandths of a millimetre
        ({"fixed": 200, "start": 1000, "top": 5000}, "fixed"),
        # slower than what is proven
        ({"fixed": 2000, "start": 200, "top": 1000}, "fixed"),
        # never up to speed on so short a run
        ({"fixed": 12000, "start": 100, "top": 3000, "travel_mm": 50}, "start"),
    ],
)
def test_an_acceleration_that_nothing_feels_proves_nothing(
    wrong: dict[str, float], field: str
) -> None:
    proven = Estimate.exact("feed", 3000)
    history = History(past=[PastRound(number=1, values={"proven": proven})])
    how = stated(PROOF, ROUTER, ladder="accel", proven=True, **{"travel_mm": 200, **wrong})
    with pytest.raises(Problem) as refused:
        PROOF.expect(case_of(PROOF, how, (), DIAL, history, machine=ROUTER))
    assert refused.value.field == field
    right = {"fixed": 3000, "start": 500, "step": 500, "top": 4000, "travel_mm": 200}
    fine = stated(PROOF, ROUTER, ladder="accel", proven=True, **right)
    assert PROOF.expect(case_of(PROOF, fine, (), DIAL, history, machine=ROUTER))
    # a record of before keeps its readings, and proves nothing by them
    slow = how.model_copy(update={"fixed": 200.0, "start": 5000.0, "top": 5000.0})
    run = [*answers([("5000", "clean")]), *readings([("5000:home", 0.0)])]
    assert evaluate(PROOF, slow, run, DIAL, NOTHING).proven is None


def test_a_screw_is_read_as_found_once_and_before_anything_is_slackened() -> None:
    how = stated(CENTRE, passes=3)
    order = CENTRE.order(how)
    for end in ("0", "1"):
        here = [s.stands for s in order if s.block.startswith(end)]
        assert here[:2] == ["now", "now"]
        assert here.count("now") == 2
        assert here.count("low") == here.count("high") == 6
        first = next(s for s in order if s.block.startswith(end) and s.stands == "low")
        assert first.prompt.metric.startswith("Slacken")
    # no more is promised than one reading of it gives
    coarse = PlungerDial(graduation_mm=0.002, range_mm=10, repeatability_mm=0.02, hysteresis_mm=0)
    often = [
        CENTRE.expect(case_of(CENTRE, stated(CENTRE, passes=n), dial=coarse)).expanded
        for n in (1, 10)
    ]
    assert often[1] > 0.8 * often[0]


def test_the_waterfall_tells_every_remedy_and_what_is_left() -> None:
    rounds = []
    told = "Preload the end bearing: 0.04 mm sits in the end float"
    made = MoveMade(key="remedy:bearing", mechanism="end_bearing", about="bearing", aimed={})
    taken_out = MoveMade(key="compensate", mechanism="drive_settings", aimed={})
    for lost, did, move in (
        (0.12, told, made),
        (0.08, "Oiled it: twice", None),
        (0.07, "", None),
        (0.06, "Let the controller take out 0.06 mm", taken_out),
    ):
        finding, *_ = chased((lost,) * 3)
        values = {q.key: q.estimate for q in finding.quantities}
        rounds.append(PastRound(number=len(rounds) + 1, values=values, did=did, move=move))
    history = History(past=rounds)
    finding, _, advice, how = chased((0.03,) * 3, history=history)
    drawn = figures(LOST, how, finding, history)[0]
    bars = [(b.label.metric, round(b.from_mm, 3), round(b.to_mm, 3), b.sort) for b in drawn.bars]
    assert bars == [
        ("as found", 0, 0.12, "whole"),
        ("Preload the end bearing", 0.12, 0.08, "gain"),
        ("Oiled it: twice", 0.08, 0.07, "gain"),
        ("read again", 0.07, 0.06, "gain"),
        ("Let the controller take it out", 0.06, 0.03, "gain"),
        ("now", 0, 0.03, "whole"),
    ]
    assert "Which link it is has not been read" in advice.remarks[0].metric


def test_a_place_read_from_one_side_tells_nothing() -> None:
    how = stated(LOST)
    with pytest.raises(Problem, match="from both sides"):
        evaluate(LOST, how, readings([(f"{how.places_mm[0]:g}-", 0.1)]), DIAL, NOTHING)


# --- screw ----------------------------------------------------------------------------------------


def test_an_end_block_goes_to_the_middle_of_its_float() -> None:
    how = stated(CENTRE, apart_mm=500, passes=1)
    shown = []
    for block, (now, low, high) in {
        "0v": (1.30, 0.80, 1.40),
        "0h": (0.50, 0.20, 0.80),
        "1v": (0.95, 0.70, 1.30),
        "1h": (0.62, 0.30, 0.90),
    }.items():
        shown += [(f"{block}:now", now), (f"{block}:low", low), (f"{block}:high", high)]
    finding = evaluate(CENTRE, how, readings(shown), DIAL, NOTHING)
    assert {b.quantity: round(b.off.value, 6) for b in finding.blocks} == {
        "0v": 0.2,
        "0h": 0.0,
        "1v": -0.05,
        "1h": 0.02,
    }
    # 0.25 in 500: the screw lies at half a millimetre in a metre
    assert "−0.500" in finding.lines[0].metric
    limits = {"off": 0.06}
    assert judge(CENTRE, how, finding, limits).verdict == "out"
    (move,) = advise(CENTRE, how, finding, limits, MILL, DIAL, [], NOTHING).moves
    assert move.key == "block:0"
    best = move.targets[0]
    assert (best.from_mm, best.to_mm) == (pytest.approx(1.3), pytest.approx(1.1))
    with pytest.raises(Problem, match="both of its limits"):
        evaluate(CENTRE, how, readings([("0v:now", 0.1)]), DIAL, NOTHING)


# --- ladder ---------------------------------------------------------------------------------------


def climbed(results: list[tuple[float, str, float | None]], **more: Any) -> Any:
    how = stated(
        PROOF,
        ROUTER,
        proven=True,
        start=1000,
        step=1000,
        top=6000,
        fixed=800,
        wanted=1500,
        travel_mm=300,
        **more,
    )
    said = [*answers((f"{v:g}", grade) for v, grade, _ in results)]
    said = [
        r.model_copy(update={"place": None if w is None else Place(x_mm=w)})
        for r, (*_, w) in zip(said, results, strict=True)
    ]
    back = readings((f"{v:g}:home", 0.4 if grade == "stalls" else 0.001) for v, grade, _ in results)
    all_of_it = [r for pair in zip(said, back, strict=True) for r in pair]
    finding = evaluate(PROOF, how, all_of_it, DIAL, NOTHING)
    judged = judge(PROOF, how, finding, PROOF.tolerances(ROUTER))
    advice = advise(PROOF, how, finding, {}, ROUTER, DIAL, [], NOTHING)
    return how, all_of_it, finding, judged, advice


def test_a_ladder_ends_where_it_fails_and_half_of_that_is_used() -> None:
    how, said, finding, judged, advice = climbed(
        [(1000, "clean", None), (2000, "clean", None), (3000, "stalls", 20.0)]
    )
    assert PROOF.next_station(how, said) is None
    assert [s.key for s in PROOF.stations(how, said)][-1] == "3000:home"
    assert (finding.proven, finding.fails, finding.recommended) == (2000, 3000, 1500)
    assert judged.verdict == "true"
    assert "anywhere along the travel" in advice.remarks[0].metric
    assert advice.moves[0].entries[0].words.metric == "1500 mm/min"
    assert [r.result for r in figures(PROOF, how, finding)[0].rungs] == [
        "clean",
        "clean",
        "stalls",
        "ahead",
        "ahead",
        "ahead",
    ]
    nowhere, *_ = climbed([(1000, "clean", None)])
    assert PROOF.next_station(nowhere, said[:2]).key == "2000"


def test_a_stall_near_an_end_points_to_the_screw() -> None:
    *_, finding, judged, advice = climbed([(1000, "clean", None), (2000, "stalls", -130.0)])
    assert finding.cause == "ends"
    assert judged.verdict == "out"
    assert "Centred screw" in advice.remarks[0].metric


@given(st.floats(100, 20_000), st.floats(20, 5000), st.floats(10, 2000))
def test_a_speed_counts_only_if_the_run_is_long_enough_to_reach_it(
    feed: float, accel: float, run: float
) -> None:
    """Step by step: speed up to the middle of the run, and see how fast that is."""
    how = stated(PROOF, ROUTER, travel_mm=run, fixed=accel, start=feed, top=feed)
    top, at, dt = 0.0, 0.0, 1e-3
    steps = 0
    while at < run / 2 and top < feed / 60 and steps < 40_000:
        top += accel * dt
        at += top * dt
        steps += 1
    near = abs((feed / 60) ** 2 / accel - run) < 0.02 * run + 2 * top * dt
    assert near or steps == 40_000 or reached(how, feed) == (top >= feed / 60)


def test_what_was_never_reached_proves_nothing() -> None:
    how, *_ = climbed([(1000, "clean", None)])
    # a thousand in a minute at 20 mm/s² takes 14 mm to come up to and to stop from
    short = how.model_copy(update={"travel_mm": 10.0, "fixed": 20.0})
    said = [*answers([("1000", "clean")]), *readings([("1000:home", 0.0)])]
    nothing = evaluate(PROOF, short, said, DIAL, NOTHING)
    assert nothing.rungs[0].result == "not_reached"
    assert nothing.recommended is None
    assert "never reached: it takes 14 mm to" in nothing.notes[0].text.metric
    assert judge(PROOF, short, nothing, {"return": 0.02}).verdict == "out"
    enough = short.model_copy(update={"travel_mm": 15.0})
    assert evaluate(PROOF, enough, said, DIAL, NOTHING).proven == 1000


def driven(how: Any, *rungs: tuple[str, str, float]) -> Any:
    said = answers((v, grade) for v, grade, _ in rungs)
    back = readings((f"{v}:home", off) for v, _, off in rungs)
    read = [r for pair in zip(said, back, strict=True) for r in pair]
    return PROOF.weigh(case_of(PROOF, how, read, DIAL, machine=ROUTER))


@pytest.mark.parametrize("sign", [1, -1])
def test_a_rung_that_came_back_off_zero_is_not_proven_however_clean_it_sounded(sign: int) -> None:
    how, *_ = climbed([(1000, "clean", None)])
    case = driven(how, ("1000", "clean", 0.001), ("2000", "clean", sign * 0.5))
    assert (case.finding.proven, case.finding.fails) == (1000, 2000)
    assert case.finding.recommended == 1000
    assert any("without a sound" in n.text.metric for n in case.finding.notes)
    first = driven(how, ("1000", "clean", sign * 0.5))
    assert first.finding.proven is None
    assert first.judgement.verdict == "out"
    assert PROOF.advise(first).moves == []
    # too close to call is neither proven nor failed
    close = driven(how, ("1000", "clean", sign * 0.0202))
    assert (close.finding.proven, close.finding.fails) == (None, None)


def test_a_stall_counts_at_the_speed_that_was_really_reached() -> None:
    """In 20 mm at 200 mm/s² a slide comes up to 63 mm/s, whatever was asked of it."""
    how, *_ = climbed([(1000, "clean", None)])
    short = how.model_copy(
        update={"travel_mm": 20.0, "fixed": 200.0, "start": 2000.0, "step": 3000.0}
    )
    case = driven(short, ("2000", "clean", 0.0), ("5000", "stalls", 0.4))
    top = 60 * (200 * 20.0) ** 0.5
    assert case.finding.fails == pytest.approx(top)
    assert case.finding.recommended == pytest.approx(top / 2)


def test_nothing_is_driven_fast_before_its_stops_are_proven() -> None:
    with pytest.raises(Problem, match="stops are proven") as told:
        expect(PROOF, stated(PROOF, ROUTER), DIAL, {"return": 0.02})
    assert told.value.field == "proven"
    for wrong in ({"top": 10}, {"step": 1, "start": 10, "top": 5000}):
        with pytest.raises(ValidationError):
            stated(PROOF, ROUTER, **wrong)


# --- walk -----------------------------------------------------------------------------------------


def walked(grades: dict[str, tuple[str, str]], travels: dict[str, float] | None = None) -> Any:
    how = stated(WALK, part="")
    seen = []
    for i, s in enumerate(WALK.stations(how)):
        usual = "flows" if s.key.startswith("oil") else "fine"
        grade, text = grades.get(s.key, (usual, ""))
        if s.reads == "observation":
            seen.append(
                ObservationReading(
                    id=str(i),
                    station=s.key,
                    grade=grade,
                    text=text,
                    read_at=START + timedelta(minutes=i),
                )
            )
    lengths = readings((f"travel:{k}", v) for k, v in (travels or {}).items())
    finding = evaluate(WALK, how, [*seen, *lengths], Rule(), NOTHING)
    return finding, judge(WALK, how, finding, {})


def test_a_walk_is_out_while_something_is_open_and_says_what_was_done() -> None:
    finding, judged = walked({"edges": ("mended", "two burrs stoned off")})
    assert judged.verdict == "true"
    assert "two burrs stoned off" in finding.lines[0].metric
    finding, judged = walked({"mains": ("danger", "bare wire at the switch"), "oil:2": ("dry", "")})
    assert judged.verdict == "out"
    assert judged.sentence.metric.startswith("Dangerous: cable, plug and switch")
    assert [n.tone for n in finding.notes] == ["look", "look"]
    assert "bare wire at the switch" in finding.notes[0].text.metric
    router = WALK.propose(ROUTER)
    assert "gantry" in router.places
    assert "gantry" not in WALK.propose(MILL).places
    with pytest.raises(ValidationError, match="no place moon"):
        stated(WALK, part="", places=["moon"])


def test_the_scale_to_buy_is_rounded_up_to_what_is_sold() -> None:
    assert [scale_length_mm(t, 60) for t in (300, 180, 430, 431, 640)] == [400, 250, 500, 600, 800]
    finding, _ = walked({}, {"left_right": 297.0, "up_down": 280.0})
    assert finding.scales_mm == {"left_right": 400.0, "up_down": 350.0}
    assert "should be 400 mm long" in finding.lines[0].metric
