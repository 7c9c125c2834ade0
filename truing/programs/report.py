"""What a program comes to on its ground, in figures and findings; see `check`."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from truing.measure.words import Words

Tone = Literal["danger", "wrong", "ask"]
"""It would hurt machine, work or somebody; it would not do what is meant; it wants a look."""


class ProgramFault(BaseModel):
    """Something that was found, and where."""

    model_config = ConfigDict(allow_inf_nan=False)

    code: str
    tone: Tone
    line: int
    """Of the program, from 1; 0 for the whole of it."""
    text: Words
    x_mm: float | None = None
    y_mm: float | None = None
    more: int = 0
    """How many more of the same kind there are, in later lines."""
    slashed: bool = False
    """Only when the lines behind a slash are left out."""


class LevelCut(BaseModel):
    """A height at which it cuts, and how far."""

    model_config = ConfigDict(allow_inf_nan=False)

    z_mm: float
    length_mm: float


class Report(BaseModel):
    """Figures first, then what was found, worst first."""

    model_config = ConfigDict(allow_inf_nan=False)

    verdict: Literal["sound", "faults", "incomplete"]
    sentence: Words
    lines: int
    motions: int
    units: Literal["mm", "inch", "not stated"]
    cutting: list[float] | None
    """Extents of cutting: x0, y0, z0, x1, y1, z1 (mm); None when nothing is cut."""
    rapids: list[float] | None
    deepest_mm: float | None
    deepest_line: int
    levels: list[LevelCut]
    feeds_mm_min: list[float]
    speeds_rev_min: list[float]
    tools: list[int]
    seconds: float
    cutting_mm: float
    """Length cut in material, motion by motion."""
    air_mm: float
    """Length moved at a feed that cuts nothing."""
    removed_mm3: float = 0.0
    """What all of it takes off."""
    removed: Words | None = None
    """The same in words; None of a report from before it was told."""
    unknown_from: int = 0
    """The first line from which on not everything is known; 0 for none."""
    faults: list[ProgramFault] = Field(default_factory=list)
    cited: dict[int, str] = Field(default_factory=dict)
    """The lines that they stand in, as text."""

    @property
    def dangers(self) -> list[ProgramFault]:
        """What would hurt."""
        return [f for f in self.faults if f.tone == "danger"]
