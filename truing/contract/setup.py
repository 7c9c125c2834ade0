"""What is stated before the first reading, and where the tip then goes."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field

from truing.contract.readings import Grade, Reads


class Setup(BaseModel):
    """What is stated before the first reading; each kind adds its own fields."""

    model_config = ConfigDict(extra="forbid")

    kind: str

    @property
    def part(self) -> str:
        """Which part of the machine this is about, as `CourseKind.parts` names it; "" for all."""
        return ""


class Station(BaseModel):
    """One place where the tip goes: its key, where that is, and a one-line prompt."""

    key: str
    label: str
    prompt: str
    group: str = ""
    """Stations of one group are drawn together (one plan for each place along a beam)."""
    x_mm: float
    y_mm: float
    reads: Reads = "length"
    grades: list[Grade] = Field(default_factory=list)
    """The answers it offers, where it takes no length."""
    asks_where: bool = False
    """A grade may come with the place where it happened."""
