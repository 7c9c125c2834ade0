"""Two hands at once: nothing lost, nothing doubled, and the second told what the first was."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from threading import Barrier
from time import sleep
from typing import Any
from uuid import uuid4

import pytest
from django.db import connection, transaction
from django.test import Client

from calmsquare.logbook.models import Check, Move, Reading, Round
from calmsquare.workshop.models import Machine, Membership, Role, ShimStock
from calmsquare.workshop.services import MOST_TINS, MOST_WORKSHOPS
from tests.api.conftest import Bench, Person, bench_for, json, somebody
from tests.api.test_below_the_tram import Sitting
from tests.api.test_course import now
from tests.api.test_leaning import FINE, read
from tests.core.cases import BEAM
from truing.machine import starting_point
from truing.standin.truth import GantryTruth, Truth

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def by(transactional_db: None) -> Person:
    return somebody("merrin")


@pytest.fixture
def stand(by: Person) -> Bench:
    return bench_for(by)


def at_once(*calls: Callable[[], Any]) -> list[Any]:
    """What each came to, all begun at the same moment."""
    ready = Barrier(len(calls))

    def begin(call: Callable[[], Any]) -> Any:
        try:
            ready.wait(20)
            return call()
        finally:
            connection.close()

    with ThreadPoolExecutor(len(calls)) as pool:
        return [f.result(60) for f in [pool.submit(begin, c) for c in calls]]


def sends(by: Person, method: str, path: str, body: Any = None) -> Callable[[], Any]:
    """The call, from a client of its own."""
    client = Client()
    client.force_login(by.user, "django.contrib.auth.backends.ModelBackend")
    data = [] if body is None else [json(body)]

    def call() -> Any:
        got = client.generic(
            method.upper(), f"/api/v1{path}", *data, content_type="application/json"
        )
        return got.status_code, got.json() if got.content else None

    return call


def test_one_reading_sent_eight_times_at_once_is_kept_once(stand: Bench) -> None:
    stand.set_up()
    at = f"/rounds/{stand.round['id']}/readings/{uuid4()}"
    body = {"station": "12", "text": "0.1", "unit": "mm", "read_at": now()}
    told = at_once(*[sends(stand.by, "put", at, body) for _ in range(8)])
    assert Counter(status for status, _ in told) == {200: 8}
    assert Reading.objects.count() == 1


def test_one_machine_or_check_sent_at_once_is_made_once(stand: Bench) -> None:
    assert stand.by.workshop
    spec = starting_point("knee_mill").model_dump(mode="json")
    body = {"id": uuid4(), "name": "Merganser", "spec": spec}
    at = f"/workshops/{stand.by.workshop.pk}/machines"
    told = at_once(*[sends(stand.by, "post", at, body) for _ in range(4)])
    assert {status for status, _ in told} <= {200, 409}
    assert Machine.objects.filter(name="Merganser").count() == 1
    check = {"id": uuid4(), "kind": "base_level"}
    at = f"/machines/{stand.machine}/checks"
    told = at_once(*[sends(stand.by, "post", at, check) for _ in range(4)])
    assert Counter(status for status, _ in told) == {200: 4}
    assert Check.objects.filter(kind="base_level").count() == 1


def test_done_pressed_twice_is_done_once_and_told_alike(stand: Bench) -> None:
    stand.set_up()
    stand.swing(0.6, 0.01)
    form = {
        "id": uuid4(),
        "key": None,
        "said": "Turned it a little.",
        "made_at": now(),
        "next_round_id": uuid4(),
    }
    at = f"/rounds/{stand.round['id']}/move"
    told = at_once(*[sends(stand.by, "post", at, form) for _ in range(4)])
    assert Counter(status for status, _ in told) == {200: 4}, told
    assert len({check["id"] for _, check in told}) == 1
    assert Move.objects.count() == 1
    assert Round.objects.count() == 2


def test_shims_added_by_many_at_once_are_all_counted(by: Person) -> None:
    assert by.workshop
    form = {"thickness_mm": "0.05 mm", "count": 5, "material": "brass"}
    at = f"/workshops/{by.workshop.pk}/shims"
    before = ShimStock.objects.filter(material="brass").count()
    told = at_once(*[sends(by, "post", at, form) for _ in range(8)])
    assert Counter(status for status, _ in told) == {200: 8}
    shim = ShimStock.objects.get(material="brass", thickness_mm=0.05)
    assert shim.count == 40
    assert ShimStock.objects.filter(material="brass").count() == before + 1


def test_a_tin_has_an_end(by: Person) -> None:
    assert by.workshop
    ShimStock.objects.bulk_create(
        ShimStock(workshop=by.workshop, thickness_mm=1 + n / 1000, count=1)
        for n in range(MOST_TINS - ShimStock.objects.filter(workshop=by.workshop).count())
    )
    at = f"/workshops/{by.workshop.pk}/shims"
    full = by.post(at, {"thickness_mm": "5 mm", "count": 1}, expect=409)
    assert str(MOST_TINS) in full["detail"]
    # more of what is there already finds room
    by.post(at, {"thickness_mm": "1 mm", "count": 3})
    assert ShimStock.objects.get(workshop=by.workshop, thickness_mm=1).count == 4


def test_workshops_of_one_owner_have_an_end(by: Person) -> None:
    for n in range(MOST_WORKSHOPS - 1):
        by.post("/workshops", {"name": f"Shed {n}"})
    assert "more are not kept" in by.post("/workshops", {"name": "One more"}, expect=409)["detail"]


def test_two_owners_who_leave_at_once_leave_one(by: Person) -> None:
    assert by.workshop
    other = somebody("idris", by.workshop, Role.OWNER)
    at = f"/workshops/{by.workshop.pk}/leave"
    told = at_once(sends(by, "post", at), sends(other, "post", at))
    assert sorted(status for status, _ in told) in ([204, 409], [200, 409])
    assert Membership.objects.filter(workshop=by.workshop, role=Role.OWNER).count() == 1


def test_a_form_that_was_open_meanwhile_empties_nothing(stand: Bench) -> None:
    at = f"/machines/{stand.machine}"
    shown = stand.by.get(at)
    # others give it other limits of its slides and feet while the form is open
    meanwhile = {**shown["spec"], "table_x_mm": shown["spec"]["table_x_mm"] + 5}
    stand.by.put(at, {"name": shown["name"], "spec": meanwhile, "was": shown})
    typed = {**shown["spec"], "cutter_mm": "41 mm"}
    saved = stand.by.put(at, {"name": "Heron", "spec": typed, "was": shown})
    assert saved["spec"]["table_x_mm"] == shown["spec"]["table_x_mm"] + 5
    assert saved["spec"]["cutter_mm"] == 41
    # both at the same figure: it is told, and nothing is written over
    typed = {**shown["spec"], "table_x_mm": "999 mm"}
    told = stand.by.put(at, {"name": "Egret", "spec": typed, "was": shown}, expect=409)
    assert "Table or bed, left to right" in told["detail"]
    assert stand.by.get(at)["name"] == "Heron"


def with_a_move(by: Person, kind: str, machine: str | None = None) -> tuple[Sitting, Any]:
    """A check of a gantry that is out, read, and Done as the page would send it."""
    twisted = Truth(gantry=GantryTruth(right_up_mm=0.4, right_ahead_mm=0.5), noise_share=0.1)
    dial = BEAM if kind == "gantry_square" else FINE
    made = Sitting(by, "gantry_router", kind, dial, None if machine else twisted, machine=machine)
    found = read(made, **({} if kind == "gantry_square" else {"way": "dial", "passes": 2}))
    form = {
        "id": uuid4(),
        "key": next(m["key"] for m in found["advice"]["moves"] if m["needs"] is None),
        "advice": found["advice_id"],
        "made_at": now(),
        "next_round_id": uuid4(),
    }
    return made, form


def test_of_two_moves_at_once_on_one_machine_none_is_lost(by: Person) -> None:
    square, first = with_a_move(by, "gantry_square")
    level, second = with_a_move(by, "gantry_level", square.machine)
    parts = {"gantry_drive": (square, first), "lift": (level, second)}
    before = Machine.objects.get(pk=square.machine).spec
    told = at_once(
        *(sends(by, "post", f"/rounds/{s.round['id']}/move", f) for s, f in parts.values())
    )
    # the advice of the one that came second was for another machine: it is told, and tried again
    assert Counter(status for status, _ in told) == {200: 1, 409: 1}, told
    after = Machine.objects.get(pk=square.machine).spec
    for (status, _), (part, (sitting, form)) in zip(told, parts.items(), strict=True):
        assert (after[part] != before[part]) == (status == 200), part
        if status == 409:
            form["advice"] = sitting.found["advice_id"]
            by.post(f"/rounds/{sitting.round['id']}/move", form)
    after = Machine.objects.get(pk=square.machine).spec
    assert all(after[part] != before[part] for part in parts)
    for made in Move.objects.all():
        by.put(f"/records/moves/{made.pk}/taken-back", {"taken_back": True})
    assert Machine.objects.get(pk=square.machine).spec == before


def test_a_move_waits_for_its_machine_with_nothing_in_its_hands(by: Person) -> None:
    """Who takes a move back holds the machine and then wants the rounds after it: somebody who
    makes one must not hold such a round while waiting for the machine."""
    square, form = with_a_move(by, "gantry_square")
    make = sends(by, "post", f"/rounds/{square.round['id']}/move", form)
    with ThreadPoolExecutor(1) as pool, transaction.atomic():
        Machine.objects.select_for_update().get(pk=square.machine)

        def waits() -> Any:
            try:
                return make()
            finally:
                connection.close()

        making = pool.submit(waits)
        for _ in range(200):
            with connection.cursor() as cursor:
                cursor.execute("SELECT count(*) FROM pg_locks WHERE NOT granted")
                if cursor.fetchone()[0]:
                    break
            sleep(0.05)
        else:
            pytest.fail("nobody waits for the machine")
        Round.objects.select_for_update(nowait=True).get(pk=square.round["id"])
    assert making.result(30)[0] == 200
