"""Accounts: signing up, in and out, and changing the password."""

from __future__ import annotations

from datetime import timedelta

from axes.models import AccessAttempt, AccessFailureLog, AccessLog
from django.conf import settings
from django.contrib.auth import authenticate, login, logout, update_session_auth_hash
from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.contrib.auth.signals import user_login_failed
from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.db import IntegrityError, transaction
from django.db.models import Sum
from django.http import HttpRequest
from django.utils import timezone
from ninja.errors import HttpError

from calmsquare.accounts.hashing import a_turn
from calmsquare.problems import Conflict, FieldError, Invalid
from calmsquare.workshop.members import take_up
from calmsquare.workshop.models import Invitation, Role, Workshop
from calmsquare.workshop.services import create_workshop


def sign_up(
    request: HttpRequest,
    *,
    name: str,
    email: str,
    password: str,
    time_zone: str,
    invitation: str = "",
) -> User:
    """A new account, signed in: with a workshop of its own, or in the one it was invited to.

    Without a letter to an address nothing but a refusal can tell that it is taken; who asks for
    many is stopped as one who guesses passwords is.
    """
    _not_sprayed(request)
    email = email.strip().lower()
    errors = []
    if not name.strip():
        errors.append(_no_name())
    try:
        validate_email(email)
    except ValidationError:
        errors.append(
            FieldError(
                field="email", message="That is no email address.", expected="name@example.org"
            )
        )
    user = User(username=email, email=email, first_name=name.strip()[:150])
    errors += _password_errors(password, user, "password")
    if errors:
        raise Invalid(errors)
    with a_turn():
        user.set_password(password)
    try:
        with transaction.atomic():
            user.save()
    except IntegrityError:
        request.keeps_what_it_wrote = True  # type: ignore[attr-defined]
        user_login_failed.send(sender=sign_up, credentials={"username": email}, request=request)
        raise Invalid(
            [FieldError(field="email", message="There is an account with this address. Sign in.")]
        ) from None
    if invitation:
        take_up(user, invitation)
    else:
        create_workshop(user, name=f"{name.strip()}’s workshop"[:80], time_zone=time_zone)
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    return user


def _password_errors(password: str, user: User, field: str) -> list[FieldError]:
    try:
        validate_password(password, user)
    except ValidationError as error:
        return [FieldError(field=field, message=message) for message in error.messages]
    return []


def sign_in(request: HttpRequest, *, email: str, password: str) -> User:
    """Invalid when the two do not belong together. After too many tries the answer is 429."""
    _not_sprayed(request)
    with a_turn():
        user = authenticate(request, username=email.strip().lower(), password=password)
    if not isinstance(user, User):
        message = "This address and password do not belong together."
        raise Invalid([FieldError(field="password", message=message)])
    login(request, user)
    return user


def remove(request: HttpRequest, *, password: str) -> None:
    """Remove the signed-in person and the workshops that are theirs alone; what they read in
    others' stays there without their name. Conflict where others would be without an owner."""
    user = request.user
    assert isinstance(user, User)
    _knows_its_password(request, password, "password")
    theirs = Workshop.objects.select_for_update(of=("self",)).filter(memberships__user=user)
    alone = []
    for workshop in theirs.order_by("pk"):
        others = workshop.memberships.exclude(user=user)
        if not others.exists():
            alone.append(workshop)
        elif not others.filter(role=Role.OWNER).exists():
            raise Conflict(
                f"Others work in “{workshop.name}”, and you are its only owner. Make one of them "
                "its owner first, or take them out."
            )
    for workshop in alone:
        workshop.delete()
    addresses = {user.username, user.email} - {""}
    logout(request)
    user.delete()
    for address in addresses:
        _forget(address)


def _forget(address: str) -> None:
    """Take an address out of wherever it stands beside the account that had it: among wrong
    passwords, and on invitations that name it."""
    for model in (AccessAttempt, AccessFailureLog, AccessLog):
        model.objects.filter(username__iexact=address).delete()
    Invitation.objects.filter(whom__icontains=address).update(whom="")


def call_otherwise(request: HttpRequest, name: str) -> None:
    """Another name for the signed-in person, wherever it is told."""
    user = request.user
    assert isinstance(user, User)
    if not name.strip():
        raise Invalid([_no_name()])
    user.first_name = name.strip()[:150]
    user.save(update_fields=["first_name"])


def _no_name() -> FieldError:
    return FieldError(field="name", message="What should others call you?")


def _knows_its_password(request: HttpRequest, password: str, field: str) -> None:
    user = request.user
    assert isinstance(user, User)
    with a_turn():
        # tried as at the door, where tries are counted: a session left open is no way to guess on
        known = authenticate(request, username=user.username, password=password)
    if known != user:
        # it is counted, though the request is refused
        request.keeps_what_it_wrote = True  # type: ignore[attr-defined]
        raise Invalid([FieldError(field=field, message="That is not your present password.")])


SPRAYED = 40
"""Wrong passwords from one address, whatever the names: a household mistypes less often."""


def _not_sprayed(request: HttpRequest) -> None:
    """HttpError 429 after too many wrong passwords for too many names from one address."""
    since = timezone.now() - timedelta(hours=settings.AXES_COOLOFF_TIME)
    tries = AccessAttempt.objects.filter(
        ip_address=request.META.get("REMOTE_ADDR"), attempt_time__gte=since
    ).aggregate(n=Sum("failures_since_start"))["n"]
    if (tries or 0) >= SPRAYED:
        raise HttpError(429, "Too many tries. Wait a quarter of an hour, then try again.")


def change_password(request: HttpRequest, *, old: str, new: str) -> None:
    """Change the signed-in person's password; other devices are signed out."""
    user = request.user
    assert isinstance(user, User)
    _knows_its_password(request, old, "old")
    errors = _password_errors(new, user, "new")
    if errors:
        raise Invalid(errors)
    with a_turn():
        user.set_password(new)
    user.save(update_fields=["password"])
    update_session_auth_hash(request, user)
