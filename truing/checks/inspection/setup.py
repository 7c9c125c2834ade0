"""What a walk round this machine takes in."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, field_validator

from truing.checks.inspection.walk import WALK, place
from truing.contract.readings import Grade
from truing.contract.setup import Setup, Station
from truing.machine import DIRECTIONS, Direction
from truing.measure.fields import Mm, hint, length

FOUND = [
    Grade(key="fine", label="in order", tone="good"),
    Grade(key="mended", label="put right now", tone="good"),
    Grade(key="list", label="on the list", tone="doubt"),
    Grade(key="danger", label="dangerous", tone="bad"),
]
OIL = [
    Grade(key="flows", label="oil comes through", tone="good"),
    Grade(key="dry", label="stays dry", tone="bad"),
]
_KEYS = [p.key for p in WALK]


class InspectionSetup(Setup):
    """How much of a walk it is: places, oil points, travels."""

    kind: Literal["inspection"] = "inspection"
    oil_points: int = Field(
        4,
        ge=0,
        le=40,
        title="Oil points",
        json_schema_extra=hint(
            "Count nipples, cups and balls. Each is seen to flow.", field="integer"
        ),
    )
    travels: bool = Field(
        True,
        title="Measure how far each slide travels",
        json_schema_extra=hint("From stop to stop, by hand.", field="switch"),
    )
    readhead_mm: Mm = length(
        "Room a scale’s reading head takes",
        60.0,
        ge=0,
        le=500,
        prompt="For the length of scale to buy, should you fit one.",
        advanced=True,
    )
    places: list[str] = Field(
        default_factory=lambda: list(_KEYS),
        title="Places",
        json_schema_extra=hint("", field="hidden"),
    )
    directions: list[Direction] = Field(
        default_factory=list, title="Slides", json_schema_extra=hint("", field="hidden")
    )

    @field_validator("places")
    @classmethod
    def _known(cls, value: list[str]) -> list[str]:
        unknown = [k for k in value if k not in _KEYS]
        if unknown:
            raise ValueError(f"There is no place {', '.join(unknown)} in the walk.")
        return value


class InspectionStation(Station):
    """Something to look at, or a slide to be run from stop to stop."""

    travel: Direction | None = None
    """The slide whose travel is measured here."""


def stations(setup: InspectionSetup) -> list[InspectionStation]:
    """The walk, the oil points, the travels."""
    found = [
        InspectionStation(
            key=key,
            label=place(key).label,
            prompt=place(key).look,
            group="walk",
            x_mm=0.0,
            y_mm=0.0,
            reads="observation",
            grades=FOUND,
        )
        for key in setup.places
    ]
    found += [
        InspectionStation(
            key=f"oil:{i + 1}",
            label=f"oil point {i + 1}",
            prompt=f"Oil point {i + 1}: pump, wipe, and watch where it should come out.",
            group="oil",
            x_mm=0.0,
            y_mm=0.0,
            reads="observation",
            grades=OIL,
        )
        for i in range(setup.oil_points)
    ]
    if setup.travels:
        found += [
            InspectionStation(
                key=f"travel:{d}",
                label=f"travel {DIRECTIONS[d]}",
                prompt=f"Run it {DIRECTIONS[d]} from stop to stop by hand: how far?",
                group="travel",
                travel=d,
                x_mm=0.0,
                y_mm=0.0,
            )
            for d in setup.directions
        ]
    return found
