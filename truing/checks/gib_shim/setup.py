"""What is stated before a gib is measured for a shim, and what is then read."""

from __future__ import annotations

from itertools import pairwise
from typing import Literal

from pydantic import Field, model_validator

from truing.contract.setup import Setup, Station
from truing.machine import DIRECTIONS, Direction
from truing.machine.subject import Subject
from truing.measure.fields import Mm, MmList, choice, hint, length


class GibShimSetup(Setup):
    """A tapered gib that has come to the end of its screw."""

    kind: Literal["gib_shim"] = "gib_shim"
    slide: Direction = choice("Which slide", "left_right", DIRECTIONS)
    way: Literal["measure", "fitted"] = choice(
        "What you read",
        "measure",
        {
            "measure": "the gib’s thickness at two places",
            "fitted": "how much further out the gib now sits, with the shim behind it",
        },
    )
    apart_mm: Mm = length(
        "Between the two places",
        100.0,
        gt=5,
        le=2000,
        prompt="Measured along the gib. Far apart is better.",
        when={"way": ["measure"]},
    )
    wanted_mm: Mm = length(
        "How far the gib should come back",
        20.0,
        ge=-500,
        le=500,
        prompt="So that its screw stands in the middle of its thread again.",
    )
    fitted_mm: Mm = length(
        "All that lies behind it now",
        0.3,
        gt=0,
        le=5,
        prompt="Shims together.",
        when={"way": ["fitted"]},
    )
    there_mm: MmList = Field(
        default_factory=list,
        max_length=6,
        title="Shims behind it before this",
        json_schema_extra=hint("Thicknesses, semicolons between.", field="lengths"),
    )
    length_mm: Mm = length("Template: length of the gib", 200.0, gt=10, le=3000, advanced=True)
    width_mm: Mm = length("Template: width of its back", 20.0, gt=2, le=300, advanced=True)
    tab_mm: Mm = length(
        "Template: tabs that fold round the ends",
        6.0,
        ge=0,
        le=50,
        prompt="They keep the shim from walking out. 0 for none.",
        advanced=True,
    )
    relief_mm: Mm = length(
        "Template: relief for the adjusting screw",
        12.0,
        ge=0,
        le=100,
        prompt="Diameter of the screw’s head, at the thick end.",
        advanced=True,
    )
    oil_holes_mm: MmList = Field(
        default_factory=list,
        max_length=12,
        title="Template: oil holes from the thick end",
        json_schema_extra=hint("Commas between.", field="lengths", advanced=True),
    )
    oil_hole_mm: Mm = length("Template: size of an oil hole", 5.0, gt=0.5, le=30, advanced=True)
    passes: int = Field(
        3, ge=1, le=10, title="Readings at each place", json_schema_extra=hint("", field="integer")
    )

    @model_validator(mode="after")
    def _template_holds(self) -> GibShimSetup:
        if self.way == "measure" and self.wanted_mm <= 0.5:
            raise ValueError("The gib has to come back by more than half a millimetre.")
        if self.relief_mm >= self.length_mm or self.relief_mm > 2 * self.width_mm:
            raise ValueError("The relief for the screw is larger than the gib: check both.")
        edge = self.oil_hole_mm / 2
        for at in self.oil_holes_mm:
            if not edge <= at <= self.length_mm - edge:
                raise ValueError(
                    f"An oil hole at {at:g} mm lies outside the gib, which is "
                    f"{self.length_mm:g} mm long."
                )
        for one, other in pairwise(sorted(self.oil_holes_mm)):
            if other - one < self.oil_hole_mm:
                raise ValueError("Two oil holes run into each other.")
        if self.oil_holes_mm and self.oil_hole_mm >= self.width_mm:
            raise ValueError("An oil hole is wider than the gib.")
        return self

    @property
    def subject(self) -> Subject:
        return Subject.part(self.slide)


def stations(setup: GibShimSetup) -> list[Station]:
    """Two thicknesses, or the shift that the fitted shim has made."""
    if setup.way == "fitted":
        return [
            Station(
                key="shift",
                label="shift",
                prompt="How much further out does the gib sit than before the shim? Measure at its "
                "end, against the slide.",
                x_mm=0.0,
                y_mm=0.0,
            )
        ]
    return [
        Station(
            key="thick",
            label="thick end",
            prompt="Thickness of the gib near its thick end. Mark the place.",
            x_mm=0.0,
            y_mm=0.0,
        ),
        Station(
            key="thin",
            label="thin end",
            prompt="Thickness nearer its thin end, the stated distance away.",
            x_mm=setup.apart_mm,
            y_mm=0.0,
        ),
    ]
