"""What a kind of check is: the contract that every kind keeps, and the registry of kinds."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections import Counter
from collections.abc import Sequence
from typing import Any, ClassVar, Generic, Literal, TypeVar

from pydantic import AliasChoices, BaseModel, ConfigDict, Field

from truing.course import CourseKind, course_kind
from truing.drawing.shapes import Drawing
from truing.figures import Figure
from truing.instruments import Instrument
from truing.machine import Machine
from truing.moves.move import Advice, Move, Shim
from truing.quantities import Estimate
from truing.readings import Grade, LengthReading, Reading, Reads
from truing.spread import Spread
from truing.verdict import VERDICT_WORDS, Verdict, WayOut, verdict, way_out, worst
from truing.words import UNITS, Measure, Words, join, plain, say, show

__all__ = ["LengthReading", "Reading"]


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


class Note(BaseModel):
    """A remark on the readings: a doubt to look at, or how far the finding carries."""

    tone: Literal["look", "weak", "info"]
    text: Words
    station: str | None = None


class Quantity(BaseModel):
    """One result with its uncertainty, in the unit of its measure, and what it is judged by."""

    key: str
    tolerance_key: str | None
    """None for what is only told, not judged."""
    label: str
    measure: Measure = "slope"
    estimate: Estimate
    gain: float
    """√C: the quantity per mm of one station mean."""
    floor: float = 0.0
    """What noise alone would make of a highest-less-lowest figure."""
    deduced: bool = False
    """Got by subtraction, not measured."""
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
    lines: list[Words] = Field(default_factory=list)
    """What else there is to say of it, in sentences."""
    figures: list[Figure] = Field(default_factory=list)


class Judged(BaseModel):
    """One quantity against its tolerance."""

    quantity: str
    tolerance: float
    measure: Measure = "slope"
    tolerance_words: Words
    verdict: Verdict
    text: Words
    way_out: WayOut | None


class Judgement(BaseModel):
    """The verdict of a check, that of its worst quantity, with the sentence that says it."""

    verdict: Verdict
    judged: list[Judged]
    sentence: Words


class Limit(BaseModel):
    """What one sort of quantity may be, for showing and changing."""

    key: str
    title: str
    unit: str
    """Of `value`; the words carry both systems."""
    value: float
    words: Words


class Expectation(BaseModel):
    """Before the first reading: the U to expect, and what would do if it is too large."""

    expanded: float
    tolerance: float
    enough: bool
    measure: Measure = "slope"
    text: Words


class MoveMade(BaseModel):
    """What was done after a round: which move, what it aimed at, and what tightening did."""

    key: str
    mechanism: str
    # the older name is in records of the time when every quantity was a slope
    aimed: dict[str, float] = Field(validation_alias=AliasChoices("aimed", "aimed_mm_per_m"))
    """What was to be left of each quantity, in its own unit."""
    tightening_mm_per_m: dict[str, float] = Field(default_factory=dict)
    """What tightening the bolts added, from the needle nipped and tight."""


class PastRound(BaseModel):
    """An earlier round of the same check, oldest first in a history."""

    number: int
    values: dict[str, Estimate]
    move: MoveMade | None = None
    did: str = ""
    """What was done after it, in words; also for what was not advised."""


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


Layout = Literal["round", "plan", "line", "list"]
"""Stations round a circle, anywhere on a plan, along a line, or as a list to go through."""

S = TypeVar("S", bound=Setup)
F = TypeVar("F", bound=Finding)

Tolerances = dict[str, float]


class Check(ABC, Generic[S, F]):
    """A kind of check. One instance per kind stands in the registry.

    Raises Problem, naming the field of the setup, wherever what was stated or read cannot be used.
    """

    key: ClassVar[str]
    layout: ClassVar[Layout] = "round"
    """How its stations are drawn."""
    limit_kinds: ClassVar[dict[str, tuple[str, Measure]]] = {}
    """Title and measure of each tolerance."""
    part_field: ClassVar[str | None] = None
    """The field of the set-up that says which part of the machine it is about."""
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

    def limits(self, tolerances: Tolerances) -> list[Limit]:
        """The tolerances as they are shown."""
        return [
            Limit(
                key=key,
                title=self.limit_kinds[key][0],
                unit=UNITS[self.limit_kinds[key][1]][0],
                value=value,
                words=show(value, value / 10, self.limit_kinds[key][1]),
            )
            for key, value in tolerances.items()
        ]

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        """What being out by the limit does to a part made on this machine."""
        return None

    @abstractmethod
    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        """Types of instrument for every way of reading; under "" for a check with one way."""

    def takes(self, setup: S) -> tuple[str, ...]:
        """Types of instrument that this way of reading can use."""
        by_way = self.takes_by_way()
        return by_way.get(getattr(setup, "way", ""), by_way.get("", ()))

    def powered(self, machine: Machine) -> bool:
        """Whether the machine has to move by itself while this is read, so that it cannot be
        isolated."""
        return False

    def without(self) -> Instrument | None:
        """The instrument that is taken to be used when none of the kit is named; None when one
        has to be."""
        return None

    def propose(self, machine: Machine, part: str = "") -> S | None:
        """A set-up to start from on this machine, for one of its parts where there are several;
        None where too little is known of it."""
        return None

    def form(self, machine: Machine) -> dict[str, Any]:
        """JSON schema of the set-up, asking only for parts that this machine has."""
        schema: dict[str, Any] = self.setup_type.model_json_schema(mode="validation")
        if self.part_field is not None:
            field = schema["properties"][self.part_field]
            field["x-form"]["labels"] = dict(self.course.parts_of(machine))
        return schema

    @abstractmethod
    def stations(self, setup: S, readings: Sequence[Reading] = ()) -> list[Station]:
        """All places to be read, in order; for a check that decides as it goes, those known
        after these readings."""

    def passes(self, setup: S) -> int:
        """How many times each station is planned to be read."""
        return int(getattr(setup, "passes", 1))

    def next_station(self, setup: S, readings: Sequence[Reading]) -> Station | None:
        """Where the tip goes next: whole passes, in order; None when the plan is done."""
        counts = Counter(r.station for r in readings)
        stations = self.stations(setup, readings)
        for done in range(self.passes(setup)):
            for station in stations:
                # a grade or something seen is asked for once, whatever is read again
                if counts[station.key] <= done and (done == 0 or station.reads == "length"):
                    return station
        return None

    def ready(self, setup: S, readings: Sequence[Reading]) -> bool:
        """Whether enough has been read to advise on: every station once."""
        read = {r.station for r in readings}
        return all(s.key in read for s in self.stations(setup, readings))

    @abstractmethod
    def expect(
        self, setup: S, instrument: Instrument, tolerances: Tolerances
    ) -> Expectation | None:
        """The U to expect from this set-up, and what would do if it is too large to decide; None
        where nothing is measured. Problem when the set-up or instrument could never tell."""

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
            if q.tolerance_key is None:
                continue
            limit = tolerances[q.tolerance_key]
            found = verdict(q.estimate, limit, q.floor)
            limit_words = show(limit, limit / 10, q.measure)
            judged.append(
                Judged(
                    quantity=q.key,
                    tolerance=limit,
                    measure=q.measure,
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
                        measure=q.measure,
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
    def judged_with(base: Judgement, findings: Sequence[tuple[Verdict, Words]]) -> Judgement:
        """A judgement of figures together with what was found otherwise, the worst said first."""
        if not findings:
            return base
        overall = worst([base.verdict, *(v for v, _ in findings)])
        said = [text for v, text in findings if v == overall][:MOST_SAID]
        figures = [base.sentence] if base.judged and base.verdict == overall else []
        return Judgement(verdict=overall, judged=base.judged, sentence=join([*said, *figures]))

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

    def following(self, setup: S, move: Move | None) -> S:
        """The set-up of the round after this move; the same, for most."""
        return setup

    def drawing(self, setup: S, finding: F, machine: Machine) -> Drawing | None:
        """Something to be printed at full size and cut out, such as a template."""
        return None

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
