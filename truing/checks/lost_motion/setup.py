"""What is stated before lost motion is read, and where the slide is then brought to."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field, model_validator

from truing.checks.common import at_place
from truing.checks.lost_motion.links import ALL_LINKS, NAMED, Link
from truing.contract.setup import Setup, Station
from truing.machine import DIRECTIONS, Direction
from truing.machine.subject import Subject
from truing.measure.fields import Mm, MmList, choice, hint, length
from truing.measure.words import place, say


class MotionStation(Station):
    """A place approached from one side, or one link by itself."""

    link: Link | None = None


def _link(link: Link) -> Any:
    """Whether a link is read by itself; asked for slides that have it."""
    return Field(
        False, title=NAMED[link].asks, json_schema_extra=hint("", field="switch", link=link)
    )


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
    read_wheel: bool = _link("wheel")
    read_clutch: bool = _link("clutch")
    read_coupling: bool = _link("coupling")
    read_pulley: bool = _link("pulley")
    read_worm: bool = _link("worm")
    read_bearing: bool = _link("bearing")
    read_nut: bool = _link("nut")
    read_mesh: bool = _link("mesh")
    read_belt: bool = _link("belt")
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
        """The links that are read by themselves, from the hand to the slide."""
        return [link for link in ALL_LINKS if getattr(self, f"read_{link}")]


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
                    label=f"{place(x)} mm from {'−' if side == '-' else '+'}",
                    prompt=say(
                        f"Go a full turn {far}, come {way} {{where}}, and read the dial.",
                        where=where,
                    ),
                    x_mm=x,
                    y_mm=-1.0 if side == "-" else 1.0,
                )
            )
    for link in setup.links:
        title, prompt = NAMED[link].title, NAMED[link].prompt
        found.append(
            MotionStation(
                link=link, key=link, label=title, prompt=prompt, group="links", x_mm=0.0, y_mm=0.0
            )
        )
    return found
