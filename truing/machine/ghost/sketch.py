"""What a ghost is made of: parts in three views, and how far each is known to lean.

One parametric description for the front (X, Z), side (Y, Z) and plan (X, Y) views, in mm. A
drawing turns each part about its pivot by its lean × a factor; a part whose lean is not known has
none, and is drawn dotted, never square.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping
from typing import Literal

from pydantic import BaseModel

View = Literal["front", "side", "plan"]


class Point(BaseModel):
    """A place in a view, mm: u across it, v up it."""

    u: float
    v: float


DRAWN_DEG = 5.0
"""The worst error is drawn at about this angle."""

FACTORS = (50, 75, 100, 150, 200, 300, 400, 500, 650, 800, 1000)


DESCRIBES = {
    "Base": "feet",
    "Feet": "feet",
    "Column": "column",
    "Pivot": "column",
    "Column's foot": "base",
    "Knee": "slides",
    "Slots": "things",
    "Table": "things",
    "Spindle": "head",
    "Cutter": "head",
    "Bed": "rails",
    "Rails": "rails",
    "Board": "board",
    "Beam": "gantry",
    "End plates": "gantry",
    "Fixed bolt": "gantry",
    "Bracket screws": "bracket",
    "Lifting motors": "lift",
    "Driving motors": "gantry_drive",
}
"""What is pressed on the drawing, and what of the description is opened by it."""


class GhostPart(BaseModel):
    """One part in one view: closed outlines in mm, the pivot it leans about, and its lean."""

    name: str
    describes: str
    """The field of the machine's description that tells most of it."""
    view: View
    outlines: list[list[Point]]
    pivot: Point
    known: bool
    """False: not measured, to be drawn dotted."""
    detail: bool
    """Bolts, feet, motors: drawn thin."""
    stale: bool
    """Measured once, but something it rests on was touched since."""
    lean_mm_per_m: float
    """Plus = its top to +u (right, or to the rear) in this view; 0 for the reference itself."""


class Ghost(BaseModel):
    """All parts, and the factor at which the worst lean draws about five degrees."""

    parts: list[GhostPart]
    factor: int
    factors: list[int]
    worst_mm_per_m: float


def outline(*points: tuple[float, float]) -> list[Point]:
    """A closed line through these places."""
    return [Point(u=u, v=v) for u, v in points]


def box(u0: float, u1: float, v0: float, v1: float) -> list[Point]:
    """A rectangle."""
    return outline((u0, v0), (u1, v0), (u1, v1), (u0, v1))


def spot(u: float, v: float, size: float) -> list[Point]:
    """A small diamond, for a bolt or a foot."""
    return outline((u - size, v), (u, v + size), (u + size, v), (u, v - size))


def ring(u: float, v: float, radius: float) -> list[Point]:
    """A circle, as far as lines can say it."""
    turns = [2 * math.pi * i / 24 for i in range(24)]
    return outline(*((u + radius * math.cos(t), v + radius * math.sin(t)) for t in turns))


class Sketch:
    """Collects the parts of a drawing, with what is known of their leans."""

    def __init__(self, leans: Mapping[str, float], stale: Collection[str]) -> None:
        self.leans = leans
        self.stale = stale
        self.parts: list[GhostPart] = []

    def add(
        self,
        name: str,
        view: View,
        outlines: list[list[Point]],
        *,
        pivot: tuple[float, float] = (0.0, 0.0),
        lean: str | None = None,
        known: bool = False,
        detail: bool = False,
    ) -> None:
        """Add a part; one with a `lean` is known when that lean is."""
        value = self.leans.get(lean) if lean else None
        self.parts.append(
            GhostPart(
                name=name,
                describes=DESCRIBES[name],
                view=view,
                outlines=outlines,
                pivot=Point(u=pivot[0], v=pivot[1]),
                known=known or detail or value is not None,
                detail=detail,
                stale=lean in self.stale and value is not None,
                lean_mm_per_m=value or 0.0,
            )
        )
