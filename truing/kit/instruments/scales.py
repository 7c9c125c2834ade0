"""Sizes and scales: blades, calipers, rules, a scale with a trigger."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar, Literal

from truing.kit.instruments.base import FINEST_MM, BaseInstrument, Question
from truing.measure.fields import Mm, length
from truing.measure.lengths import Length
from truing.measure.words import plain

MICROMETER_MM = 50.0
"""What opens no further is a micrometer rather than a caliper."""
RULE_MM = 1500.0
"""What is longer is a tape."""


class FeelerBlades(BaseInstrument):
    """A set of feeler blades or shims used as a gauge, stacked up to a few at a time."""

    type: Literal["feeler"] = "feeler"
    blade_step_mm: Mm = length(
        "Step between gaps you can make up",
        0.05,
        ge=FINEST_MM,
        le=1,
        prompt="Usually the thinnest blade.",
    )
    thickest_mm: Mm = length("Largest gap you can make up", 1.5, gt=0, le=50)

    @property
    def usual_error_mm(self) -> float:
        # a few blades, each good to some thousandths
        return 0.01

    @property
    def step_mm(self) -> float:
        return self.blade_step_mm

    @property
    def travel_mm(self) -> float:
        return self.thickest_mm

    def question(self, read: Length, near: Sequence[float] = ()) -> Question | None:
        if read.mm < 0:
            return Question(about="range", text=plain("A gap is not less than nothing."))
        return super().question(read, near)


class ScaleTrigger(BaseInstrument):
    """A scale readout on the moving head, with a dial, plate or paper that says when it touches."""

    type: Literal["scale_trigger"] = "scale_trigger"
    resolution_mm: Mm = length("Last digit of the scale", 0.01, ge=FINEST_MM, le=1)
    range_mm: Mm = length("Travel of the scale", 300.0, gt=0, le=5000)

    @property
    def usual_error_mm(self) -> float:
        return max(0.01, self.resolution_mm)

    @property
    def step_mm(self) -> float:
        return self.resolution_mm

    @property
    def travel_mm(self) -> float:
        return self.range_mm


class Caliper(BaseInstrument):
    """A micrometer or caliper: thicknesses and distances that it closes on."""

    sized: ClassVar[bool] = True
    type: Literal["caliper"] = "caliper"
    resolution_mm: Mm = length("Last digit, or one division", 0.01, ge=FINEST_MM, le=0.1)
    range_mm: Mm = length("Opens to", 150.0, gt=0, le=2000)

    @property
    def usual_error_mm(self) -> float:
        # a micrometer's anvils; a caliper's jaws differ by so much between their kinds
        return 0.004 if self.range_mm <= MICROMETER_MM else 0.03

    def question(self, read: Length, near: Sequence[float] = ()) -> Question | None:
        if read.mm < 0:
            return Question(about="range", text=plain("A size is not less than nothing."))
        return super().question(read, near)

    @property
    def step_mm(self) -> float:
        return self.resolution_mm

    @property
    def travel_mm(self) -> float:
        return self.range_mm


class Rule(BaseInstrument):
    """A rule or tape."""

    sized: ClassVar[bool] = True
    type: Literal["rule"] = "rule"
    repeatability_mm: Mm = length("Repeatability", 0.5, ge=0, le=5)
    resolution_mm: Mm = length("One division", 1.0, ge=FINEST_MM, le=10)
    range_mm: Mm = length("Length", 3000.0, gt=0, le=50000)

    @property
    def usual_error_mm(self) -> float:
        # a steel rule; a tape of the second class has three tenths and two for each metre
        return 0.1 if self.range_mm <= RULE_MM else 0.3 + 0.2 * self.range_mm / 1000

    def question(self, read: Length, near: Sequence[float] = ()) -> Question | None:
        if read.mm < 0:
            return Question(about="range", text=plain("A size is not less than nothing."))
        return super().question(read, near)

    @property
    def step_mm(self) -> float:
        return self.resolution_mm

    @property
    def travel_mm(self) -> float:
        return self.range_mm
