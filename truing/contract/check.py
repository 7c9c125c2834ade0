"""What a kind of check is: the contract that every kind keeps."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections import Counter
from collections.abc import Mapping, Sequence
from copy import deepcopy
from typing import Any, ClassVar, Generic, Literal

from truing.contract import judgement
from truing.contract.case import Case, F, S
from truing.contract.cut import CutProgram
from truing.contract.judgement import Expectation, Judgement, Limit, Tolerances
from truing.contract.move import Advice, Move
from truing.contract.readings import LogReading, Reading
from truing.contract.setup import Station, closed
from truing.contract.upgrade import Steps
from truing.contract.worth import worthwhile
from truing.course import CourseKind, course_kind
from truing.drawing.figures import Figure
from truing.drawing.shapes import Drawing
from truing.drawing.sketches import SketchFigure
from truing.kit.instruments import Instrument
from truing.machine import Machine
from truing.machine.mechanisms import DescribedPart, described_by
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.fields import form_schema
from truing.measure.problem import Problem
from truing.measure.words import UNITS, Measure, Words, show

Layout = Literal["round", "turn", "plan", "line", "list"]
"""Stations round a circle on a table, round something that turns, anywhere on a plan, along a line,
or as a list to go through."""


class Check(ABC, Generic[S, F]):
    """A kind of check. Its package holds one instance, as `CHECK`.

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
    grows: ClassVar[bool] = False
    """Whether readings change the plan: further stations, or other prompts."""
    draws: ClassVar[tuple[str, ...]] = ()
    """Sorts of its quantities that the drawing of the machine shows."""
    leans_on: ClassVar[tuple[str, ...]] = ()
    """Other kinds whose latest results go into its finding."""
    compares: ClassVar[tuple[str, ...]] = ()
    """Other kinds whose latest results go into its advice."""
    cuts: ClassVar[bool] = False
    """Whether something is cut first, for which there are programs."""
    upgrades: ClassVar[Mapping[int, Steps]] = {}
    """How its stored set-ups and findings came to the format of that number from the one before."""

    @property
    def course(self) -> CourseKind:
        """Its place in the course: title, question, stage, what it rests on, whom it suits."""
        return course_kind(self.key)

    def suits(self, machine: Machine) -> bool:
        """Whether the machine has the parts this check is about."""
        return self.course.suits(machine)

    # --- before anything is read ------------------------------------------------------------------

    @abstractmethod
    def tolerances(self, machine: Machine) -> Tolerances:
        """Usual limits for this machine's work, by tolerance key."""

    def limits(self, tolerances: Tolerances) -> list[Limit]:
        """The tolerances as they are shown."""
        found = []
        for key, value in tolerances.items():
            title, measure = self.limit_kinds[key]
            metric, inch = UNITS[measure]
            unit = Words(metric=metric, inch=inch)
            words = show(value, value / 10, measure)
            found.append(Limit(key=key, title=title, unit=unit, value=value, words=words))
        return found

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

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> S | None:
        """A set-up to start from on this machine, for one of its subjects where there are several;
        None where too little is known of it."""
        return None

    def goes_by(self, machine: Machine) -> list[DescribedPart]:
        """The parts of the machine's description that its advice reckons with."""
        return described_by(machine, self.course.adjusts)

    def doubts(self, setup: S, machine: Machine) -> list[Words]:
        """What of a set-up does not go with this machine, though it can be read: told while it is
        filled in."""
        return []

    def form(self, machine: Machine) -> dict[str, Any]:
        """JSON schema of the set-up, asking only for parts that this machine has."""
        schema = form_schema(self.setup_type)
        if self.part_field is None:
            return schema
        schema = deepcopy(schema)
        schema["properties"][self.part_field]["x-form"]["labels"] = {
            Subject.read(text).key: title for text, title in self.course.subjects_of(machine)
        }
        return schema

    @abstractmethod
    def expect(self, case: Case[S, F]) -> Expectation | None:
        """The U to expect from what is stated, and what would do if it is too large to decide; None
        where nothing is measured. Problem when the set-up or instrument could never tell."""

    # --- reading ----------------------------------------------------------------------------------

    @abstractmethod
    def stations(self, setup: S, readings: Sequence[Reading] = ()) -> list[Station]:
        """All places to be read, in order; for a check that decides as it goes, those known
        after these readings."""

    def passes(self, setup: S) -> int:
        """How many times each station is planned to be read."""
        return int(getattr(setup, "passes", 1))

    def order(self, setup: S, readings: Sequence[Reading] = ()) -> list[Station]:
        """Every reading of the plan in turn, those of a further pass by their station again. One
        pass alone comes back to where it began."""
        plan = self.stations(setup, readings)
        if self.passes(setup) == 1:
            return closed(plan, setup.loops(plan))
        # a grade or something seen is asked for once, whatever is read again
        again = [s for s in plan if s.reads == "length"]
        return [*plan, *(again * (self.passes(setup) - 1))]

    def next_station(self, setup: S, readings: Sequence[Reading]) -> Station | None:
        """Where the tip goes next; None when the plan is done."""
        left = Counter(r.station for r in readings)
        for station in self.order(setup, readings):
            if left[station.key] == 0:
                return station
            left[station.key] -= 1
        return None

    def ready(self, setup: S, readings: Sequence[Reading]) -> bool:
        """Whether enough has been read to advise on: every station once."""
        read = {r.station for r in readings}
        return all(s.key in read for s in self.stations(setup, readings))

    def take_log(self, setup: S, station: Station, log: LogReading) -> LogReading:
        """A log as it is to be kept, checked against what this station needs of it. Problem,
        naming the column, when it cannot be used."""
        raise Problem(
            "This check takes no log.", expected="Enter the readings one by one.", field="station"
        )

    def spared(self, case: Case[S, F]) -> list[Reading]:
        """Readings that were left out and need not be read again: what is left tells all that the
        whole would. A place that is judged by itself, or is one of those of which the worst is,
        cannot be spared."""
        if not case.left_out:
            return []
        whole = [*case.readings, *case.left_out]
        wanted = {q.key for q in self.evaluate(case.but(readings=whole, left_out=())).quantities}
        found = case.finding.quantities
        left = {r.station for r in case.readings}
        if not wanted <= {q.key for q in found}:
            return []
        extremes = any(q.estimate.limits for q in found if q.tolerance_key)
        return [r for r in case.left_out if r.station in left or not extremes]

    # --- finding, judging, advising ---------------------------------------------------------------

    @abstractmethod
    def evaluate(self, case: Case[S, F]) -> F:
        """Geometry and uncertainty from the readings, oldest first."""

    def judge(self, case: Case[S, F]) -> Judgement:
        """Every quantity against its own tolerance, and what was found otherwise."""
        planned = self.passes(case.setup)
        return judgement.judge(case.finding, case.tolerances, planned_passes=planned)

    def weigh(self, case: Case[S, F]) -> Case[S, F]:
        """The case with its finding and its judgement."""
        case = case.but(found=self.evaluate(case).believed)
        judged, wild = self.judge(case), case.finding.pointed_out
        return case.but(judged=judged if wild is None else judged.doubted(wild.text))

    def figures(self, case: Case[S, F]) -> list[Figure]:
        """What is to be drawn of a finding, with the limits it was judged by."""
        return []

    @abstractmethod
    def remedies(self, case: Case[S, F]) -> Advice:
        """What can be done about it, with predictions; the same for the same case, whenever
        asked."""

    def advise(self, case: Case[S, F]) -> Advice:
        """The remedies that are worth making, in the one way in which that is decided, drawn."""
        advice = worthwhile(case, self.remedies(case))
        if not self.suits(case.machine):
            # described otherwise since it was read: what it was read on is not there to be drawn
            return advice
        drawn = [m.model_copy(update={"sketch": self.move_sketch(m, case)}) for m in advice.moves]
        return advice.model_copy(update={"moves": drawn})

    def ways(self) -> dict[str, str]:
        """What each way of reading is called, by its key; none where there is one way only."""
        field = self.setup_type.model_fields.get("way")
        extra = field.json_schema_extra if field else None
        form = extra.get("x-form", {}) if isinstance(extra, dict) else {}
        return dict(form.get("labels", {})) if isinstance(form, dict) else {}

    def example(self, machine: Machine) -> S | None:
        """A set-up to show how it is read, where nothing is stated yet."""
        return self.propose(machine)

    def sketches(self, machine: Machine) -> list[SketchFigure]:
        """How it is set up on this machine in every way of reading; those that look alike once."""
        stated = self.example(machine) if self.suits(machine) else None
        if stated is None:
            return []
        found: dict[str, SketchFigure] = {}
        for way in self.takes_by_way():
            setup = stated.model_copy(update={"way": way}) if way else stated
            drawn = self.sketch(setup, machine)
            if drawn is not None:
                found.setdefault(f"{drawn.title.metric} {drawn.shows}", drawn)
        return list(found.values())

    def sketch(self, setup: S, machine: Machine) -> SketchFigure | None:
        """How it is set up on this machine, drawn; None for a kind without a sketch."""
        return None

    def move_sketch(self, move: Move, case: Case[S, F]) -> SketchFigure | None:
        """What is loosened and which way it goes, drawn; None for a move without a sketch."""
        return None

    def following(self, setup: S, move: Move | None) -> S:
        """The set-up of the round after this move; the same, for most."""
        return setup

    def programs(self, setup: S, machine: Machine) -> list[CutProgram]:
        """What has to be cut before it is read, as this set-up states it; none for most kinds."""
        return []

    def drawing(self, case: Case[S, F]) -> Drawing | None:
        """Something to be printed at full size and cut out, such as a template."""
        return None
