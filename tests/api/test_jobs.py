"""Jobs through the API: described, fitted, made good for, made, measured."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from calmsquare.jobs.models import Job, Making
from calmsquare.logbook.models import Round
from calmsquare.workshop.models import Machine
from tests.api.conftest import Bench, Person, bench_for, somebody
from tests.api.test_course import now
from truing.machine import starting_point

SIDE = {
    "kind": "wall",
    "name": "side",
    "depth_mm": 30,
    "level_mm": 30,
    "flute_mm": 40,
    "held": "table",
    "upright_tol_mm": "0.01 mm",
}
PLATE = {"name": "Side plate", "material": "brass", "features": [SIDE]}
"""Leans by nothing but the spindle's nod, over 30 mm."""


def add(by: Person, spec: Any = PLATE, machines: Any = (), expect: int = 200) -> Any:
    assert by.workshop
    body = {"id": uuid4(), "spec": spec, "machines": list(machines)}
    return by.post(f"/workshops/{by.workshop.pk}/jobs", body, expect=expect)


def here(bench: Bench, job: Any) -> Any:
    return bench.by.get(f"/jobs/{job['id']}?machine={bench.machine}")


def trammed(bench: Bench, nod: float) -> None:
    bench.set_up()
    bench.swing(0.02, nod)


def stands(bench: Bench, kind: str = "spindle_tram") -> Any:
    checks = bench.by.get(f"/machines/{bench.machine}")["checks"]
    return next(c for c in checks if c["kind"] == kind)


def test_a_job_is_not_known_until_its_checks_are_read_and_then_fits(bench: Bench) -> None:
    job = add(bench.by)
    fit = job["fit"]
    assert job["at"][0]["answer"] == fit["answer"] == "unknown"
    share = fit["features"][0]["demands"][0]["shares"][0]
    assert share["state"] == "not_measured"
    assert share["kind"] == "spindle_tram"
    assert [r["kind"] for r in fit["first"]["remedies"]] == ["spindle_tram"]
    trammed(bench, 0.1)
    demand = here(bench, job)["fit"]["features"][0]["demands"][0]
    # 0.1 mm/m over 30 mm is 3 µm, of 10
    assert demand["answer"] == "fits"
    assert 0.3 <= demand["of_tolerance"] < 0.6
    assert demand["shares"][0]["at"]
    workshop = bench.by.get(f"/workshops/{job['workshop_id']}")
    assert [(j["name"], j["answer"]) for j in workshop["machines"][0]["jobs"]] == [
        ("Side plate", "fits")
    ]
    cost = bench.found["jobs"][0]
    assert cost["name"] == "Side plate"
    assert "leans it by 0.00" in cost["text"]["metric"]
    assert "in" in cost["text"]["inch"]


def test_a_lean_too_large_for_the_job_is_to_be_mended_first(bench: Bench) -> None:
    job = add(bench.by)
    trammed(bench, 0.8)
    found = here(bench, job)
    assert found["fit"]["answer"] == "no"
    assert "would not come out" in found["fit"]["sentence"]["metric"]
    remedy = found["fit"]["first"]["remedies"][0]
    assert (remedy["kind"], remedy["moves"]) == ("spindle_tram", True)
    share = found["fit"]["features"][0]["demands"][0]["shares"][0]
    assert share["leaves"] < share["of_tolerance"]
    assert not found["fit"]["first"]["still"]


