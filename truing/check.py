"""What a kind of check is: the contract that every kind keeps, and the registry of kinds."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Sequence
from datetime import datetime
from typing import Any, ClassVar, Generic, Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Field

from truing.course import CourseKind, course_kind
from truing.instruments import Instrument
from truing.machine import Machine
from truing.moves.move import Advice, Shim
from truing.quantities import Estimate
from truing.spread import Spread
from truing.verdict import VERDICT_WORDS, Verdict, WayOut, verdict, way_out, worst
from truing.words import Words, join, plain, say, show


class Setup(BaseModel):
    """What is stated before the first reading; each kind adds its own fields."""

    model_config = ConfigDict(extra="forbid")

    kind: str


class Station(BaseModel):
    """One place where the tip goes: its key, where that is, and a one-line prompt."""

    key: str
    label: str
    prompt: str
    group: str = ""
    """Stations of one group are drawn together (one plan for each place along a beam)."""
    x_mm: float
    y_mm: float


class LengthReading(BaseModel):
    """A length read at a station, as the instrument showed it (mm, before any sign or cosine)."""

    kind: Literal["length"] = "length"
    id: str
    station: str
    shown_mm: float = Field(allow_inf_nan=False)
    read_at: datetime
    zeroed_on: str | None = None
    """Id of the reading on which the dial was set to zero before this one was taken."""


Reading = LengthReading
"""The union of readings; a kind that reads grades or observations adds its member here."""


class Note(BaseModel):
    """A remark on the readings: a doubt to look at, or how far the finding carries."""

    tone: Literal["look", "weak", "info"]
    text: Words
    station: str | None = None


class Quantity(BaseModel):
    """One result with its uncertainty (mm/m), and what it is judged by."""

    key: str
    tolerance_key: str
    label: str
    estimate: Estimate
    gain: float
    """√C: the quantity per mm of one station mean."""
    words: Words
    sentence: Words


class StationMean(BaseModel):
    """What a station came to: mean and U in mm, its repeats, and what the fit leaves there."""

    station: str
    mean_mm: float
    expanded_mm: float
    repeats_mm: list[float]
    left_mm: float


class Finding(BaseModel):
    """Geometry and uncertainty of one round; each kind adds its own fields."""

    kind: str
    quantities: list[Quantity]
    stations: list[StationMean]
    notes: list[Note]
    spread: Spread
    """Scatter of this round's own repeats, carried into later rounds."""
    s_mm: float
    step_mm: float


class Judged(BaseModel):
    """One quantity against its tolerance."""

    quantity: str
    tolerance: float
    tolerance_words: Words
    verdict: Verdict
    text: Words
    way_out: WayOut | None


class Judgement(BaseModel):
    """The verdict of a check, that of its worst quantity, with the sentence that says it."""

    verdict: Verdict
    judged: list[Judged]
    sentence: Words


class Expectation(BaseModel):
    """Before the first reading: the U to expect, and what would do if it is too large."""

    expanded: float
    tolerance: float
    enough: bool
    text: Words


class MoveMade(BaseModel):
    """What was done after a round: which move, what it aimed at, and what tightening did."""

    key: str
    mechanism: str
    aimed_mm_per_m: dict[str, float]
    """What was to be left of each quantity."""
    tightening_mm_per_m: dict[str, float] = Field(default_factory=dict)
    """What tightening the bolts added, from the needle nipped and tight."""


class PastRound(BaseModel):
    """An earlier round of the same check, oldest first in a history."""

    number: int
    values: dict[str, Estimate]
    move: MoveMade | None = None


class History(BaseModel):
    """Earlier rounds of this check, and tightening shifts seen on this machine (mm/m)."""

    rounds: list[PastRound] = Field(default_factory=list)
    spread: Spread = Field(default_factory=Spread)
    shifts: dict[str, dict[str, list[float]]] = Field(default_factory=dict)
    """By mechanism, then by quantity."""


MOST_SAID = 2
"""Quantities that a sentence can name before it tires."""


def _headline(telling: list[Judged]) -> Words:
    """The worst quantities in full, and how many more say the same."""
    named = MOST_SAID if len(telling) <= MOST_SAID else 1
    said = [j.text for j in telling[:named]]
    more = len(telling) - named
    if more > 0:
        said.append(plain(f"{more} more likewise, none of them worse."))
    return join(said)


S = TypeVar("S", bound=Setup)
F = TypeVar("F", bound=Finding)

Tolerances = dict[str, float]


