"""What is stated before a rectangle is measured, and which of its lengths are read."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from truing.checks.cutting import CORNERS, LENGTHS
from truing.contract.setup import Setup, Station
from truing.machine import Machine
from truing.machine.parts import Direction
from truing.measure.fields import Mm, hint, length

Side = Literal["front", "rear", "left", "right"]
DIAGONALS = ("d1", "d2")


class GantrySquareSetup(Setup):
    """A rectangle that the machine has marked or drilled by itself."""

    kind: Literal["gantry_square"] = "gantry_square"
    width_mm: Mm = length(
        "Width as programmed", 600.0, gt=20, le=6000, prompt="Left to right, from mark to mark."
    )
    depth_mm: Mm = length(
        "Depth as programmed", 800.0, gt=20, le=6000, prompt="Front to rear, from mark to mark."
    )
    sides: bool = Field(
        True,
        title="Measure the sides as well",
        json_schema_extra=hint("They give the scale of each axis.", field="switch"),
    )
    passes: int = Field(
        3,
        ge=1,
        le=10,
        title="Whole passes",
        json_schema_extra=hint("From the same edge of the marks each time.", field="integer"),
    )


class LengthStation(Station):
    """One length of the rectangle."""

    what: str
    """As in `LENGTHS`."""


def stations(setup: GantrySquareSetup) -> list[LengthStation]:
    """Both diagonals, then the sides."""
    found = []
    for what, (start, end) in LENGTHS.items():
        if what not in DIAGONALS and not setup.sides:
            continue
        (ax, ay), (bx, by) = CORNERS[start], CORNERS[end]
        name = "diagonal" if what in DIAGONALS else "side"
        found.append(
            LengthStation(
                key=what,
                what=what,
                label=f"{start} – {end}",
                prompt=f"Measure the {name} from the {start} mark to the {end} one.",
                group="diagonals" if what in DIAGONALS else "sides",
                x_mm=(ax + bx) / 4 * setup.width_mm,
                y_mm=(ay + by) / 4 * setup.depth_mm,
                tip=what,
            )
        )
    return found


def proposed(machine: Machine) -> GantrySquareSetup | None:
    """As large as bed and travels allow."""
    if machine.gantry_drive is None:
        return None
    size: dict[Direction, float] = {
        "left_right": machine.table_x_mm,
        "front_back": machine.table_y_mm,
    }
    for direction, mm in size.items():
        slide = machine.slide(direction)
        # to ten millimetres, and never beyond the stops
        size[direction] = min(round(mm * 0.85, -1), (slide.travel_mm if slide else mm) // 10 * 10)
    return GantrySquareSetup(width_mm=size["left_right"], depth_mm=size["front_back"])
