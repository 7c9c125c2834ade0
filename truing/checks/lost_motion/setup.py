"""What is stated before lost motion is read, and where the slide is then brought to."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from truing.checks.common import at_place
from truing.contract.setup import Setup, Station
from truing.machine import DIRECTIONS, Direction
from truing.machine.subject import Subject
from truing.measure.fields import Mm, MmList, choice, hint, length
from truing.measure.words import place

Link = Literal["wheel", "coupling", "bearing", "nut"]
LINKS: dict[Link, tuple[str, str]] = {
    "wheel": (
        "handwheel on its shaft",
        "Hold the shaft still, turn the handwheel to and fro, and "
        "read what it moves at the graduation, as travel.",
    ),
    "coupling": (
        "coupling or gear",
        "Hold the screw still, turn the motor or the gear to and fro, and read it as travel.",
    ),
    "bearing": (
        "end float of the screw",
        "Dial on the end of the screw: push and pull the slide "
        "hard, and read how far the screw moves along.",
    ),
    "nut": (
        "nut on the screw",
        "Dial from the screw to the slide: push and pull, and read how far "
        "the slide moves on the screw.",
    ),
}
"""What each link is called, and how its slack is read, from the hand to the slide."""


class MotionStation(Station):
    """A place approached from one side, or one link by itself."""

    link: Link | None = None


class LostMotionSetup(Setup):
    """Which slide, where along it, and which links are read one by one."""

    kind: Literal["lost_motion"] = "lost_motion"
    slide: Direction = choice("Which slide", "left_right", DIRECTIONS)
    cutting: Literal["both", "one"] = choice(
        "You cut",
        "both",
        {"both": "from both sides", "one": "always from one side"},
        prompt="From one side only, more may be left.",
    )
    places_mm: MmList = Field(
        default_factory=lambda: [-100.0, 0.0, 100.0],
        min_length=1,
        max_length=15,
        title="Places along the travel",
        json_schema_extra=hint(
            "From mid travel; left, front and low are minus. Near both ends and in the middle show "
            "a worn screw.",
            field="lengths",
        ),
    )
    passes: int = Field(
        2, ge=1, le=10, title="Whole passes", json_schema_extra=hint("", field="integer")
    )
    read_bearing: bool = Field(
        False, title="Read the screw’s end float", json_schema_extra=hint("", field="switch")
    )
    read_nut: bool = Field(
        False, title="Read the nut by itself", json_schema_extra=hint("", field="switch")
    )
    read_coupling: bool = Field(
        False, title="Read a coupling or gear", json_schema_extra=hint("", field="switch")
    )
    read_wheel: bool = Field(
        False, title="Read the handwheel on its shaft", json_schema_extra=hint("", field="switch")
    )
    compensation_mm: Mm = length(
        "The controller takes out now",
        0.0,
        ge=0,
        le=5,
        prompt="0 without a controller, or when it compensates nothing.",
        advanced=True,
    )

    plus_is: Literal["unknown", "plus", "minus"] = choice(
        "The dial counts up when the slide goes",
        "unknown",
        {
            "unknown": "either way; nothing is compensated",
            "plus": "right, to the rear, or up",
            "minus": "left, to the front, or down",
        },
        prompt="Only asked where a controller compensates: it tells whether that is too much.",
        advanced=True,
    )

    @model_validator(mode="after")
    def _apart(self) -> LostMotionSetup:
        if len({round(p) for p in self.places_mm}) < len(self.places_mm):
            raise ValueError("Two places are the same; give each its own.")
        return self

    @property
    def subject(self) -> Subject:
        return Subject.part(self.slide)

    @property
    def links(self) -> list[Link]:
        """The links that are read by themselves."""
        asked: dict[Link, bool] = {
            "wheel": self.read_wheel,
            "coupling": self.read_coupling,
            "bearing": self.read_bearing,
            "nut": self.read_nut,
        }
        return [link for link, read in asked.items() if read]


def stations(setup: LostMotionSetup) -> list[MotionStation]:
    """Each place from minus, then from plus; then the links."""
    found = []
    for x in setup.places_mm:
        where = at_place(x, setup.slide)
        for side, way in (("-", "up to"), ("+", "back down to")):
            far = "below it" if side == "-" else "past it"
            found.append(
                MotionStation(
                    key=f"{x:g}{side}",
                    at_mm=x,
                    tip=side,
                    label=f"{place(x)} from {'−' if side == '-' else '+'}",
                    prompt=f"Go a full turn {far}, come {way} {where}, and read the dial.",
                    x_mm=x,
                    y_mm=-1.0 if side == "-" else 1.0,
                )
            )
    for link in setup.links:
        title, prompt = LINKS[link]
        found.append(
            MotionStation(
                link=link, key=link, label=title, prompt=prompt, group="links", x_mm=0.0, y_mm=0.0
            )
        )
    return found
