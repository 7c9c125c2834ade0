"""Does a cut in both directions accept the machine?"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.common import expectation
from truing.checks.cutting import beyond_travel, offered
from truing.checks.test_cut.advise import advise
from truing.checks.test_cut.evaluate import (
    TestCutFinding,
    accepted,
    beyond,
    evaluate,
    graded,
    partial,
)
from truing.checks.test_cut.figure import figures
from truing.checks.test_cut.foretold import LEANS_ON
from truing.checks.test_cut.program import cuts
from truing.checks.test_cut.setup import TestCutSetup, checked, proposed, stations
from truing.checks.test_cut.sketch import set_up
from truing.checks.test_cut.solve import solved
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.cut import CutProgram
from truing.contract.expected import expected_size, expected_sum
from truing.contract.judgement import Expectation, Judgement, Tolerances
from truing.contract.move import Advice
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.drawing.figures import Figure
from truing.drawing.sketches import SketchFigure
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.problem import Problem
from truing.measure.verdict import Verdict
from truing.measure.words import Words, join, plain, say, show

CutCase = Case[TestCutSetup, TestCutFinding]


class TestCut(Check[TestCutSetup, TestCutFinding]):
    """A piece that is cut, read, and held against what the checks foretold; see `geometry.md`."""

    __test__ = False

    key: ClassVar[str] = "test_cut"
    layout: ClassVar[Any] = "list"
    limit_kinds: ClassVar[Any] = {
        "square": ("Out of square", "slope"),
        "size": ("Off its size", "length"),
        "lost": ("Lost motion", "length"),
        "thick": ("Thickness, corner to corner", "length"),
    }
    leans_on: ClassVar[tuple[str, ...]] = LEANS_ON
    cuts: ClassVar[bool] = True
    setup_type = TestCutSetup
    finding_type = TestCutFinding

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> TestCutSetup | None:
        return proposed(machine)

    def doubts(self, setup: TestCutSetup, machine: Machine) -> list[Words]:
        return beyond_travel(machine, cuts(setup, machine))

    def tolerances(self, machine: Machine) -> Tolerances:
        if machine.work == "board":
            return {"square": 0.5, "size": 0.2, "lost": 0.1, "thick": 0.1}
        return {"square": 0.3, "size": 0.05, "lost": 0.05, "thick": 0.03}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return say(
            "the first real part comes out wrong by as much: up to {d} of its size.",
            d=show(tolerances["size"], 0.001),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return {"": ("caliper",)}

    def stations(self, setup: TestCutSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return list(stations(setup))

    def expect(self, case: CutCase) -> Expectation | None:
        setup = checked(case.setup)
        keys = [s.key for s in stations(setup) if s.sort in ("square", "hole")]
        if not keys:
            return None
        longest = math.hypot(setup.width_mm, setup.depth_mm)
        if setup.square and case.instrument.travel_mm < longest:
            raise Problem(
                f"It opens to {case.instrument.travel_mm:g} mm, and the diagonals of the square "
                f"are {longest:.0f} mm long.",
                expected="Take a longer one, or cut a smaller square.",
                field="instrument",
            )
        plan = stations(setup)
        told = []
        for name, key in (("square", "square"), ("lost_x", "lost"), ("lost_y", "lost")):
            made = solved(setup, keys).get(name)
            if made is None:
                continue
            slope = name == "square"
            weights = {k: w * (1000 if slope else 1) for k, w in made.weights.items()}
            found = expected_sum(case, plan, weights, "slope" if slope else "length")
            told.append((found.expanded / case.tolerances[key], found, key))
        if not told:
            return expectation(expected_size(case, plan), case.tolerances["size"], "length")
        _, found, key = max(told, key=lambda t: t[0])
        helps = plain("a larger piece, more passes, or a finer caliper or micrometer.")
        return expectation(found.expanded, case.tolerances[key], found.measure, helps)

    def evaluate(self, case: CutCase) -> TestCutFinding:
        return evaluate(case)

    def judge(self, case: CutCase) -> Judgement:
        found: list[tuple[Verdict, Words]] = [*graded(case.finding), *beyond(case)]
        found += partial(case.setup)
        if case.finding.opens:
            # an empty place on the sheet accepts nothing
            text = f"Not all of the piece was read: {case.finding.opens[0]}, for one."
            found.append(("too_close", plain(text)))
        judged = super().judge(case).joined_by(found)
        if judged.verdict != "true":
            return judged
        said = [accepted(case.finding), judged.sentence]
        return judged.model_copy(update={"sentence": join(said)})

    def programs(self, setup: TestCutSetup, machine: Machine) -> list[CutProgram]:
        return offered(setup, machine, cuts(checked(setup), machine), self.key)

    def figures(self, case: CutCase) -> list[Figure]:
        return figures(case)

    def sketch(self, setup: TestCutSetup, machine: Machine) -> SketchFigure | None:
        return set_up(setup, machine)

    def remedies(self, case: CutCase) -> Advice:
        return advise(case)


CHECK = TestCut()
