"""From what somebody sees to the cause: weighed rightly, found soon, and said honestly."""

from __future__ import annotations

import re
from collections.abc import Iterable
from datetime import timedelta
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import yaml

from tests.core.symptomatic import (
    FORMS,
    NOW,
    SHOWS,
    Fault,
    Hunt,
    faults_on,
    hunt,
    in_order,
    machine,
    sound,
    stand,
)
from truing.course import course_kind
from truing.course.plan import plan
from truing.course.standing import Decision, Log, Result, Tilt, Touch, standings
from truing.machine import FORM_TITLES, Machine, starting_point
from truing.machine.subject import Subject
from truing.measure.problem import Problem
from truing.registry import registry
from truing.symptoms import Search, drawn, search, suiting, symptom, symptoms
from truing.symptoms.data import FOLDER, causes, read_causes, read_symptom
from truing.symptoms.weigh import OUTCOMES, Network, weigh

MILL, ROUTER = "column_mill", "gantry_router"


def result(kind: str, verdict: Any, times: float | None = 1.0, subject: str = "machine") -> Result:
    return Result(kind=kind, subject=subject, at=NOW, verdict=verdict, times_limit=times)


def looked(key: str, form: str, results: Iterable[Result] = (), **said: str) -> Search:
    m = machine(form)
    return search(symptom(key), m, stand(m, results), said)


def suspect(found: Search, cause: str, part: str = "") -> Any:
    about = Subject.part(part).text if part else ""
    return next(s for s in found.suspects if s.cause == cause and about in ("", s.subject))


# --- weighing -------------------------------------------------------------------------------------


def test_what_is_weighed_is_what_is_counted_over_many_machines() -> None:
    """Machines are made by the story that the network tells: causes at random, a symptom where
    there is one, checks that show them or do not; of those that showed what was seen, so many had
    each cause. Counting knows no formula."""
    rng = np.random.default_rng(4)
    odds = causes().verdicts
    network = Network(
        weights=np.array([3.0, 1.0, 2.0]),
        elsewhere=1.0,
        shows=np.array([[0.9, 0.0], [0.6, 0.8], [0.0, 0.7]]),
        odds=odds,
    )
    seen = {0: [("far", 1.0)], 1: [("true", 1.0)]}
    n = 2_000_000
    chance = 0.6 * np.append(network.weights, network.elsewhere) / 7.0
    has = rng.random((n, 4)) < chance
    shown = has.any(axis=1)
    has = has[shown]
    keep = np.ones(len(has), dtype=bool)
    for check, [(outcome, _)] in seen.items():
        caught = (rng.random((len(has), 3)) < network.shows[:, check]) & has[:, :3]
        amiss = caught.any(axis=1)
        with_ = np.cumsum([odds[o].with_ for o in OUTCOMES]) / 100
        without = np.cumsum([odds[o].without for o in OUTCOMES]) / 100
        roll = rng.random(len(has))
        came = np.where(amiss, np.searchsorted(with_, roll), np.searchsorted(without, roll))
        keep &= came == OUTCOMES.index(outcome)  # type: ignore[arg-type]
    counted = has[keep][:, :3].mean(axis=0)
    assert keep.sum() > 20_000
    assert weigh(network, seen).causes == pytest.approx(counted, abs=0.01)  # type: ignore[arg-type]


@pytest.mark.parametrize("form", FORM_TITLES)
def test_a_suspect_is_called_by_its_part_where_there_are_several(form: str) -> None:
    for s in symptoms():
        if s.key not in {x.key for x in suiting(machine(form))}:
            continue
        titles = [(x.cause, x.title) for x in looked(s.key, form).suspects]
        assert len({title for _, title in titles}) == len(titles)
        for cause, title in titles:
            several = [c for c, _ in titles].count(cause) > 1
            assert not title.rstrip().endswith(":")
            assert not several or ": " in title


def test_a_sign_turns_the_order_about() -> None:
    before = looked("stalls", ROUTER)
    after = looked("stalls", ROUTER, by_hand="no")
    a, b = suspect(before, "screw_pinched", "left_right"), suspect(before, "rails_apart")
    c, d = suspect(after, "screw_pinched", "left_right"), suspect(after, "rails_apart")
    # a cause that is not behind it can still be there beside one that is
    assert c.chance / d.chance > 4 * a.chance / b.chance
    assert after.next
    assert after.next.kind == "screw_centre"
    assert before.next
    assert before.next.kind == "rail_parallel"


# --- on machines with hidden faults ---------------------------------------------------------------


