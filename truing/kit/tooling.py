"""Pieces of the kit: what is put into a spindle, and squares and cylinders to measure by."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from truing.measure.estimate import Estimate
from truing.measure.fields import Mm, choice, hint, length
from truing.measure.words import Measure, Words, join, say, show_estimate


def _known(measure: Measure, value: float | None, expanded: float | None) -> Estimate | None:
    """What was read of a piece; None where it was not, or where nobody knows how well: a figure
    without its doubt must not count as one that has none."""
    if value is None or expanded is None:
        return None
    return Estimate.within(measure, value, expanded)


def _shown(of: Estimate) -> Words:
    return show_estimate(of.value, of.expanded, of.measure)


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


CONDITIONS = {
    "": "not looked at",
    "sound": "sound",
    "rust": "rust",
    "bruise": "a bruise",
    "fretting": "fretting",
    "worn": "worn",
}


class _Turns(_Piece):
    """A piece that turns with the spindle: how it looks, and what it was found to do."""

    condition: Literal["", "sound", "rust", "bruise", "fretting", "worn"] = choice(
        "Condition", "", CONDITIONS, prompt="Wiped, and looked at against the light."
    )
    retired: bool = Field(
        False,
        title="Retired: not for work any more",
        json_schema_extra=hint("Its record stays.", field="switch"),
    )
    price: float = Field(
        0.0,
        ge=0,
        le=100_000,
        allow_inf_nan=False,
        title="Price of a new one",
        json_schema_extra=hint(
            "In your money; 0 for unknown. It is set against what a new one would gain.",
            field="number",
        ),
    )
    tir_mm: float | None = Field(None, json_schema_extra=hint("", field="hidden"))
    """What all ran out by together when it was last read in a chain."""
    tir_expanded_mm: float | None = Field(None, json_schema_extra=hint("", field="hidden"))
    own_tir_mm: float | None = Field(None, json_schema_extra=hint("", field="hidden"))
    """What it alone added, by turning it in its seat."""
    own_expanded_mm: float | None = Field(None, json_schema_extra=hint("", field="hidden"))

    @property
    def tir(self) -> Estimate | None:
        """What it was last read to run out by, together with all that it sat in."""
        return _known("length", self.tir_mm, self.tir_expanded_mm)

    @property
    def found(self) -> Words | None:
        told = []
        if own := _known("length", self.own_tir_mm, self.own_expanded_mm):
            told.append(say("adds {own} TIR by itself", own=_shown(own)))
        if tir := self.tir:
            told.append(say("ran out by {seen} TIR as it was put together last", seen=_shown(tir)))
        return join(told, "; ") if told else None


class Holder(_Turns):
    """A holder that sits in the spindle's taper."""

    type: Literal["holder"] = "holder"
    taper: str = Field(
        "",
        max_length=20,
        title="Taper",
        json_schema_extra=hint("By its standard: 2 Morse, ISO 30.", field="text"),
    )
    series: str = Field(
        "",
        max_length=20,
        title="Takes collets of",
        json_schema_extra=hint("ER 20; empty where it takes none.", field="text"),
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


class Collet(_Turns):
    """A collet, and the range it closes on."""

    type: Literal["collet"] = "collet"
    series: str = Field(
        "", max_length=20, title="Series", json_schema_extra=hint("ER 20, 5C.", field="text")
    )
    size_mm: Mm = length("Nominal bore", 6.0, gt=0, le=60)
    closes_mm: Mm = length("It closes by", 0.5, ge=0, le=3, prompt="From the nominal bore down.")


class Nut(_Turns):
    """A nut that closes a collet."""

    type: Literal["nut"] = "nut"
    series: str = Field(
        "", max_length=20, title="Series", json_schema_extra=hint("ER 20.", field="text")
    )


class Pin(_Piece):
    """A straight ground pin or test bar, to be read in place of a tool."""

    type: Literal["pin"] = "pin"
    shank_mm: Mm = length("Diameter", 6.0, gt=0, le=60)
    stated_mm: Mm = length(
        "It runs out by no more than", 0.002, ge=0, le=1, prompt="TIR, as stated for it."
    )


class Cutter(_Turns):
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
    def own(self) -> Estimate | None:
        """Its own error, as it was read last."""
        return _known("slope", self.own_mm_per_m, self.own_expanded_mm_per_m)

    @property
    def found(self) -> Words | None:
        own = self.own
        if own is None:
            return None
        return say(
            "edge leans {way} the tip by {size}",
            way="away from" if own.value > 0 else "toward",
            size=show_estimate(abs(own.value), own.expanded, "slope"),
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


Piece = Annotated[
    Holder | Collet | Nut | Cutter | Pin | Square | Cylinder, Field(discriminator="type")
]

PIECE_TITLES: dict[str, str] = {
    "holder": "Holder",
    "collet": "Collet",
    "nut": "Nut",
    "tool": "Tool",
    "pin": "Ground pin",
    "square": "Square",
    "cylinder": "Cylinder",
}
