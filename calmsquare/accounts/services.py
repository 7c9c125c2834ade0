"""Accounts: signing up, in and out, and changing the password."""

from __future__ import annotations

from django.contrib.auth import authenticate, login, update_session_auth_hash
from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.db import IntegrityError, transaction
from django.http import HttpRequest

from calmsquare.problems import FieldError, Invalid
from calmsquare.workshop.services import create_workshop


def sign_up(request: HttpRequest, *, name: str, email: str, password: str, time_zone: str) -> User:
    """A new account with a workshop of its own, signed in."""
    email = email.strip().lower()
    errors = []
    if not name.strip():
        errors.append(FieldError(field="name", message="What should others call you?"))
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
    user.set_password(password)
    try:
        with transaction.atomic():
            user.save()
    except IntegrityError:
        raise Invalid(
            [FieldError(field="email", message="There is an account with this address. Sign in.")]
        ) from None
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
    user = authenticate(request, username=email.strip().lower(), password=password)
    if not isinstance(user, User):
        message = "This address and password do not belong together."
        raise Invalid([FieldError(field="password", message=message)])
    login(request, user)
    return user


def change_password(request: HttpRequest, *, old: str, new: str) -> None:
    """Change the signed-in person's password; other devices are signed out."""
    user = request.user
    assert isinstance(user, User)
    if not user.check_password(old):
        raise Invalid([FieldError(field="old", message="That is not your present password.")])
    errors = _password_errors(new, user, "new")
    if errors:
        raise Invalid(errors)
    user.set_password(new)
    user.save(update_fields=["password"])
    update_session_auth_hash(request, user)