def test_limits_for_a_job_hold_at_once_and_can_be_taken_back(bench: Bench) -> None:
    tight = add(bench.by, {**PLATE, "features": [{**SIDE, "upright_tol_mm": 0.002}]})
    trammed(bench, 0.09)
    bench.by.post(f"/rounds/{bench.round['id']}/settle")
    assert stands(bench)["status"] == "true"
    body = {"machine_id": bench.machine}
    offered = bench.by.post(f"/jobs/{tight['id']}/limits", body)
    nod = next(x for x in offered["limits"] if x["tolerance"] == "nod")
    # 2 µm over 30 mm
    assert 0.05 < nod["value"] <= 2 / 30
    assert not nod["is_met"]
    assert offered["fits"]
    assert not offered["on"]
    on = bench.by.post(f"/jobs/{tight['id']}/limits/apply", body)
    assert on["on"]
    now = stands(bench)
    assert now["status"] == "out"
    assert "“Side plate”" in now["why"]["metric"]
    machine = bench.by.get(f"/machines/{bench.machine}")
    assert machine["job_limits"]["name"] == "Side plate"
    assert machine["job_limits"]["limits"]["spindle_tram"][0]["value"] == nod["value"]
    # the owner's own stand as they were, and the round as it was judged
    assert {x["value"] for x in machine["limits"]["spindle_tram"]} == {0.1}
    assert Round.objects.get(pk=bench.round["id"]).verdict == "true"
    # a new round is judged by the job's, and its screen says whose limits they are
    again = bench.by.get(f"/checks/{bench.check['id']}")
    assert again["limits_for"] == "Side plate"
    assert {x["key"]: x["value"] for x in again["limits"]}["nod"] == nod["value"]
    bench.by.call("delete", f"/machines/{bench.machine}/job-limits", expect=204)
    assert stands(bench)["status"] == "true"
    assert bench.by.get(f"/machines/{bench.machine}")["job_limits"] is None
    assert bench.by.get(f"/checks/{bench.check['id']}")["limits_for"] == ""


def test_what_leaving_a_check_costs_is_told_before_it_is_left(bench: Bench) -> None:
    job = add(bench.by)
    other = starting_point("knee_mill").model_dump(mode="json")
    elsewhere = bench.by.post(
        f"/workshops/{job['workshop_id']}/machines",
        {"id": uuid4(), "name": "Merganser", "spec": other},
    )
    add(bench.by, {**PLATE, "name": "Of another"}, [elsewhere["id"]])
    at = f"/machines/{bench.machine}/jobs"
    unread = bench.by.get(f"{at}/spindle_tram")
    assert [(c["name"], c["answer"]) for c in unread] == [("Side plate", "unknown")]
    trammed(bench, 0.8)
    told = bench.by.get(f"{at}/spindle_tram")
    assert [(c["name"], c["answer"]) for c in told] == [("Side plate", "no")]
    # 0.8 mm/m over 30 mm is 24 µm and its U, of 10
    assert "0.02" in told[0]["text"]["metric"]
    assert "of 0.01 mm in all" in told[0]["text"]["metric"]
    assert bench.by.get(f"{at}/bed_map") == []


def test_an_acceptance_keeps_what_the_machine_was_good_for(bench: Bench) -> None:
    add(bench.by)
    trammed(bench, 0.1)
    bench.by.post(f"/rounds/{bench.round['id']}/settle")
    at = f"/machines/{bench.machine}"
    bench.by.post(f"{at}/acceptances", {"id": uuid4(), "note": "", "at": now()})
    event = {"id": uuid4(), "kind": "crash", "said": "Into the vice.", "at": now()}
    after = bench.by.post(f"{at}/events", event)
    assert [j["answer"] for j in after["jobs"]] == ["unknown"]
    assert after["acceptance"]["jobs"] == [{"name": "Side plate", "answer": "fits"}]
    log = bench.by.get(f"/workshops/{after['workshop_id']}/logbook")["entries"]
    accepted = next(
        e["record"] for e in log if e["record"] and e["record"]["type"] == "acceptances"
    )
    assert accepted["lines"][-1]["metric"] == "Side plate: fits."


def test_room_given_to_one_limit_is_taken_from_another(owner: Person) -> None:
    bench = bench_for(owner)
    deep = {"kind": "hole", "depth_mm": 50, "by": "usual", "upright_tol_mm": 0.03}
    job = add(owner, {"name": "Bore", "features": [deep]})
    at = f"/jobs/{job['id']}/limits"
    weight = {"kind": "table_travel", "tolerance": "slope", "weight": 3}
    even = owner.post(at, {"machine_id": bench.machine})["limits"]
    wide = owner.post(at, {"machine_id": bench.machine, "weights": [weight]})["limits"]
    values = [{x["kind"]: x["value"] for x in told} for told in (even, wide)]
    assert values[1]["table_travel"] > values[0]["table_travel"]
    assert values[1]["travel_square"] < values[0]["travel_square"]
    assert {x["kind"]: x["weight"] for x in wide}["table_travel"] == 3
    # a dial that reads micrometres decides one, and a job that asks for nearly nothing none
    decided = {x["kind"]: x["decided_by"] for x in even}
    assert decided["table_travel"] == ["Dial"]
    fine = {**PLATE, "features": [{**SIDE, "upright_tol_mm": 0.0001}]}
    told = owner.post(f"/jobs/{add(owner, fine)['id']}/limits", {"machine_id": bench.machine})
    assert all(x["too_fine"] for x in told["limits"])
    assert "Nothing in the kit" in told["limits"][0]["text"]["metric"]