def caught(end: Hunt, behind: Iterable[Fault]) -> bool:
    named = next((s for s in end.end.suspects if s.state == "found"), None)
    return named is not None and any(
        named.kind == f.kind and f.subject in ("", named.subject) for f in behind
    )


def test_a_hidden_fault_is_found_in_half_of_the_courses_time() -> None:
    rng = np.random.default_rng(5)
    tried = found = minutes = down = 0
    missed = []
    for form in (MILL, "round_column", ROUTER):
        m = machine(form)
        for fault in faults_on(m):
            truth = fault.put(sound(m, rng), rng, m)
            for key, shows in SHOWS.items():
                if not shows(truth, m):
                    continue
                end = hunt(key, m, truth, rng)
                tried += 1
                if caught(end, [fault]):
                    found += 1
                    minutes += end.minutes
                    down += in_order(m, fault)
                else:
                    missed.append((form, key, fault.name, end.made))
    assert tried > 100
    assert found >= 0.95 * tried, missed
    assert minutes <= 0.5 * down


def test_of_two_hidden_faults_one_that_shows_is_found() -> None:
    rng = np.random.default_rng(8)
    tried = found = minutes = down = 0
    missed = []
    keys = list(SHOWS)
    for trial in range(150):
        m = machine(FORMS[trial % len(FORMS)])
        key = keys[trial % len(keys)]
        every = faults_on(m)
        both = [every[i] for i in rng.choice(len(every), 2, replace=False)]
        truth = sound(m, rng)
        for fault in both:
            truth = fault.put(truth, rng, m)
        behind = [f for f in both if SHOWS[key](f.put(sound(m, rng), rng, m), m)]
        if not behind or not SHOWS[key](truth, m):
            continue
        end = hunt(key, m, truth, rng)
        tried += 1
        if caught(end, both):
            found += 1
            minutes += end.minutes
            down += min(in_order(m, f) for f in behind)
        else:
            missed.append((m.form, key, [f.name for f in both], end.made))
    assert tried >= 40
    assert found >= 0.95 * tried, missed
    assert minutes <= 0.5 * down


@pytest.mark.parametrize("key", list(SHOWS))
def test_on_a_sound_machine_all_is_cleared_and_nothing_named(key: str) -> None:
    rng = np.random.default_rng(3)
    m = machine(MILL)
    end = hunt(key, m, sound(m, rng), rng).end
    assert end.end == "cleared"
    assert all(s.state != "found" for s in end.suspects)
    assert "true" not in end.sentence.metric.lower()


# --- by how the checks stand ----------------------------------------------------------------------


def test_what_was_put_right_is_cleared_and_the_search_goes_on() -> None:
    out = looked("one_sided", MILL, [result("spindle_tram", "out", 4.0)])
    assert out.end == "found"
    assert suspect(out, "lean").state == "found"
    assert "4.0 times" in out.sentence.metric
    mended = looked("one_sided", MILL, [result("spindle_tram", "true", 0.3)])
    assert mended.end == "asks"
    assert suspect(mended, "lean").state == "cleared"
    assert mended.next
    assert mended.next.kind != "spindle_tram"


def test_an_error_too_small_to_be_seen_does_not_end_the_search() -> None:
    little = looked("holes", MILL, [result("spindle_tram", "out", 1.1)])
    much = looked("holes", MILL, [result("spindle_tram", "out", 6.0)])
    assert little.end == "asks"
    assert suspect(little, "lean").chance < 0.5 < suspect(much, "lean").chance


def test_what_no_longer_holds_tells_nothing() -> None:
    m = machine(MILL)
    read = result("spindle_tram", "true", 0.2)
    later = read.at + timedelta(days=1)
    touch = Touch(id="t", at=later, mechanisms=["head_pivot"], said="the head was turned")
    log = Log(results=[read], touches=[touch])
    found = standings(m, log, built=list(registry()), now=later + timedelta(days=1))
    stale = search(symptom("one_sided"), m, found)
    assert stale.suspects == looked("one_sided", MILL).suspects
    assert stale.next
    assert stale.next.kind == "spindle_tram"


def test_a_result_that_should_have_been_looked_at_again_counts_for_half() -> None:
    m = machine(MILL)
    log = Log(results=[result("spindle_tram", "true", 0.2)], intervals={"spindle_tram": 30})
    due = standings(m, log, built=list(registry()), now=NOW + timedelta(days=60))
    chance = suspect(search(symptom("ridges"), m, due), "lean").chance
    fresh = suspect(looked("ridges", MILL, [result("spindle_tram", "true", 0.2)]), "lean").chance
    unknown = suspect(looked("ridges", MILL), "lean").chance
    assert fresh < chance < unknown


