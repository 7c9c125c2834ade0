"""What is stated before a base is levelled, and where the level then lies."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, field_validator, model_validator

from truing.contract.setup import Setup, Station
from truing.machine import Machine
from truing.measure.fields import MmList, choice, hint
from truing.measure.words import place

Way = Literal["ends", "single"]


class BaseLevelSetup(Setup):
    """How a base is levelled: where the level lies, how it is turned, and what is wanted."""

    kind: Literal["base_level"] = "base_level"
    way: Way = choice(
        "How you read it",
        "ends",
        {
            "ends": "Turn the level end for end at every station",
            "single": "Read it once, its own error being known to be nil",
        },
    )
    school: Literal["twist", "earth"] = choice(
        "What you want",
        "twist",
        {"twist": "only free of twist", "earth": "dead level, and free of twist"},
        prompt="No part shows a base that is not level. Coolant does.",
    )
    recorded: Literal["marked", "right"] = choice(
        "Plus means",
        "marked",
        {
            "marked": "the bubble stands toward the level’s marked end",
            "right": "the bubble stands to the right, or to the rear",
        },
        prompt="The bubble goes to the high side.",
    )
    across_x_mm: MmList = Field(
        default_factory=lambda: [-150.0, 150.0],
        min_length=2,
        max_length=9,
        title="Crosswise: places from the middle, left to right",
        json_schema_extra=hint(
            "Here the level lies front to back. Far apart tells the twist best.", field="lengths"
        ),
    )
    along_y_mm: MmList = Field(
        default_factory=lambda: [0.0],
        min_length=0,
        max_length=9,
        title="Lengthwise: places from the middle, front to rear",
        json_schema_extra=hint("Here the level lies left to right.", field="lengths"),
    )
    passes: int = Field(
        2, ge=1, le=10, title="Whole passes", json_schema_extra=hint("", field="integer")
    )

    @field_validator("across_x_mm", "along_y_mm")
    @classmethod
    def _apart(cls, value: list[float]) -> list[float]:
        if len({round(v) for v in value}) < len(value):
            raise ValueError("Two places are the same; give each station its own.")
        return value

    @model_validator(mode="after")
    def _tells_level(self) -> BaseLevelSetup:
        if self.school == "earth" and not self.along_y_mm:
            raise ValueError("To level it both ways, read at least one lengthwise place too.")
        return self


class LevelStation(Station):
    """Where the level lies, which way, and which way its marked end points."""

    lies: Literal["x", "y"]
    marked: Literal[1, -1]
    """+1: the marked end points right or to the rear."""


def propose(machine: Machine) -> BaseLevelSetup | None:
    """Stations near the feet."""
    if machine.feet is None:
        return None
    xs = [f.x_mm for f in machine.feet.places]
    ys = [f.y_mm for f in machine.feet.places]
    reach = round(0.4 * (max(xs) - min(xs)))
    deep = round(0.3 * (max(ys) - min(ys)))
    return BaseLevelSetup(
        way="ends",
        school="twist",
        recorded="marked",
        across_x_mm=[-reach, reach],
        along_y_mm=[-deep, deep],
        passes=1,
    )


def stations(setup: BaseLevelSetup) -> list[LevelStation]:
    """Crosswise from left to right, then lengthwise from front to rear; turned at each place."""
    found = []
    ways: list[tuple[Literal["x", "y"], list[float]]] = [
        ("y", setup.across_x_mm),
        ("x", setup.along_y_mm),
    ]
    for lies, places in ways:
        for at in places:
            turns: tuple[Literal[1, -1], ...] = (1, -1) if setup.way == "ends" else (1,)
            for marked in turns:
                found.append(_station(setup, lies, at, marked))
    return found


def _station(
    setup: BaseLevelSetup, lies: Literal["x", "y"], at: float, marked: Literal[1, -1]
) -> LevelStation:
    end = {
        ("y", 1): "to the rear",
        ("y", -1): "to the front",
        ("x", 1): "to the right",
        ("x", -1): "to the left",
    }[(lies, marked)]
    lay = (
        f"Lay it front to back at x {place(at)} mm"
        if lies == "y"
        else f"Lay it left to right at y {place(at)} mm"
    )
    suffix = f", marked end {end}" if setup.way == "ends" else ""
    sides = {("y", 1): "▴", ("y", -1): "▾", ("x", 1): "▸", ("x", -1): "◂"}
    turned = ":turned" if marked == -1 else ""
    return LevelStation(
        key=f"{'x' if lies == 'y' else 'y'}{at:g}{turned}",
        label=f"{'x' if lies == 'y' else 'y'} {place(at)} mm"
        + (f" {sides[(lies, marked)]}" if setup.way == "ends" else ""),
        prompt=f"{lay}{suffix}. Wait for the bubble.",
        x_mm=at if lies == "y" else 0.0,
        y_mm=at if lies == "x" else 0.0,
        lies=lies,
        marked=marked,
    )
