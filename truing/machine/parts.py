"""The parts of a machine that can be moved, and the dimensions that matter for that.

Frame: the operator stands at the front; X to the right, Y to the rear, Z up. Lengths in mm.
"""

from __future__ import annotations

from itertools import combinations
from typing import Literal
from uuid import uuid4

from pydantic import BaseModel, ConfigDict, Field, model_validator

from truing.measure.fields import Mm, MmList, choice, hint, length


class Part(BaseModel):
    """Something a machine has."""

    model_config = ConfigDict(extra="forbid")


def _apart_and_spread(places: list[tuple[str, float, float]], what: str, under: str) -> None:
    """ValueError when two places coincide, or when all stand on one line."""
    for (a, ax, ay), (b, bx, by) in combinations(places, 2):
        if abs(ax - bx) + abs(ay - by) < 1:
            raise ValueError(f"{a} and {b} are at the same place.")
    (_, x0, y0), *rest = places
    if all(
        abs((x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0)) < 100
        for (_, x1, y1), (_, x2, y2) in combinations(rest, 2)
    ):
        raise ValueError(f"The {what} stand on one line; {under} needs them spread both ways.")


class Head(Part):
    """A head that can be turned on its column when its bolts are loose."""

    turns: bool = Field(
        True, title="Turns side to side", json_schema_extra=hint("", field="switch")
    )
    nods: bool = Field(
        False, title="Nods front to back", json_schema_extra=hint("", field="switch")
    )
    pivot_x_mm: Mm = length(
        "Pivot, right of the spindle line",
        0.0,
        ge=-1000,
        le=1000,
        prompt="0 when it turns about a bolt straight above the spindle; left of it is minus.",
    )
    pivot_y_mm: Mm = length(
        "Pivot, behind the spindle line",
        0.0,
        ge=-1000,
        le=1000,
        prompt="Of a head that nods. A turret’s is the middle of its ram, well behind.",
    )


class Pad(Part):
    """One bolt pad of a base, from the base's own centre, with the shims that lie there now."""

    name: str = Field(title="Pad", max_length=40, json_schema_extra=hint("", field="text"))
    x_mm: Mm = length("To the right", ge=-3000, le=3000)
    y_mm: Mm = length("To the rear", ge=-3000, le=3000)
    shims_mm: MmList = Field(
        default_factory=list,
        title="Shims there now",
        max_length=12,
        json_schema_extra=hint("Thicknesses, commas between.", field="lengths"),
    )


def four_pads(width_mm: float, depth_mm: float) -> list[Pad]:
    """The usual rectangle of four bolts."""
    x, y = width_mm / 2, depth_mm / 2
    return [
        Pad(name="front left", x_mm=-x, y_mm=-y),
        Pad(name="front right", x_mm=x, y_mm=-y),
        Pad(name="rear left", x_mm=-x, y_mm=y),
        Pad(name="rear right", x_mm=x, y_mm=y),
    ]


class BoltedBase(Part):
    """A column bolted to its base; shims under its pads lean it."""

    width_mm: Mm | None = length(
        "Foot of the column, left to right",
        None,
        gt=20,
        le=6000,
        prompt="Its bolts lie within it. Leave empty if not measured.",
    )
    depth_mm: Mm | None = length("Foot of the column, front to rear", None, gt=20, le=6000)

    pads: list[Pad] = Field(
        default_factory=lambda: four_pads(160, 120),
        min_length=3,
        max_length=8,
        title="Bolt pads",
        json_schema_extra=hint("", field="rows"),
    )
    most_pieces: int = Field(
        3,
        ge=1,
        le=6,
        title="Most shims in one stack",
        json_schema_extra=hint("More than three get springy.", field="integer"),
    )

    @model_validator(mode="after")
    def _on_the_foot(self) -> BoltedBase:
        _apart_and_spread([(p.name, p.x_mm, p.y_mm) for p in self.pads], "pads", "a base")
        for pad in self.pads:
            for size, at, way in (
                (self.width_mm, pad.x_mm, "left to right"),
                (self.depth_mm, pad.y_mm, "front to rear"),
            ):
                if size is not None and abs(at) > size / 2:
                    raise ValueError(
                        f"{pad.name} lies outside the foot, which is {size:g} mm {way}. Pads are "
                        "measured from its middle."
                    )
        return self


