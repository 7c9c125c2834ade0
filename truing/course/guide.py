"""Guides: what a practitioner may edit about a kind of check, one file each.

Facts of practice stand here (purpose, kit, minutes, cautions, steps, schools); identity and
arithmetic stand in the core's modules.
"""

from __future__ import annotations

from collections.abc import Collection
from functools import cache
from pathlib import Path
from typing import Annotated

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, field_validator

from truing.machine.mechanisms import Mechanism
from truing.measure.edited import read_edited
from truing.measure.words import Words, both

FOLDER = Path(__file__).parent / "guides"


LEAST_SAID = 20
"""Letters of a sentence that says something."""


def _told(written: object) -> object:
    return both(written) if isinstance(written, str) else written


Told = Annotated[Words, BeforeValidator(_told)]
"""Written in millimetres, told in either system."""


class School(BaseModel):
    """One way of doing it, and its price."""

    model_config = ConfigDict(extra="forbid")

    way: Told
    gives: Told
    costs: Told


class Guide(BaseModel):
    """Purpose, kit, cautions and steps of a kind of check, in plain words."""

    model_config = ConfigDict(extra="forbid")

    purpose: Told
    costs: Told
    """What it costs on the part to be out."""
    minutes: int = Field(ge=1, le=240)
    """To set it up and read it once."""
    round_minutes: int = Field(ge=0, le=240)
    """For one correction and reading it again."""
    recheck_days: int = Field(ge=0, le=3650)
    """Look again after so many days though nothing is known to have moved; 0 for never."""
    recheck_hours: float = Field(0, ge=0)
    """Look again after so many hours of running; 0 for never."""
    kit: list[str]
    cautions: list[str] = Field(min_length=1)
    moving: dict[Mechanism, str] = Field(default_factory=dict)
    """Cautions for loosening a mechanism, told only for machines that have it."""
    steps: list[Told] = Field(min_length=2)
    by_way: dict[str, list[Told]] = Field(default_factory=dict)
    """The steps of ways of reading that go otherwise, by the way's key."""
    schools: list[School]
    not_tested: list[Told] = Field(min_length=1)
    stop: Told

    @field_validator("purpose", "costs", "stop")
    @classmethod
    def _says_something(cls, value: Words) -> Words:
        if len(value.metric) < LEAST_SAID:
            raise ValueError("Say it in a sentence.")
        return value

    def cautions_for(self, mechanisms: Collection[Mechanism]) -> list[str]:
        """The cautions that apply to a machine with these mechanisms."""
        told = [*self.cautions, *(t for m, t in self.moving.items() if m in mechanisms)]
        # what is minded for two of them alike is said once
        return list(dict.fromkeys(told))


@cache
def guide(key: str) -> Guide:
    """The guide of a kind of check. Problem, naming the file and the field, when it is missing or
    cannot be used."""
    return read_guide(FOLDER / f"{key}.yaml")


def read_guide(path: Path) -> Guide:
    """A guide file. Problem as in `guide`."""
    return read_edited(path, Guide, "the guide beside it")
