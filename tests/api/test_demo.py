"""The demo: a shed of one's own for every visitor, copied at once, swept up after a day."""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from secrets import token_hex
from typing import Any
from urllib.parse import quote
from uuid import UUID, uuid4

import pytest
from django.apps import apps
from django.contrib.auth.models import User
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection, connections
from django.test import Client
from django.utils import timezone

from calmsquare.demo import sweeping
from calmsquare.demo.copying import COPIED, delete
from calmsquare.demo.models import Opening
from calmsquare.demo.services import fresh_shed, load
from calmsquare.demo.sweeping import ADDRESS, KEPT, make_room, sweep, weights
from calmsquare.logbook.models import Note, Reading, Round
from calmsquare.surfacing.models import Program
from calmsquare.workshop.models import Machine, Membership, Workshop
from calmsquare.workshop.room import DEMO_BYTES, DEMO_FILE_BYTES
from calmsquare.workshop.services import machine_spec
from tests.api.conftest import API, Person, json
from tests.pattern import take_pattern
from truing.record import load as stored
from truing.registry import kind

pytestmark = [
    pytest.mark.django_db,
    pytest.mark.usefixtures("pattern"),
]


@pytest.fixture(scope="module")
def pattern(django_db_setup: None, django_db_blocker: Any, testrun_uid: str) -> Iterator[None]:
    """The pattern, there for all tests of this file, as a server builds it once."""
    with django_db_blocker.unblock():
        take_pattern(testrun_uid)
    yield
    with django_db_blocker.unblock():
        delete(list(Workshop.objects.filter(is_pattern=True)))
        User.objects.filter(username__endswith=ADDRESS).delete()


def test_the_demo_tells_its_story_and_is_put_back_only_by_who_is_in_it(
    owner: Person, settings: Any
) -> None:
    settings.DEMO = False
    owner.post("/demo/open", expect=404)
    settings.DEMO = True
    owner.post("/demo/reset", expect=403)
    me = Person(owner.user)
    told = me.post("/demo/open")
    shed = told["workshops"][0]["id"]
    briefs = {m["name"]: m for m in me.get(f"/workshops/{shed}")["machines"]}
    machines = {name: me.get(f"/machines/{m['id']}") for name, m in briefs.items()}
    for name, brief in briefs.items():
        assert brief == {field: machines[name][field] for field in brief}
    stands = {(name, c["kind"]): c["status"] for name, m in machines.items() for c in m["checks"]}
    assert stands["Avocet", "spindle_tram"] == "out"
    assert stands["Avocet", "lost_motion"] == "too_close"
    assert stands["Curlew", "rail_straight"] == stands["Curlew", "rail_parallel"] == "true"
    assert stands["Curlew", "rail_twist"] == "out"
    read = {"table_travel": "true", "travel_square": "out"}
    read |= dict.fromkeys(("spindle_play", "spindle_runout", "tool_runout"), "true")
    for (name, key), status in stands.items():
        assert name != "Dunlin" or status == read.get(key, "unmeasured")
    twist = next(c for c in machines["Curlew"]["checks"] if c["kind"] == "rail_twist")
    assert [(p["title"], p["status"]) for p in twist["parts"]] == [
        ("coarse stage", "true"),
        ("fine stage", "out"),
    ]
    assert twist["open_check"] == machines["Curlew"]["next_step"]["open_check"]
    log, after = [], ""
    while after is not None:
        page = me.get(f"/workshops/{shed}/logbook{'?after=' + quote(after) if after else ''}")
        log, after = log + page["entries"], page["next"]
    assert sum(e["sitting"] is not None for e in log) == 45
    assert sum(e["record"] is not None for e in log) == 10
    again = me.post("/demo/reset")["workshops"][0]["id"]
    assert again != shed
    me.get(f"/workshops/{shed}", expect=404)
    assert len(me.get(f"/workshops/{again}")["machines"]) == 3


