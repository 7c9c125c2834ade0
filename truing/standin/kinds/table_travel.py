"""A dial that stands still over a top that is moved, or is taken over one that stands still."""

from __future__ import annotations

from truing.standin.hands import Answers, untouched
from truing.standin.tops import top_read as read

ANSWERS: Answers = {"table": untouched}

__all__ = ["ANSWERS", "read"]
