"""What a password has to be, beside what every site asks."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.core.exceptions import ValidationError

LEAST = 8


class NotBlank:
    """Blanks at its ends are no part of a password, and a few signs over and over are none."""

    def validate(self, password: str, user: User | None = None) -> None:
        """ValidationError for one of fewer than eight signs that are not blank, or of less than
        three different ones."""
        if len(password.strip()) < LEAST or len(set(password)) < 3:
            raise ValidationError(self.get_help_text())

    def get_help_text(self) -> str:
        """What is asked."""
        return (
            f"Take at least {LEAST} characters, not counting blanks at its ends, three different."
        )