class Check(ABC, Generic[S, F]):
    """A kind of check. One instance per kind stands in the registry.

    Raises Problem, naming the field of the setup, wherever what was stated or read cannot be used.
    """

    key: ClassVar[str]
    setup_type: ClassVar[type[Any]]
    finding_type: ClassVar[type[Any]]

    @property
    def course(self) -> CourseKind:
        """Its place in the course: title, question, stage, what it rests on, whom it suits."""
        return course_kind(self.key)

    def suits(self, machine: Machine) -> bool:
        """Whether the machine has the parts this check is about."""
        return self.course.suits(machine)

    @abstractmethod
    def tolerances(self, machine: Machine) -> Tolerances:
        """Usual limits for this machine's work, by tolerance key."""

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        """What being out by the limit does to a part made on this machine."""
        return None

    @abstractmethod
    def takes(self, setup: S) -> tuple[str, ...]:
        """Types of instrument that this way of reading can use."""

    @abstractmethod
    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        """The same for every way of reading, so that a form can offer what suits."""

    @abstractmethod
    def stations(self, setup: S) -> list[Station]:
        """All places to be read, in order; for a check that decides as it goes, those known."""

    def passes(self, setup: S) -> int:
        """How many times each station is planned to be read."""
        return int(getattr(setup, "passes", 1))

    def next_station(self, setup: S, readings: Sequence[Reading]) -> Station | None:
        """Where the tip goes next: whole passes, in order; None when the plan is done."""
        stations = self.stations(setup)
        counts = {s.key: 0 for s in stations}
        for reading in readings:
            if reading.station in counts:
                counts[reading.station] += 1
        fewest = min(counts.values())
        if fewest >= self.passes(setup):
            return None
        return next(s for s in stations if counts[s.key] == fewest)

    @abstractmethod
    def expect(self, setup: S, instrument: Instrument, tolerances: Tolerances) -> Expectation:
        """The U to expect from this set-up, and what would do if it is too large to decide."""

    @abstractmethod
    def evaluate(
        self, setup: S, readings: Sequence[Reading], instrument: Instrument, history: History
    ) -> F:
        """Geometry and uncertainty from the readings, oldest first."""

    def judge(self, setup: S, finding: F, tolerances: Tolerances) -> Judgement:
        """Every quantity against its own tolerance; the check's verdict is the worst."""
        extended = any(len(s.repeats_mm) > self.passes(setup) for s in finding.stations)
        judged = []
        for q in finding.quantities:
            limit = tolerances[q.tolerance_key]
            found = verdict(q.estimate, limit)
            limit_words = show(limit, limit / 10, "slope")
            judged.append(
                Judged(
                    quantity=q.key,
                    tolerance=limit,
                    tolerance_words=limit_words,
                    verdict=found,
                    text=say(
                        "{said} Limit {limit}. {verdict}.",
                        said=q.sentence,
                        limit=limit_words,
                        verdict=VERDICT_WORDS[found],
                    ),
                    way_out=way_out(
                        q.estimate,
                        limit,
                        gain=q.gain,
                        s_mm=finding.s_mm,
                        step_mm=finding.step_mm,
                        extended=extended,
                    )
                    if found == "too_close"
                    else None,
                )
            )
        overall = worst([j.verdict for j in judged])
        telling = [j for j in judged if j.verdict == overall]
        telling.sort(key=lambda j: -self._severity(finding, j))
        return Judgement(verdict=overall, judged=judged, sentence=_headline(telling))

    @staticmethod
    def _severity(finding: F, judged: Judged) -> float:
        value = next(q for q in finding.quantities if q.key == judged.quantity).estimate.value
        return abs(value) / judged.tolerance

    @abstractmethod
    def advise(
        self,
        setup: S,
        finding: F,
        tolerances: Tolerances,
        machine: Machine,
        instrument: Instrument,
        stock: Sequence[Shim],
        history: History,
    ) -> Advice:
        """What to do about it, with predictions."""

    def tightening(
        self,
        setup: S,
        station: str,
        mechanism: str,
        machine: Machine,
        instrument: Instrument,
        change_mm: float,
    ) -> dict[str, float]:
        """What a needle that moved by `change_mm` (as shown) while the bolts were tightened adds
        to each quantity, mm/m; empty where this mechanism says nothing about it."""
        return {}


def registry() -> dict[str, Check[Any, Any]]:
    """Every kind of check that is built, by key, in the order of the course."""
    from truing import checks  # late: the kinds import this module

    return checks.ALL


def kind(key: str) -> Check[Any, Any]:
    """The kind with this key; KeyError if there is none."""
    return registry()[key]
