"""The demo workshop: a shed of one's own for every visitor, copied from a pattern built once."""

from __future__ import annotations

import uuid
from datetime import timedelta
from ipaddress import ip_address, ip_network

from django.conf import settings
from django.contrib.auth import login
from django.contrib.auth.models import AbstractBaseUser, AnonymousUser, User
from django.core.exceptions import PermissionDenied
from django.db import connection, transaction
from django.http import HttpRequest
from django.utils import timezone
from ninja.errors import HttpError

from calmsquare.demo.copying import COPIED, copy, delete
from calmsquare.demo.models import Opening
from calmsquare.demo.story import seed
from calmsquare.demo.sweeping import ADDRESS, VISITOR, sweep
from calmsquare.workshop.models import Membership, Role, Workshop
from truing import VERSION

PEOPLE = {"Merrin": Role.OWNER, "Tove": Role.MAKER, "Idris": Role.VIEWER}
"""The retired ferry engineer and the two friends."""
_LOCK = 1871
"""Of the database's own locks: one at a time builds the pattern."""


def _person(address: str, name: str) -> User:
    user, created = User.objects.get_or_create(
        username=address, defaults={"email": address, "first_name": name}
    )
    if created:
        user.set_unusable_password()
        user.save()
    return user


@transaction.atomic
def load() -> Workshop:
    """The pattern of the demo workshop; built if it is not there, or was by another version."""
    there = _pattern()
    if there:
        return there
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(%s)", [_LOCK])
    # somebody may have built it while this waited
    there = _pattern()
    if there:
        return there
    delete(list(Workshop.objects.filter(is_pattern=True)))
    workshop = Workshop.objects.create(
        name="Saltmarsh Shed",
        time_zone="Europe/London",
        is_demo=True,
        is_pattern=True,
        pattern_version=VERSION,
    )
    people = [_person(f"{name.lower()}{ADDRESS}", name) for name in PEOPLE]
    for person, role in zip(people, PEOPLE.values(), strict=True):
        Membership.objects.create(workshop=workshop, user=person, role=role)
    seed(workshop, people)
    # a database that was empty a moment ago plans its queries as if it still were
    tables = ", ".join(f'"{model._meta.db_table}"' for model in COPIED)
    with connection.cursor() as cursor:
        cursor.execute(f"ANALYZE {tables}")
    return workshop


def _pattern() -> Workshop | None:
    return Workshop.objects.filter(is_pattern=True, pattern_version=VERSION).first()


@transaction.atomic
def fresh_shed(visitor: User) -> Workshop:
    """A copy of the pattern that is this visitor's own, as if its evenings had just been."""
    pattern = load()
    shed = copy(pattern, timezone.now() - pattern.created_at)
    Membership.objects.create(workshop=shed, user=visitor, role=Role.OWNER)
    return shed


def open_demo(request: HttpRequest) -> None:
    """Sign this visitor in to a shed of their own: the one they have, or a fresh one."""
    if not _sheds(request.user):
        _not_again_and_again(request)
        visitor = _person(f"{VISITOR}{uuid.uuid4().hex}{ADDRESS}", "Visitor")
        fresh_shed(visitor)
        Opening.objects.create(visitor=visitor, address=_from(request))
        login(request, visitor, backend="django.contrib.auth.backends.ModelBackend")
    sweep()


def _from(request: HttpRequest) -> str:
    """Whose address it is: of the newer kind, a household has as many as it likes."""
    try:
        told = ip_address(request.META.get("REMOTE_ADDR", ""))
    except ValueError:
        # a server in front that says nothing of whom it speaks for
        return ""
    return str(told if told.version == 4 else ip_network((told, 64), strict=False))


def _not_again_and_again(request: HttpRequest) -> None:
    """HttpError 429 where one address has had enough sheds for an hour."""
    since = timezone.now() - timedelta(hours=1)
    had = Opening.objects.filter(address=_from(request), at__gte=since).count()
    if had >= settings.DEMO_OPENINGS:
        told = "The demo was opened often from where you are. Wait an hour, then open it again."
        raise HttpError(429, told)


@transaction.atomic
def reset_demo(request: HttpRequest) -> None:
    """Throw away what this visitor did and begin again; only for who is in the demo."""
    user = request.user
    mine = _sheds(user)
    if not mine:
        raise PermissionDenied("Only somebody in the demo workshop can put it back to its start.")
    assert isinstance(user, User)
    _not_again_and_again(request)
    # two resets at once: the second waits, and finds the shed of the first
    User.objects.select_for_update().get(pk=user.pk)
    delete(_sheds(user))
    fresh_shed(user)
    Opening.objects.create(visitor=user, address=_from(request))


def _sheds(user: AbstractBaseUser | AnonymousUser) -> list[Workshop]:
    """The sheds of a visitor; none for anybody else."""
    if not getattr(user, "username", "").startswith(VISITOR):
        return []
    found = Workshop.objects.filter(is_demo=True, is_pattern=False, memberships__user=user.pk or 0)
    return list(found)
