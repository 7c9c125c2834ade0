"""A dial on the table that runs along a column's face, and the column as it is turned."""

from __future__ import annotations

from truing.standin.faces import face_read as read
from truing.standin.faces import tapped
from truing.standin.hands import Answers

ANSWERS: Answers = {"column_pivot": tapped}

__all__ = ["ANSWERS", "read"]
