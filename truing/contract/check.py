"""What a kind of check is: the contract that every kind keeps, and the registry of kinds."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections import Counter
from collections.abc import Sequence
from typing import Any, ClassVar, Generic, Literal, TypeVar

from truing.contract.finding import Finding
from truing.contract.history import History
from truing.contract.judgement import Expectation, Judged, Judgement, Limit
from truing.contract.move import Advice, Move
from truing.contract.readings import Reading
from truing.contract.setup import Setup, Station
from truing.course import CourseKind, course_kind
from truing.drawing.shapes import Drawing
from truing.kit.instruments import Instrument
from truing.kit.shims import Shim
from truing.machine import Machine
from truing.measure.verdict import VERDICT_WORDS, Verdict, verdict, way_out, worst
from truing.measure.words import UNITS, Measure, Words, join, plain, say, show

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
