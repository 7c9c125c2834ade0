"""What is stated before two rails are compared, and where they are measured."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from pydantic import Field, model_validator

from truing.contract.setup import Setup, Station
from truing.measure.fields import MmList, choice, hint
from truing.measure.words import place

Way = Literal["distance", "carriage"]


class RailParallelSetup(Setup):
    """How the distance between the rails is followed along them."""

    kind: Literal["rail_parallel"] = "rail_parallel"
    way: Way = choice(
        "How you read it",
        "carriage",
        {
            "carriage": "a dial on the first rail’s carriage, its tip on the second rail",
            "distance": "the distance between the rails, measured across",
        },
    )
    places_mm: MmList = Field(
        default_factory=lambda: [0.0, 250.0, 500.0, 750.0, 1000.0],
        min_length=3,
        max_length=40,
        title="Bolts, from the fixed end",
        json_schema_extra=hint("Every bolt, or every second. Commas between.", field="lengths"),
    )
    tip_on: Literal["inner", "outer"] = choice(
        "The tip touches",
        "inner",
        {
            "inner": "the side of the second rail that faces the first",
            "outer": "its far side",
        },
        when={"way": ["carriage"]},
    )
    passes: int = Field(
        2, ge=1, le=10, title="Whole passes", json_schema_extra=hint("", field="integer")
    )

    @model_validator(mode="after")
    def _in_order(self) -> RailParallelSetup:
        if len({round(p, 1) for p in self.places_mm}) < len(self.places_mm):
            raise ValueError("Two places are the same; give each its own.")
        if sorted(self.places_mm) != self.places_mm:
            raise ValueError("Name the places in order, from the fixed end.")
        return self

    def loops(self, plan: Sequence[Station]) -> list[list[Station]]:
        return [list(plan)] if self.way == "carriage" else []

    @property
    def sign(self) -> int:
        """Brings a reading to plus = the rails are further apart."""
        if self.way == "distance":
            return 1
        return -1 if self.tip_on == "inner" else 1


def stations(setup: RailParallelSetup) -> list[Station]:
    """Every place in order."""
    what = {
        "carriage": "run the carriage to it and read",
        "distance": "measure across, square to the rails",
    }[setup.way]
    return [
        Station(
            key=f"{x:g}",
            at_mm=x,
            label=f"{place(x)} mm",
            prompt=f"Bolt {i + 1}, {place(x)} mm from the fixed end: {what}.",
            x_mm=x,
            y_mm=0.0,
        )
        for i, x in enumerate(setup.places_mm)
    ]