def visitor(settings: Any) -> tuple[Client, str]:
    """Somebody who has pressed the button, and their shed."""
    settings.DEMO = True
    client = Client()
    told = client.post(f"{API}/demo/open", content_type="application/json").json()
    return client, told["workshops"][0]["id"]


def _seen(visitor: Client, shed: str) -> list[Any]:
    """All that a visitor sees of a shed and of themselves."""
    at = f"{API}/workshops/{shed}"
    pages = ("", "/members", "/invitations", "/kit", "/logbook", "/jobs")
    return [visitor.get(f"{at}{page}").json() for page in pages] + [
        visitor.get(f"{API}/auth/me").json()
    ]


def test_what_one_visitor_adds_renames_or_leaves_no_other_sees(settings: Any) -> None:
    one, mine = visitor(settings)
    other, theirs = visitor(settings)
    before = _seen(other, theirs)
    at = f"{API}/workshops/{mine}"
    kit, machine = one.get(f"{at}/kit").json(), one.get(at).json()["machines"][0]
    dial, spec = kit["instruments"][0], one.get(f"{API}/machines/{machine['id']}").json()["spec"]
    renamed = {"name": "Mine now", "spec": spec}

    def send(method: str, path: str, body: Any, status: int = 200) -> None:
        got = one.generic(method, path, json(body), content_type="application/json")
        assert got.status_code == status, got.content[:300]

    was = {"name": machine["name"], "spec": spec}
    send("put", f"{API}/machines/{machine['id']}", {**renamed, "was": was})
    other_dial = {"name": "Mine now", "spec": dial["spec"], "was": dial}
    send("put", f"{API}/instruments/{dial['id']}", other_dial)
    send("post", f"{at}/machines", {**renamed, "name": "Another"})
    send("post", f"{at}/shims", {"thickness_mm": "0.37 mm", "count": 3})
    for member in one.get(f"{at}/members").json():
        one.delete(f"{API}/members/{member['id']}")
    assert _seen(one, mine) != before
    assert _seen(other, theirs) == before
    # somebody who comes now finds the shed as it was, too
    third, newest = visitor(settings)
    names = [m["name"] for m in third.get(f"{API}/workshops/{newest}").json()["machines"]]
    assert names == [m["name"] for m in before[0]["machines"]]
    one.post(f"{at}/leave", content_type="application/json")
    assert _seen(other, theirs) == before


def test_nobody_can_deface_the_shed_of_another(settings: Any) -> None:
    one, mine = visitor(settings)
    other, theirs = visitor(settings)
    assert mine != theirs
    before = other.get(f"{API}/workshops/{theirs}").json()
    all_before = _seen(other, theirs)
    machine = before["machines"][0]["id"]
    assert one.get(f"{API}/workshops/{theirs}").status_code == 404
    assert one.get(f"{API}/machines/{machine}").status_code == 404
    for m in one.get(f"{API}/workshops/{mine}").json()["machines"]:
        got = one.put(
            f"{API}/machines/{m['id']}/archived",
            {"archived": True},
            content_type="application/json",
        )
        assert got.status_code == 200
    one.post(f"{API}/demo/reset", content_type="application/json")
    assert other.get(f"{API}/workshops/{theirs}").json() == before
    assert _seen(other, theirs) == all_before
    # pressed again, it is the same shed
    again = other.post(f"{API}/demo/open", content_type="application/json").json()
    assert again["workshops"][0]["id"] == theirs


