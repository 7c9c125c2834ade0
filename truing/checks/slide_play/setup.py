"""What is stated before play is read, and where along the travel it is then read."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from truing.checks.common import at_place
from truing.contract.readings import Grade
from truing.contract.setup import Setup, Station
from truing.machine import DIRECTIONS, Direction
from truing.machine.subject import Subject
from truing.measure.fields import MmList, choice, hint
from truing.measure.words import place, say

USUAL_MM = 0.015

FEELS = [
    Grade(key="free", label="free", tone="good"),
    Grade(key="drag", label="even drag", tone="good"),
    Grade(key="stiff", label="stiff", tone="doubt"),
    Grade(key="binds", label="binds", tone="bad"),
]


class SlidePlaySetup(Setup):
    """Which slide, where along its travel, and how its gib closes."""

    kind: Literal["slide_play"] = "slide_play"
    slide: Direction = choice("Which slide", "left_right", DIRECTIONS)
    places_mm: MmList = Field(
        default_factory=lambda: [-100.0, 0.0, 100.0],
        min_length=1,
        max_length=15,
        title="Places along the travel",
        json_schema_extra=hint(
            "From mid travel; left, front and low are minus. Three show a worn middle.",
            field="lengths",
        ),
    )
    passes: int = Field(
        2, ge=1, le=10, title="Whole passes", json_schema_extra=hint("", field="integer")
    )
    taper_mm_per_m: float = Field(
        20.0,
        gt=1,
        le=100,
        title="Taper of the gib (mm in a metre)",
        json_schema_extra=hint(
            "Only for a tapered gib: 1 in 50 is 20.", field="number", advanced=True
        ),
    )
    screw_deg: float = Field(
        0.0,
        ge=0,
        le=75,
        title="Angle of the screw to the flank’s normal (degrees)",
        json_schema_extra=hint(
            "0 when it presses square on the gib.", field="number", advanced=True
        ),
    )
    reading_deg: float = Field(
        0.0,
        ge=0,
        le=75,
        title="Angle of the reading to the flank’s normal (degrees)",
        json_schema_extra=hint(
            "A level dial on a 55° dovetail reads at 35.", field="number", advanced=True
        ),
    )
    at_its_end: bool = Field(
        False,
        title="The gib’s screw is at its end",
        json_schema_extra=hint("It cannot go in further.", field="switch"),
    )

    @model_validator(mode="after")
    def _apart(self) -> SlidePlaySetup:
        if len({round(p) for p in self.places_mm}) < len(self.places_mm):
            raise ValueError("Two places are the same; give each its own.")
        return self

    @property
    def tip_sides(self) -> int:
        return 2

    @property
    def subject(self) -> Subject:
        return Subject.part(self.slide)


def stations(setup: SlidePlaySetup) -> list[Station]:
    """At each place the play, then how it moves there."""
    found = []
    for x in setup.places_mm:
        where = at_place(x, setup.slide)
        found.append(
            Station(
                key=f"{x:g}",
                at_mm=x,
                label=f"{place(x)} mm",
                prompt=say(
                    "At {where}: pull, set the dial to zero, push, and read what it shows.",
                    where=where,
                ),
                x_mm=x,
                y_mm=0.0,
            )
        )
        found.append(
            Station(
                key=f"{x:g}:feel",
                at_mm=x,
                label=f"{place(x)} mm, feel",
                prompt=say("Run it through {where}. How does it move?", where=where),
                x_mm=x,
                y_mm=0.0,
                reads="grade",
                grades=FEELS,
            )
        )
    return found
