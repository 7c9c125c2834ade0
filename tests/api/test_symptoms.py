"""What brings people to a machine, over the record: found, opened, planned for."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

from django.utils import timezone

from calmsquare.planning.models import Evening
from calmsquare.workshop.models import Membership, Role
from tests.api.conftest import Bench, Person, bench_for, somebody


def looked(bench: Bench, symptom: str, *said: str, by: Person | None = None) -> Any:
    query = "&".join(f"said={s}" for s in said)
    return (by or bench.by).get(f"/machines/{bench.machine}/symptoms/{symptom}?{query}")


def tram(bench: Bench, a: float, b: float) -> None:
    if bench.round["setup"] is None:
        bench.set_up()
    bench.swing(a, b)
    bench.check = bench.by.post(f"/rounds/{bench.round['id']}/settle")


def test_what_is_offered_is_what_this_machine_can_have(bench: Bench) -> None:
    every = {s["key"]: s for s in bench.by.get("/symptoms")}
    here = {s["key"] for s in bench.by.get(f"/machines/{bench.machine}/symptoms")}
    assert here <= set(every)
    assert all(s["drawing"]["strokes"] and s["drawing"]["shows"] for s in every.values())
    suspects = {s["cause"] for s in looked(bench, "out_of_square")["search"]["suspects"]}
    assert "plan_square" in suspects
    assert "gantry_square" not in suspects


def test_the_search_follows_the_record(bench: Bench) -> None:
    first = looked(bench, "one_sided")
    assert first["search"]["next"]["kind"] == "spindle_tram"
    assert first["open_checks"] == {"spindle_tram": bench.check["id"]}
    assert first["can_write"]
    tram(bench, 4.0, 0.1)
    found = looked(bench, "one_sided")["search"]
    assert found["end"] == "found"
    assert found["suspects"][0]["cause"] == "lean"
    body = {"id": uuid4(), "kind": "moved", "at": timezone.now().isoformat()}
    bench.by.post(f"/machines/{bench.machine}/events", body)
    assert looked(bench, "one_sided")["search"]["end"] == "asks"


def test_a_look_is_asked_for_and_only_its_own_answers_are_taken(bench: Bench) -> None:
    plain = looked(bench, "stalls")["search"]
    assert plain["signs"][0]["said"] is None
    told = looked(bench, "stalls", "by_hand:yes")["search"]
    assert told["signs"][0]["said"] == "yes"
    assert told["next"]["kind"] == "slide_play"
    assert plain["next"]["kind"] == "screw_centre"
    path = f"/machines/{bench.machine}/symptoms"
    for wrong in ("stalls?said=by_hand:maybe", "stalls?said=by_hand", "stalls?said=x:yes", "gone"):
        refused = bench.by.get(f"{path}/{wrong}", expect=422)
        assert refused["errors"][0]["field"] in ("said", "symptom")


def test_a_check_is_begun_with_the_part_that_is_asked_for(bench: Bench) -> None:
    ask = looked(bench, "slack")["search"]["next"]
    assert ask["kind"] == "lost_motion"
    where = f"/machines/{bench.machine}/checks"
    other = "part:up_down"
    assert ask["subject"] != other
    begun = bench.by.post(where, {"id": uuid4(), "kind": ask["kind"], "subject": other})
    assert begun["rounds"][0]["suggested"]["slide"] == "up_down"
    # nothing was stated yet: it goes over to the one that is asked for now
    again = bench.by.post(where, {"id": uuid4(), "kind": ask["kind"], "subject": ask["subject"]})
    assert again["id"] == begun["id"]
    assert f"part:{again['rounds'][0]['suggested']['slide']}" == ask["subject"]
    for wrong in ("part:sideways", "thing:x"):
        body = {"id": uuid4(), "kind": ask["kind"], "subject": wrong}
        assert bench.by.post(where, body, expect=422)["errors"][0]["field"] == "subject"


def test_what_is_stated_is_not_turned_to_another_part(bench: Bench) -> None:
    where = f"/machines/{bench.machine}/checks"
    check = bench.by.post(
        where, {"id": uuid4(), "kind": "lost_motion", "subject": "part:front_back"}
    )
    round_ = check["rounds"][0]
    bench.by.put(
        f"/rounds/{round_['id']}/setup",
        {
            "version": round_["version"],
            "instrument_id": bench.instrument,
            "setup": round_["suggested"],
        },
    )
    again = bench.by.post(where, {"id": uuid4(), "kind": "lost_motion", "subject": "part:up_down"})
    assert again["rounds"][0]["setup"]["slide"] == "front_back"
    assert again["rounds"][0]["part"].startswith("front–back")


def test_a_search_becomes_an_evening_that_follows_it(bench: Bench) -> None:
    ask = {"minutes": 60, "aim": "symptom", "symptom": "one_sided"}
    path = f"/machines/{bench.machine}"
    planned = bench.by.post(f"{path}/plan", ask)["plan"]
    assert planned["steps"][0]["kind"] == "spindle_tram"
    assert not any("Not needed" in item["reason"]["metric"] for item in planned["left"])
    evening = bench.by.post(f"{path}/evenings", {"id": uuid4(), **ask})
    assert evening["aim"]["title"].startswith("What is behind it: it marks")
    tram(bench, 0.01, 0.01)
    later = bench.by.get(f"/evenings/{evening['id']}")
    assert [d["kind"] for d in later["done"]] == ["spindle_tram"]
    assert later["plan"]["steps"][0]["kind"] == "spindle_play"
    # of a symptom that is offered no more it becomes an evening for all
    Evening.objects.update(symptom="ghosts")
    assert bench.by.get(f"/evenings/{evening['id']}")["aim"]["key"] == "true"
    refused = bench.by.post(f"{path}/plan", {**ask, "symptom": ""}, expect=422)
    assert refused["errors"][0]["field"] == "symptom"


def test_a_plan_that_fits_nothing_names_what_it_is_for(bench: Bench) -> None:
    ask = {"minutes": 10, "aim": "tools"}
    told = bench.by.post(f"/machines/{bench.machine}/plan", ask)["plan"]
    assert told["steps"] == []
    assert "“Spindle play”" in told["sentence"]["metric"]


def test_who_only_looks_sees_the_search(bench: Bench, db: None) -> None:
    viewer = somebody("Looker")
    assert bench.by.workshop
    Membership.objects.create(workshop=bench.by.workshop, user=viewer.user, role=Role.VIEWER)
    assert looked(bench, "ridges", by=viewer)["can_write"] is False
    other = bench_for(somebody("Elsewhere"))
    other.by.get(f"/machines/{bench.machine}/symptoms/ridges", expect=404)
