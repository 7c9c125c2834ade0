"""Do the rails lie in one plane? Coarse before something is cast on, fine after."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.common import expectation
from truing.checks.fits import along_the_rails, corners_on_the_rails
from truing.checks.rail_twist.advise import advise
from truing.checks.rail_twist.evaluate import RailTwistFinding, evaluate, warp, weights
from truing.checks.rail_twist.setup import RailTwistSetup, stations
from truing.checks.rail_twist.sketch import set_up
from truing.checks.rail_twist.upgrades import UPGRADES
from truing.checks.rails import bolts_mm, rails_moved
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.expected import expected_range, expected_sum
from truing.contract.judgement import Expectation, Tolerances
from truing.contract.move import Advice, Move
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.drawing.figures import Figure
from truing.drawing.sketches import SketchFigure
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.words import Words, say, show

DIALS = ("plunger_dial", "lever_dial", "digital")
HEIGHTS = (*DIALS, "scale_trigger")


class RailTwist(Check[RailTwistSetup, RailTwistFinding]):
    """Twist by a bridge over the diagonals, a level across, corner heights, or many stations."""

    key: ClassVar[str] = "rail_twist"
    layout: ClassVar[Any] = "plan"
    part_field: ClassVar[str | None] = "stage"
    limit_kinds: ClassVar[Any] = {
        "coarse": ("Rails out of plane, coarse", "length"),
        "fine": ("Rails out of plane, fine", "length"),
    }
    setup_type = RailTwistSetup
    finding_type = RailTwistFinding
    upgrades = UPGRADES

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> RailTwistSetup | None:
        rails = machine.rails
        if rails is None:
            return None
        places = bolts_mm(rails)
        return RailTwistSetup.model_validate(
            {
                "stage": subject.key or "fine",
                "length_mm": places[-1] - places[0],
                "apart_mm": rails.apart_mm,
                "places_mm": places[:: max(1, len(places) // 5)],
            }
        )

    def doubts(self, setup: RailTwistSetup, machine: Machine) -> list[Words]:
        if setup.way == "stations":
            return along_the_rails(machine, setup.places_mm)
        return corners_on_the_rails(machine, setup.length_mm, setup.apart_mm)

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"coarse": 0.25, "fine": 0.05}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        apart = machine.rails.apart_mm if machine.rails else 600.0
        fine = tolerances["fine"]
        return say(
            "({d} fine) the gantry leans by {lean} more at one end of the bed than at the other.",
            d=show(fine, 0.001),
            lean=show(2 * fine / apart * 1000, 0.001, "slope"),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return {
            "bridge": DIALS,
            "fourth": DIALS,
            "corners": HEIGHTS,
            "stations": HEIGHTS,
            "level": ("level",),
        }

    def stations(self, setup: RailTwistSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return list(stations(setup))

    def expect(self, case: Case[RailTwistSetup, RailTwistFinding]) -> Expectation | None:
        setup, plan = case.setup, stations(case.setup)
        if setup.way == "stations":
            big = expected_range(case, plan)
        else:
            big = expected_sum(case, plan, weights(setup, case.instrument)).expanded
        return expectation(big, case.tolerances[setup.stage], "length")

    def evaluate(self, case: Case[RailTwistSetup, RailTwistFinding]) -> RailTwistFinding:
        return evaluate(case)

    def figures(self, case: Case[RailTwistSetup, RailTwistFinding]) -> list[Figure]:
        return [warp(case.setup, case.finding)]

    def sketch(self, setup: RailTwistSetup, machine: Machine) -> SketchFigure | None:
        return set_up(setup, machine)

    def move_sketch(
        self, move: Move, case: Case[RailTwistSetup, RailTwistFinding]
    ) -> SketchFigure | None:
        return rails_moved(move, case.machine)

    def remedies(self, case: Case[RailTwistSetup, RailTwistFinding]) -> Advice:
        return advise(case)


CHECK = RailTwist()