def test_an_evening_for_a_job_plans_only_what_it_needs(bench: Bench) -> None:
    job = add(bench.by)
    at = f"/machines/{bench.machine}"
    asked = {"minutes": 300, "aim": "job", "job": job["id"]}
    told = bench.by.post(f"{at}/plan", asked)
    assert [s["kind"] for s in told["plan"]["steps"]] == ["spindle_tram"]
    assert told["jobs"][0]["name"] == "Side plate"
    evening = bench.by.post(f"{at}/evenings", {"id": uuid4(), **asked})
    assert evening["aim"]["title"] == "Good enough for “Side plate”"
    trammed(bench, 0.05)
    after = bench.by.get(f"/evenings/{evening['id']}")
    assert after["plan"]["steps"] == []
    assert after["plan"]["sentence"]["metric"].startswith("Nothing that it needs")
    assert after["aim"]["kinds"] == []
    refused = bench.by.post(f"{at}/plan", {"minutes": 60, "aim": "job"}, expect=422)
    assert refused["errors"][0]["field"] == "job"
    theirs = add(somebody("tove"))
    bench.by.post(f"{at}/plan", {**asked, "job": theirs["id"]}, expect=404)


def test_what_came_out_is_held_against_what_was_foretold(bench: Bench) -> None:
    job = add(bench.by)
    trammed(bench, 0.1)
    at = f"/jobs/{job['id']}/makings"
    making = bench.by.post(at, {"id": uuid4(), "machine_id": bench.machine})
    assert making["answer"] == "fits"
    key = {k: making["demands"][0][k] for k in ("feature", "key")}

    def came(text: str, expect: int = 200) -> Any:
        body = {"measured": [{**key, "text": text}], "note": "by square and feelers"}
        return bench.by.change(f"/makings/{making['id']}", body, expect=expect)

    told = came("0.03 mm")["compared"][0]
    assert (told["compares"], told["within"]) == ("worse", False)
    assert told["look_at"] == ["spindle_tram"]
    assert came("0.0002 in")["compared"][0]["compares"] == "worse"
    assert came("3 µm")["compared"][0]["compares"] == "as_foretold"
    assert came("")["compared"] == []
    refused = came("three", expect=422)
    assert refused["errors"][0]["field"] == "measured.0"
    # changing the job leaves what was foretold as it was
    spec = {**PLATE, "features": [{**SIDE, "upright_tol_mm": 0.5}]}
    bench.by.change(f"/jobs/{job['id']}", {"spec": spec})
    kept = bench.by.get(f"/jobs/{job['id']}")["makings"][0]
    assert kept["demands"][0]["tolerance"]["metric"] == "0.01 mm"
    assert bench.by.get(f"/jobs/{job['id']}")["made"] == 1
    bench.by.post(f"/makings/{making['id']}/taken-back", {"taken_back": True})
    assert bench.by.get(f"/jobs/{job['id']}")["made"] == 0
    assert Making.objects.count() == 1


