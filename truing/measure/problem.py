"""What the core says when it cannot use what it was given."""

from __future__ import annotations


class Problem(ValueError):
    """Input that cannot be used.

    `field` names where it was typed (dotted for nested fields, "" for the whole), `message` says
    what is wrong and what was read, `expected` what would do.
    """

    def __init__(self, message: str, *, expected: str, field: str = "") -> None:
        super().__init__(f"{message} {expected}")
        self.field = field
        self.message = message
        self.expected = expected

    def at(self, field: str) -> Problem:
        """The same problem, named for the field it was typed in."""
        return Problem(self.message, expected=self.expected, field=field)
