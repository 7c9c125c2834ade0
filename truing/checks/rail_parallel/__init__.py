"""Do the two rails keep their distance?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.common import expectation
from truing.checks.fits import along_the_rails
from truing.checks.rail_parallel.advise import advise
from truing.checks.rail_parallel.evaluate import RailParallelFinding, curve, evaluate
from truing.checks.rail_parallel.setup import RailParallelSetup, stations
from truing.checks.rail_parallel.sketch import set_up
from truing.checks.rail_parallel.upgrades import UPGRADES
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

DIALS = ("plunger_dial", "lever_dial", "digital")


class RailParallel(Check[RailParallelSetup, RailParallelFinding]):
    """Taper and waviness of the distance between two rails."""

    key: ClassVar[str] = "rail_parallel"
    layout: ClassVar[Any] = "line"
    limit_kinds: ClassVar[Any] = {
        "taper": ("Taper of the rails, end to end", "length"),
        "wave": ("Waviness of their distance", "length"),
    }
    setup_type = RailParallelSetup
    finding_type = RailParallelFinding
    upgrades = UPGRADES

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> RailParallelSetup | None:
        if machine.rails is None:
            return None
        return RailParallelSetup.model_validate({"places_mm": bolts_mm(machine.rails)})

    def doubts(self, setup: RailParallelSetup, machine: Machine) -> list[Words]:
        return along_the_rails(machine, setup.places_mm)

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"taper": 0.03, "wave": 0.02}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return say(
            "carriages are squeezed by {d} at one end of the travel: stiff there, and soon worn.",
            d=show(tolerances["taper"], 0.001),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return {"carriage": DIALS, "distance": ("caliper", "digital")}

    def stations(self, setup: RailParallelSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return stations(setup)

    def expect(self, case: Case[RailParallelSetup, RailParallelFinding]) -> Expectation | None:
        big = expected_range(case, stations(case.setup))
        return expectation(big, case.tolerances["wave"], "length")

    def evaluate(self, case: Case[RailParallelSetup, RailParallelFinding]) -> RailParallelFinding:
        return evaluate(case)

    def figures(self, case: Case[RailParallelSetup, RailParallelFinding]) -> list[Figure]:
        return [curve(case)]

    def sketch(self, setup: RailParallelSetup, machine: Machine) -> SketchFigure | None:
        return set_up(setup, machine)

    def move_sketch(
        self, move: Move, case: Case[RailParallelSetup, RailParallelFinding]
    ) -> SketchFigure | None:
        return rails_moved(move, case.machine)

    def remedies(self, case: Case[RailParallelSetup, RailParallelFinding]) -> Advice:
        return advise(case)


CHECK = RailParallel()