class Bracket(Part):
    """A spindle bracket screwed to a plate with an upper and a lower row of screws."""

    spacing_mm: Mm = length("Upper to lower screws", gt=5, le=2000)
    side: Literal["front", "rear"] = choice(
        "The bracket sits", "front", {"front": "in front of its plate", "rear": "behind its plate"}
    )
    top_shims_mm: MmList = Field(
        default_factory=list,
        title="Shims behind the upper screws",
        max_length=6,
        json_schema_extra=hint("Thicknesses, commas between.", field="lengths"),
    )
    bottom_shims_mm: MmList = Field(
        default_factory=list,
        title="Shims behind the lower screws",
        max_length=6,
        json_schema_extra=hint("Thicknesses, commas between.", field="lengths"),
    )
    turns: bool = Field(
        True,
        title="Can be turned on the plate",
        json_schema_extra=hint("With slack in its holes, about one screw.", field="switch"),
    )
    pivot_x_mm: Mm = length("Screw it turns about, right of the spindle line", 0.0, ge=-500, le=500)
    most_pieces: int = Field(
        3, ge=1, le=6, title="Most shims in one stack", json_schema_extra=hint("", field="integer")
    )


class Gantry(Part):
    """A beam between two end plates; twisting one end plate nods the spindle there."""

    left_plate_x_mm: Mm = length(
        "Left end plate", -400.0, ge=-5000, le=5000, prompt="From mid bed."
    )
    right_plate_x_mm: Mm = length("Right end plate", 400.0, ge=-5000, le=5000)
    fixed_bolt_y_mm: Mm = length(
        "Bolt it twists about, behind the spindle",
        80.0,
        ge=-2000,
        le=2000,
        prompt="In front of it is minus.",
    )

    @model_validator(mode="after")
    def _left_of(self) -> Gantry:
        if self.right_plate_x_mm - self.left_plate_x_mm < 10:
            raise ValueError("The right end plate has to stand to the right of the left one.")
        return self


class Column(Part):
    """The column: what its ways are, and whether it turns on its foot."""

    shape: Literal["dovetail", "round", "box"] = choice(
        "Its ways are",
        "dovetail",
        {"dovetail": "dovetail", "round": "a round bar", "box": "square or linear rails"},
        prompt="A round bar loses its tram whenever the head is raised.",
    )
    turns: bool = Field(
        False,
        title="Turns on its foot",
        json_schema_extra=hint("Swung or tilted when its bolts are loose.", field="switch"),
    )


class Foot(Part):
    """One levelling foot, from the middle of the stand."""

    name: str = Field(title="Foot", max_length=40, json_schema_extra=hint("", field="text"))
    x_mm: Mm = length("To the right", ge=-6000, le=6000)
    y_mm: Mm = length("To the rear", ge=-6000, le=6000)


def four_feet(width_mm: float, depth_mm: float) -> list[Foot]:
    """Feet at the corners of a stand."""
    return [Foot(name=p.name, x_mm=p.x_mm, y_mm=p.y_mm) for p in four_pads(width_mm, depth_mm)]


class Feet(Part):
    """Feet that screw up and down."""

    pitch_mm: Mm = length(
        "Thread pitch of a foot", 1.75, gt=0.2, le=6, prompt="How far one turn lifts: M12 has 1.75."
    )
    flats: int = Field(
        6,
        ge=4,
        le=12,
        title="Flats on the nut",
        json_schema_extra=hint("So that turns can be told in flats of a spanner.", field="integer"),
    )
    places: list[Foot] = Field(
        default_factory=lambda: four_feet(500, 400),
        min_length=3,
        max_length=12,
        title="Feet",
        json_schema_extra=hint("", field="rows"),
    )

    @model_validator(mode="after")
    def _spread(self) -> Feet:
        _apart_and_spread([(f.name, f.x_mm, f.y_mm) for f in self.places], "feet", "a stand")
        return self


Direction = Literal["left_right", "front_back", "up_down"]
DIRECTIONS: dict[Direction, str] = {
    "left_right": "left–right",
    "front_back": "front–back",
    "up_down": "up–down",
}
Drive = Literal["screw", "ball_screw", "rack", "worm", "belt", "lever"]
Gib = Literal["strip", "tapered", "rollers", "carriages", "none"]


class Slide(Part):
    """One direction of travel: how far, how it is guided, and what drives it."""

    direction: Direction = choice("Moves", "left_right", DIRECTIONS)
    letter: str = Field(
        "",
        max_length=3,
        title="Letter on the machine",
        json_schema_extra=hint("As the machine calls it.", field="text"),
    )
    travel_mm: Mm = length("Travel", 300.0, gt=1, le=10000)
    gib: Gib = choice(
        "Guided by",
        "strip",
        {
            "strip": "a strip gib with screws",
            "tapered": "a tapered gib",
            "rollers": "rollers on eccentrics",
            "carriages": "carriages on rails",
            "none": "a round bar or bush",
        },
    )
    gib_screws: int = Field(
        3,
        ge=1,
        le=16,
        title="Gib screws or rollers",
        json_schema_extra=hint(
            "How many set it, all along it.", field="integer", when={"gib": ["strip", "rollers"]}
        ),
    )
    gib_pitch_mm: Mm = length(
        "Pitch of a gib screw", 0.8, gt=0.1, le=4, when={"gib": ["strip", "tapered"]}
    )
    drive: Drive = choice(
        "Driven by",
        "screw",
        {
            "screw": "a leadscrew",
            "ball_screw": "a ball screw",
            "rack": "rack and pinion",
            "worm": "a worm, with rack or wheel",
            "belt": "a belt",
            "lever": "a lever or quill",
        },
    )
    lead_mm: Mm = length(
        "Travel of one turn",
        2.0,
        gt=0.1,
        le=400,
        when={"drive": ["screw", "ball_screw", "rack", "worm", "belt"]},
    )
    compensation_mm: Mm = length(
        "Backlash set in the controller",
        0.0,
        ge=0,
        le=5,
        prompt="0 when it compensates nothing.",
        advanced=True,
    )


