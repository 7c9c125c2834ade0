"""A spirit level."""

from __future__ import annotations

from typing import ClassVar, Literal, Self

from pydantic import Field, model_validator

from truing.kit.instruments.base import BaseInstrument
from truing.measure.fields import Mm, choice, hint, length
from truing.measure.lengths import Unit
from truing.measure.problem import Problem
from truing.measure.words import Words, exact_slope, plain


class Level(BaseInstrument):
    """A spirit level, read in divisions of its vial, each kept as the rise over its base."""

    has_divisions: ClassVar[bool] = True
    plus_means: ClassVar[str] = "which way plus goes is stated under Set up"
    type: Literal["level"] = "level"
    unit: Unit = choice("A bare number means", "div", {"div": "divisions of the vial"})
    repeatability_mm: Mm = length(
        "Repeatability, as a rise over its base",
        0.001,
        ge=0,
        le=1,
        prompt="Lift it off, put it back: a quarter of a division is usual.",
        advanced=True,
    )
    base_mm: Mm = length("Length it stands on", 200.0, gt=20, le=2000)
    sensitivity_mm_per_m: float | None = Field(
        None,
        gt=0.0005,
        le=50,
        title="One division is (mm in a metre)",
        json_schema_extra=hint(
            "Printed on it, as “0.02 mm/m”. 0.0002 in over 10 in is 0.02; 0.1° is 1.75. Without it "
            "the bubble tells which end is high and never by how much: nothing can be called true.",
            field="number",
        ),
    )
    blade_mm: Mm | None = length(
        "Not known? Feeler blade under one end",
        None,
        gt=0,
        le=2,
        prompt="Lay it on something flat and still, write down where the bubble stands, put a "
        "blade right under one end, and count the divisions that it moves.",
    )
    blade_divisions: float | None = Field(
        None,
        gt=0.1,
        le=100,
        title="The bubble then moved by (divisions)",
        json_schema_extra=hint("", field="number"),
    )
    read_fraction: float = Field(
        0.5,
        gt=0.05,
        le=1,
        title="Part of a division you can read",
        json_schema_extra=hint("Half is usual.", field="number", advanced=True),
    )
    divisions_each_way: float = Field(
        10.0,
        ge=0.5,
        le=100,
        title="Divisions to each side of the middle",
        json_schema_extra=hint("", field="number", advanced=True),
    )

    @property
    def units(self) -> list[Unit]:
        return ["div"]

    @property
    def level_base_mm(self) -> float:
        return self.base_mm

    @property
    def level_sensitivity_mm_per_m(self) -> float:
        if self.sensitivity_mm_per_m is not None:
            return self.sensitivity_mm_per_m
        if self.blade_mm is not None and self.blade_divisions is not None:
            return self.blade_mm / self.base_mm * 1000 / self.blade_divisions
        raise Problem(
            "How much one division of this level is, is not known.",
            expected="Read it off the level, or find it out: put a feeler blade under one end, "
            "count the divisions that the bubble moves, and enter both under Kit.",
            field="instrument",
        )

    @property
    def division_mm(self) -> float:
        return self.level_sensitivity_mm_per_m * self.base_mm / 1000

    @property
    def step_mm(self) -> float:
        return self.division_mm * self.read_fraction

    @property
    def usual_error_mm(self) -> float:
        # its divisions are not all alike
        return self.division_mm / 10

    @property
    def travel_mm(self) -> float:
        return self.division_mm * self.divisions_each_way

    @model_validator(mode="after")
    def _has_divisions(self) -> Self:
        if self.unit != "div":
            raise ValueError("A level is read in divisions of its vial.")
        return self

    def reading_words(self, mm: float, *, signed: bool = True) -> Words:
        return self.as_read(mm, signed=signed)

    @property
    def reads_words(self) -> Words:
        try:
            return exact_slope(self.level_sensitivity_mm_per_m * self.read_fraction)
        except Problem:
            return plain("nothing yet: its sensitivity is not known")

    @property
    def repeatability_words(self) -> Words:
        return plain(f"{self.repeatability_mm / self.division_mm:.2g} divisions")
