"""A dial that runs along a face, and the face as it is turned about a bolt."""

from __future__ import annotations

from truing.standin.faces import face_read as read
from truing.standin.faces import tapped
from truing.standin.hands import Answers

ANSWERS: Answers = {"vice": tapped}

__all__ = ["ANSWERS", "read"]