def test_a_copy_has_all_of_the_pattern_and_its_times_are_of_now(settings: Any) -> None:
    pattern = load()
    Workshop.objects.filter(pk=pattern.pk).update(created_at=timezone.now() - timedelta(days=30))
    _, shed = visitor(settings)
    owned = [m for m in apps.get_models() if getattr(m, "WORKSHOP_PATH", None)]
    assert set(owned) <= set(COPIED), "what a workshop owns is copied with it"
    for model in owned:
        path = model.WORKSHOP_PATH  # type: ignore[attr-defined]
        pair = [model._default_manager.filter(**{path: w}).count() for w in (pattern.pk, shed)]
        assert pair[0] == pair[1] - (model is Membership), model
    # nobody in the story reads beyond a table or a travel
    for read in Round.objects.filter(check_run__machine__workshop=pattern).exclude(setup=None):
        setup = stored("setup", read.setup, read.check_run.kind)
        machine = machine_spec(read.check_run.machine)
        assert kind(read.check_run.kind).doubts(setup, machine) == []
    days = timedelta(days=30)
    for old, new in zip(
        Reading.objects.filter(round__check_run__machine__workshop=pattern).order_by("read_at"),
        Reading.objects.filter(round__check_run__machine__workshop=shed).order_by("read_at"),
        strict=True,
    ):
        assert (old.station, old.text, old.shown_mm) == (new.station, new.text, new.shown_mm)
        assert abs(new.read_at - old.read_at - days) < timedelta(seconds=60)
        assert new.round.check_run.machine.workshop_id != pattern.pk
    # what rounds have learnt is told by the copy's own instruments
    known = {str(i.pk) for i in Workshop.objects.get(pk=shed).instruments.all()}
    learnt = Round.objects.filter(check_run__machine__workshop=shed).exclude(lesson=None)
    for lesson in learnt.values_list("lesson", flat=True):
        assert set(lesson["spreads"]) <= {*known, "", "seat"}
    # and what was put together is the copy's own, in set-ups, subjects and in the simulated machine
    pieces = {str(p.pk) for p in Workshop.objects.get(pk=shed).pieces.all()}
    chains = learnt.filter(check_run__kind="tool_runout")
    for setup, subject in chains.values_list("setup", "subject"):
        assert set(setup["names"]) <= pieces
        assert set(subject.removeprefix("pieces:").split("+")) <= set(setup["names"])
    dunlin = Machine.objects.get(workshop=shed, name="Dunlin")
    assert set(dunlin.truth["tooling"]["pieces"]) <= pieces


def test_sheds_of_yesterday_are_swept_up_and_others_are_not(settings: Any) -> None:
    _, old = visitor(settings)
    _, fresh = visitor(settings)
    mine = Workshop.objects.create(name="A real shed")
    User.objects.filter(memberships__workshop=old, username__startswith="visitor-").update(
        date_joined=timezone.now() - KEPT - timedelta(minutes=1)
    )
    assert sweep() == 1
    assert set(Workshop.objects.values_list("pk", flat=True)) == {
        load().pk,
        mine.pk,
        *Workshop.objects.filter(pk=fresh).values_list("pk", flat=True),
    }
    assert not Machine.objects.filter(workshop=old).exists()


@pytest.mark.django_db(transaction=True)
def test_many_open_and_reset_it_at_once(settings: Any) -> None:
    """Six visitors arrive before anything is there, and two of them press reset twice at once."""

    def arrive(_: int) -> tuple[int, str]:
        try:
            client, shed = visitor(settings)
            status = client.get(f"{API}/workshops/{shed}").status_code
            return status, shed
        finally:
            connections.close_all()

    with ThreadPoolExecutor(6) as pool:
        arrived = list(pool.map(arrive, range(6)))
    assert [status for status, _ in arrived] == [200] * 6
    assert len({shed for _, shed in arrived}) == 6
    assert Workshop.objects.filter(is_pattern=True).count() == 1
    client, _ = visitor(settings)

    def reset(_: int) -> int:
        try:
            again = Client()
            again.cookies = client.cookies
            return again.post(f"{API}/demo/reset", content_type="application/json").status_code
        finally:
            connections.close_all()

    with ThreadPoolExecutor(4) as pool:
        assert list(pool.map(reset, range(4))) == [200] * 4
    sheds = client.get(f"{API}/auth/me").json()["workshops"]
    assert len(sheds) == 1
    told = client.get(f"{API}/workshops/{sheds[0]['id']}").json()
    assert len(told["machines"]) == 3