class Rails(Part):
    """Two linear rails screwed down side by side."""

    length_mm: Mm = length("Length of a rail", 1000.0, gt=50, le=12000)
    apart_mm: Mm = length("Between the rails", 600.0, gt=10, le=6000, prompt="Centre to centre.")
    bolt_pitch_mm: Mm = length("From bolt to bolt", 60.0, gt=5, le=1000)
    runs: Literal["front_back", "left_right"] = choice(
        "The rails run",
        "front_back",
        {"front_back": "front to back", "left_right": "left to right"},
    )
    packs: list[Pad] = Field(
        default_factory=list,
        max_length=200,
        title="Shims under the rails now",
        json_schema_extra=hint("", field="rows"),
    )
    most_pieces: int = Field(
        3,
        ge=1,
        le=6,
        title="Most shims in one stack",
        json_schema_extra=hint("What the bolt's length allows.", field="integer"),
    )

    @model_validator(mode="after")
    def _bolts(self) -> Rails:
        if self.bolt_pitch_mm > self.length_mm / 2:
            raise ValueError("A rail needs three bolts or more: check its length and bolt spacing.")
        return self


def _new_key() -> str:
    return uuid4().hex[:8]


class Thing(Part):
    """Something on the machine that should run with a travel: a vice, a fence, a scale."""

    key: str = Field(
        default_factory=_new_key,
        pattern=r"^[0-9a-z]{1,8}$",
        json_schema_extra=hint("", field="hidden"),
    )
    """Its own, so that it keeps its record when it is called something else."""
    name: str = Field(
        title="What you call it", max_length=40, json_schema_extra=hint("", field="text")
    )
    sort: Literal["vice", "fence", "scale", "plate"] = choice(
        "It is",
        "vice",
        {"vice": "a vice", "fence": "a fence or rail", "scale": "a scale", "plate": "a plate"},
    )
    runs: Direction = choice("Its face should run", "left_right", DIRECTIONS)
    face_mm: Mm = length("Length of its face", 100.0, gt=10, le=6000)
    pivot_mm: Mm = length(
        "The bolt it turns about",
        0.0,
        ge=-6000,
        le=6000,
        prompt="From the middle of the face, along it; left, front or low is minus.",
    )
    dowelled: bool = Field(
        False,
        title="It is dowelled",
        json_schema_extra=hint("Then no tap moves it.", field="switch"),
    )


class MotorPair(Part):
    """Two motors that carry one gantry, each homed on its own switch."""

    left_x_mm: Mm = length("Left motor", -450.0, ge=-6000, le=6000, prompt="From mid bed.")
    right_x_mm: Mm = length("Right motor", 450.0, ge=-6000, le=6000)
    left_offset_mm: Mm = length(
        "Left backs off its switch by", 2.0, ge=0, le=200, prompt="As set in the controller now."
    )
    right_offset_mm: Mm = length("Right backs off its switch by", 2.0, ge=0, le=200)
    least_offset_mm: Mm = length("Least that can be set", 0.5, ge=0, le=50, advanced=True)

    @model_validator(mode="after")
    def _sides(self) -> MotorPair:
        if self.right_x_mm - self.left_x_mm < 10:
            raise ValueError("The right motor has to stand to the right of the left one.")
        if min(self.left_offset_mm, self.right_offset_mm) < self.least_offset_mm:
            raise ValueError("An offset is smaller than the least that can be set.")
        return self


class Lift(MotorPair):
    """Two motors that lift the gantry."""

    homes: Literal["top", "bottom"] = choice(
        "Homes at", "top", {"top": "the top", "bottom": "the bottom"}
    )
    stop_pitch_mm: Mm | None = length(
        "Thread pitch of its stops",
        None,
        gt=0.2,
        le=10,
        prompt="Where each end comes to a screw that can be set.",
        advanced=True,
    )


class GantryDrive(MotorPair):
    """Two motors that drive the gantry along the bed."""

    homes: Literal["front", "rear"] = choice(
        "Homes at", "front", {"front": "the front", "rear": "the rear"}
    )
