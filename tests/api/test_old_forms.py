"""A form that was open for a while overwrites nobody, and the same sent twice is made once."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import pytest

from calmsquare.jobs.models import Job, Making
from calmsquare.logbook.models import Check, Photo
from calmsquare.planning.models import Evening
from calmsquare.workshop.models import Machine, Role
from tests.api.conftest import API, Bench, Person, a_photo, bench_for, send_photo, somebody
from tests.api.test_at_once import at_once, by, sends, stand  # noqa: F401

SIDE = {"kind": "wall", "name": "side", "depth_mm": 30, "upright_tol_mm": 0.01}
JOB = {"name": "Side plate", "features": [SIDE]}


@pytest.fixture
def things(bench: Bench) -> dict[str, str]:
    """One of each that is changed by a form, by its address."""
    shed = bench.by
    assert shed.workshop
    at = f"/workshops/{shed.workshop.pk}"
    piece = shed.post(f"{at}/pieces", {"name": "C", "spec": {"type": "collet"}})
    shim = shed.post(f"{at}/shims", {"thickness_mm": "0.1 mm", "count": 9, "material": "brass"})
    job = shed.post(f"{at}/jobs", {"id": uuid4(), "spec": JOB})
    return {
        "machine": f"/machines/{bench.machine}",
        "board": f"/machines/{bench.machine}/board",
        "instrument": f"/instruments/{bench.instrument}",
        "piece": f"/pieces/{piece['id']}",
        "shim": f"/shims/{shim['id']}",
        "job": f"/jobs/{job['id']}",
    }


def put(body: dict[str, Any], path: str, value: Any) -> dict[str, Any]:
    """The body with another value there."""
    head, _, rest = path.partition(".")
    return {**body, head: put(body[head], rest, value) if rest else value}


SENT = {
    "machine": ("name", "spec", "intervals"),
    "board": ("board",),
    "instrument": ("name", "spec"),
    "piece": ("name", "spec"),
    "shim": ("thickness_mm", "count", "material", "tolerance_mm"),
    "job": ("spec", "machines"),
}
BOTH = [
    ("machine", "name", "Egret", "Heron", "intervals.spindle_tram", 33),
    ("machine", "intervals.lost_motion", 21, 22, "spec.table_x_mm", 321.0),
    ("board", "board.thickness_mm", 19.0, 20.0, "board.least_mm", 7.0),
    ("instrument", "spec.compared_with", "a block", "a gauge", "name", "Old dial"),
    ("piece", "spec.mark", "red", "blue", "name", "Collet 6"),
    ("shim", "count", 8, 12, "tolerance_mm", 0.004),
    ("job", "spec.material", "brass", "steel", "spec.name", "Front plate"),
]


@pytest.mark.parametrize(("thing", "where", "mine", "theirs", "elsewhere", "other"), BOTH)
def test_what_two_change_in_two_open_forms_stands_side_by_side(
    bench: Bench,
    things: dict[str, str],
    thing: str,
    where: str,
    mine: Any,
    theirs: Any,
    elsewhere: str,
    other: Any,
) -> None:
    at = things[thing]
    friend = somebody("tove", bench.by.workshop, Role.MAKER)
    shown = bench.by.shown(at)
    began = {"board": shown} if thing == "board" else {f: shown[f] for f in SENT[thing]}
    was = began["board"] if thing == "board" else began
    # without what it began with it is refused, whoever sends it
    [told] = bench.by.put(at, put(began, where, mine), expect=422)["errors"]
    assert told["field"] == "was"
    friend.put(at, {**put(began, elsewhere, other), "was": was})
    bench.by.put(at, {**put(began, where, mine), "was": was})
    # both at the same: the second is told which, and nothing of it is kept
    before = bench.by.shown(at)
    told = friend.put(at, {**put(began, where, theirs), "was": was}, expect=409)
    assert told["type"] == "urn:calm-square:changed-meanwhile"
    assert "changed the same while this page was open: " in told["detail"]
    now = bench.by.shown(at)
    assert now == before
    kept = {"board": now} if thing == "board" else now
    for path, value in ((where, mine), (elsewhere, other)):
        found = kept
        for step in path.split("."):
            found = found[step]
        assert found == value, path


def test_two_who_type_the_same_limit(bench: Bench) -> None:
    at = f"/machines/{bench.machine}"
    shown = bench.by.get(at)
    seen = {k: {x["key"]: x["value"] for x in v} for k, v in shown["limits"].items()}
    body = {"name": "Avocet", "spec": shown["spec"], "was": {**shown, "tolerances": seen}}
    bench.by.put(at, {**body, "tolerances": {"spindle_tram": {"nod": "0.4 mm/m"}}})
    second = {**body, "tolerances": {"spindle_tram": {"nod": "0.3 mm/m"}}}
    assert "Limits" in bench.by.put(at, second, expect=409)["detail"]
    bench.by.put(at, {**body, "tolerances": {"spindle_tram": {"lean_x": "0.3 mm/m"}}})
    odd = {**second, "was": {**shown, "tolerances": {"spindle_tram": {"nod": "a figure"}}}}
    [told] = bench.by.put(at, odd, expect=422)["errors"]
    assert told["field"] == "was.tolerances.spindle_tram.nod"
    own = Machine.objects.get(pk=bench.machine).tolerances["spindle_tram"]
    assert own == pytest.approx({"nod": 0.4, "lean_x": 0.3})


def test_of_two_who_enter_what_came_out_the_second_is_told(bench: Bench) -> None:
    assert bench.by.workshop
    job = bench.by.post(f"/workshops/{bench.by.workshop.pk}/jobs", {"id": uuid4(), "spec": JOB})
    made = bench.by.post(f"/jobs/{job['id']}/makings", {"id": uuid4(), "machine_id": bench.machine})
    at = f"/makings/{made['id']}"
    body = {"measured": [], "note": "by square and feelers", "was": made["mark"]}
    kept = bench.by.put(at, body)
    late = {**body, "note": "by eye"}
    assert "while this page was open" in bench.by.put(at, late, expect=409)["detail"]
    assert bench.by.get(at) == kept


def test_the_same_sent_twice_is_made_once(bench: Bench, things: dict[str, str]) -> None:
    shed = f"/workshops/{bench.by.workshop.pk}"  # type: ignore[union-attr]
    at = f"/machines/{bench.machine}"
    spec = bench.by.get(at)["spec"]
    twice = {
        f"{shed}/jobs": ({"id": uuid4(), "spec": JOB}, Job),
        f"{things['job']}/makings": ({"id": uuid4(), "machine_id": bench.machine}, Making),
        f"{things['job']}/copy": ({"id": uuid4()}, Job),
        f"{shed}/machines": ({"id": uuid4(), "name": "Heron", "spec": spec}, Machine),
        f"{at}/evenings": ({"id": uuid4(), "minutes": 90}, Evening),
        f"{at}/checks": ({"id": uuid4(), "kind": "lost_motion"}, Check),
    }
    stranger = bench_for(somebody("stranger"))
    for path, (body, model) in twice.items():
        first = bench.by.post(path, body)
        if model is Evening:
            bench.by.post(f"/evenings/{first['id']}/end")
        count = model.objects.count()
        # sent again, also with something else in it, it is what it was
        again = bench.by.post(path, {**body, **({"name": "Other"} if model is Machine else {})})
        assert again["id"] == first["id"], path
        assert model.objects.count() == count, path
    # in another shed that id is another record's
    own = f"/workshops/{stranger.by.workshop.pk}/jobs"  # type: ignore[union-attr]
    told = stranger.by.post(own, {"id": things["job"].rpartition("/")[2], "spec": JOB}, expect=409)
    assert "Side plate" not in str(told)


@pytest.mark.django_db(transaction=True)
def test_a_photo_sent_twice_at_once_is_one(stand: Bench) -> None:  # noqa: F811
    id, photo = uuid4(), a_photo()

    def send() -> str:
        return str(send_photo(stand, photo, by=Person(stand.by.user), id=id)["id"])

    assert at_once(send, send, send) == [str(id)] * 3
    assert Photo.objects.count() == 1


def test_of_a_kind_one_check_is_under_way(bench: Bench) -> None:
    bench.set_up()
    bench.swing(0.2, 0.0)
    bench.by.post(f"/rounds/{bench.round['id']}/settle")
    old = bench.check["id"]
    at = f"/machines/{bench.machine}/checks"
    newer = bench.by.post(at, {"id": uuid4(), "kind": "spindle_tram"})
    told = bench.by.post(f"/checks/{old}/rounds", {"id": uuid4()}, expect=409)
    assert "under way" in told["detail"]
    assert Check.objects.filter(closed_at=None).count() == 1
    assert bench.by.post(at, {"id": uuid4(), "kind": "spindle_tram"})["id"] == newer["id"]


def test_who_has_no_rights_to_a_round_learns_nothing_of_its_readings(bench: Bench) -> None:
    bench.set_up()
    bench.swing(0.2, 0.0, passes=1)
    taken = bench.round["readings"][0]["id"]
    path = f"{API}/rounds/{bench.round['id']}/readings/{taken}"
    body = {"station": "3", "text": "1", "unit": "mm", "read_at": "2026-03-01T19:00:00Z"}
    for who, status in ((somebody("tove"), 404), (viewer(bench), 403)):
        got = who.client.put(path, body, content_type="application/json")
        log = who.client.put(
            path.replace("/readings/", "/logs/"),
            {**body, "text": "1 2"},
            content_type="application/json",
        )
        assert (got.status_code, log.status_code) == (status, status)


def viewer(bench: Bench) -> Person:
    return somebody("idris", bench.by.workshop, Role.VIEWER)
