"""What an instrument can show, and how far its readings can be trusted."""

from __future__ import annotations

import math
from typing import Annotated, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, model_validator

from truing.fields import Day, Mm, choice, exact, hint, length
from truing.problem import Problem
from truing.quantities import Length, Unit, parse_length, unit_size_mm
from truing.words import MINUS, Words, exact_slope, plain, say, show

READING_UNITS = {
    "div": "divisions of the dial",
    "mm": "mm",
    "µm": "µm",
    "in": "in",
    "thou": "thou (0.001 in)",
    "tenths": "tenths (0.0001 in)",
}


class Question(BaseModel):
    """A doubt about a reading that the person settles; nothing is refused."""

    about: Literal["turns", "range", "steps"]
    text: Words
    choices: list[float] = []
    """Other values (mm, as shown by the instrument) that the same needle could mean."""
    choice_words: list[Words] = []


class _Instrument(BaseModel):
    model_config = ConfigDict(extra="forbid")

    unit: Unit = choice(
        "A bare number means", "mm", READING_UNITS, prompt="The unit you read this instrument in."
    )
    repeatability_mm: Mm = length(
        "Repeatability", 0.003, ge=0, le=1, prompt="How well it returns to the same place."
    )
    error_mm: Mm = length(
        "Stated error over its range",
        0.0,
        ge=0,
        le=1,
        prompt="From its sheet; counts when readings differ by more than a few divisions.",
        advanced=True,
    )

    compared_on: Day | None = Field(
        None,
        title="Last compared on",
        json_schema_extra=hint("Against something better, or a known step.", field="date"),
    )
    compared_with: str = Field(
        "",
        max_length=120,
        title="Compared with",
        json_schema_extra=hint("A gauge block, another indicator.", field="text"),
    )

    @model_validator(mode="after")
    def _has_divisions(self) -> Self:
        if self.unit == "div" and not isinstance(self, _Dial | Level):
            raise ValueError("This instrument has no divisions: read it in mm or in inches.")
        return self

    @property
    def division_mm(self) -> float | None:
        """Length of one division; None where it has none."""
        return None

    @property
    def step_mm(self) -> float:
        """Smallest difference a person can read off it."""
        raise NotImplementedError

    @property
    def travel_mm(self) -> float:
        """How far it can follow."""
        raise NotImplementedError

    @property
    def turn_mm(self) -> float | None:
        """Travel of one turn of the needle; None where there is no needle."""
        return None

    def read(self, text: str, unit: Unit | None = None) -> Length:
        """Parse what was typed for this instrument (Problem as in `parse_length`)."""
        return parse_length(text, unit=unit or self.unit, division_mm=self.division_mm)

    def true_mm(self, shown_mm: float) -> float:
        """Length behind a shown value."""
        return shown_mm

    def reading_words(self, mm: float, *, signed: bool = True) -> Words:
        """A reading with the digits this instrument can show."""
        return show(mm, self.step_mm, signed=signed)

    @property
    def reads_words(self) -> Words:
        """The smallest difference that can be read off it."""
        return exact(self.step_mm)

    @property
    def repeatability_words(self) -> Words:
        """Its stated repeatability."""
        return show(self.repeatability_mm, self.repeatability_mm / 10 or 1e-3)

    @property
    def level_base_mm(self) -> float:
        """Length that a level stands on. Problem when this is no level."""
        raise Problem("This is no level.", expected="Pick a level.", field="instrument")

    @property
    def level_sensitivity_mm_per_m(self) -> float:
        """Slope of one division of a level. Problem when this is no level, or when nobody knows."""
        raise Problem("This is no level.", expected="Pick a level.", field="instrument")

    def as_read(self, mm: float, *, signed: bool = True) -> Words:
        """A value as this instrument shows it, in its own unit whatever the reader's system is:
        what is to be compared with a needle must not be converted on the way."""
        size = unit_size_mm(self.unit, self.division_mm)
        steps = round(mm / self.step_mm) * self.step_mm / size
        text = f"{abs(steps):.4f}".rstrip("0").rstrip(".")
        sign = "" if float(text) == 0 else MINUS if steps < 0 else "+" if signed else ""
        return plain(f"{sign}{text} {self.unit}")

    def question(self, read: Length) -> Question | None:
        """A doubt worth asking about before this reading is kept, or None."""
        turn = self.turn_mm
        others = [read.mm + k * turn for k in (-1, 1)] if turn else []
        others = [mm for mm in others if abs(mm) <= self.travel_mm]
        if turn and others and not read.signed and abs(read.mm) > turn / 4:
            return Question(
                about="turns",
                text=say("Which turn of the needle? {a} as typed.", a=self.reading_words(read.mm)),
                choices=others,
                choice_words=[self.reading_words(mm) for mm in others],
            )
        if abs(read.mm) > self.travel_mm + 1e-9:
            return Question(
                about="range",
                text=say(
                    "{a} is more than its {b} of travel.",
                    a=self.reading_words(read.mm),
                    b=show(self.travel_mm, 0.01),
                ),
            )
        return self._between_steps(read)

    def _between_steps(self, read: Length) -> Question | None:
        if read.unit not in (self.unit, "div"):
            return None
        steps = read.mm / self.step_mm
        if abs(steps - round(steps)) <= 0.05:
            return None
        near = [self.step_mm * k for k in (math.floor(steps), math.ceil(steps))]
        return Question(
            about="steps",
            text=say(
                "It is read in steps of {step}; {a} lies between two.",
                step=show(self.step_mm, self.step_mm / 10),
                a=show(read.mm, self.step_mm / 10, signed=True),
            ),
            choices=near,
            choice_words=[self.reading_words(mm) for mm in near],
        )


