"""What is known of a machine and its board when a plan is made."""

from __future__ import annotations

import hashlib
import json

from pydantic import BaseModel, ConfigDict

from truing.effects.ridges import Doubtful
from truing.machine.board import Board

Point3 = tuple[float, float, float]


class Facts(BaseModel):
    """What is known of the machine and its board when a plan is made."""

    model_config = ConfigDict(frozen=True)

    machine: str
    table_x_mm: float
    table_y_mm: float
    board: Board
    map: list[Point3] = []
    """Places and heights over the lowest one; empty where there is no fresh map."""
    map_expanded_mm: float = 0.0
    specks: list[Point3] = []
    """Places that stand off all those around them, and by how much over these."""
    lean_x: Doubtful | None = None
    lean_y: Doubtful | None = None
    proven_feed_mm_min: float = 0.0
    taken_mm: list[float] = []
    """What was taken off at earlier surfacings."""
    day: str = ""

    @property
    def mark(self) -> str:
        """Of the bed that depths and ways round belong to: another board, another thing in the way
        or another map has another mark."""
        bed = {
            "table": [self.table_x_mm, self.table_y_mm],
            "board": self.board.model_dump(mode="json"),
            "map": sorted([round(v, 4) for v in point] for point in self.map),
        }
        return hashlib.sha256(json.dumps(bed, sort_keys=True).encode()).hexdigest()[:16]
