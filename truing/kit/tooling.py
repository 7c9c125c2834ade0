"""Pieces of the kit: what is put into a spindle, and squares and cylinders to measure by."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from truing.measure.fields import Mm, choice, hint, length
from truing.measure.words import Words, say, show_estimate


class _Piece(BaseModel):
    model_config = ConfigDict(extra="forbid")

    @property
    def found(self) -> Words | None:
        """What was measured of it and is kept with it, in words."""
        return None

    mark: str = Field(
        "",
        max_length=40,
        title="Mark on it",
        json_schema_extra=hint("So that it can be told from its like.", field="text"),
    )
    remark: str = Field(
        "",
        max_length=200,
        title="Remark",
        json_schema_extra=hint("Rust, a bruise, where it came from.", field="text"),
    )


class Holder(_Piece):
    """A holder that sits in the spindle's taper."""

    type: Literal["holder"] = "holder"
    taper: str = Field(
        "",
        max_length=20,
        title="Taper",
        json_schema_extra=hint("By its standard: 2 Morse, ISO 30.", field="text"),
    )
    holds: Literal["collets", "chuck", "arbor", "fixed"] = choice(
        "Holds",
        "collets",
        {
            "collets": "collets",
            "chuck": "a drill chuck",
            "arbor": "an arbor",
            "fixed": "one shank, by a screw",
        },
    )


class Collet(_Piece):
    """A collet, and the range it closes on."""

    type: Literal["collet"] = "collet"
    series: str = Field(
        "", max_length=20, title="Series", json_schema_extra=hint("ER 20, 5C.", field="text")
    )
    size_mm: Mm = length("Nominal bore", 6.0, gt=0, le=60)


class Cutter(_Piece):
    """A cutting tool."""

    type: Literal["tool"] = "tool"
    diameter_mm: Mm = length("Diameter", 6.0, gt=0, le=300)
    teeth: int = Field(2, ge=1, le=40, title="Teeth", json_schema_extra=hint("", field="integer"))
    shank_mm: Mm = length("Shank", 6.0, gt=0, le=60)
    most_rev_per_min: int = Field(
        0,
        ge=0,
        le=100_000,
        title="Rated speed (rev/min)",
        json_schema_extra=hint("As printed on it; 0 when nothing is printed.", field="integer"),
    )


class Square(_Piece):
    """A square: how good it is said to be, and what was found of it."""

    type: Literal["square"] = "square"
    stated_mm: Mm = length(
        "Out of square by no more than",
        0.02,
        ge=0,
        le=5,
        prompt="As stated for it, over the length below.",
    )
    over_mm: Mm = length("Over a blade of", 150.0, gt=5, le=3000)
    own_mm_per_m: float | None = Field(None, json_schema_extra=hint("", field="hidden"))
    """As measured by reversal: plus = its edge leans away from the tip that runs up it."""
    own_expanded_mm_per_m: float | None = Field(None, json_schema_extra=hint("", field="hidden"))

    @property
    def found(self) -> Words | None:
        if self.own_mm_per_m is None:
            return None
        return say(
            "edge leans {way} the tip by {size}",
            way="away from" if self.own_mm_per_m > 0 else "toward",
            size=show_estimate(abs(self.own_mm_per_m), self.own_expanded_mm_per_m or 0.0, "slope"),
        )


class Cylinder(_Piece):
    """A cylinder that stands on its ground end."""

    type: Literal["cylinder"] = "cylinder"
    stated_mm: Mm = length(
        "Its end out of square by no more than", 0.01, ge=0, le=5, prompt="Over the height below."
    )
    taper_mm: Mm = length(
        "Its diameter differs by no more than", 0.004, ge=0, le=1, prompt="From end to end."
    )
    over_mm: Mm = length("Height", 150.0, gt=5, le=3000)


Piece = Annotated[Holder | Collet | Cutter | Square | Cylinder, Field(discriminator="type")]

PIECE_TITLES: dict[str, str] = {
    "holder": "Holder",
    "collet": "Collet",
    "tool": "Tool",
    "square": "Square",
    "cylinder": "Cylinder",
}
