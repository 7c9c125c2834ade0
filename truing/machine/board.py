"""The sacrificial board of a bed: its place, its size, what lies in it and stands on it."""

from __future__ import annotations

import math
from typing import Literal

from pydantic import Field, model_validator

from truing.machine.parts import Part
from truing.measure.fields import Mm, MmList, choice, hint, length

KEEP_OUTS: dict[str, str] = {
    "insert": "an insert",
    "screw": "a screw",
    "nail": "a nail",
    "rail": "a rail",
    "stop": "a stop",
    "clamp": "a clamp",
    "wall": "a wall left standing",
    "other": "something else",
}
ON_THE_FACE = ("stop", "clamp")
"""What lies on the board and goes down with its face."""


class KeepOut(Part):
    """Something in or on a bed that a cutter must not meet, from mid bed; or a wall of the board
    itself, which an earlier surfacing left: that is cut like its face."""

    name: str = Field(
        title="Name", min_length=1, max_length=40, json_schema_extra=hint("", field="text")
    )
    what: Literal["insert", "screw", "nail", "rail", "stop", "clamp", "wall", "other"] = choice(
        "It is", "screw", KEEP_OUTS
    )
    shape: Literal["circle", "rectangle", "polygon"] = choice(
        "Outline",
        "circle",
        {"circle": "a circle", "rectangle": "a rectangle", "polygon": "corner by corner"},
    )
    x_mm: Mm = length("Middle, to the right", 0.0, ge=-3000, le=3000)
    y_mm: Mm = length("Middle, to the rear", 0.0, ge=-3000, le=3000)
    across_mm: Mm = length(
        "Across, left to right", 10.0, gt=0, le=6000, when={"shape": ["circle", "rectangle"]}
    )
    deep_mm: Mm = length(
        "Across, front to rear", 10.0, gt=0, le=6000, when={"shape": ["rectangle"]}
    )
    corners_mm: MmList = Field(
        default_factory=list,
        max_length=80,
        title="Corners",
        json_schema_extra=hint(
            "x, y, x, y … from its middle.", field="lengths", when={"shape": ["polygon"]}
        ),
    )
    top_mm: Mm = length(
        "Its top over the board’s face",
        -5.0,
        ge=-200,
        le=500,
        prompt="Minus when it lies below: −5 is five under.",
    )
    may_cut: bool = Field(
        False,
        title="A cutter survives it",
        json_schema_extra=hint(
            "Brass, or a nail of it. Never steel.",
            field="switch",
            when={"what": [key for key in KEEP_OUTS if key != "wall"]},
        ),
    )

    @model_validator(mode="after")
    def _has_an_outline(self) -> KeepOut:
        if self.shape == "polygon" and (len(self.corners_mm) < 6 or len(self.corners_mm) % 2):
            raise ValueError("Give three corners or more: x and y of each.")
        return self

    @property
    def is_wall(self) -> bool:
        """Of the board itself: nothing to keep clear of, but higher than its face."""
        return self.what == "wall"

    @property
    def may_meet(self) -> bool:
        """Whether a cutter survives it."""
        return self.may_cut or self.is_wall

    @property
    def outline(self) -> list[tuple[float, float]]:
        """Its corners from mid bed, in order; a circle as a polygon about it."""
        x, y = self.x_mm, self.y_mm
        if self.shape == "rectangle":
            w, d = self.across_mm / 2, self.deep_mm / 2
            return [(x - w, y - d), (x + w, y - d), (x + w, y + d), (x - w, y + d)]
        if self.shape == "polygon":
            pairs = zip(self.corners_mm[::2], self.corners_mm[1::2], strict=True)
            return [(x + a, y + b) for a, b in pairs]
        n = 24
        # its sides touch the circle from outside
        r = self.across_mm / 2 / math.cos(math.pi / n)
        turns = [2 * math.pi * k / n for k in range(n)]
        return [(x + r * math.cos(t), y + r * math.sin(t)) for t in turns]


class Board(Part):
    """A sacrificial board on the bed: where it lies, how thick it is, and what is in it."""

    thickness_mm: Mm = length("Thickness now", 18.0, gt=0, le=200)
    least_mm: Mm = length(
        "Thinnest that still holds", 8.0, ge=0, le=200, prompt="Below it the screws show."
    )
    x_mm: Mm = length("Its middle, right of mid bed", 0.0, ge=-3000, le=3000, advanced=True)
    y_mm: Mm = length("Its middle, behind mid bed", 0.0, ge=-3000, le=3000, advanced=True)
    across_mm: Mm | None = length(
        "Left to right", None, gt=10, le=6000, prompt="Empty for the whole bed."
    )
    deep_mm: Mm | None = length("Front to rear", None, gt=10, le=6000)
    material: Literal["mdf", "ply", "softwood", "hardwood", "plastic"] = choice(
        "Made of",
        "mdf",
        {
            "mdf": "fibre board",
            "ply": "plywood",
            "softwood": "softwood",
            "hardwood": "hardwood",
            "plastic": "plastic",
        },
    )
    keep_outs: list[KeepOut] = Field(
        default_factory=list,
        max_length=60,
        title="What a cutter must not meet",
        json_schema_extra=hint("Inserts, screws, clamps, rails.", field="rows"),
    )

    @model_validator(mode="after")
    def _some_left(self) -> Board:
        if self.least_mm >= self.thickness_mm:
            raise ValueError("The board is as thin as it may get: put a new one on, or correct it.")
        names = [k.name.strip().casefold() for k in self.keep_outs]
        if len(set(names)) < len(names):
            raise ValueError("Two things in the board have the same name.")
        return self

    def surfaced(self, off_mm: float) -> Board:
        """The board with so much taken off its face: what is in it lies less deep.

        ValueError when less than the least would be left.
        """
        kept = [
            k if k.what in ON_THE_FACE else k.model_copy(update={"top_mm": k.top_mm + off_mm})
            for k in self.keep_outs
        ]
        left = round(self.thickness_mm - off_mm, 4)
        return Board.model_validate(
            {**self.model_dump(), "thickness_mm": left, "keep_outs": [k.model_dump() for k in kept]}
        )
