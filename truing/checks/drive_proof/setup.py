"""What is stated before a drive is driven to its limits, and which rung comes next."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from pydantic import Field, model_validator

from truing.contract.readings import Grade, GradeReading, LengthReading, Reading
from truing.contract.setup import Setup, Station
from truing.machine import DIRECTIONS, Direction
from truing.machine.subject import Subject
from truing.measure.fields import Mm, choice, hint, length

Ladder = Literal["feed", "accel"]
RESULTS = [
    Grade(key="clean", label="clean", tone="good"),
    Grade(key="rattles", label="rattles", tone="doubt"),
    Grade(key="stalls", label="stalls", tone="bad"),
]
LOST_MM = 0.1
"""A return to zero that misses by more than this has lost steps: the ladder ends there."""


class DriveProofSetup(Setup):
    """A ladder of feeds, or of accelerations, on one slide."""

    kind: Literal["drive_proof"] = "drive_proof"
    slide: Direction = choice("Which slide", "left_right", DIRECTIONS)
    proven: bool = Field(
        False,
        title="Stops, limit switches and the emergency stop have been tested today",
        json_schema_extra=hint(
            "Slowly, with a hand on the stop, before anything is fast.", field="switch"
        ),
    )
    ladder: Ladder = choice(
        "What is raised",
        "feed",
        {"feed": "the feed, at a fixed acceleration", "accel": "the acceleration, at a fixed feed"},
    )
    start: float = Field(
        1000,
        gt=0,
        le=200_000,
        title="First step",
        json_schema_extra=hint("mm/min for a feed, mm/s² for an acceleration.", field="number"),
    )
    step: float = Field(
        500,
        gt=0,
        le=100_000,
        title="Raise it each time by",
        json_schema_extra=hint("", field="number"),
    )
    top: float = Field(
        5000,
        gt=0,
        le=200_000,
        title="Stop at",
        json_schema_extra=hint("No higher than the maker of the drive allows.", field="number"),
    )
    fixed: float = Field(
        200,
        gt=0,
        le=200_000,
        title="Fixed meanwhile",
        json_schema_extra=hint("The acceleration in mm/s², or the feed in mm/min.", field="number"),
    )
    wanted: float = Field(
        1000,
        gt=0,
        le=200_000,
        title="Your work needs",
        json_schema_extra=hint(
            "The fastest you would use, same unit as the steps.", field="number"
        ),
    )
    travel_mm: Mm = length(
        "Length of each run", 200.0, gt=1, le=10000, prompt="To and fro, clear of the stops."
    )
    cycles: int = Field(
        10,
        ge=1,
        le=1000,
        title="Runs to and fro at each step",
        json_schema_extra=hint(
            "Then back to zero: smooth is not the same as accurate.", field="integer"
        ),
    )

    @model_validator(mode="after")
    def _climbs(self) -> DriveProofSetup:
        if self.top < self.start:
            raise ValueError("The last step is lower than the first.")
        if (self.top - self.start) / self.step > 30:
            raise ValueError("That is more than thirty steps: raise it by more each time.")
        return self

    @property
    def tip_sides(self) -> int:
        return 0

    @property
    def subject(self) -> Subject:
        return Subject.part(self.slide)

    @property
    def rungs(self) -> list[float]:
        """Every step up to the top."""
        n = int((self.top - self.start) / self.step + 1e-9) + 1
        found = [self.start + i * self.step for i in range(n)]
        return found if abs(found[-1] - self.top) < 1e-9 else [*found, self.top]


def unit(ladder: Ladder) -> str:
    """What a rung is told in."""
    return "mm/min" if ladder == "feed" else "mm/s²"


class RungStation(Station):
    """A step of the ladder, or the way back to zero after it."""

    rung: float
    """Feed (mm/min) or acceleration (mm/s²)."""


def stations(setup: DriveProofSetup, readings: Sequence[Reading] = ()) -> list[RungStation]:
    """The rungs climbed so far and the next one; none beyond the first that failed."""
    found = []
    for value in setup.rungs:
        key = f"{value:g}"
        found += [_run(setup, value), _return(setup, value)]
        grade = next(
            (
                r.grade
                for r in reversed(readings)
                if isinstance(r, GradeReading) and r.station == key
            ),
            None,
        )
        home = next(
            (
                r.shown_mm
                for r in reversed(readings)
                if isinstance(r, LengthReading) and r.station == f"{key}:home"
            ),
            None,
        )
        if grade != "clean" or home is None or abs(home) > LOST_MM:
            break
    return found


def _run(setup: DriveProofSetup, value: float) -> RungStation:
    other = "acceleration" if setup.ladder == "feed" else "feed"
    fixed_unit = unit("accel" if setup.ladder == "feed" else "feed")
    return RungStation(
        rung=value,
        key=f"{value:g}",
        label=f"{value:g} {unit(setup.ladder)}",
        prompt=f"{value:g} {unit(setup.ladder)} ({other} {setup.fixed:g} {fixed_unit}): "
        f"{setup.cycles} runs of {setup.travel_mm:g} mm to and fro, a hand on the stop. "
        "How did it go?",
        x_mm=0.0,
        y_mm=0.0,
        reads="grade",
        grades=RESULTS,
        where="Where it failed, mm from the middle",
    )


def _return(setup: DriveProofSetup, value: float) -> RungStation:
    return RungStation(
        rung=value,
        key=f"{value:g}:home",
        label=f"back to zero after {value:g}",
        prompt="Slowly back to zero, always from the same side: what does the dial show, that "
        "showed zero at the start?",
        x_mm=0.0,
        y_mm=0.0,
    )
