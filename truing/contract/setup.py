"""What is stated before the first reading, and where the tip then goes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import groupby
from typing import Self

from pydantic import BaseModel, ConfigDict, Field

from truing.contract.readings import Grade, Reads
from truing.machine.mechanisms import Mechanism
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.words import InBoth, plain


class Setup(BaseModel):
    """What is stated before the first reading; each kind adds its own fields."""

    model_config = ConfigDict(extra="forbid")

    kind: str

    @property
    def subject(self) -> Subject:
        """What this is about, where that is not the machine as a whole."""
        return THE_MACHINE

    @property
    def pieces(self) -> tuple[str, ...]:
        """Pieces of the kit that it names, by their keys."""
        return ()

    def named(self, names: Mapping[str, str]) -> Self:
        """The same set-up with what its pieces are called now, for one that keeps it."""
        return self

    @property
    def against(self) -> Mechanism | None:
        """What it is read against, where that is only its reference: a face that is made anew
        leaves the result standing, and is worth one look."""
        return None

    @property
    def condition(self) -> str:
        """In which of several conditions it was read, such as warm: what was found in one is not
        held against what was found in another."""
        return ""

    @property
    def tip_sides(self) -> int:
        """From how many sides a dial's tip comes within one reading, each with half of its
        hysteresis: one, of which nobody knows which; two where a reading is what it went through,
        such as a swing; none where it always comes from the same."""
        return 1

    def loops(self, plan: Sequence[Station]) -> list[list[Station]]:
        """Places that hang on one zero which can wander: a plan of one pass comes back to the first
        of each loop. None where no readings have a zero in common."""
        return []


class Station(BaseModel):
    """One place where the tip goes: its key, where that is, and a one-line prompt."""

    key: str
    """Names it in the record. What it means stands in the fields, never in the key."""
    label: InBoth
    prompt: InBoth
    group: InBoth = plain("")
    """Stations of one group are drawn together (one plan for each place along a beam)."""
    x_mm: float
    y_mm: float
    at_mm: float | None = None
    """The place along a travel, a rail or a beam that it belongs to."""
    tip: str = ""
    """Which of several tips, sides or passes is read there."""
    reads: Reads = "length"
    grades: list[Grade] = Field(default_factory=list)
    """The answers it offers, where it takes no length."""
    where: str = ""
    """What a reading may bring a place for (where it was taken, or something happened), as a
    label; "" where it brings none."""
    takes: tuple[str, ...] = ()
    """Types of instrument for it, where it takes another than the round's own."""
    wants_photo: bool = False
    """What is seen there is worth a photo."""


def by_group(plan: Sequence[Station]) -> list[list[Station]]:
    """Places of one group and tip after another, for a dial that is set anew for each."""
    return [list(each) for _, each in groupby(plan, key=lambda s: (s.group.metric, s.tip))]


def closed(plan: Sequence[Station], loops: Sequence[Sequence[Station]]) -> list[Station]:
    """One pass over the plan that comes back to the first place of each loop at its end."""
    back = {loop[-1].key: loop[0] for loop in loops if len(loop) > 1}
    return [s for here in plan for s in (here, back.get(here.key)) if s is not None]
