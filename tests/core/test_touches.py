"""What a touch reaches: which readings it undoes, on which slide, rail or tool."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from tests.core.standing import MILL, at, by_kind, stand
from truing.course import KINDS, course_kind
from truing.course.events import event_kind, touched_by
from truing.course.gates import still_accepted
from truing.course.kinds import foundation, suiting
from truing.course.standing import Log, Result, Touch, standings
from truing.machine import FORM_TITLES, starting_point
from truing.registry import registry

EVENING = datetime(2026, 3, 1, 19, 0, tzinfo=UTC)


def stands_after(touch: Touch, kind: str, *subjects: str, form: Any = "gantry_router") -> list[str]:
    """How each of these stands that was true before the touch."""
    results = [
        Result(kind=kind, subject=s, at=EVENING, verdict="true") for s in (subjects or ("machine",))
    ]
    found = standings(
        starting_point(form),
        Log(results=results, touches=[touch]),
        built=list(registry()),
        now=EVENING + timedelta(days=2),
    )
    mine = next(s for s in found if s.kind == kind)
    return [p.status for p in mine.parts if p.result] or [mine.status]


def touch(*mechanisms: Any, **more: Any) -> Touch:
    later = EVENING + timedelta(hours=1)
    return Touch(id="t", at=later, mechanisms=mechanisms, said="it was touched", **more)


def test_what_is_set_on_one_slide_leaves_the_others_as_they_were() -> None:
    slides = ("part:left_right", "part:front_back")
    set_feed = touch("drive_settings", slide="part:left_right")
    assert stands_after(set_feed, "lost_motion", *slides) == ["stale", "true"]
    # what nobody said of which slide counts for all of them
    assert stands_after(touch("drive_settings"), "lost_motion", *slides) == ["stale", "stale"]
    # a gib carries all that stands on it, whichever slide it is
    closed = touch("gibs", slide="part:left_right")
    assert stands_after(closed, "spindle_tram") == ["stale"]
    assert stands_after(closed, "slide_play", *slides, form="column_mill") == ["stale", "true"]


def test_a_tram_stands_when_the_board_that_it_was_read_against_is_surfaced() -> None:
    """It is worth one look, and never a circle: surfacing is done by the tram's own spindle."""
    router = starting_point("gantry_router")
    built = list(registry())

    def after(*touches: Touch, against: Any, read: int = 0) -> Any:
        results = [Result(kind="spindle_tram", at=at(read), verdict="true", against=against)]
        log = Log(results=results, touches=touches)
        return by_kind(standings(router, log, built=built, now=at(30)))["spindle_tram"]

    surfaced = Touch(id="s", at=at(5), mechanisms=("board",), said="the board was surfaced")
    looked = after(surfaced, against="board")
    assert looked.status == "true"
    assert not looked.amiss
    assert "the board was surfaced on 1 March 2026" in looked.why.metric
    assert "One look" in looked.why.metric
    assert after(surfaced, against=None).why is None, "read on the bed itself"
    assert after(surfaced, against="board", read=6).why is None, "looked at since"
    # what it does rest on undoes it whatever it was read against
    turned = Touch(id="t", at=at(6), mechanisms=("bracket_pivot",), said="the bracket was turned")
    assert after(surfaced, turned, against="board").status == "stale"


def test_shims_under_a_rail_touch_its_height_and_not_its_side() -> None:
    planes = ("part:side", "part:height")
    assert stands_after(touch("rail_packs"), "rail_straight", *planes) == ["true", "stale"]
    assert stands_after(touch("rail_first"), "rail_straight", *planes) == ["stale", "stale"]
    # what was read before the two were told apart is about both of them
    assert stands_after(touch("rail_packs"), "rail_straight", "machine") == ["true", "stale"]
    # coarse and fine are no slides: what the one sets the other rests on
    stages = ("part:coarse", "part:fine")
    assert stands_after(touch("rail_packs"), "rail_twist", *stages) == ["stale", "stale"]


def test_a_crash_asks_for_the_inspection_again() -> None:
    crash = event_kind("crash")
    hit = touch(*crash.touches, calls_for=crash.calls_for)
    assert stands_after(hit, "inspection") == ["stale"]
    # tapping a head is no crash
    assert stands_after(touch("head_pivot"), "inspection") == ["true"]


@pytest.mark.parametrize("key", [k.key for k in KINDS])
def test_what_a_kind_adjusts_it_rests_on(key: str) -> None:
    kind = course_kind(key)
    own = {m for _, m in kind.also_rests}
    assert set(kind.adjusts) <= foundation(key) | own


def test_another_cutter_asks_for_the_tool_anew_and_not_for_the_piece() -> None:
    """A piece that was read accepts the machine, whichever cutter cut it."""
    results = [Result(kind=k.key, at=at(0), verdict="true") for k in suiting(MILL)]
    for key, piece in (("cutter", "true"), ("crash", "stale")):
        touch = Touch(id="t", at=at(1), mechanisms=touched_by(key, []), said="it was")
        found = by_kind(stand(MILL, Log(results=results, touches=[touch]), now=2))
        assert found["tool_runout"].status == "stale"
        assert found["test_cut"].status == piece
        assert still_accepted(at(0), [touch]) == (piece == "true")
    assert still_accepted(at(2), [touch])


def test_every_part_that_advice_reckons_with_can_be_described() -> None:
    """What a kind moves is described by a field that its own machines have."""
    for form in FORM_TITLES:
        machine = starting_point(form)
        fields = machine.model_dump()
        for key, core in registry().items():
            if not core.suits(machine):
                continue
            parts = core.goes_by(machine)
            assert all(p.title and p.key in fields for p in parts)
            assert [p.has for p in parts] == [bool(fields[p.key]) for p in parts]
            # with that part taken away it is still offered, as one that is not described
            for part in parts:
                less = machine.model_copy(update={part.key: [] if part.key == "things" else None})
                if part.key not in ("slides", "things"):
                    offered = {p.key: p.has for p in core.goes_by(less)}
                    assert offered[part.key] is False, (key, part.key)
    tram = registry()["spindle_tram"].goes_by(starting_point("column_mill"))
    assert [p.key for p in tram] == ["base", "head"]
