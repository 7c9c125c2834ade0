"""The course: what goes stale, what comes next, what fits into an evening."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.standing import KEYS, MILL, at, by_kind, stand
from truing.course import KINDS, course_kind
from truing.course.events import EVENTS, touched_by
from truing.course.gates import gates, open_items, proof
from truing.course.guide import guide
from truing.course.kinds import place_of, suiting, upstream_of
from truing.course.plan import AIMS, LAY_OUT_MINUTES, changes, estimate, plan
from truing.course.standing import Decision, Log, Ran, Result, Tilt, Touch
from truing.course.step import detour, next_step, overall
from truing.machine import FORM_TITLES, starting_point
from truing.machine.mechanisms import ALL, mechanisms_of
from truing.machine.subject import THE_MACHINE
from truing.measure.words import plain

# --- an independent model: walk from a mechanism to everything that stands on it ------------------


def stands_on(mechanism: str) -> set[str]:
    """Kinds whose reading a touch of this mechanism undoes, found by walking upwards: who names
    it; whatever such a kind sets moves with it; who names that; and so on."""
    shaken, undone = {mechanism}, set()
    again = True
    while again:
        again = False
        for k in KINDS:
            # a check that is merely re-read passes the shake on to what it sets, further down only
            if k.key not in undone and any(
                m == mechanism
                or any(
                    place_of(u) < place_of(k.key) and m in course_kind(u).adjusts for u in undone
                )
                for m in k.rests_on
                if m in shaken
            ):
                undone.add(k.key)
                shaken.update(k.adjusts)
                again = True
    return {k for k in undone if mechanism not in course_kind(k).apart_from}


LOGGED = st.lists(
    st.one_of(
        st.tuples(
            st.just("read"), st.sampled_from(KEYS), st.sampled_from(["true", "out", "too_close"])
        ),
        st.tuples(st.just("touch"), st.lists(st.sampled_from(ALL), min_size=1, max_size=3)),
        st.tuples(st.just("event"), st.sampled_from([e.key for e in EVENTS])),
        st.tuples(st.just("leave"), st.sampled_from(KEYS)),
    ),
    max_size=30,
)


def log_of(history: list[Any]) -> Log:
    results, touches, decisions = [], [], []
    for i, (what, *rest) in enumerate(history):
        if what == "read":
            results.append(Result(kind=rest[0], at=at(i), verdict=rest[1]))
        elif what == "leave":
            decisions.append(Decision(id=str(i), kind=rest[0], at=at(i), reason="no part shows it"))
        else:
            named = rest[0] if what == "touch" else touched_by(rest[0], [])
            touches.append(Touch(id=str(i), at=at(i), mechanisms=named, said="it was touched"))
    return Log(results=results, touches=touches, decisions=decisions)


FORMS = st.sampled_from(list(FORM_TITLES))


@given(FORMS, LOGGED)
def test_nothing_that_stands_on_a_newer_touch_is_shown_as_true(form: Any, history: Any) -> None:
    log = log_of(history)
    for s in stand(starting_point(form), log):
        last = max((r.at for r in log.results if r.kind == s.kind), default=None)
        undone = [
            t
            for t in log.touches
            if last and t.at > last and any(s.kind in stands_on(m) for m in t.mechanisms)
        ]
        if last is None:
            assert s.status == "unmeasured"
        elif undone:
            assert s.status == "stale"
            assert s.touch == min(undone, key=lambda t: t.at)
            assert s.why is not None
            assert "1 March 2026" in s.why.metric or "2 March 2026" in s.why.metric
        else:
            assert s.status in ("true", "out", "too_close")


@given(FORMS, LOGGED, st.sets(st.sampled_from(KEYS)))
def test_the_next_step_stands_on_nothing_that_is_amiss(form: Any, history: Any, built: Any) -> None:
    found = stand(starting_point(form), log_of(history), built=built)
    step = next_step(found)
    amiss = [s for s in found if s.built and s.matters and s.status != "true"]
    if step is None:
        assert not amiss
        return
    assert step.kind in built
    assert step.kind in {s.kind for s in amiss}
    under = [
        s
        for s in amiss
        if any(step.kind in stands_on(m) for m in course_kind(s.kind).adjusts)
        and place_of(s.kind) < place_of(step.kind)
    ]
    assert under == []
    assert detour(step.kind, found) is None


@given(
    FORMS,
    LOGGED,
    st.integers(5, 400),
    st.sampled_from([a.key for a in AIMS]),
    st.sets(st.sampled_from(KEYS), max_size=3),
)
def test_a_plan_keeps_to_its_time_and_to_the_order(
    form: Any, history: Any, minutes: int, aim: Any, skip: set[str]
) -> None:
    machine = starting_point(form)
    found = stand(machine, log_of(history))
    made = plan(machine, found, minutes, aim, skip=skip)
    assert made.used <= minutes
    assert made.used == (LAY_OUT_MINUTES + sum(s.minutes for s in made.steps) if made.steps else 0)
    chosen = [s.kind for s in made.steps]
    open_ = {s.kind for s in made.left}
    assert not skip.intersection(chosen)
    assert not open_.intersection(chosen)
    assert {s.kind for s in found if s.amiss} == (open_ | set(chosen))
    waits = {i.kind for i in made.left if i.reason.metric != "Not needed for this aim."}
    for n, key in enumerate(chosen):
        below = {
            k
            for k in KEYS
            if place_of(k) < place_of(key)
            and any(key in stands_on(m) for m in course_kind(k).adjusts)
        }
        assert not below.intersection(chosen[n + 1 :])
        assert not {k for k in below & waits if not course_kind(k).when_needed}
    for step in made.steps:
        assert set(guide(step.kind).kit) <= set(made.kit)
        assert set(guide(step.kind).cautions) <= set(made.cautions)


def test_only_machines_with_the_part_are_asked() -> None:
    frame, knee = starting_point("frame"), starting_point("knee_mill")
    assert "spindle_tram" not in {k.key for k in suiting(frame)}
    assert "rail_twist" in {k.key for k in suiting(frame)}
    assert {"gantry_level", "rail_twist", "bed_map"}.isdisjoint(k.key for k in suiting(knee))
    assert "head_pivot" in mechanisms_of(knee)
    assert "head_pivot" not in mechanisms_of(frame)
    # what is typed into a controller is there where there is one
    for form in FORM_TITLES:
        machine = starting_point(form)
        typed = "drive_settings" in mechanisms_of(machine)
        assert typed == (machine.control == "controller"), form
    assert {starting_point(f).control == "controller" for f in FORM_TITLES} == {True, False}
    told = guide("spindle_tram").cautions_for(mechanisms_of(knee))
    assert any("head swings down" in t for t in told)
    assert not any("end plate" in t for t in told)
    # both end plates are minded alike: it is said once
    router = guide("spindle_tram").cautions_for(mechanisms_of(starting_point("gantry_router")))
    assert len([t for t in router if "end plate" in t]) == 1


def test_a_shim_under_the_column_undoes_the_tram_and_says_so() -> None:
    log = Log(
        results=[
            Result(kind="spindle_tram", at=at(0), verdict="true"),
            Result(kind="tool_runout", at=at(0), verdict="true"),
        ],
        touches=[
            Touch(id="m", at=at(48), mechanisms=["column_base"], said="the column was shimmed")
        ],
    )
    found = by_kind(stand(MILL, log))
    assert found["spindle_tram"].status == "stale"
    assert found["spindle_tram"].why
    assert found["spindle_tram"].why.metric == (
        "The column was shimmed on 3 March 2026, after this was read."
    )
    assert found["tool_runout"].status == "true"


def test_kinds_that_are_not_built_block_nothing() -> None:
    found = stand(MILL, Log(), built=["spindle_tram"])
    step = next_step(found)
    assert step
    assert step.kind == "spindle_tram"
    assert detour("spindle_tram", found) is None
    everything = stand(MILL, Log())
    assert next_step(everything).kind == "inspection"  # type: ignore[union-attr]
    told = detour("spindle_tram", everything)
    assert told
    assert "“Level and twist”, which has not been measured" in told.metric
    assert overall(found) == ("unmeasured", step.reason)
    assert overall(stand(MILL, Log(), built=[]))[0] is None


def test_a_decision_to_leave_it_stands_until_something_it_rests_on_is_touched() -> None:
    results = [Result(kind=k.key, at=at(0), verdict="true") for k in suiting(MILL)]
    results = [r for r in results if r.kind != "travel_square"]
    results.append(Result(kind="travel_square", at=at(0), verdict="out", times_limit=3))
    left = [Decision(id="d", kind="travel_square", at=at(1), reason="nothing here is deep")]
    found = stand(MILL, Log(results=results, decisions=left), now=10)
    assert by_kind(found)["travel_square"].left == left[0]
    assert next_step(found) is None
    # what was left as it is is still out, and the machine is nowhere called true
    status, told = overall(found)
    assert (status, told.metric) == ("out", "Left as it is, by decision: Square travel.")
    assert [i.text.metric for i in open_items(found)] == ["Left as it is: nothing here is deep"]
    moved = [Touch(id="e", at=at(5), mechanisms=["feet"], said="it was moved")]
    later = by_kind(stand(MILL, Log(results=results, decisions=left, touches=moved), now=10))
    assert later["travel_square"].left is None
    assert later["travel_square"].lapsed
    assert "since then it was moved" in later["travel_square"].lapsed.metric


READ = [Result(kind=k.key, at=at(0), verdict="true") for k in suiting(MILL)]


def test_a_machine_is_called_true_only_when_all_of_it_is_known() -> None:
    status, told = overall(stand(MILL, Log(results=READ), now=2))
    assert status == "true"
    assert "Everything that can be measured here is true." in told.metric
    tilted = Log(results=READ, tilt=Tilt(at=at(1), said="the head was tilted by 30°"))
    found = stand(MILL, tilted, now=2)
    assert next_step(found) is None
    status, told = overall(found)
    assert (status, "while the head stands tilted" in told.metric) == ("unmeasured", True)


@pytest.mark.parametrize("key", [k.key for k in suiting(MILL) if k.when_needed] + ["spindle_tram"])
def test_what_is_read_only_when_needed_counts_while_what_was_read_holds(key: str) -> None:
    asked = not course_kind(key).when_needed
    moved = Touch(id="t", at=at(4), mechanisms=list(course_kind(key).rests_on), said="it was moved")
    subject = next((part for part, _ in course_kind(key).subjects_of(MILL)), THE_MACHINE.text)
    read = Result(kind=key, subject=subject, at=at(0), verdict="true")
    out = Result(kind=key, subject=subject, at=at(5), verdict="out")
    for log, counts in (
        (Log(), asked),
        (Log(results=[read]), True),
        (Log(results=[read], touches=[moved]), asked),
        (Log(results=[read, out], touches=[moved]), True),
    ):
        assert by_kind(stand(MILL, log, now=9, built=(key,)))[key].counts == counts


def test_looking_again_by_days_and_by_hours() -> None:
    read = READ
    log = Log(results=read, intervals={"spindle_tram": 10})
    assert next_step(stand(MILL, log, now=9 * 24)) is None
    soon = next_step(stand(MILL, log, now=10 * 24))
    assert soon
    assert soon.kind == "spindle_tram"
    assert "time to look again" in soon.reason.metric
    worked = Log(results=read, ran=[Ran(at=at(5), hours=20), Ran(at=at(9), hours=15)])
    due = {s.kind for s in stand(MILL, worked, now=12) if s.is_due}
    assert due == {k.key for k in suiting(MILL) if 0 < guide(k.key).recheck_hours <= 35}
    never = Log(results=read, intervals=dict.fromkeys(KEYS, 0))
    assert not [s for s in stand(MILL, never, now=24 * 999) if s.due]


def test_acceptance_says_why_a_test_cut_does_not_count_and_no_figures() -> None:
    def told(verdict: Any, *touches: Touch) -> str:
        read = Result(kind="test_cut", at=at(0), verdict=verdict, sentence=plain("Skew. Out."))
        found = proof(stand(MILL, Log(results=[read], touches=list(touches)), now=9))
        assert found
        return found.text.metric

    assert told("out").startswith("The test cut did not accept it")
    assert told("true") == "A test cut accepts it."
    late = Touch(id="t", at=at(4), mechanisms=["table"], said="it was touched")
    moved = told("true", late)
    assert moved.endswith(". It wants another test cut, and is accepted provisionally until then.")
    assert "touched" in moved


def test_a_gate_names_what_the_step_would_freeze() -> None:
    router = starting_point("gantry_router")
    fresh = [Result(kind="spindle_tram", at=at(0), verdict="true")]
    found = stand(router, Log(results=fresh))
    surface = next(g for g in gates(router, found) if g.key == "surface")
    assert surface.fresh == ["Tram"]
    assert [i.kind for i in surface.open] == ["gantry_level"]
    touched = [Touch(id="e", at=at(3), mechanisms=["rail_first"], said="a rail was moved")]
    again = gates(router, stand(router, Log(results=fresh, touches=touched)))
    assert {i.kind for g in again if g.key == "surface" for i in g.open} == {
        "gantry_level",
        "spindle_tram",
    }
    tram_only = gates(router, stand(router, Log(results=fresh), built=["spindle_tram"]))
    assert all(i.kind == "spindle_tram" for g in tram_only for i in g.open)
    assert "old_shims" not in {g.key for g in tram_only}


def test_a_plan_says_what_became_of_it() -> None:
    before = plan(MILL, stand(MILL, Log()), 150)
    order = [s.kind for s in before.steps]
    assert order[:2] == ["inspection", "base_level"]
    read = [
        Result(kind="inspection", at=at(0), verdict="true"),
        Result(kind="base_level", at=at(1), verdict="out", times_limit=4.0),
    ]
    after = plan(MILL, stand(MILL, Log(results=read)), 70, laid_out=True)
    assert after.steps[0].kind == "base_level"
    assert after.steps[0].rounds == 2
    told = " ".join(w.metric for w in changes(order, after, ["inspection"]))
    assert "has dropped out" in told
    assert "“Inspection”" not in told
    assert plan(MILL, stand(MILL, Log()), 10).steps == []
    done = stand(MILL, Log(results=[Result(kind=k, at=at(0), verdict="true") for k in KEYS]), 2)
    assert "Nothing is missing" in plan(MILL, done, 60).sentence.metric
    assert upstream_of("tool_runout") == ("spindle_play", "spindle_runout")


def test_a_check_of_several_slides_stands_as_the_worst_and_takes_a_sitting_for_each() -> None:
    def read(part: str, hours: float, verdict: Any = "true") -> Result:
        return Result(kind="slide_play", subject=f"part:{part}", at=at(hours), verdict=verdict)

    fresh = by_kind(stand(MILL, Log()))["slide_play"]
    assert estimate(fresh)[0] == 3 * guide("slide_play").minutes
    one = by_kind(stand(MILL, Log(results=[read("left_right", 1)])))["slide_play"]
    assert (one.status, one.why.metric if one.why else "") == (
        "unmeasured",
        "Not measured yet: front–back (Y), up–down (Z).",
    )
    assert estimate(one)[0] == 2 * guide("slide_play").minutes
    results = [read("left_right", 1), read("front_back", 2, "out"), read("up_down", 3)]
    out = by_kind(stand(MILL, Log(results=results)))["slide_play"]
    assert out.status == "out"
    # the worst part speaks for all of them; stale is what was read before the gibs were touched
    touches = [Touch(id="g", at=at(2), mechanisms=["gibs"], said="the gibs were set")]
    order = ["out", "too_close", "stale", "unmeasured", "true"]
    for worse, better in pairwise(order):
        told = [
            read(way, 1 if part == "stale" else 3, "true" if part == "stale" else part)
            for way, part in zip(
                ("left_right", "front_back", "up_down"), (better, worse, better), strict=True
            )
            if part != "unmeasured"
        ]
        found = by_kind(stand(MILL, Log(results=told, touches=touches)))["slide_play"]
        assert found.status == worse, (worse, better)
    again = by_kind(stand(MILL, Log(results=[*results, read("front_back", 4)])))["slide_play"]
    assert again.status == "true"
    # a result that is about no slide in particular is about each
    whole = by_kind(
        stand(MILL, Log(results=[*results, read("", 5).model_copy(update={"subject": "machine"})]))
    )["slide_play"]
    assert {p.status for p in whole.parts} == {"true"}
    # coarse alone does not make rails fine, and is not needed for it
    router = starting_point("gantry_router")
    coarse = Result(kind="rail_twist", subject="part:coarse", at=at(1), verdict="true")
    assert by_kind(stand(router, Log(results=[coarse])))["rail_twist"].status == "unmeasured"
    fine = Result(kind="rail_twist", subject="part:fine", at=at(2), verdict="true")
    assert by_kind(stand(router, Log(results=[fine])))["rail_twist"].status == "true"