def test_a_person_who_is_no_visitor_keeps_their_own(owner: Person, settings: Any) -> None:
    settings.DEMO = True
    guest = User.objects.create_user(f"visitor-{uuid4().hex}@example.org")
    shed = fresh_shed(guest)
    assert sweep() == 0
    assert Workshop.objects.filter(pk=shed.pk).exists()
    owner.post("/demo/reset", expect=403)


def test_one_address_has_so_many_sheds_an_hour(settings: Any) -> None:
    settings.DEMO, settings.DEMO_OPENINGS = True, 2

    def opened(address: str, client: Client | None = None) -> int:
        path = f"{API}/demo/{'reset' if client else 'open'}"
        got = (client or Client()).post(path, content_type="application/json", REMOTE_ADDR=address)
        return got.status_code

    first = Client()
    assert first.post(f"{API}/demo/open", REMOTE_ADDR="2001:db8:7:1::5").status_code == 200
    # all that a household's network has counts as one, and so does putting it back
    assert opened("2001:db8:7:1::5", first) == 200
    before = Workshop.objects.count()
    assert opened("2001:db8:7:1:ffff::1") == 429
    assert opened("2001:db8:7:1::5", first) == 429
    assert Workshop.objects.count() == before
    # who has a shed comes back to it, others open theirs, and after an hour so do these
    assert first.post(f"{API}/demo/open", REMOTE_ADDR="2001:db8:7:1::5").status_code == 200
    assert opened("2001:db8:7:2::5") == opened("192.0.2.7") == 200
    Opening.objects.update(at=timezone.now() - timedelta(minutes=61))
    assert opened("2001:db8:7:1:ffff::1") == 200


def test_sheds_that_take_too_much_room_go_first(
    settings: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    sheds = [visitor(settings)[1] for _ in range(4)]
    mine = Workshop.objects.create(name="A real shed", is_demo=False)
    everyone = Workshop.objects.filter(is_demo=True, is_pattern=False)
    each = weights(everyone)
    # what the database itself says of a table that holds nothing else is about as much
    assert 500_000 < min(each.values()) <= max(each.values()) < 2_000_000
    assert make_room() == 0
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE workshop_workshop SET created_at = created_at + (%s || ' min')::interval"
            " WHERE id = %s",
            [5, sheds[0]],
        )
    # the third is overfull: it goes before all others, and then the oldest
    note = Note.objects.filter(round__check_run__machine__workshop=sheds[2]).first()
    assert note
    Note.objects.filter(pk=note.pk).update(text=token_hex(DEMO_BYTES))
    heavy = weights(everyone)
    assert heavy[UUID(sheds[2])] > DEMO_BYTES
    monkeypatch.setattr(sweeping, "MOST_BYTES", heavy.total() - DEMO_BYTES)
    assert make_room() == 1
    assert not Workshop.objects.filter(pk=sheds[2]).exists()
    monkeypatch.setattr(sweeping, "MOST_BYTES", weights(everyone).total() - 1)
    assert make_room() == 1
    left = set(map(str, everyone.values_list("pk", flat=True)))
    assert left == {sheds[0], sheds[3]}
    assert Workshop.objects.filter(pk=mine.pk).exists()
    monkeypatch.setattr(sweeping, "MOST_BYTES", 0)
    assert make_room() == 2


def test_a_program_of_the_demo_is_no_larger_than_it_need_be(settings: Any) -> None:
    client, shed = visitor(settings)
    machine = Machine.objects.get(workshop=shed, name="Curlew")
    before = Program.objects.count()

    def send(size: int) -> Any:
        data = SimpleUploadedFile("p.nc", (b"G0 X1\n" * (size // 6 + 1))[:size])
        form = {"id": str(uuid4()), "stated": "{}", "program": data}
        return client.post(f"{API}/machines/{machine.pk}/programs", form)

    told = send(DEMO_FILE_BYTES + 1)
    assert told.status_code == 409
    assert "more than the demo takes of one file: 5 MB" in told.json()["detail"]
    assert Program.objects.count() == before
    assert send(DEMO_FILE_BYTES).status_code == 200