def test_the_further_out_a_check_is_the_more_it_is_suspected() -> None:
    """In three steps: out, by twice its limit, by five times."""
    chances = [
        suspect(looked("ridges", MILL, [result("spindle_tram", "out", times)]), "lean").chance
        for times in (1.1, 1.9, 2.1, 4.9, 5.1, 9.0)
    ]
    assert chances[0] == chances[1] < chances[2] == chances[3] < chances[4] == chances[5]
    shows = [
        suspect(looked("ridges", MILL, [result("spindle_tram", v, t)]), "lean").chance
        for v, t in (("true", 0.2), ("too_close", 1.0), ("out", 1.1))
    ]
    assert shows == sorted(shows)


def test_a_tight_gib_is_not_called_a_slide_that_shakes() -> None:
    part = Subject.part("front_back").text
    felt = [result("slide_play", "out", 0.1, part)]
    assert suspect(looked("stalls", MILL, felt), "gib_tight", "front_back").state == "found"
    shakes = suspect(looked("chatter", MILL, felt), "slide_play", "front_back")
    assert shakes.state != "found"
    assert shakes.chance < suspect(looked("chatter", MILL), "slide_play", "front_back").chance
    loose = [result("slide_play", "out", 8.0, part)]
    assert suspect(looked("chatter", MILL, loose), "slide_play", "front_back").state == "found"
    assert suspect(looked("stalls", MILL, loose), "gib_tight", "front_back").state != "found"


def test_a_gantry_is_levelled_before_its_spindle_is_blamed() -> None:
    tram = result("spindle_tram", "out", 9.0)
    first = looked("one_sided", ROUTER, [tram])
    assert first.end == "asks"
    assert first.next
    assert first.next.kind == "gantry_level"
    low = looked("one_sided", ROUTER, [tram, result("gantry_level", "out", 5.0)])
    assert suspect(low, "gantry_level").state == "found"
    level = looked("one_sided", ROUTER, [tram, result("gantry_level", "true", 0.1)])
    assert suspect(level, "lean").state == "found"


def test_what_was_too_close_to_call_is_neither_cleared_nor_asked_before_the_rest() -> None:
    close = looked("one_sided", MILL, [result("spindle_tram", "too_close", 1.0)])
    assert suspect(close, "lean").state == "too_close"
    assert close.next
    assert close.next.kind != "spindle_tram"
    again = [a for a in close.rest if a.again]
    assert [a.kind for a in again] == ["spindle_tram"]
    assert close.rest[-1] == again[0]


def test_nothing_is_asked_that_cannot_be_read_while_the_head_stands_tilted() -> None:
    m = machine(MILL)
    tilt = Tilt(at=NOW, said="the head was tilted by 30°")
    found = standings(m, Log(tilt=tilt), built=list(registry()), now=NOW)
    asked = search(symptom("one_sided"), m, found)
    assert all(a.kind != "spindle_tram" for a in asked.rest)
    assert suspect(asked, "lean").state == "open"
    # with all else cleared it is not said to be out, which nobody knows
    every = [result(kind, "true", 0.1) for kind in ("spindle_play", "column_turn")]
    parts = [s for s, _ in course_kind("travel_square").subjects_of(m)]
    every += [result("travel_square", "true", 0.1, s) for s in parts]
    found = standings(m, Log(results=every, tilt=tilt), built=list(registry()), now=NOW)
    ended = search(symptom("one_sided"), m, found)
    assert ended.end == "open"
    assert "cannot be read as the machine stands" in ended.sentence.metric


def test_what_was_left_as_it_is_is_told_with_its_reason() -> None:
    m = machine(MILL)
    left = Decision(id="d", kind="spindle_tram", at=NOW, reason="It cuts only plates.")
    log = Log(results=[result("spindle_tram", "out", 4.0)], decisions=[left])
    found = standings(m, log, built=list(registry()), now=NOW)
    assert "It cuts only plates." in search(symptom("one_sided"), m, found).sentence.metric


def test_an_evening_makes_the_likeliest_first_and_only_for_what_is_asked() -> None:
    m = machine(MILL)
    found = stand(m, [])
    looked_for = search(symptom("reversal"), m, found)
    made = plan(m, found, 100, "symptom", sought=looked_for.sittings)
    kinds = [s.kind for s in made.steps]
    assert kinds[0] == looked_for.rest[0].kind == "lost_motion"
    # two slides of the three that there are
    assert made.steps[0].minutes == 2 * looked_for.rest[0].minutes
    assert {*kinds, *(item.kind for item in made.left)} == set(looked_for.sittings)
    assert kinds != sorted(kinds, key=[c.kind for c in found].index)


