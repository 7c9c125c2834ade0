"""What every instrument tells: its steps, its reach, its doubts about a reading."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import ClassVar, Literal, Self, cast

from pydantic import BaseModel, ConfigDict, Field, model_validator

from truing.measure.fields import Day, Mm, choice, exact, hint, length
from truing.measure.lengths import Length, Unit, parse_length, unit_size_mm
from truing.measure.problem import Problem
from truing.measure.words import MINUS, Words, plain, say, show

READING_UNITS = {
    "div": "divisions of the dial",
    "mm": "mm",
    "µm": "µm",
    "in": "in",
    "thou": "thou (0.001 in)",
    "tenths": "tenths (0.0001 in)",
}


SLIP = 0.25
"""Of the smallest step that can be read off an instrument: what is less was not read off it."""


class Question(BaseModel):
    """A doubt about a reading that the person settles; nothing is refused."""

    about: Literal["unit", "turns", "range", "steps"]
    text: Words
    choices: list[float] = []
    """Other values (mm, as shown by the instrument) that the same needle could mean."""
    choice_words: list[Words] = []


FINEST_MM = 1e-5
"""No instrument of a workshop is graduated finer."""


def _plainly_nearest(
    mm: float, others: Sequence[float], near: Sequence[float], turn: float
) -> bool:
    """Whether a value lies nearer to what was read beside it than any other that the same needle
    could mean, by a quarter of a turn: nobody has to be asked which is meant."""

    def away(value: float) -> float:
        return min(abs(value - n) for n in near)

    return bool(near) and all(away(mm) + turn / 4 <= away(other) for other in others)


class BaseInstrument(BaseModel):
    model_config = ConfigDict(extra="forbid")

    has_divisions: ClassVar[bool] = False
    """Whether it can be read in divisions of its own."""
    unit: Unit = choice(
        "A bare number means",
        "mm",
        READING_UNITS,
        prompt="The unit you read this instrument in.",
        inch="thou",
    )
    repeatability_mm: Mm = length(
        "Repeatability", 0.003, ge=0, le=1, prompt="How well it returns to the same place."
    )
    error_mm: Mm = length(
        "Stated error over its range",
        0.0,
        ge=0,
        le=10,
        prompt="From its sheet, or as compared. 0: nobody knows, and what is usual counts.",
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
        if self.unit == "div" and not self.has_divisions:
            raise ValueError("This instrument has no divisions: read it in mm or in inches.")
        return self

    shown_by: ClassVar[str] = "the reading"
    """What is looked at while something is moved, as in “the needle goes from … to …”."""
    sized: ClassVar[bool] = False
    """Whether it reads sizes from a zero of its own, wrong by much the same wherever it closes;
    others are wrong by something else at every place, where readings differ."""
    can_zero: ClassVar[bool] = False
    """Whether it can be set to zero in the middle of a pass."""
    plus_means: ClassVar[str] = ""
    """What a plus of it means, where that is always the same."""

    @property
    def units(self) -> list[Unit]:
        """The units that its readings can be typed in."""
        known: list[Unit] = ["div", "mm", "µm", "in", "thou", "tenths"]
        return known if self.has_divisions else known[1:]

    @property
    def division_mm(self) -> float | None:
        """Length of one division; None where it has none."""
        return None

    @property
    def usual_error_mm(self) -> float:
        """Error over its range that such instruments usually have."""
        return 0.0

    @property
    def wrong_by_mm(self) -> float:
        """Error over its range: as stated, or what is usual."""
        return self.error_mm or self.usual_error_mm

    @property
    def reversal_mm(self) -> float:
        """By how much it shows less coming up to a place than coming down to it."""
        return 0.0

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
        return parse_length(
            text, unit=unit or self.unit, division_mm=self.division_mm, turn_mm=self.turn_mm
        )

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

    def question(self, read: Length, near: Sequence[float] = ()) -> Question | None:
        """A doubt worth asking about before this reading is kept, or None. `near`: what was read
        beside it with the needle on the same zero (mm, as shown)."""
        slip = self._unit_slip(read)
        if slip is not None:
            return slip
        turn = self.turn_mm
        others = [read.mm + k * turn for k in (-1, 1)] if turn else []
        others = [mm for mm in others if abs(mm) <= self.travel_mm]
        far = turn is not None and not read.signed and abs(read.mm) > turn / 4
        if turn and far and others and not _plainly_nearest(read.mm, others, near, turn):
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

    def _unit_slip(self, read: Length) -> Question | None:
        """What is not nothing, and far less than anybody can see: it was typed in another unit than
        the field stood in. Kept as it is, it would be the best reading of all."""
        if read.mm == 0 or abs(read.mm) >= SLIP * self.step_mm:
            return None
        number = read.mm / unit_size_mm(cast(Unit, read.unit), self.division_mm or self.step_mm)
        choices: list[float] = []
        words: list[Words] = []
        for unit in self.units:
            size = unit_size_mm(unit, self.division_mm)
            mm = number * size
            known = any(abs(mm - other) < self.step_mm / 2 for other in choices)
            if unit != read.unit and self.step_mm / 2 <= abs(mm) <= self.travel_mm and not known:
                choices.append(mm)
                words.append(plain(f"{number:+.6g} {unit}".replace("-", MINUS)))
        return Question(
            about="unit",
            text=say(
                "{a} is less than can be seen on it. Was another unit meant?",
                a=plain(f"{number:.6g} {read.unit}".replace("-", MINUS)),
            ),
            choices=choices,
            choice_words=words,
        )

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
