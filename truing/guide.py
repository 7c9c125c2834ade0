"""Guides: what a practitioner may edit about a kind of check, one Markdown file each."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import yaml
from pydantic import BaseModel, ConfigDict

FOLDER = Path(__file__).parent / "guides"


class School(BaseModel):
    """One way of doing it, and its price."""

    model_config = ConfigDict(extra="forbid")

    way: str
    gives: str
    costs: str


class Guide(BaseModel):
    """Purpose, kit, cautions and steps of a kind of check, in plain words."""

    model_config = ConfigDict(extra="forbid")

    purpose: str
    costs: str
    minutes: int
    kit: list[str]
    cautions: list[str]
    steps: list[str]
    schools: list[School]
    not_tested: list[str]
    stop: str


@cache
def guide(key: str) -> Guide:
    """The guide of a kind of check. FileNotFoundError or ValueError when it is missing or bad."""
    return Guide.model_validate(yaml.safe_load((FOLDER / f"{key}.yaml").read_text("utf-8")))
