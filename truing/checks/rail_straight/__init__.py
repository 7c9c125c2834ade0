"""Is the first rail straight? Read against an edge, which a reversal can take out."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.common import expectation
from truing.checks.fits import along_the_rails
from truing.checks.rail_straight.advise import advise
from truing.checks.rail_straight.evaluate import RailStraightFinding, curves, evaluate
from truing.checks.rail_straight.setup import RailStraightSetup, stations
from truing.checks.rail_straight.sketch import set_up
from truing.checks.rail_straight.upgrades import UPGRADES
from truing.checks.rails import bolts_mm, rails_moved
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.expected import expected_range
from truing.contract.judgement import Expectation, Tolerances
from truing.contract.move import Advice, Move
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.drawing.figures import Figure
from truing.drawing.sketches import SketchFigure
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.words import Words, say, show

USUAL_MM = 0.02
DIALS = ("plunger_dial", "lever_dial", "digital")


class RailStraight(Check[RailStraightSetup, RailStraightFinding]):
    """Straightness after the chosen line; bolt by bolt, in full passes, or by reversal."""

    key: ClassVar[str] = "rail_straight"
    layout: ClassVar[Any] = "line"
    part_field: ClassVar[str | None] = "plane"
    limit_kinds: ClassVar[Any] = {"straight": ("Straightness of a rail", "length")}
    setup_type = RailStraightSetup
    finding_type = RailStraightFinding
    grows = True
    upgrades = UPGRADES

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> RailStraightSetup | None:
        if machine.rails is None:
            return None
        plane = subject.key or "side"
        return RailStraightSetup.model_validate(
            {"places_mm": bolts_mm(machine.rails), "plane": plane}
        )

    def doubts(self, setup: RailStraightSetup, machine: Machine) -> list[Words]:
        return along_the_rails(machine, setup.places_mm)

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"straight": USUAL_MM}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return say(
            "an edge that is cut along this rail is bent by {d}, and a carriage tightens and "
            "slackens as it runs.",
            d=show(tolerances["straight"], 0.001),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return dict.fromkeys(("pass", "bolts", "reversal"), DIALS)

    def stations(self, setup: RailStraightSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return stations(setup, readings)

    def passes(self, setup: RailStraightSetup) -> int:
        # setting the bolts is one pass; at least one that touches nothing has to follow
        return max(2, setup.passes) if setup.way == "bolts" else setup.passes

    def expect(self, case: Case[RailStraightSetup, RailStraightFinding]) -> Expectation | None:
        setup, tolerances = case.setup, case.tolerances
        # between the highest and the lowest place; a reversal halves a difference of two
        big = expected_range(case, stations(setup))
        big = big / math.sqrt(2) if setup.way == "reversal" else big + setup.edge_within_mm
        return expectation(
            big,
            tolerances["straight"],
            "length",
            say(
                "a finer dial, more passes, or a reversal, which takes the edge’s {e} out.",
                e=show(setup.edge_within_mm, 0.001),
            ),
        )

    def evaluate(self, case: Case[RailStraightSetup, RailStraightFinding]) -> RailStraightFinding:
        return evaluate(case)

    def figures(self, case: Case[RailStraightSetup, RailStraightFinding]) -> list[Figure]:
        return [curves(case)]

    def sketch(self, setup: RailStraightSetup, machine: Machine) -> SketchFigure | None:
        return set_up(setup, machine)

    def move_sketch(
        self, move: Move, case: Case[RailStraightSetup, RailStraightFinding]
    ) -> SketchFigure | None:
        return rails_moved(move, case.machine)

    def remedies(self, case: Case[RailStraightSetup, RailStraightFinding]) -> Advice:
        return advise(case)


CHECK = RailStraight()
