"""Symptoms and causes: what a practitioner may edit, one file for each symptom and one for the
causes.

A file that cannot be used is a Problem that names it and the place in it.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from pathlib import Path
from typing import Any, Literal, get_args

from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from truing.course.events import EventKey, event_kind
from truing.course.kinds import course_kind
from truing.machine.mechanisms import Mechanism
from truing.measure.edited import read_edited
from truing.measure.problem import Problem

FOLDER = Path(__file__).parent
Outcome = Literal["gross", "far", "out", "true"]
"""How a check came out, for weighing: out by at least `GROSS` or `FAR` times its limit, out by
less, true."""
GROSS, FAR = 5.0, 2.0


class _Edited(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Odds(_Edited):
    """How often a check comes out in one way, with a cause that it shows and without one, of a
    hundred."""

    with_: float = Field(alias="with", gt=0, lt=100)
    without: float = Field(gt=0, lt=100)


class Cause(_Edited):
    """Something amiss that can be seen on the part, and the checks that show it."""

    title: str
    does: str = Field(min_length=10)
    mechanisms: list[Mechanism]
    """It is a cause on machines that have one of them; on all where none is named."""
    each: bool = False
    """One cause for every subject of the first check."""
    but: list[str] = []
    """Subjects of the first check that it is not made for, by their keys."""
    felt: bool = False
    """Shown by what is felt or seen, while the check's figures are within their limits."""
    told_by: dict[str, float] = Field(min_length=1)
    """Kind of check, or kind:part -> how surely it shows the cause when it is there, 0 to 1."""

    @field_validator("told_by")
    @classmethod
    def _known(cls, told_by: dict[str, float]) -> dict[str, float]:
        for name, share in told_by.items():
            try:
                course_kind(name.partition(":")[0])
            except KeyError:
                raise ValueError(f"there is no kind of check “{name}”") from None
            if not 0 < share < 1:
                raise ValueError(f"{name} has to lie between 0 and 1")
        return told_by


class Causes(_Edited):
    """All causes there are, and what a verdict says of one."""

    verdicts: dict[Outcome, Odds]
    causes: dict[str, Cause]

    @model_validator(mode="after")
    def _whole(self) -> Causes:
        for side in ("with_", "without"):
            total = sum(getattr(o, side) for o in self.verdicts.values())
            if abs(total - 100) > 1e-6 or len(self.verdicts) != len(get_args(Outcome)):
                raise ValueError("the verdicts have to come to a hundred each way")
        return self


class Weight(_Edited):
    """How likely a cause is behind a symptom, beside the others, and for which parts."""

    weight: float = Field(gt=0)
    parts: list[str] = []
    """Keys of the subjects that it is meant for; all where none is named."""


class Answer(_Edited):
    """Something that can be seen without measuring, and what it makes likelier."""

    says: str
    factors: dict[str, float] = Field(min_length=1)
    """Cause -> times as likely; less than 1 for less."""


class Sign(_Edited):
    """A look that costs nothing and tells causes apart."""

    asks: str
    answers: dict[str, Answer] = Field(min_length=2)


class Leads(_Edited):
    """For what has no causes to look for: where to go instead."""

    says: str
    events: list[EventKey]
    """What has happened, of which one is to be told first."""


class Symptom(_Edited):
    """What somebody sees on the part or feels at the machine."""

    key: str
    order: int
    title: str
    sees: str = Field(min_length=10)
    causes: dict[str, Weight] = {}
    signs: dict[str, Sign] = {}
    elsewhere: float = 0.5
    """The weight of everything that no check can tell."""
    look: list[str] = []
    """Of that, what is worth a look."""
    leads: Leads | None = None

    @field_validator("causes", mode="before")
    @classmethod
    def _short(cls, value: Any) -> Any:
        """A cause with nothing but a figure has that for its weight."""
        if not isinstance(value, Mapping):
            return value
        return {k: {"weight": v} if isinstance(v, int | float) else v for k, v in value.items()}

    @model_validator(mode="after")
    def _led(self) -> Symptom:
        if bool(self.causes) == bool(self.leads):
            raise ValueError("a symptom has causes, or leads somewhere else")
        for event in self.leads.events if self.leads else []:
            event_kind(event)
        return self


def read_causes(path: Path) -> Causes:
    """A file of causes. Problem, naming file and place, when it cannot be used."""
    return read_edited(path, Causes, "the others")


def read_symptom(path: Path, causes: Causes) -> Symptom:
    """A file with a symptom. Problem as above, also for a cause that is not among these."""
    found = read_edited(path, Symptom, "the others", key=path.stem)
    factors = {c for sign in found.signs.values() for a in sign.answers.values() for c in a.factors}
    for name in [*found.causes, *factors]:
        if name not in causes.causes or (name in factors and name not in found.causes):
            raise Problem(
                f"{path.name}: “{name}” is not one of its causes.",
                expected="A cause of causes.yaml that the symptom names under causes.",
                field="causes",
            )
    return found


@cache
def causes() -> Causes:
    """The causes there are."""
    return read_causes(FOLDER / "causes.yaml")


@cache
def _all() -> dict[str, Symptom]:
    found = [read_symptom(path, causes()) for path in FOLDER.glob("told/*.yaml")]
    return {s.key: s for s in sorted(found, key=lambda s: s.order)}


def symptoms() -> list[Symptom]:
    """Every symptom, in the order in which they are offered."""
    return list(_all().values())


def symptom(key: str) -> Symptom:
    """The symptom with this key; KeyError if there is none."""
    return _all()[key]