@pytest.mark.parametrize(
    ("text", "came"),
    [("30", "30 %"), ("30,6 %", "31 %"), ("0", "0 %"), ("10000", "10000 %")],
)
def test_what_a_tooth_took_is_told_in_per_cent_of_its_chip(
    bench: Bench, text: str, came: str
) -> None:
    cutter = {"kind": "small_cutter", "name": "slots", "chip_mm": 0.01, "over": 0.5}
    job = add(bench.by, {**PLATE, "features": [cutter]})
    at = f"/jobs/{job['id']}/makings"
    making = bench.by.post(at, {"id": uuid4(), "machine_id": bench.machine})
    key = {k: making["demands"][0][k] for k in ("feature", "key")}

    def put(text: str, expect: int = 200) -> Any:
        body = {"measured": [{**key, "text": text}]}
        return bench.by.change(f"/makings/{making['id']}", body, expect=expect)

    told = put(text)["compared"][0]
    assert told["off"]["metric"] == told["off"]["inch"] == came
    assert told["within"] == (float(text.rstrip("% ").replace(",", ".")) <= 50)
    for wrong in ("a lot", "-1", "10001", "nan"):
        assert put(wrong, expect=422)["errors"][0]["field"] == "measured.0"


def test_a_part_that_is_worse_than_foretold_points_at_what_was_not_measured(bench: Bench) -> None:
    job = add(bench.by)
    at = f"/jobs/{job['id']}/makings"
    making = bench.by.post(at, {"id": uuid4(), "machine_id": bench.machine})
    key = {k: making["demands"][0][k] for k in ("feature", "key")}
    body = {"measured": [{**key, "text": "0.2"}]}
    told = bench.by.change(f"/makings/{making['id']}", body)["compared"][0]
    assert "was not known then" in told["text"]["metric"]
    assert told["look_at"] == ["spindle_tram"]


def test_a_copy_of_a_long_name_still_says_that_it_is_one(owner: Person) -> None:
    long = add(owner, {**PLATE, "name": "x" * 60})
    copy = owner.post(f"/jobs/{long['id']}/copy", {"id": uuid4()})
    assert copy["name"] == f"{'x' * 52} (copy)"


def test_jobs_are_copied_put_away_exported_and_read_in_again(owner: Person) -> None:
    bench_for(owner)
    job = add(owner)
    copy = owner.post(f"/jobs/{job['id']}/copy", {"id": uuid4()})
    assert copy["name"] == "Side plate (copy)"
    assert copy["spec"]["features"] == job["spec"]["features"]
    owner.post(f"/jobs/{copy['id']}/archive", {"archived": True})
    listed = owner.get(f"/workshops/{job['workshop_id']}/jobs")
    assert [j["name"] for j in listed["jobs"]] == ["Side plate"]
    assert [j["name"] for j in listed["archived"]] == ["Side plate (copy)"]
    exported = owner.client.get(f"/api/v1/jobs/{job['id']}/export")
    assert exported["Content-Type"] == "application/json"
    again = add(owner, exported.json())
    assert again["spec"] == job["spec"]
    assert Job.objects.count() == 3


@pytest.mark.parametrize(
    ("feature", "field"),
    [
        ({**SIDE, "upright_tol_mm": 0}, "spec.features.1.upright_tol_mm"),
        ({**SIDE, "depth_mm": "deep"}, "spec.features.1.depth_mm"),
        ({**SIDE, "upright_tol_mm": None}, "spec.features.1"),
        ({"kind": "gear"}, "spec.features.1"),
    ],
)
def test_bad_features_are_named_at_their_place(owner: Person, feature: Any, field: str) -> None:
    bench_for(owner)
    refused = add(owner, {"name": "x", "features": [SIDE, feature]}, expect=422)
    assert refused["errors"][0]["field"] == field
    assert Job.objects.count() == 0
    assert owner.workshop
    at = f"/workshops/{owner.workshop.pk}/jobs/preview"
    owner.post(at, {"spec": {"name": "x", "features": [feature]}}, expect=422)
    told = owner.post(at, {"spec": {"name": "x", "features": [SIDE]}})
    assert told["features"][0]["answer"] == "unknown"
    other = owner.post(
        f"/workshops/{owner.workshop.pk}/machines",
        {"name": "Heron", "spec": starting_point("micro_mill").model_dump(mode="json")},
    )["id"]
    body = {"spec": {"name": "x", "features": [SIDE]}, "machines": [other]}
    assert owner.post(at, body)["machine_id"] == other


