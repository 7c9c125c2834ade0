"""What is stated of a taper that is to be trued in a lathe, and where the tip goes."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Literal, Self

from pydantic import Field

from truing.contract.readings import Grade
from truing.contract.setup import Setup, Station
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.fields import Mm, choice, hint, length
from truing.measure.words import plain

PLACES: tuple[str, ...] = ("thin", "middle", "thick")
TITLES = {"thin": "thin end", "middle": "middle", "thick": "thick end"}
BORE = "bore"
FLAT = "flat"
UNCUT = "uncut"
CLEAN = "clean"
FLATS = [
    Grade(key=UNCUT, label="nothing is cut yet", tone="good"),
    Grade(key=CLEAN, label="bright all round, everywhere", tone="good"),
    *(Grade(key=k, label=f"a flat is left at the {TITLES[k]}", tone="doubt") for k in PLACES),
]


class TaperTruingSetup(Setup):
    """The taper, the lathe's dial, and how much there is to come off."""

    kind: Literal["taper_truing"] = "taper_truing"
    holder: str = choice("Holder", "", {"": "one that is not in the kit"}, pieces=["holder"])
    taper: Literal["morse", "steep", "other"] = choice(
        "Its taper",
        "morse",
        {"morse": "Morse", "steep": "steep, 7/24", "other": "another"},
        fills={
            "morse": {"one_in": plain("20")},
            "steep": {"one_in": plain("3.429")},
        },
    )
    one_in: float = Field(
        20.0,
        ge=2,
        le=200,
        allow_inf_nan=False,
        title="Its diameter narrows by 1 in",
        json_schema_extra=hint(
            "Morse tapers by 1 in 19 to 1 in 20, 7/24 by 1 in 3.43.", field="number"
        ),
    )
    length_mm: Mm = length("Length of the taper", 60.0, gt=5, le=500)
    plunger: Literal["axis", "side"] = choice(
        "The plunger stands square to",
        "axis",
        {"axis": "the axis", "side": "the taper’s side"},
        prompt="Square to the side it shows a little less: by 1 % on 7/24.",
    )
    dial: Literal["diameter", "radius"] = choice(
        "The dial of the cross slide counts",
        "diameter",
        {"diameter": "the diameter", "radius": "the slide’s own way, on the radius"},
        prompt="Both are shown: they differ by two, and many a part was scrapped by it.",
    )
    pass_mm: Mm = length(
        "One light pass takes",
        0.02,
        gt=0,
        le=0.5,
        prompt="On the radius. Hardened holders are ground: less.",
    )
    room_mm: Mm = length(
        "It may seat deeper by",
        1.0,
        ge=0,
        le=50,
        prompt="What there is before nose, gauge line or drawbar are in the way.",
    )
    cut_mm: Mm = length(
        "Cut so far since it first touched",
        0.0,
        ge=0,
        le=10,
        prompt="On the radius. Filled in as passes are taken.",
        advanced=True,
    )
    passes: int = Field(
        2,
        ge=1,
        le=10,
        title="Whole passes",
        json_schema_extra=hint("Of reading. Two show drift and bumps.", field="integer"),
    )
    names: dict[str, str] = Field(default_factory=dict, json_schema_extra=hint("", field="hidden"))
    """What the holder was called then, by its id."""

    def named(self, names: Mapping[str, str]) -> Self:
        return self.model_copy(update={"names": {k: names[k] for k in self.pieces if k in names}})

    @property
    def tip_sides(self) -> int:
        return 2

    @property
    def pieces(self) -> tuple[str, ...]:
        return (self.holder,) if self.holder else ()

    @property
    def subject(self) -> Subject:
        return Subject.pieces(self.holder) if self.holder else THE_MACHINE

    @property
    def title(self) -> str:
        """What the holder is called."""
        return self.names.get(self.holder, "the holder")

    @property
    def half_rad(self) -> float:
        """Half of this taper's angle, between its side and its axis."""
        return math.atan(1 / (2 * self.one_in))

    @property
    def slide_deg(self) -> float:
        """What a top slide is set to for this taper."""
        return math.degrees(self.half_rad)

    def per_shown(self, place: str) -> float:
        """How far a place goes in and out from the axis for each unit that the dial shows."""
        return 1 / math.cos(self.half_rad) if self.plunger == "side" and place != BORE else 1.0


def stations(setup: TaperTruingSetup) -> list[Station]:
    """The bore that it is set up on, then the taper from its thin end, then what was cut."""
    turn = "Turn it once by hand. Greatest less least?"
    found = [
        Station(
            key=BORE,
            label="its own bore",
            prompt=f"Tip in the good bore. {turn}",
            x_mm=-20.0,
            y_mm=0.0,
            at_mm=None,
            tip=BORE,
        )
    ]
    for i, place in enumerate(PLACES):
        found.append(
            Station(
                key=place,
                label=TITLES[place],
                prompt=f"Tip on the taper at the {TITLES[place]}. {turn}",
                x_mm=setup.length_mm * i / (len(PLACES) - 1),
                y_mm=0.0,
                at_mm=setup.length_mm * i / (len(PLACES) - 1),
                tip=place,
            )
        )
    last = found[-1]
    found.append(
        Station(
            key=FLAT,
            label="what is left uncut",
            prompt="Look along it, felt pen on it: is a flat left that the tool missed?",
            x_mm=last.x_mm + 20,
            y_mm=0.0,
            reads="grade",
            grades=FLATS,
            wants_photo=True,
        )
    )
    return found
