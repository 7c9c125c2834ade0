"""The demo workshop: opening it, and putting it back to its start."""

from __future__ import annotations

from django.contrib.auth import login
from django.contrib.auth.models import AbstractBaseUser, AnonymousUser, User
from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.http import HttpRequest

from calmsquare.demo.seed import seed
from calmsquare.workshop.models import Membership, Role, Workshop

DEMO_USER = "demo@saltmarsh.invalid"
PEOPLE = ["Merrin", "Tove", "Idris"]
"""The retired ferry engineer and the two friends."""


def demo_user() -> User:
    """The account behind the one press; nobody can sign in to it with a password."""
    return _person("Visitor", DEMO_USER)


def _person(name: str, address: str = "") -> User:
    address = address or f"{name.lower()}@saltmarsh.invalid"
    user, created = User.objects.get_or_create(
        username=address, defaults={"email": address, "first_name": name}
    )
    if created:
        user.set_unusable_password()
        user.save()
    return user


@transaction.atomic
def load() -> Workshop:
    """The demo workshop, made if it is not there."""
    there = Workshop.objects.filter(is_demo=True).first()
    if there:
        return there
    workshop = Workshop.objects.create(
        name="Saltmarsh Shed", time_zone="Europe/London", is_demo=True
    )
    user = demo_user()
    people = [_person(name) for name in PEOPLE]
    for member, role in zip(
        [user, *people], [Role.OWNER, Role.OWNER, Role.MAKER, Role.VIEWER], strict=True
    ):
        Membership.objects.create(workshop=workshop, user=member, role=role)
    seed(workshop, people)
    return workshop


def open_demo(request: HttpRequest) -> None:
    """Sign this visitor in to the demo."""
    load()
    login(request, demo_user(), backend="django.contrib.auth.backends.ModelBackend")


@transaction.atomic
def reset_demo(user: AbstractBaseUser | AnonymousUser) -> None:
    """Throw away what visitors did and begin again; only for who is in the demo."""
    if not Membership.objects.filter(user_id=user.pk or 0, workshop__is_demo=True).exists():
        raise PermissionDenied("Only somebody in the demo workshop can put it back to its start.")
    Workshop.objects.filter(is_demo=True).delete()
    load()
