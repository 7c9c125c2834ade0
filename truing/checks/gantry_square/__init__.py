"""Is the gantry square across the bed?"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.common import expectation
from truing.checks.fits import within_travel
from truing.checks.gantry_square.advise import advise
from truing.checks.gantry_square.evaluate import GantrySquareFinding, evaluate, needed, plan
from truing.checks.gantry_square.setup import GantrySquareSetup, proposed, stations
from truing.checks.gantry_square.sketch import corrected, set_up
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.expected import expected_sum
from truing.contract.judgement import Expectation, Tolerances
from truing.contract.move import Advice, Move
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.drawing.figures import Figure
from truing.drawing.sketches import SketchFigure
from truing.effects.reach import over_mm
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.problem import Problem
from truing.measure.words import Words, say, show

USUAL_MM_PER_M = 0.2


class GantrySquare(Check[GantrySquareSetup, GantrySquareFinding]):
    """A rectangle by its diagonals; see `geometry.md` in docs."""

    key: ClassVar[str] = "gantry_square"
    layout: ClassVar[Any] = "list"
    limit_kinds: ClassVar[Any] = {"square": ("Out of square", "slope")}
    setup_type = GantrySquareSetup
    finding_type = GantrySquareFinding

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> GantrySquareSetup | None:
        return proposed(machine)

    def doubts(self, setup: GantrySquareSetup, machine: Machine) -> list[Words]:
        return [
            *within_travel(machine, "left_right", setup.width_mm, "The figure across"),
            *within_travel(machine, "front_back", setup.depth_mm, "The figure along"),
        ]

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"square": USUAL_MM_PER_M}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return say(
            "a board half a metre long comes out of square by {d}.",
            d=show(over_mm(tolerances["square"], 500), 0.001),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return {"": ("rule", "caliper")}

    def stations(self, setup: GantrySquareSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return list(stations(setup))

    def expect(self, case: Case[GantrySquareSetup, GantrySquareFinding]) -> Expectation | None:
        setup, limit = case.setup, case.tolerances["square"]
        width, depth = setup.width_mm, setup.depth_mm
        if case.instrument.travel_mm < math.hypot(width, depth):
            raise Problem(
                f"It reaches {case.instrument.travel_mm:g} mm, and the diagonals are "
                f"{math.hypot(width, depth):.0f} mm long.",
                expected="Take a longer one, or mark a smaller rectangle.",
                field="instrument",
            )
        weight = math.hypot(width, depth) / (2 * width * depth) * 1000
        skew = expected_sum(case, stations(setup), {"d1": weight, "d2": -weight}, "slope")
        helps = say(
            "a diagonal has to be known within {d} on this rectangle. A larger one helps, or a "
            "finer rule with a vernier, or a bar with two points and a dial.",
            d=show(needed((width, depth), limit), 0.01),
        )
        if skew.expanded > limit:
            helps = say(
                "a diagonal has to be known within {d} on this rectangle, finer than this reads. A "
                "large square laid on the bed tells it with a dial: read “Square travel, "
                "left–right against front–back”. Or take a bar with two points and a dial.",
                d=show(needed((width, depth), limit), 0.01),
            )
        return expectation(skew.expanded, limit, "slope", helps)

    def evaluate(self, case: Case[GantrySquareSetup, GantrySquareFinding]) -> GantrySquareFinding:
        return evaluate(case)

    def figures(self, case: Case[GantrySquareSetup, GantrySquareFinding]) -> list[Figure]:
        return [plan(case)]

    def sketch(self, setup: GantrySquareSetup, machine: Machine) -> SketchFigure | None:
        return set_up(setup, machine)

    def move_sketch(
        self, move: Move, case: Case[GantrySquareSetup, GantrySquareFinding]
    ) -> SketchFigure | None:
        return corrected(move, case.machine)

    def remedies(self, case: Case[GantrySquareSetup, GantrySquareFinding]) -> Advice:
        return advise(case)


CHECK = GantrySquare()
