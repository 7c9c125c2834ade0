"""Signing up and in: nothing for other sites, no guessing, no password that is none."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from threading import Event, Semaphore, Thread
from typing import Any

import pytest
from axes.models import AccessAttempt
from django.contrib.auth.models import User
from django.db import connection
from django.http import HttpResponse
from django.test import Client, RequestFactory
from django.utils import timezone
from ninja.errors import HttpError

from calmsquare.accounts.hashing import PASSWORDS, a_turn
from calmsquare.accounts.services import SPRAYED
from calmsquare.front import KnockedFrom
from calmsquare.jobs.models import Job
from calmsquare.surfacing.services import PLANNING
from calmsquare.turns import Turns
from calmsquare.workshop.models import Membership, Role, Workshop
from tests.api.conftest import Person

API = "/api/v1/auth"
WORD = "a long walk at low tide"
NEW = {"name": "Wenna", "email": "wenna@example.org", "password": WORD}

pytestmark = pytest.mark.django_db


def send(client: Client, path: str, body: Any, **headers: str) -> Any:
    kind = "text/plain" if client.handler.enforce_csrf_checks else "application/json"
    return client.post(f"{API}{path}", json.dumps(body), content_type=kind, headers=headers)


def signed_up() -> Client:
    client = Client()
    assert send(client, "/sign-up", NEW).status_code == 200
    return client


def test_another_sites_page_signs_nobody_in_up_or_out(settings: Any) -> None:
    settings.DEMO = True
    signed_up()
    other = Client(enforce_csrf_checks=True)
    known = {"email": NEW["email"], "password": WORD}
    for path, body in (("/sign-in", known), ("/sign-up", {**NEW, "email": "b@example.org"})):
        refused = send(other, path, body)
        assert refused.status_code == 403, path
        assert "Load it anew" in refused.json()["detail"]
    assert other.post("/api/v1/demo/open").status_code == 403
    assert User.objects.count() == 1
    # a page of ours has the token
    assert other.get(f"{API}/me").json()["signed_in"] is False
    token = other.cookies["csrftoken"].value
    assert send(other, "/sign-in", known, **{"X-CSRFToken": token}).status_code == 200
    assert other.post(f"{API}/sign-out").status_code == 403
    assert other.get(f"{API}/me").json()["signed_in"] is True


@pytest.mark.parametrize("none", [" " * 8, "  short  ", "aaaaaaaaaaaa", "ababababab", "12345678"])
def test_what_is_no_password_is_refused(none: str) -> None:
    told = send(Client(), "/sign-up", {**NEW, "password": none})
    assert told.status_code == 422
    assert {e["field"] for e in told.json()["errors"]} == {"password"}
    assert not User.objects.exists()


def test_the_old_password_cannot_be_guessed_from_a_session_left_open() -> None:
    client = signed_up()
    told = [
        send(client, "/password", {"old": f"guess {n}", "new": WORD + "."}).status_code
        for n in range(12)
    ]
    assert told[0] == 422
    assert told[-1] == 429
    # nor does the right one help until the time is up
    assert send(client, "/password", {"old": WORD, "new": WORD + "."}).status_code == 429


def test_the_password_is_changed_by_who_knows_it() -> None:
    client = signed_up()
    assert send(client, "/password", {"old": WORD, "new": WORD + "!"}).status_code == 200
    assert client.get(f"{API}/me").json()["signed_in"]
    assert send(Client(), "/sign-in", {**NEW, "password": WORD}).status_code == 422
    assert send(Client(), "/sign-in", {**NEW, "password": WORD + "!"}).status_code == 200


def test_an_account_goes_with_what_is_its_own_and_leaves_others_theirs(owner: Person) -> None:
    assert owner.workshop
    client = signed_up()
    alone = Workshop.objects.get(memberships__user__email=NEW["email"])
    me = User.objects.get(email=NEW["email"])
    guest = Membership.objects.create(workshop=alone, user=owner.user, role=Role.MAKER)
    Membership.objects.create(workshop=owner.workshop, user=me, role=Role.MAKER)
    note = Job.objects.create(
        workshop=owner.workshop, name="Plate", spec={}, by=me, created_at=timezone.now()
    )
    assert send(client, "/remove", {"password": "a guess"}).status_code == 422
    kept = send(client, "/remove", {"password": WORD})
    assert kept.status_code == 409
    assert alone.name in kept.json()["detail"]
    assert User.objects.filter(pk=me.pk).exists()
    guest.delete()
    gone = send(client, "/remove", {"password": WORD})
    assert gone.status_code == 200
    assert gone.json()["signed_in"] is False
    assert client.get(f"{API}/me").json()["signed_in"] is False
    assert not User.objects.filter(pk=me.pk).exists()
    assert not Workshop.objects.filter(pk=alone.pk).exists()
    note.refresh_from_db()
    assert note.by is None
    assert owner.get(f"/workshops/{owner.workshop.pk}")["name"]
    assert send(Client(), "/sign-in", {**NEW}).status_code == 422


def test_an_account_that_goes_leaves_its_address_nowhere(owner: Person) -> None:
    client = signed_up()
    address = NEW["email"]
    assert owner.workshop
    invite = f"/workshops/{owner.workshop.pk}/invitations"
    owner.post(invite, {"role": "viewer", "whom": f"Idris <{address.upper()}>"})
    owner.post(invite, {"role": "viewer", "whom": "Tove"})
    # an account without an address takes nothing along but itself
    bare = Person(User.objects.create_user("bare", password=WORD))
    assert (
        bare.client.post(
            f"{API}/remove", json.dumps({"password": WORD}), content_type="application/json"
        ).status_code
        == 200
    )
    # wrong passwords, by its name and by another's, and the right one
    for email in (address, address.upper(), owner.user.email or "merrin@example.org"):
        send(Client(), "/sign-in", {"email": email, "password": "a guess"})
    assert AccessAttempt.objects.filter(username__iexact=address).exists()
    assert address in _everything()
    assert send(client, "/remove", {"password": WORD}).status_code == 200
    assert address not in _everything()
    # and nothing of others' goes along
    assert "tove" in _everything()
    assert AccessAttempt.objects.exists()


def _everything() -> str:
    """All that the database holds, as text."""
    with connection.cursor() as cursor:
        names = connection.introspection.table_names(cursor)
        rows = []
        for name in names:
            cursor.execute(f'SELECT t::text FROM "{name}" t')
            rows += [row[0] for row in cursor.fetchall()]
    return "\n".join(rows).lower()


def test_one_address_cannot_try_a_password_on_every_name() -> None:
    signed_up()
    for n in range(SPRAYED):
        assert (
            send(Client(), "/sign-in", {"email": f"n{n}@example.org", "password": WORD}).status_code
            == 422
        )
    told = send(Client(), "/sign-in", {"email": NEW["email"], "password": WORD})
    assert told.status_code == 429
    assert "Wait" in told.json()["detail"]
    # from another address it goes on
    AccessAttempt.objects.update(ip_address="203.0.113.9")
    assert send(Client(), "/sign-in", {"email": NEW["email"], "password": WORD}).status_code == 200


def test_passwords_take_turns_and_a_queue_is_told_to_wait() -> None:
    inside, go, seen = Event(), Event(), []

    def hold() -> None:
        with a_turn():
            inside.set()
            go.wait(10)

    def wait() -> None:
        with a_turn():
            seen.append("second")

    first, second = Thread(target=hold), Thread(target=wait)
    first.start()
    assert inside.wait(10)
    second.start()
    for _ in range(1000):
        try:
            with a_turn():
                pass
        except HttpError as full:
            assert full.status_code == 429
            break
    else:
        pytest.fail("a third was let in")
    assert seen == []
    go.set()
    first.join(10)
    second.join(10)
    assert seen == ["second"]
    with a_turn():
        pass


def test_of_four_threads_one_is_left_whatever_takes_long() -> None:
    """Passwords and plans together take no more than three, and whoever is one too many is told."""
    inside, go = Semaphore(0), Event()

    def hold(turns: Turns) -> None:
        with turns.one():
            inside.release()
            go.wait(10)

    sorts = [Turns(f"sort {n}") for n in range(4)]
    busy = [Thread(target=hold, args=(sort,)) for sort in sorts[:3]]
    for thread in busy:
        thread.start()
        assert inside.acquire(timeout=10)
    try:
        for turns in (sorts[3], PLANNING, PASSWORDS):
            with pytest.raises(HttpError) as full, turns.one():
                pytest.fail("a fourth was let in")
            assert full.value.status_code == 429
        assert Client().get("/healthy").status_code == 200
    finally:
        go.set()
        for thread in busy:
            thread.join(10)
    with PLANNING.one():
        pass


@pytest.mark.parametrize(("behind", "seen"), [(True, "203.0.113.7"), (False, "127.0.0.1")])
def test_only_the_server_in_front_says_who_knocked(settings: Any, behind: bool, seen: str) -> None:
    settings.BEHIND_FRONT = behind
    request = RequestFactory().get("/", headers={"X-Real-IP": "203.0.113.7"})
    told = KnockedFrom(lambda r: HttpResponse(r.META["REMOTE_ADDR"]))(request)
    assert told.content.decode() == seen


def test_answers_stay_in_no_cache() -> None:
    client = signed_up()
    for path in (f"{API}/me", "/api/v1/nothing"):
        assert client.get(path).headers["Cache-Control"] == "no-store"


@pytest.mark.parametrize("key", ["", "   "])
def test_it_does_not_start_without_a_secret(key: str) -> None:
    env = {**os.environ, "SECRET_KEY": key}
    run = [sys.executable, "-c", "import calmsquare.settings"]
    got = subprocess.run(run, check=False, env=env, capture_output=True, text=True)
    assert got.returncode != 0
    assert "Set SECRET_KEY" in got.stderr


@pytest.mark.parametrize(
    ("env", "secure"), [({}, True), ({"DEMO": "1"}, False), ({"SECURE_COOKIES": "0"}, False)]
)
def test_outside_the_demo_cookies_go_over_tls_alone(env: dict[str, str], secure: bool) -> None:
    clean = {k: v for k, v in os.environ.items() if k not in ("DEMO", "DEBUG", "SECURE_COOKIES")}
    tells = "print(s.SESSION_COOKIE_SECURE, s.SECURE_HSTS_SECONDS > 0)"
    run = [sys.executable, "-c", f"import calmsquare.settings as s; {tells}"]
    whole = {**clean, **env}
    got = subprocess.run(run, env=whole, capture_output=True, text=True, check=True)
    assert got.stdout.split() == [str(secure)] * 2