class _Dial(_Instrument):
    graduation_mm: Mm = length("One division", 0.01, gt=0, le=1, prompt="As printed on the dial.")
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


class PlungerDial(_Dial):
    """A dial indicator with a plunger."""

    type: Literal["plunger_dial"] = "plunger_dial"
    range_mm: Mm = length("Travel", 10.0, gt=0, le=200)

    @property
    def travel_mm(self) -> float:
        return self.range_mm


class LeverDial(_Dial):
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


class DigitalIndicator(_Instrument):
    """An indicator with a digital display."""

    type: Literal["digital"] = "digital"
    resolution_mm: Mm = length("Last digit", 0.01, gt=0, le=1)
    range_mm: Mm = length("Travel", 12.7, gt=0, le=200)

    @property
    def step_mm(self) -> float:
        return self.resolution_mm

    @property
    def travel_mm(self) -> float:
        return self.range_mm


class FeelerBlades(_Instrument):
    """A set of feeler blades or shims used as a gauge, stacked up to a few at a time."""

    type: Literal["feeler"] = "feeler"
    blade_step_mm: Mm = length(
        "Step between gaps you can make up", 0.05, gt=0, le=1, prompt="Usually the thinnest blade."
    )
    thickest_mm: Mm = length("Largest gap you can make up", 1.5, gt=0, le=50)

    @property
    def step_mm(self) -> float:
        return self.blade_step_mm

    @property
    def travel_mm(self) -> float:
        return self.thickest_mm

    def question(self, read: Length) -> Question | None:
        if read.mm < 0:
            return Question(about="range", text=plain("A gap is not less than nothing."))
        return super().question(read)


class ScaleTrigger(_Instrument):
    """A scale readout on the moving head, with a dial, plate or paper that says when it touches."""

    type: Literal["scale_trigger"] = "scale_trigger"
    resolution_mm: Mm = length("Last digit of the scale", 0.01, gt=0, le=1)
    range_mm: Mm = length("Travel of the scale", 300.0, gt=0, le=5000)

    @property
    def step_mm(self) -> float:
        return self.resolution_mm

    @property
    def travel_mm(self) -> float:
        return self.range_mm


class Level(_Instrument):
    """A spirit level, read in divisions of its vial, each kept as the rise over its base."""

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
            "Printed on it: 0.02 mm/m. 0.0002 in over 10 in is 0.02; 0.1° is 1.75.", field="number"
        ),
    )
    blade_mm: Mm | None = length(
        "Not known? Feeler blade under one end",
        None,
        gt=0,
        le=2,
        prompt="Lay it on something flat and still, and put a blade under one end.",
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


class Caliper(_Instrument):
    """A micrometer or caliper: thicknesses and distances that it closes on."""

    type: Literal["caliper"] = "caliper"
    resolution_mm: Mm = length("Last digit, or one division", 0.01, gt=0, le=0.1)
    range_mm: Mm = length("Opens to", 150.0, gt=0, le=2000)

    def question(self, read: Length) -> Question | None:
        if read.mm < 0:
            return Question(about="range", text=plain("A size is not less than nothing."))
        return super().question(read)

    @property
    def step_mm(self) -> float:
        return self.resolution_mm

    @property
    def travel_mm(self) -> float:
        return self.range_mm


class Rule(_Instrument):
    """A rule or tape."""

    type: Literal["rule"] = "rule"
    repeatability_mm: Mm = length("Repeatability", 0.5, ge=0, le=5)
    resolution_mm: Mm = length("One division", 1.0, gt=0, le=10)
    range_mm: Mm = length("Length", 3000.0, gt=0, le=50000)

    def question(self, read: Length) -> Question | None:
        if read.mm < 0:
            return Question(about="range", text=plain("A size is not less than nothing."))
        return super().question(read)

    @property
    def step_mm(self) -> float:
        return self.resolution_mm

    @property
    def travel_mm(self) -> float:
        return self.range_mm


Instrument = Annotated[
    PlungerDial
    | LeverDial
    | DigitalIndicator
    | FeelerBlades
    | ScaleTrigger
    | Level
    | Caliper
    | Rule,
    Field(discriminator="type"),
]

INSTRUMENT_TITLES: dict[str, str] = {
    "plunger_dial": "Dial indicator, plunger",
    "lever_dial": "Dial indicator, lever",
    "digital": "Digital indicator",
    "feeler": "Feeler blades",
    "scale_trigger": "Scale readout with a trigger",
    "level": "Spirit level",
    "caliper": "Micrometer or caliper",
    "rule": "Rule or tape",
}


class DialPosition(BaseModel):
    """A needle dragged on the drawn dial: degrees clockwise from zero, and whole turns."""

    angle_deg: float = Field(ge=-360, le=360, allow_inf_nan=False)
    turns: int = Field(0, ge=-1000, le=1000)


def dial_reading(instrument: Instrument, at: DialPosition) -> Length:
    """What a dragged needle means, to the step that can be read; typed for the record.

    Problem when the instrument has no needle.
    """
    turn, division = instrument.turn_mm, instrument.division_mm
    if turn is None or division is None:
        raise Problem("This instrument has no needle.", expected="Type the reading instead.")
    mm = (at.angle_deg / 360 + at.turns) * turn
    mm = round(mm / instrument.step_mm) * instrument.step_mm
    divisions = round(mm / division, 3)
    return Length(mm=mm, text=f"{divisions:+g} div", unit="div", signed=True)


def needle_at(instrument: Instrument, shown_mm: float) -> DialPosition | None:
    """Where the needle stands for a shown value; None without a needle."""
    turn = instrument.turn_mm
    if turn is None:
        return None
    turns = math.trunc(shown_mm / turn)
    return DialPosition(angle_deg=round((shown_mm / turn - turns) * 360, 3), turns=turns)
