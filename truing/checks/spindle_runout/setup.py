"""What is stated before a spindle's runout is read, and where the tip then goes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import Literal

from pydantic import Field, field_validator

from truing.checks.turning import MarksDeg, angles_of, uneven_marks
from truing.contract.setup import Setup, Station, by_group
from truing.measure.fields import Mm, MmList, choice, hint, length
from truing.measure.words import Words, place, plain, stated

WAYS = {
    "angles": "at angles round it, by a mark",
    "swing": "greatest less least of one turn",
}
LEAST_APART_MM = 2.0
"""Distances from the nose closer than this tell no tilt."""


class SpindleRunoutSetup(Setup):
    """What is read, how far from the nose, and at how many angles."""

    kind: Literal["spindle_runout"] = "spindle_runout"
    way: Literal["angles", "swing"] = choice(
        "You read it",
        "angles",
        WAYS,
        prompt="One swing tells how much; the mark tells where to, and what is out of round.",
    )
    surface: Literal["taper", "bar"] = choice(
        "The tip runs on",
        "bar",
        {"taper": "the taper’s own bore, or the nose", "bar": "a bar or pin in the spindle"},
    )
    marks: int = Field(
        6,
        ge=3,
        le=24,
        title="Angles in one turn",
        json_schema_extra=hint(
            "Evenly round. Four let a three-lobed pin pass for runout; six do not.",
            field="integer",
            when={"way": ["angles"]},
        ),
    )
    marks_deg: MarksDeg = uneven_marks(way=["angles"])
    distances_mm: MmList = Field(
        default_factory=lambda: [10.0, 80.0],
        min_length=1,
        max_length=4,
        title="Distances from the nose",
        json_schema_extra=hint(
            "Down from the nose; inside the taper is minus. Two tell tilt from offset.",
            field="lengths",
        ),
    )
    seats: Literal["once", "half"] = choice(
        "The bar is seated",
        "once",
        {"once": "once", "half": "twice, the second time half round in the spindle"},
        prompt="Half round, its own error drops out.",
        when={"way": ["angles"], "surface": ["bar"]},
    )
    bar_mm: Mm = length(
        "The bar itself runs out by no more than",
        0.003,
        ge=0,
        le=1,
        prompt="TIR, as stated for it. Doubt, unless it is seated twice.",
        when={"surface": ["bar"]},
    )
    stick_out_mm: MmList = Field(
        default_factory=lambda: [50.0],
        max_length=6,
        title="Tell me the runout at",
        json_schema_extra=hint(
            "Distances from the nose at which tools stick out.", field="lengths", advanced=True
        ),
    )
    passes: int = Field(
        2,
        ge=1,
        le=10,
        title="Whole turns",
        json_schema_extra=hint("Two show drift and bumps.", field="integer"),
    )

    @field_validator("distances_mm")
    @classmethod
    def _apart(cls, value: list[float]) -> list[float]:
        ordered = sorted(value)
        if any(b - a < LEAST_APART_MM for a, b in pairwise(ordered)):
            raise ValueError(
                f"Two of the distances lie within {LEAST_APART_MM:g} mm of each other, which tells "
                "no tilt. Read them further apart."
            )
        return value

    @property
    def tip_sides(self) -> int:
        return 2 if self.way == "swing" else 1

    def loops(self, plan: Sequence[Station]) -> list[list[Station]]:
        return by_group(plan)

    @property
    def turned(self) -> tuple[int, ...]:
        """The seats of the bar, in half turns."""
        twice = self.way == "angles" and self.surface == "bar" and self.seats == "half"
        return (0, 1) if twice else (0,)


class RunoutStation(Station):
    """A mark that faces the tip, at one distance, in one seat of the bar."""

    angle_rad: float = 0.0
    """Of the mark, from the first one, the way the marks are counted."""
    seat: int = 0
    """Half turns of the bar in the spindle."""


def stations(setup: SpindleRunoutSetup) -> list[RunoutStation]:
    """Distance by distance, round the marks of the spindle; all of it again for a second seat."""
    found = []
    for seat in setup.turned:
        again = "Turn the bar half round in the spindle and seat it again. " if seat else ""
        for i, z in enumerate(sorted(setup.distances_mm)):
            first = again if i == 0 else ""
            found += _round(setup, z, seat, first)
    return found


def off_the_nose(z_mm: float) -> Words:
    """How far out a place is, or how far inside the taper."""
    if z_mm == 0:
        return plain("at the nose")
    return stated(f"{z_mm:g} mm from the nose" if z_mm > 0 else f"{-z_mm:g} mm inside the nose")


def _round(setup: SpindleRunoutSetup, z: float, seat: int, first: str) -> list[RunoutStation]:
    where = off_the_nose(z)
    seated = ", second seat" if seat else ""
    group = f"{place(z)} mm{seated}"
    if setup.way == "swing":
        return [
            RunoutStation(
                key=f"{z:g}",
                label=f"{place(z)} mm",
                prompt=where.capital() + ": turn the spindle once by hand. Greatest less least?",
                group=group,
                x_mm=0.0,
                y_mm=0.0,
                at_mm=z,
            )
        ]
    found = []
    angles = angles_of(setup.marks, setup.marks_deg)
    for k, angle in enumerate(angles):
        found.append(
            RunoutStation(
                key=f"{seat}:{z:g}:{k + 1}",
                label=f"mark {k + 1}, {place(z)} mm{seated}",
                prompt=plain(first if k == 0 else "")
                + where.capital()
                + f": turn by hand until mark {k + 1} of {len(angles)} on the spindle faces the "
                "tip.",
                group=group,
                x_mm=100 * math.sin(angle),
                y_mm=100 * math.cos(angle),
                at_mm=z,
                angle_rad=angle,
                seat=seat,
            )
        )
    return found
