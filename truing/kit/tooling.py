"""What is put into a spindle: holders, collets and tools, as they are kept in the kit."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from truing.measure.fields import Mm, choice, hint, length


class _Piece(BaseModel):
    model_config = ConfigDict(extra="forbid")

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


Piece = Annotated[Holder | Collet | Cutter, Field(discriminator="type")]

PIECE_TITLES: dict[str, str] = {"holder": "Holder", "collet": "Collet", "tool": "Tool"}
