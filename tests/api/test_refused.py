"""A request that is refused changes nothing, however late it is refused."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any
from uuid import uuid4

import pytest
from django.apps import apps
from django.db import connection, transaction
from django.test import Client
from django.test.utils import CaptureQueriesContext
from ninja.operation import Operation

from tests.api.conftest import Bench, Person, a_photo, bench_for, json, send_photo, send_program
from tests.api.test_below_the_tram import FINE, Sitting
from tests.api.test_walls import BODIES, filled, routes, theirs
from tests.pattern import ROOT
from truing.measure.problem import Problem

__all__ = ["theirs"]

WRITING = [r for r in routes() if r[0] in ("post", "put", "delete")]
KEEPS = "/auth/sign-in"
"""A wrong password is counted, so that nobody can try for ever."""


def records() -> dict[str, list[tuple[Any, ...]]]:
    """Every row of every table."""

    def plain(value: Any) -> Any:
        return bytes(value) if isinstance(value, memoryview) else value

    return {
        model._meta.label: sorted(
            (tuple(plain(v) for v in row) for row in model._default_manager.values_list()),
            key=str,
        )
        for model in apps.get_models()
    }


def body_of(path: str, model: str, bench: Bench) -> Any:
    """What the route takes, such that it would go through."""
    own: dict[str, Any] = {
        "CheckIn": {"id": uuid4(), "kind": "base_level"},
        "SetupIn": {
            "version": bench.round["version"],
            "instrument_id": bench.instrument,
            "setup": {"radius_mm": 100},
        },
        "SignUp": {"name": "Tove", "email": "tove@example.org", "password": "a long tide clock"},
        "SignIn": {"email": "merrin@example.org", "password": "a long tide clock"},
        "NewPassword": {"old": "a long tide clock", "new": "another orrery"},
    }
    body = own.get(model, BODIES.get(model))
    # another id for each call: what was sent before is passed over
    return {**body, "id": uuid4()} if isinstance(body, dict) and "id" in body else body


def send(bench: Bench, method: str, path: str, model: str) -> int:
    if path.endswith(("/photos", "/programs")):
        return uploaded_status(bench, path)
    at = f"/api/v1{filled(path, bench)}"
    body = body_of(path, model, bench)
    got = bench.by.client.generic(
        method.upper(), at, *([] if body is None else [json(body)]), content_type="application/json"
    )
    return int(got.status_code)


HELD = ROOT / "tests/golden/held.txt"
READ = re.compile(r'FROM "(\w+)"')
WRITTEN = re.compile(r'^(?:INSERT INTO|UPDATE|DELETE FROM) "((?!django_session|axes)\w+)"')


def tables(queries: Sequence[str], named: re.Pattern[str]) -> list[str]:
    """The tables that queries name so, each once."""
    return list(dict.fromkeys(m[1] for sql in queries for m in named.finditer(sql)))


def uploaded_status(bench: Bench, path: str) -> int:
    for status in (200, 422):
        try:
            if path.endswith("/photos"):
                send_photo(bench, a_photo(), expect=status)
            else:
                send_program(bench, b"G21", expect=status)
        except AssertionError:
            continue
        return status
    return 0


@pytest.fixture
def late(monkeypatch: pytest.MonkeyPatch) -> Any:
    """Refuse every request at the very end, when all it does has been done."""

    answer = Operation._result_to_response

    def refuse(self: Any, request: Any, result: Any, *args: Any) -> Any:
        if request.method == "GET":
            return answer(self, request, result, *args)
        raise Problem("It turned out at the end.", expected="Try it again.")

    def begin() -> None:
        monkeypatch.setattr(Operation, "_result_to_response", refuse)

    return begin


@pytest.mark.django_db
def test_every_writing_route_that_is_refused_at_the_end_has_changed_nothing(
    theirs: Bench, late: Any
) -> None:
    theirs.by.user.set_password("a long tide clock")
    theirs.by.user.save()
    theirs.by.client.force_login(theirs.by.user, "django.contrib.auth.backends.ModelBackend")
    held, writes = [], []
    for route in WRITING:
        with transaction.atomic(), CaptureQueriesContext(connection) as ran:
            status = send(theirs, *route)
            transaction.set_rollback(True)
        theirs.by.client.force_login(theirs.by.user, "django.contrib.auth.backends.ModelBackend")
        told = [q["sql"] for q in ran.captured_queries]
        if status < 300 and tables(told, WRITTEN):
            writes.append(route[:2])
        kept = ", ".join(tables([sql for sql in told if "FOR UPDATE" in sql], READ))
        held.append(f"{route[0]} {route[1]}: {kept or 'nothing'}")
    # most of them do write when they are not refused, or this test would prove nothing
    assert len(writes) >= 35, {r[:2] for r in WRITING} - set(writes)
    # what two may change at once is held by whoever came first; so it was read and approved
    assert held == HELD.read_text("utf-8").splitlines()
    late()
    for route in WRITING:
        # signing out takes the cookie away, whatever becomes of the rest
        theirs.by.client.force_login(theirs.by.user, "django.contrib.auth.backends.ModelBackend")
        before = records()
        status = send(theirs, *route)
        assert status >= 400, route
        if route[1] != KEEPS:
            assert records() == before, route


def test_a_wrong_password_is_counted_though_it_is_refused(client: Client, owner: Person) -> None:
    owner.user.set_password("a long tide clock")
    owner.user.save()
    body = {"email": owner.user.username, "password": "wrong"}
    for _ in range(7):
        got = client.post("/api/v1/auth/sign-in", body, content_type="application/json")
        assert got.status_code == 422
    for _ in range(3):
        got = client.post("/api/v1/auth/sign-in", body, content_type="application/json")
    assert got.status_code == 429


def test_advice_that_cannot_be_made_is_a_remark_and_no_refused_reading(owner: Person) -> None:
    """The slide was taken out of the description while its lost motion was being read."""
    sitting = Sitting(owner, "column_mill", "lost_motion", FINE)
    sitting.set_up(places_mm="0", read_bearing=False)
    spec = owner.get(f"/machines/{sitting.machine}")["spec"]
    spec["slides"] = [s for s in spec["slides"] if s["direction"] != "left_right"]
    owner.change(f"/machines/{sitting.machine}", {"name": "Avocet", "spec": spec})
    for text in ("0.0", "+0.2", "0.0", "+0.2"):
        sitting.put(sitting.round["next_station"], text)
    assert sitting.round["brief"]["verdict"] == "out"
    assert len(sitting.round["readings"]) == 4
    found = sitting.found
    assert found["finding"]["mean"]["value"] == pytest.approx(0.2)
    assert found["advice"]["moves"] == []
    assert "not described as having that slide" in found["advice"]["remarks"][0]["metric"]


def test_a_reading_refused_for_its_station_is_not_in_the_record(owner: Person) -> None:
    bench = bench_for(owner)
    bench.set_up()
    before = records()
    bench.read("7", "+0.01", expect=422)
    bench.read("12", "seven", expect=422)
    bench.read("12", "+0.01", zeroed_on=uuid4(), expect=422)
    bench.read("12", "+0.01", supersedes=uuid4(), expect=422)
    bench.read("12", "+0.01", instrument_id=uuid4(), expect=404)
    assert records() == before
