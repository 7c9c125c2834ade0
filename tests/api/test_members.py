"""Who belongs to a workshop: let in by a link, of their own accord, and taken out again."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from unittest.mock import ANY

import pytest
from django.contrib.auth.models import User
from django.test import Client
from django.utils import timezone

from calmsquare.workshop.members import HOLDS, MOST_INVITATIONS
from calmsquare.workshop.models import Invitation, Membership, Role, Workshop
from tests.api.conftest import Person, json, somebody
from tests.api.test_at_once import at_once
from tests.pattern import take_pattern

NEW = {"name": "Wenna", "email": "wenna@example.org", "password": "a long walk at low tide"}


@pytest.fixture
def friend(db: None) -> Person:
    return somebody("tove")


def invite(by: Person, role: str = "maker", **more: Any) -> Any:
    return by.post(f"{shed(by)}/invitations", {"role": role, "whom": "Tove", **more})


def shed(by: Person) -> str:
    assert by.workshop
    return f"/workshops/{by.workshop.pk}"


def look(secret: str, expect: int = 200) -> Any:
    """As somebody who has nothing but the link."""
    got = Client().post(
        "/api/v1/auth/invitation", json({"secret": secret}), content_type="application/json"
    )
    assert got.status_code == expect
    return got.json()


def test_a_link_lets_one_person_in_who_takes_it_up(owner: Person, friend: Person) -> None:
    made = invite(owner, "viewer")
    assert owner.get(f"{shed(owner)}/invitations") == [
        {"id": ANY, "role": "viewer", "whom": "Tove", "by": "Merrin", "until": ANY}
    ]
    # what stands in the database lets nobody in
    kept = Invitation.objects.get()
    assert made["secret"] not in str(vars(kept))
    friend.post("/auth/join", {"secret": kept.hashed}, expect=409)
    assert look(made["secret"]) == {
        "workshop": "merrin's shed",
        "role": "viewer",
        "by": "Merrin",
    }
    # nobody is in before they want to be
    assert [m["name"] for m in owner.get(f"{shed(owner)}/members")] == ["Merrin"]
    assert friend.post("/auth/join", {"secret": made["secret"]})["id"] == str(owner.workshop.pk)  # type: ignore[union-attr]
    assert friend.get(shed(owner))["role"] == "viewer"
    assert owner.get(f"{shed(owner)}/invitations") == []
    again = somebody("idris").post("/auth/join", {"secret": made["secret"]}, expect=409)
    assert "Ask for another" in again["detail"]


def test_who_is_in_already_uses_no_invitation_up(owner: Person, friend: Person) -> None:
    made = invite(owner, "viewer")
    told = owner.post("/auth/join", {"secret": made["secret"]}, expect=409)
    assert "already, as Owner" in told["detail"]
    assert Membership.objects.get(user=owner.user).role == Role.OWNER
    friend.post("/auth/join", {"secret": made["secret"]})


def lapse(kept: Invitation, owner: Person) -> None:
    Invitation.objects.update(until=timezone.now() - timedelta(seconds=1))


def take_back(kept: Invitation, owner: Person) -> None:
    owner.call("delete", f"/invitations/{kept.pk}", expect=204)


def lose_the_say(kept: Invitation, owner: Person) -> None:
    """Whoever sent it does not decide any more who is in."""
    Membership.objects.filter(user=owner.user).update(role=Role.MAKER)


def leave_for_good(kept: Invitation, owner: Person) -> None:
    owner.user.delete()


@pytest.mark.parametrize("end", [lapse, take_back, lose_the_say, leave_for_good])
def test_an_invitation_that_does_not_hold_lets_nobody_in(
    owner: Person, friend: Person, end: Any
) -> None:
    secret = invite(owner)["secret"]
    end(Invitation.objects.get(), owner)
    assert "does not hold any more" in look(secret, 409)["detail"]
    friend.post("/auth/join", {"secret": secret}, expect=409)
    assert not Membership.objects.filter(user=friend.user, workshop=owner.workshop).exists()


def test_a_newcomer_comes_in_by_a_link_without_a_shed_of_their_own(owner: Person) -> None:
    secret = invite(owner)["secret"]
    client = Client()
    body = json({**NEW, "invitation": secret})
    me = client.post("/api/v1/auth/sign-up", body, content_type="application/json").json()
    assert [(w["name"], w["role"]) for w in me["workshops"]] == [("merrin's shed", "maker")]
    assert Workshop.objects.count() == 1
    # one that does not hold makes no account either
    body = json({**NEW, "email": "b@example.org", "invitation": secret})
    refused = Client().post("/api/v1/auth/sign-up", body, content_type="application/json")
    assert refused.status_code == 409
    assert not User.objects.filter(email="b@example.org").exists()


def test_the_demo_is_nobody_elses(
    owner: Person, friend: Person, settings: Any, testrun_uid: str
) -> None:
    settings.DEMO = True
    take_pattern(testrun_uid)
    secret = invite(owner)["secret"]
    visitor = Client()
    place = visitor.post("/api/v1/demo/open", content_type="application/json").json()["workshops"]
    at = f"/api/v1/workshops/{place[0]['id']}/invitations"
    got = visitor.post(at, json({"role": "owner"}), content_type="application/json")
    assert got.status_code == 409
    got = visitor.post(
        "/api/v1/auth/join", json({"secret": secret}), content_type="application/json"
    )
    assert got.status_code == 409
    friend.post("/auth/join", {"secret": secret})


def test_there_is_an_end_to_how_many_are_open(owner: Person) -> None:
    made = invite(owner)
    first = Invitation.objects.get()
    Invitation.objects.bulk_create(
        Invitation(
            workshop=owner.workshop,
            role=first.role,
            hashed=str(n),
            by=owner.user,
            made_at=first.made_at,
            until=first.made_at + HOLDS,
        )
        for n in range(MOST_INVITATIONS - 1)
    )
    told = owner.post(f"{shed(owner)}/invitations", {"role": "maker"}, expect=409)
    assert str(MOST_INVITATIONS) in told["detail"]
    owner.call("delete", f"/invitations/{made['invitation']['id']}", expect=204)
    invite(owner)


@pytest.mark.django_db(transaction=True)
def test_a_link_opened_by_two_at_once_lets_one_in() -> None:
    owner = somebody("merrin")
    secret = invite(owner)["secret"]

    def joins(name: str) -> Any:
        person = somebody(name)
        body = json({"secret": secret})
        return lambda: (
            person.client.post(
                "/api/v1/auth/join", body, content_type="application/json"
            ).status_code
        )

    told = at_once(*(joins(name) for name in ("tove", "idris", "wenna")))
    assert sorted(told) == [200, 409, 409]
    assert Membership.objects.filter(workshop=owner.workshop).count() == 2


def test_members_come_and_go_and_an_owner_stays(owner: Person, friend: Person) -> None:
    friend.post("/auth/join", {"secret": invite(owner, "viewer")["secret"]})
    me, other = owner.get(f"{shed(owner)}/members")
    owner.put(f"/members/{me['id']}", {"role": "viewer"}, expect=409)
    owner.call("delete", f"/members/{me['id']}", expect=409)
    owner.put(f"/members/{other['id']}", {"role": "owner"}, expect=204)
    friend.call("delete", f"/members/{me['id']}", expect=204)
    owner.get(shed(owner), expect=404)
    # out is out: they can be asked back, and that is all
    owner.post(f"{shed(owner)}/invitations", {"role": "maker"}, expect=404)


def test_asking_which_addresses_are_taken_is_stopped_like_guessing(owner: Person) -> None:
    def ask(email: str) -> Any:
        body = json({**NEW, "email": email})
        return Client().post("/api/v1/auth/sign-up", body, content_type="application/json")

    for n in range(40):
        User.objects.create_user(f"n{n}@example.org")
        assert ask(f"n{n}@example.org").status_code == 422
    assert ask("free@example.org").status_code == 429
