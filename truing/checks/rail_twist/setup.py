"""What is stated before rails are brought into one plane, and where they are read."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from pydantic import Field, model_validator

from truing.checks.rails import Which
from truing.contract.setup import Setup, Station
from truing.machine.subject import Subject
from truing.measure.fields import Mm, MmList, choice, hint, length
from truing.measure.words import place

Way = Literal["bridge", "fourth", "corners", "stations", "level"]

CORNERS = ("front left", "front right", "rear left", "rear right")
"""The first diagonal, A, runs from front left to rear right."""
LAID = (
    "Lay the bar across both rails at the fixed end, the level on it, its marked end toward the "
    "second rail, right or rear. Wait for the bubble: plus where it stands toward that end."
)
CARRIED = "Carry bar and level to the far end without turning either. Wait for the bubble."
DIAGONALS = {"A": ("front left", "rear right"), "B": ("front right", "rear left")}


class RailTwistSetup(Setup):
    """How the rails are read, and how fine they have to be."""

    kind: Literal["rail_twist"] = "rail_twist"
    stage: Literal["coarse", "fine"] = choice(
        "Which stage",
        "fine",
        {"coarse": "coarse", "fine": "fine"},
        prompt="Coarse before anything is cast or glued to the frame, fine after it has set.",
    )
    way: Way = choice(
        "How you read it",
        "bridge",
        {
            "bridge": "a bridge over the diagonals, the dial at its middle",
            "fourth": "a bridge on three feet, the dial at its fourth corner",
            "corners": "heights of the four corners",
            "stations": "heights at many places of both rails",
            "level": "a level across both rails, at each end",
        },
    )
    sense: Literal["fixed", "riding"] = choice(
        "The dial",
        "riding",
        {
            "riding": "rides on the bridge and touches something fixed below",
            "fixed": "is fixed, and its tip rests on the bridge",
        },
        prompt="Riding: plus means that the bridge stands lower. Fixed: that it stands higher.",
        when={"way": ["bridge"]},
    )
    length_mm: Mm = length("Between the corners, along the rails", 800.0, gt=50, le=12000)
    apart_mm: Mm = length("Between the corners, across", 600.0, gt=10, le=6000)
    places_mm: MmList = Field(
        default_factory=lambda: [0.0, 250.0, 500.0, 750.0, 1000.0],
        min_length=2,
        max_length=20,
        title="Places along each rail, from the fixed end",
        json_schema_extra=hint("Commas between.", field="lengths", when={"way": ["stations"]}),
    )
    heights_count: Literal["up", "down"] = choice(
        "Plus means",
        "up",
        {"up": "the rail is high there", "down": "the rail is low there"},
        when={"way": ["corners", "stations"]},
    )
    passes: int = Field(
        3,
        ge=1,
        le=10,
        title="Whole passes",
        json_schema_extra=hint("Come back to the first place.", field="integer"),
    )

    @model_validator(mode="after")
    def _in_order(self) -> RailTwistSetup:
        if len({round(p, 1) for p in self.places_mm}) < len(self.places_mm):
            raise ValueError("Two places along the rails are the same; give each its own.")
        return self

    def loops(self, plan: Sequence[Station]) -> list[list[Station]]:
        return [list(plan)]

    @property
    def subject(self) -> Subject:
        return Subject.part(self.stage)

    @property
    def sign(self) -> int:
        """Brings a reading to plus = the rail, or the bridge on it, is high."""
        if self.way == "bridge":
            return 1 if self.sense == "fixed" else -1
        if self.way in ("fourth", "level"):
            return 1
        return 1 if self.heights_count == "up" else -1


class RailStation(Station):
    """A place on a rail: which, and how far from the fixed end; empty for a diagonal."""

    which: Which | Literal[""] = ""
    along_mm: float = 0.0


def stations(setup: RailTwistSetup) -> list[RailStation]:
    """Two diagonals, one corner, four corners, both rails end to end, or across at both ends."""
    x, y = setup.apart_mm / 2, setup.length_mm / 2
    if setup.way == "level":
        return [
            RailStation(key=key, label=f"{key} end", prompt=prompt, x_mm=0.0, y_mm=side * y)
            for key, side, prompt in (
                ("fixed", -1, LAID),
                ("far", 1, CARRIED),
            )
        ]
    if setup.way == "bridge":
        return [
            RailStation(
                key=d,
                label=f"diagonal {d}",
                prompt=f"Lay the bridge from {a} to {b}; read at its middle.",
                x_mm=-x / 2 if d == "A" else x / 2,
                y_mm=-y / 2,
            )
            for d, (a, b) in DIAGONALS.items()
        ]
    if setup.way == "fourth":
        return [
            RailStation(
                key="fourth",
                label="fourth corner",
                prompt="Zero the bridge on a flat plate. Set it on the rails, the dial at the "
                "front right, and read.",
                x_mm=x,
                y_mm=-y,
            )
        ]
    if setup.way == "corners":
        places = {
            "front left": (-x, -y),
            "front right": (x, -y),
            "rear left": (-x, y),
            "rear right": (x, y),
        }
        order = ("front left", "front right", "rear right", "rear left")
        return [
            RailStation(
                key=c,
                label=c,
                prompt=f"Height of the rail at the {c}.",
                x_mm=places[c][0],
                y_mm=places[c][1],
            )
            for c in order
        ]
    found = []
    sides: tuple[tuple[Which, int], ...] = (("first", -1), ("second", 1))
    low, high = min(setup.places_mm), max(setup.places_mm)
    for which, side in sides:
        for p in setup.places_mm:
            found.append(
                RailStation(
                    key=f"{which}:{p:g}",
                    label=f"{'1st' if which == 'first' else '2nd'} {place(p)} mm",
                    prompt=f"Height of the {which} rail, {place(p)} mm from the fixed end.",
                    group=f"{which} rail",
                    x_mm=side * x,
                    y_mm=p - (low + high) / 2,
                    at_mm=p,
                    which=which,
                    along_mm=p,
                )
            )
    return found