# --- the data -------------------------------------------------------------------------------------


def test_every_symptom_and_cause_is_of_some_machine_and_told_by_a_check_of_it() -> None:
    seen: dict[str, set[str]] = {}
    for form in FORM_TITLES:
        m = starting_point(form)
        for s in suiting(m):
            found = search(s, m, stand(m, []))
            assert found.end == ("leads" if s.leads else "asks"), (form, s.key)
            # a check is asked for by the likeliest that it tells of, and by no more than two
            if found.next:
                told = re.findall("“(.*?)”", found.next.reason.metric)
                telling = {
                    o.title: o.chance
                    for o in found.suspects
                    if any(
                        check.partition(":")[0] == found.next.kind
                        for check in causes().causes[o.cause].told_by
                    )
                }
                assert 1 <= len(told) <= 2
                chances = [telling[title] for title in told]
                assert chances == sorted(chances, reverse=True)
            for one in found.suspects:
                seen.setdefault(one.cause, set()).add(one.kind)
                parts = [p for p, _ in course_kind(one.kind).subjects_of(m)] or ["machine"]
                assert one.subject in (*parts, "machine")
    assert set(seen) == set(causes().causes) - {"beam"} | ({"beam"} & set(seen))
    assert "beam" in seen
    for key, cause in causes().causes.items():
        first = next(iter(cause.told_by)).partition(":")[0]
        assert seen[key] == {first}


@pytest.mark.parametrize("s", symptoms(), ids=lambda s: s.key)
def test_a_symptom_is_drawn_inside_its_sheet(s: Any) -> None:
    figure = drawn(s.key)
    assert {"error", "ideal"} <= {stroke.pen for stroke in figure.strokes} or s.leads
    for stroke in figure.strokes:
        assert all(0 <= p.u <= figure.wide and 0 <= p.v <= figure.tall for p in stroke.points)


def test_names_that_somebody_edits_are_checked_with_where_they_stand(tmp_path: Path) -> None:

    def told(change: Any, says: str) -> None:
        edited = yaml.safe_load((FOLDER / "causes.yaml").read_text("utf-8"))
        change(edited)
        path = tmp_path / "causes.yaml"
        path.write_text(yaml.safe_dump(edited), "utf-8")
        with pytest.raises(Problem, match=r"causes\.yaml") as problem:
            read_causes(path)
        assert says in str(problem.value)

    told(lambda d: d["causes"]["lean"].update(told_by={"tramming": 0.9}), "tramming")
    told(lambda d: d["causes"]["lean"].update(told_by={"spindle_tram": 1.2}), "between 0 and 1")
    told(lambda d: d["causes"]["bed"].update(mechanisms=["bord"]), "causes.bed.mechanisms")
    told(lambda d: d["verdicts"]["far"].update({"with": 99}), "a hundred")
    told(lambda d: d["causes"]["bed"].update(tells="x"), "causes.bed.tells")
    symptom_file = tmp_path / "ridges.yaml"
    symptom_file.write_text(
        "order: 1\ntitle: Ridges\nsees: A finger feels a step.\ncauses: {leam: 3}\n", "utf-8"
    )
    with pytest.raises(Problem, match="leam"):
        read_symptom(symptom_file, causes())
    symptom_file.write_text("order: 1\ntitle: Ridges\nsees: A finger feels a step.\n", "utf-8")
    with pytest.raises(Problem, match="has causes, or leads"):
        read_symptom(symptom_file, causes())
    symptom_file.write_text("order: [1\n", "utf-8")
    with pytest.raises(Problem, match="Valid YAML"):
        read_symptom(symptom_file, causes())


def test_a_machine_without_the_part_has_no_such_cause() -> None:
    plain = machine(MILL)
    router = machine(ROUTER)
    on_mill = {s.cause for s in looked("out_of_square", MILL).suspects}
    assert "plan_square" in on_mill
    assert "gantry_square" not in on_mill
    assert plain.board is None
    assert router.board is not None
    bare: Machine = router.model_copy(update={"board": None})
    causes_now = {s.cause for s in search(symptom("engraving"), bare, stand(bare, [])).suspects}
    assert "bed" not in causes_now


def test_an_answer_that_there_is_not_is_refused() -> None:
    with pytest.raises(KeyError):
        looked("stalls", ROUTER, by_hand="perhaps")
