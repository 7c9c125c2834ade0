"""A machine as the job sees it: what can be moved on it, and the dimensions that matter for that.

Frame: the operator stands at the front; X to the right, Y to the rear, Z up.
"""

from __future__ import annotations

from itertools import combinations
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from truing.fields import Mm, MmList, choice, hint, length

Form = Literal["column_mill", "micro_mill", "gantry_router"]
Work = Literal["metal", "board"]


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Head(_Part):
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
        prompt="Only for a head that nods.",
    )


class Pad(_Part):
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


class BoltedBase(_Part):
    """A column bolted to its base; shims under its pads lean it."""

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
    def _apart(self) -> BoltedBase:
        for one, other in combinations(self.pads, 2):
            if abs(one.x_mm - other.x_mm) + abs(one.y_mm - other.y_mm) < 1:
                raise ValueError(f"{one.name} and {other.name} are at the same place.")
        (x0, y0), *rest = [(p.x_mm, p.y_mm) for p in self.pads]
        if all(
            abs((x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0)) < 100
            for (x1, y1), (x2, y2) in combinations(rest, 2)
        ):
            raise ValueError("The pads stand on one line; a base needs them spread both ways.")
        return self


class Bracket(_Part):
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


class Gantry(_Part):
    """A beam between two end plates; twisting one end plate nods the spindle there."""

    left_plate_x_mm: Mm = length(
        "Left end plate", -400.0, ge=-5000, le=5000, prompt="From mid bed."
    )
    right_plate_x_mm: Mm = length("Right end plate", 400.0, ge=-5000, le=5000)
    fixed_bolt_y_mm: Mm = length(
        "Bolt the plate twists about, behind the spindle line",
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


class Machine(_Part):
    """A machine described by the parts that can be moved on it; a part it lacks is None."""

    form: Form = choice(
        "Form",
        "column_mill",
        {
            "column_mill": "Column mill",
            "micro_mill": "Micro mill",
            "gantry_router": "Gantry router",
        },
    )
    work: Work = choice("Mostly cuts", "metal", {"metal": "metal", "board": "board"})
    table_x_mm: Mm = length("Table or bed, left to right", 500.0, ge=40, le=6000)
    table_y_mm: Mm = length("Table or bed, front to rear", 160.0, ge=40, le=6000)
    cutter_mm: Mm = length(
        "Widest cutter you surface with",
        50.0,
        gt=0,
        le=500,
        prompt="What a lean does to the part is told for this cutter.",
    )
    head: Head | None = Field(None, title="Tilting head")
    base: BoltedBase | None = Field(None, title="Column on a bolted base")
    bracket: Bracket | None = Field(None, title="Spindle bracket")
    gantry: Gantry | None = Field(None, title="Gantry with end plates")


def starting_point(form: Form) -> Machine:
    """A machine of this form with usual parts, for the owner to correct."""
    if form == "column_mill":
        return Machine(form=form, head=Head(), base=BoltedBase(pads=four_pads(160, 120)))
    if form == "micro_mill":
        return Machine(
            form=form,
            table_x_mm=240,
            table_y_mm=145,
            cutter_mm=25,
            base=BoltedBase(pads=four_pads(90, 80)),
        )
    return Machine(
        form=form,
        work="board",
        table_x_mm=800,
        table_y_mm=1000,
        bracket=Bracket(spacing_mm=120),
        gantry=Gantry(),
    )


TOLERANCE_MM_PER_M: dict[Work, float] = {"metal": 0.1, "board": 0.3}
"""Usual limits of lean and nod until the owner sets their own."""
