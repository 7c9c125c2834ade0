"""The list to buy: put down where something is missed, ticked off, shared by the workshop."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from uuid import uuid4

from django.utils import timezone

from calmsquare.workshop.models import Membership, Role, Wanted
from calmsquare.workshop.wanted import MOST_WANTED
from tests.api.conftest import Bench, Person, bench_for, somebody


def put(bench: Bench, what: str, expect: int = 200, by: Person | None = None, **more: Any) -> Any:
    assert bench.by.workshop
    body = {"id": uuid4(), "what": what, **more}
    path = f"/workshops/{bench.by.workshop.pk}/wanted"
    return (by or bench.by).post(path, body, expect=expect)


def test_what_is_missed_stands_once_with_why_and_for_what(bench: Bench) -> None:
    thin = {"why": "No shim makes this better.", "sort": "shim", "machine_id": bench.machine}
    put(bench, "Shim 0.01 mm", **thin)
    put(bench, "  Shim 0.01 mm ", **thin)
    rows = put(bench, "Shim 0.01 mm", why="For the vice.")
    assert [(r["what"], r["why"], r["machine"]) for r in rows] == [
        ("Shim 0.01 mm", "No shim makes this better.", "Avocet"),
        ("Shim 0.01 mm", "For the vice.", None),
    ]
    assert rows[0]["by"]
    assert rows[0]["sort"] == "shim"


def test_sent_twice_it_stands_once_and_another_id_is_a_conflict(bench: Bench) -> None:
    id = uuid4()
    assert bench.by.workshop
    path = f"/workshops/{bench.by.workshop.pk}/wanted"
    for _ in range(2):
        rows = bench.by.post(path, {"id": id, "what": "A finer dial"})
    assert len(rows) == 1
    other = bench_for(somebody("Elsewhere"))
    assert other.by.workshop
    theirs = f"/workshops/{other.by.workshop.pk}/wanted"
    other.by.post(theirs, {"id": id, "what": "Mine"}, expect=409)
    assert Wanted.objects.get().what == "A finer dial"


def test_what_was_bought_goes_to_the_end_and_can_come_back(bench: Bench) -> None:
    first = put(bench, "A level")[0]
    put(bench, "A square")
    rows = bench.by.put(f"/wanted/{first['id']}/got", {"got": True})
    assert [r["what"] for r in rows] == ["A square", "A level"]
    assert rows[1]["got_at"]
    # bought once, it can be wanted again
    assert len(put(bench, "A level")) == 3
    long_ago = timezone.now() - timedelta(days=40)
    Wanted.objects.filter(pk=first["id"]).update(got_at=long_ago)
    assert bench.by.workshop
    listed = bench.by.get(f"/workshops/{bench.by.workshop.pk}/wanted")
    assert [r["id"] for r in listed].count(first["id"]) == 0
    rows = bench.by.put(f"/wanted/{first['id']}/got", {"got": False})
    assert all(r["got_at"] is None for r in rows)
    rows = bench.by.call("delete", f"/wanted/{first['id']}")
    assert [r["what"] for r in rows] == ["A square", "A level"]
    bench.by.put(f"/wanted/{first['id']}/got", {"got": True}, expect=404)


def test_only_what_there_is_can_be_asked_for(bench: Bench) -> None:
    other = bench_for(somebody("Elsewhere"))
    put(bench, "A dial", 404, machine_id=other.machine)
    refused = put(bench, "A dial", 422, types=["wand"])
    assert refused["errors"][0]["field"] == "types"
    put(bench, "", 422)
    assert bench.by.workshop
    for i in range(MOST_WANTED):
        Wanted.objects.create(
            workshop=bench.by.workshop, what=str(i), made_at=bench.by.workshop.created_at
        )
    assert "full" in str(put(bench, "One more", 409))


def test_who_only_looks_sees_the_list_and_changes_nothing(bench: Bench) -> None:
    assert bench.by.workshop
    viewer = somebody("Looker")
    Membership.objects.create(workshop=bench.by.workshop, user=viewer.user, role=Role.VIEWER)
    row = put(bench, "A level")[0]
    put(bench, "Mine", 403, by=viewer)
    viewer.put(f"/wanted/{row['id']}/got", {"got": True}, expect=403)
    viewer.call("delete", f"/wanted/{row['id']}", expect=403)
    seen = viewer.get(f"/workshops/{bench.by.workshop.pk}/wanted")
    assert [r["what"] for r in seen] == ["A level"]
