"""Indicators with a needle or a display."""

from __future__ import annotations

import math
from typing import ClassVar, Literal

from pydantic import Field

from truing.kit.instruments.base import FINEST_MM, BaseInstrument
from truing.measure.fields import Mm, hint, length

FINE_MM = 0.002
"""Division up to which a dial is made for thousandths."""


class Indicator(BaseInstrument):
    """What all that follow a surface with a tip share."""

    can_zero: ClassVar[bool] = True
    plus_means: ClassVar[str] = "plus = the surface is closer, the plunger goes in"
    hysteresis_mm: Mm | None = length(
        "Hysteresis",
        None,
        ge=0,
        le=0.2,
        prompt="How much less it shows coming up than coming down. To find it, two minutes: tip on "
        "a thin plate, slide a block under it, read; then from a thicker plate down onto the same "
        "block, read. The difference. Empty: what is usual counts.",
    )

    @property
    def usual_hysteresis_mm(self) -> float:
        """Hysteresis that such indicators usually have."""
        raise NotImplementedError

    @property
    def reversal_mm(self) -> float:
        return self.usual_hysteresis_mm if self.hysteresis_mm is None else self.hysteresis_mm


class Dial(Indicator):
    """What all instruments with a needle share."""

    has_divisions: ClassVar[bool] = True
    shown_by: ClassVar[str] = "the needle"
    graduation_mm: Mm = length(
        "One division", 0.01, ge=FINEST_MM, le=1, prompt="As printed on the dial."
    )
    divisions_per_turn: int = Field(
        100,
        ge=4,
        le=1000,
        title="Divisions in one turn",
        json_schema_extra=hint("Count them once round.", field="integer"),
    )
    read_fraction: float = Field(
        0.5,
        gt=0.05,
        le=1,
        title="Part of a division you can read",
        json_schema_extra=hint("Half is usual.", field="number", advanced=True),
    )

    @property
    def division_mm(self) -> float:
        return self.graduation_mm

    @property
    def step_mm(self) -> float:
        return self.graduation_mm * self.read_fraction

    @property
    def turn_mm(self) -> float:
        return self.graduation_mm * self.divisions_per_turn

    @property
    def usual_hysteresis_mm(self) -> float:
        return self.graduation_mm * (0.3 if self.graduation_mm > FINE_MM else 0.5)


class PlungerDial(Dial):
    """A dial indicator with a plunger."""

    type: Literal["plunger_dial"] = "plunger_dial"
    range_mm: Mm = length("Travel", 10.0, gt=0, le=200)

    @property
    def travel_mm(self) -> float:
        return self.range_mm


class LeverDial(Dial):
    """A lever-type (test) indicator; its tip shows too much when it stands at an angle."""

    type: Literal["lever_dial"] = "lever_dial"
    range_mm: Mm = length("Travel", 0.8, gt=0, le=10)
    tip_angle_deg: float = Field(
        0.0,
        ge=0,
        le=60,
        title="Tip angle to the surface (degrees)",
        json_schema_extra=hint(
            "0 when the tip lies along the surface; 15 shows 3.5 % too much.", field="number"
        ),
    )

    @property
    def travel_mm(self) -> float:
        return self.range_mm

    def true_mm(self, shown_mm: float) -> float:
        return shown_mm * math.cos(math.radians(self.tip_angle_deg))


class DigitalIndicator(Indicator):
    """An indicator with a digital display."""

    shown_by: ClassVar[str] = "the display"
    type: Literal["digital"] = "digital"
    resolution_mm: Mm = length("Last digit", 0.01, ge=FINEST_MM, le=1)
    range_mm: Mm = length("Travel", 12.7, gt=0, le=200)

    @property
    def usual_hysteresis_mm(self) -> float:
        return max(0.002, self.resolution_mm / 4)

    @property
    def step_mm(self) -> float:
        return self.resolution_mm

    @property
    def travel_mm(self) -> float:
        return self.range_mm
