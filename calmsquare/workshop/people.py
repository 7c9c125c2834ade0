"""What people are called wherever the record names them."""

from __future__ import annotations

from django.contrib.auth.models import User


def name_of(user: User | None) -> str:
    """What a person is called in the record."""
    return (user.first_name or user.username) if user else "someone who has left"
