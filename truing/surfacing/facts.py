"""What is known of a machine and its board when a plan is made."""

from __future__ import annotations

import hashlib
import json

from pydantic import BaseModel, ConfigDict

from truing.effects.ridges import Doubtful
from truing.machine.board import Board
from truing.programs.face import Face, Hole, Patch, Point3


class Facts(BaseModel):
    """What is known of the machine and its board when a plan is made."""

    model_config = ConfigDict(frozen=True)

    machine: str
    table_x_mm: float
    table_y_mm: float
    board: Board
    map: list[Point3] = []
    """Places and heights over the lowest one; empty where there is no fresh map."""
    patches: list[Patch] = []
    """Of a map of many points: the lowest and the highest of each part."""
    holes: list[Hole] = []
    """What no cut is to reach the floor of."""
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
    def face(self) -> Face:
        """The mapped face, but for what is a hole in it."""
        return Face([p for p in self.map if not any(_in(p, h) for h in self.holes)], self.patches)

    @property
    def mark(self) -> str:
        """Of the bed that depths and ways round belong to: another board, another thing in the way
        or another map has another mark."""
        bed = {
            "table": [self.table_x_mm, self.table_y_mm],
            "board": self.board.model_dump(mode="json"),
            "map": sorted([round(v, 4) for v in point] for point in self.map),
        }
        # a bed of few points keeps the mark that it had before there were any of these
        more = [*self.patches, *self.holes]
        if more:
            bed["more"] = [m.model_dump(mode="json") for m in more]
        return hashlib.sha256(json.dumps(bed, sort_keys=True).encode()).hexdigest()[:16]


def _in(point: Point3, hole: Hole) -> bool:
    left, front, right, rear = hole.box
    return left <= point[0] <= right and front <= point[1] <= rear and point[2] <= hole.low_mm