def test_a_job_for_other_machines_says_nothing_of_this_one(owner: Person) -> None:
    mill = bench_for(owner)
    assert owner.workshop
    at = f"/workshops/{owner.workshop.pk}"
    spec = owner.get(f"/machines/{mill.machine}")["spec"]
    other = owner.post(f"{at}/machines", {"name": "Heron", "spec": spec})["id"]
    job = add(owner, machines=[other])
    assert [m["machine"] for m in job["at"]] == ["Heron"]
    assert owner.get(f"/machines/{mill.machine}")["jobs"] == []
    stranger = bench_for(somebody("tove"))
    refused = owner.change(
        f"/jobs/{job['id']}", {"spec": PLATE, "machines": [stranger.machine]}, expect=422
    )
    assert refused["errors"][0]["field"] == "machines"
    # one that is larger than its travel cannot be made there, and a plan for it is not offered
    large = {"kind": "outline", "x_mm": 2000, "y_mm": 20, "size_tol_mm": 1}
    cannot = add(owner, {"name": "Door", "features": [large]})
    assert cannot["fit"]["answer"] == "outside"
    assert "more than its travel" in cannot["fit"]["sentence"]["metric"]
    told = owner.post(f"/machines/{mill.machine}/plan", {"minutes": 60})
    assert "Door" not in [j["name"] for j in told["jobs"]]


def test_a_damaged_job_takes_no_screen_with_it(owner: Person) -> None:
    bench = bench_for(owner)
    add(owner)
    bad = add(owner, {**PLATE, "name": "Bad"})
    Job.objects.filter(pk=bad["id"]).update(spec={"shape": "job", "format": 3, "features": 3})
    assert owner.workshop
    listed = owner.get(f"/workshops/{owner.workshop.pk}/jobs")
    assert [j["name"] for j in listed["jobs"]] == ["Side plate"]
    assert [f["what"] for f in listed["faults"]] == ["Bad"]
    assert [j["name"] for j in owner.get(f"/machines/{bench.machine}")["jobs"]] == ["Side plate"]
    owner.get(f"/jobs/{bad['id']}", expect=409)
    # nor does a damaged machine: the job is told on the others
    Machine.objects.filter(pk=bench.machine).update(spec={"form": 7})
    spec = starting_point("micro_mill").model_dump(mode="json")
    owner.post(f"/workshops/{owner.workshop.pk}/machines", {"name": "Heron", "spec": spec})
    listed = owner.get(f"/workshops/{owner.workshop.pk}/jobs")
    assert [a["machine"] for a in listed["jobs"][0]["at"]] == ["Heron"]
    told = owner.post(
        f"/jobs/{listed['jobs'][0]['id']}/limits", {"machine_id": bench.machine}, expect=409
    )
    assert "cannot be read" in told["detail"]


def test_a_damaged_making_says_so_in_its_line(bench: Bench) -> None:
    job = add(bench.by)
    at = f"/jobs/{job['id']}/makings"
    ids = [bench.by.post(at, {"id": uuid4(), "machine_id": bench.machine})["id"] for _ in "ab"]
    Making.objects.filter(pk=ids[0]).update(snapshot={"shape": "making", "format": 3})
    told = {m["id"]: m for m in bench.by.get(f"/jobs/{job['id']}")["makings"]}
    assert "cannot be read" in told[ids[0]]["note"]
    assert told[ids[0]]["demands"] == []
    assert told[ids[1]]["demands"]
    refused = bench.by.change(f"/makings/{ids[0]}", {"measured": []}, expect=409)
    assert "cannot be read" in refused["detail"]


def test_queries_do_not_grow_with_machines_or_jobs(owner: Person) -> None:
    bench = bench_for(owner)
    trammed(bench, 0.1)
    job = add(owner)
    assert owner.workshop
    at = f"/workshops/{owner.workshop.pk}"

    def asked() -> list[int]:
        counts = []
        for path in (at, f"{at}/jobs", f"/jobs/{job['id']}"):
            with CaptureQueriesContext(
                connection,
            ) as queries:
                owner.get(path)
            counts.append(len(queries))
        return counts

    asked()
    few = asked()
    spec = Machine.objects.get(pk=bench.machine).spec
    for n in range(4):
        Machine.objects.create(workshop=owner.workshop, name=f"M{n}", spec=spec)
        add(owner, {**PLATE, "name": f"J{n}"})
    assert asked() == few
