"""The record: nothing typed is lost, nothing settled is rewritten."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from calmsquare.logbook.models import Reading, Round
from calmsquare.screens import logbook
from tests.api.conftest import Bench, Person, bench_for
from truing import VERSION


def stands(machine: Any) -> str:
    return next(c["status"] for c in machine["checks"] if c["kind"] == "spindle_tram")


@pytest.mark.usefixtures("tram_only")
def test_a_tram_from_first_reading_to_the_logbook(bench: Bench) -> None:
    bench.set_up()
    assert bench.round["next_station"] == "12"
    bench.swing(0.62, 0.02)
    outcome = bench.found
    assert outcome["judgement"]["verdict"] == "out"
    assert "leans right" in outcome["judgement"]["sentence"]["metric"]
    assert outcome["complete"]
    move = outcome["advice"]["moves"][0]
    bench.move(move["key"], nipped="+0.010", tight="+0.015")
    first, second = bench.check["rounds"]
    assert first["settled_at"]
    assert [n["text"] for n in first["move"]["needle"]] == ["+0.010", "+0.015"]
    assert second["predicted"][0]["quantity"] == "lean_x"
    assert second["setup"] == first["setup"]
    bench.swing(0.03, 0.02)
    assert bench.found["judgement"]["verdict"] == "true"
    assert bench.found["trends"][0]["sense"] == "better"
    settled = bench.by.post(f"/rounds/{bench.round['id']}/settle")
    assert settled["closed_at"]
    log = bench.by.get(f"/workshops/{bench.by.workshop.pk}/logbook")  # type: ignore[union-attr]
    entry = log["entries"][0]["sitting"]
    assert entry["status"] == "true"
    assert entry["before"][0]["status"] == "out"
    assert entry["after"][0]["status"] == "true"
    assert "Turn the head" in entry["rounds"][0]["move"]["said"]["metric"]
    stored = Round.objects.get(number=1)
    assert stored.core_version == VERSION
    assert stored.snapshot
    assert stored.snapshot["tolerances"] == {"lean_x": 0.1, "nod": 0.1}
    made = stored.move.made
    assert made["shift"] == pytest.approx({"lean_x": 0.05})
    machine = bench.by.get(f"/machines/{bench.machine}")
    assert stands(machine) == "true"
    assert machine["next_step"] is None


def test_half_a_round_leaves_the_machine_as_it_stands(bench: Bench) -> None:
    """Before a round has its verdict no page need ask how the machine stands, or its shed."""
    places = (f"/machines/{bench.machine}", f"/workshops/{bench.by.workshop.pk}/calendar")  # type: ignore[union-attr]

    def stand() -> Any:
        return [bench.by.get(place) for place in places]

    for beginning in ("anew", "after a verdict"):
        if beginning == "anew":
            bench.set_up()
        else:
            move = bench.found["advice"]["moves"][0]
            bench.move(move["key"], nipped="+0.010", tight="+0.015")
        before = stand()
        for station, value in (("12", "+0.03"), ("3", "-0.57"), ("6", "+0.03")):
            bench.read(station, value)
            assert bench.round["brief"]["verdict"] is None
            assert stand() == before, beginning
        bench.read("9", "+0.63")
        assert bench.round["brief"]["verdict"] == "out"
        assert stand() != before, beginning


def test_a_reading_sent_twice_is_there_once(bench: Bench) -> None:
    bench.set_up()
    id = uuid4()
    at = "2026-03-01T19:00:00+00:00"
    bench.read("12", "+0.03", id=id, read_at=at)
    bench.read("12", "+0.03", id=id, read_at=at)
    (kept,) = bench.round["readings"]
    # 0.03 mm on a dial of 100 divisions of 0.001 mm a turn
    assert (kept["words"]["metric"], kept["needle"]) == (
        "+0.0300 mm",
        {"angle_deg": pytest.approx(108.0), "turns": 0},
    )
    told = bench.read("12", "+0.09", id=id, read_at=at, expect=409)
    assert "Another reading has this id" in told["detail"]
    assert Reading.objects.get().text == "+0.03"


def test_a_needle_is_offered_where_the_instrument_has_one(bench: Bench) -> None:
    bench.set_up()
    assert bench.round["dial"]["needle"]
    at = f"/workshops/{bench.by.workshop.pk}/instruments"  # type: ignore[union-attr]
    spec = {"type": "digital", "resolution_mm": 0.001, "range_mm": 12}
    bench.instrument = bench.by.post(at, {"name": "Display", "spec": spec})["id"]
    bench.set_up()
    assert not bench.round["dial"]["needle"]


def test_a_correction_supersedes_and_both_stay(bench: Bench) -> None:
    bench.set_up()
    first = uuid4()
    bench.read("12", "+0.30", id=first)
    bench.read("3", "+0.02")
    bench.read("12", "+0.03", supersedes=first)
    shown = [(r["station"], r["text"], r["live"]) for r in bench.round["readings"]]
    assert shown == [("12", "+0.30", False), ("12", "+0.03", True), ("3", "+0.02", True)]
    assert bench.round["next_station"] == "6"
    told = bench.read("12", "+0.04", supersedes=first, expect=409)
    assert "corrected already" in told["detail"]
    last = next(r["id"] for r in bench.round["readings"] if r["live"])
    bench.read("12", "+0.03", supersedes=last, withdrawn=True)
    assert [r["station"] for r in bench.round["readings"] if r["live"]] == ["3"]
    assert Reading.objects.count() == 4
    bench.by.workshop.delete()  # type: ignore[union-attr]
    assert not Reading.objects.exists()


def test_what_is_left_out_is_asked_for_again_only_where_it_is_needed(bench: Bench) -> None:
    bench.set_up(passes=1)
    assert bench.round["turn"] == ["12", "3", "6", "9", "12"]
    for station, text in (("12", "0"), ("3", "+0.01"), ("6", "0"), ("9", "-0.01"), ("12", "0")):
        bench.read(station, text)
    assert bench.round["brief"]["complete"]

    def last(station: str) -> str:
        there = [r for r in bench.round["readings"] if r["station"] == station]
        gone = {r["supersedes"] for r in there}
        return str(next(r["id"] for r in there if r["id"] not in gone))

    bench.read("9", "-0.01", supersedes=last("9"), withdrawn=True)
    # three places tell both leans: the round stands without the fourth
    assert bench.round["brief"]["ready"]
    assert bench.round["next_station"] is None
    found = bench.by.get(f"/rounds/{bench.round['id']}/finding")
    assert "9" not in {s["station"] for s in found["finding"]["stations"]}
    bench.read("3", "+0.01", supersedes=last("3"), withdrawn=True)
    # two do not
    assert not bench.round["brief"]["ready"]
    assert bench.round["next_station"] == "3"
    bench.read("3", "+0.01", supersedes=last("3"))
    bench.read("9", "-0.01", supersedes=last("9"))
    assert bench.round["brief"]["complete"]
    assert [r["station"] for r in bench.round["readings"] if r["live"]] == [
        *("12", "3", "6", "9", "12")
    ]


def test_a_zero_on_the_way_follows_a_later_correction(bench: Bench) -> None:
    bench.set_up(passes=1)
    zeroed, rest = uuid4(), {}
    bench.read("12", "0")
    bench.read("3", "+0.05", id=zeroed)
    rest["zeroed_on"] = zeroed
    bench.read("6", "-0.05", **rest)
    bench.read("9", "-0.10", **rest)
    before = bench.found["finding"]["quantities"][0]["estimate"]["value"]
    assert before == pytest.approx(0.5)
    bench.read("3", "+0.06", supersedes=zeroed)
    lean, nod = (q["estimate"]["value"] for q in bench.found["finding"]["quantities"])
    # 12: 0, 3: 0.06, 6: 0.01, 9: -0.04
    assert lean == pytest.approx(0.5)
    assert nod == pytest.approx(-0.05)


def test_an_old_page_cannot_write_over_a_newer_round_or_setup(bench: Bench) -> None:
    bench.set_up()
    told = bench.set_up(version=1, expect=409)
    assert told["type"] == "urn:calm-square:setup-changed"
    bench.swing(0.5, 0.0, passes=1)
    old = bench.round["id"]
    bench.move(None, said="tapped it with a mallet")
    told = bench.read("12", "+0.01", round_id=old, expect=409)
    assert told["type"] == "urn:calm-square:round-settled"
    assert "Round 2 is the one in hand" in told["detail"]
    assert Reading.objects.filter(round_id=old).count() == 4


def test_a_changed_limit_judges_anew_without_rewriting_the_log(bench: Bench) -> None:
    bench.set_up()
    bench.swing(0.2, 0.0)
    bench.by.post(f"/rounds/{bench.round['id']}/settle")
    spec = bench.by.get(f"/machines/{bench.machine}")["spec"]
    bench.by.change(
        f"/machines/{bench.machine}",
        {
            "name": "Avocet",
            "spec": spec,
            "tolerances": {"spindle_tram": {"lean_x": 0.5, "nod": 0.5}},
        },
    )
    again = bench.by.post(f"/checks/{bench.check['id']}/rounds", {"id": uuid4()})
    assert again["rounds"][0]["brief"]["verdict"] == "out"
    bench.check = again
    bench.swing(0.2, 0.0)
    assert bench.found["judgement"]["verdict"] == "true"


@pytest.mark.parametrize(
    ("limits", "says"),
    [
        ({"spindle_tram": {"lean_x": 500}}, "A limit between 0.0010 mm/m and 100 mm/m."),
        ({"spindle_tram": {"lean_x": 0.0004}}, "A limit between 0.0010 mm/m and 100 mm/m."),
        ({"spindle_tram": {"lean_x": "5 in/ft"}}, "A limit between 0.0010 mm/m and 100 mm/m."),
        ({"spindle_tram": {"lean_x": ""}}, "“” is not understood here."),
        ({"spindle_tram": {"lean_x": "0.1 mm"}}, "“0.1 mm” is not understood here."),
        ({"spindle_tram": {"colour": 1}}, "This machine has no such limit."),
        ({"nothing": {"lean_x": 1}}, "This machine has no such limit."),
    ],
)
def test_limits_that_cannot_be_are_refused_in_their_own_unit(
    bench: Bench, limits: Any, says: str
) -> None:
    at = f"/machines/{bench.machine}"
    before = bench.by.get(at)
    was = {"name": "Avocet", "spec": before["spec"]}
    body = {**was, "tolerances": limits, "was": was}
    [told] = bench.by.put(at, body, expect=422)["errors"]
    [(kind, named)] = limits.items()
    assert told["field"] == f"tolerances.{kind}.{next(iter(named))}"
    assert told["message"] == says
    assert bench.by.get(at) == before
    # who reads in inches is told so
    send = bench.by.client.put
    url, reads = f"/api/v1{at}", {"X-Reads": "inch"}
    [told] = send(url, body, content_type="application/json", headers=reads).json()["errors"]
    bounds = "A limit between 0.000012 in/ft and 1.2 in/ft."
    assert told["message"] == (bounds if "between" in says else says)


def test_limits_are_taken_in_the_unit_that_they_are_typed_in(bench: Bench) -> None:
    """By whoever reads in inches as by others; what is not named stays."""
    at = f"/machines/{bench.machine}"
    before = bench.by.get(at)
    named = {k: {x["key"]: x for x in v} for k, v in before["limits"].items()}
    assert named["spindle_tram"]["lean_x"]["unit"] == {"metric": "mm/m", "inch": "in/ft"}
    runout = next(iter(named["spindle_runout"]))
    typed = {"spindle_tram": {"lean_x": "0,0006 in/ft"}, "spindle_runout": {runout: "1/2 thou"}}
    body = {"name": "Avocet", "spec": before["spec"], "tolerances": typed}
    now = bench.by.change(at, body)["limits"]
    kept = {k: {x["key"]: x["value"] for x in v} for k, v in now.items()}
    assert kept["spindle_tram"]["lean_x"] == pytest.approx(0.05)
    assert kept["spindle_runout"][runout] == pytest.approx(0.0127)
    assert kept["spindle_tram"]["nod"] == named["spindle_tram"]["nod"]["value"]


def test_shims_go_from_the_tin_into_the_machine(owner: Person) -> None:
    bench = bench_for(owner, form="micro_mill")
    bench.set_up()
    bench.swing(0.0, 0.9)
    kit = f"/workshops/{owner.workshop.pk}/kit"  # type: ignore[union-attr]
    before = {s["thickness_mm"]: s["count"] for s in owner.get(kit)["shims"]}
    assert before == {0.02: 8, 0.05: 8, 0.1: 8}
    move = bench.found["advice"]["moves"][0]
    placed = [t for s in move["stacks"] for t in s["after_mm"]]
    assert placed
    bench.move(move["key"])
    after = {s["thickness_mm"]: s["count"] for s in owner.get(kit)["shims"]}
    assert {t: before[t] - after[t] for t in before} == {t: placed.count(t) for t in before}
    spec = owner.get(f"/machines/{bench.machine}")["spec"]
    assert sorted(t for p in spec["base"]["pads"] for t in p["shims_mm"]) == sorted(placed)
    assert stands(owner.get(f"/machines/{bench.machine}")) == "stale"


def test_a_standin_answers_and_responds(owner: Person) -> None:
    bench = bench_for(owner, standin=True)
    bench.set_up()
    for _ in range(2):
        for station in ("12", "3", "6", "9"):
            told = owner.post(f"/rounds/{bench.round['id']}/standin", {"station": station})
            bench.read(station, told["text"], unit=told["unit"])
    value = bench.found["finding"]["quantities"][0]["estimate"]["value"]
    assert value == pytest.approx(0.5, abs=0.05)
    bench.move(bench.found["advice"]["moves"][0]["key"])
    told = owner.post(f"/rounds/{bench.round['id']}/standin", {"station": "3"})
    other = owner.post(f"/rounds/{bench.round['id']}/standin", {"station": "9"})
    assert abs(float(told["text"]) - float(other["text"])) < 0.04


def test_a_preview_says_how_it_is_understood_and_keeps_nothing(bench: Bench) -> None:
    bench.set_up(passes=1)
    for station in ("12", "3", "6"):
        bench.read(station, "+0.01")
    path = f"/rounds/{bench.round['id']}/preview"
    # three of four tell a lean, and judge nothing
    found = bench.by.get(f"/rounds/{bench.round['id']}/finding")
    assert found["finding"]["quantities"]
    assert not found["ready"]
    assert found["advice"] is None
    [entry] = bench.by.get(f"/workshops/{bench.by.workshop.pk}/logbook")["entries"]  # type: ignore[union-attr]
    [logged] = entry["sitting"]["rounds"]
    assert logged["status"] == "unmeasured"
    assert logged["sentence"]["metric"] == "Not all of it has been read."
    assert {v["status"] for v in logged["values"]} == {"unmeasured"}
    assert bench.by.post(path, {"station": "6", "text": "0", "unit": "mm"})["verdict"] is None
    told = bench.by.post(path, {"station": "9", "text": "7 div", "unit": "mm"})
    assert told["words"]["metric"] == "+0.0070 mm"
    assert told["spoken"]["metric"] == "plus 0.0070 mm"
    assert told["verdict"] == "true"
    told = bench.by.post(path, {"station": "9", "text": "-7 div", "unit": "mm"})
    assert told["spoken"]["metric"] == "minus 0.0070 mm"
    dial = {"station": "9", "unit": "div", "dial": {"angle_deg": 90, "turns": 1}}
    told = bench.by.post(path, dial)
    assert told["shown_mm"] == pytest.approx(0.125)
    assert told["text"] == "+125 div"
    told = bench.by.post(path, {"station": "9", "text": "60", "unit": "div"})
    assert told["question"]["about"] == "turns"
    assert len(bench.by.get(f"/checks/{bench.check['id']}")["rounds"][0]["readings"]) == 3


def test_notes_and_the_logbooks_pages(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(logbook, "PAGE", 4)
    bench.set_up()
    note = {"id": uuid4(), "text": "Table stoned.", "written_at": "2026-03-01T19:00:00Z"}
    for _ in range(2):
        got = bench.by.post(f"/rounds/{bench.round['id']}/notes", note)
    assert [n["text"] for n in got["rounds"][0]["notes"]] == ["Table stoned."]
    for _ in range(5):
        bench.swing(0.0, 0.0, passes=1)
        bench.by.post(f"/rounds/{bench.round['id']}/settle")
        bench.check = bench.by.post(
            f"/machines/{bench.machine}/checks", {"id": uuid4(), "kind": "spindle_tram"}
        )
        bench.set_up(passes=1)
    path = f"/workshops/{bench.by.workshop.pk}/logbook"  # type: ignore[union-attr]
    first = bench.by.get(path)
    rest = bench.by.get(f"{path}?after={first['next']}".replace("+", "%2B"))
    ids = [e["sitting"]["id"] for e in first["entries"] + rest["entries"]]
    assert len(ids) == len(set(ids)) == 6
    assert len(first["entries"]) == 4
    assert rest["next"] is None


def test_queries_do_not_grow_with_the_machines(owner: Person) -> None:
    def queries() -> int:
        with CaptureQueriesContext(connection) as seen:
            owner.get(f"/workshops/{owner.workshop.pk}")  # type: ignore[union-attr]
            owner.get(f"/workshops/{owner.workshop.pk}/logbook")  # type: ignore[union-attr]
        return len(seen)

    def measured() -> None:
        bench = bench_for(owner)
        bench.set_up(passes=1)
        bench.swing(0.3, 0.0, passes=1)

    measured()
    few = queries()
    for _ in range(4):
        measured()
    assert queries() == few


def test_which_turn_is_asked_once_and_not_at_every_pass(bench: Bench) -> None:
    bench.set_up()

    def asked(station: str, text: str, **more: Any) -> bool:
        typed = {"station": station, "text": text, "unit": "mm", **more}
        told = bench.by.post(f"/rounds/{bench.round['id']}/preview", typed)
        return bool(told["question"])

    def read(station: str, text: str, **more: Any) -> Any:
        bench.read(station, text, **more)
        return bench.round["readings"][-1]

    # a turn of this needle is 0.1 mm
    assert asked("12", "0.042")
    first = read("12", "0.042", accepted=True)
    # near to what was read before it, and far from it
    assert not asked("3", "0.055")
    assert asked("3", "0.100")
    kept = read("3", "0.055")
    assert kept["question"] is None
    # the second pass is measured by the first, at its own place
    assert not asked("12", "0.043")
    assert asked("12", "0.098")
    # a dial set to zero since begins anew; a reading is not measured by the one it corrects
    assert asked("12", "0.043", zeroed_on=kept["id"])
    assert asked("12", "0.115")
    assert not asked("12", "0.090", supersedes=first["id"])
