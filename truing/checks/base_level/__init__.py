"""Does the base stand level, or at least without twist?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.base_level.advise import advise
from truing.checks.base_level.evaluate import BaseLevelFinding, design, evaluate, warp
from truing.checks.base_level.setup import BaseLevelSetup, propose, stations
from truing.checks.base_level.sketch import set_up, turned
from truing.checks.base_level.upgrades import UPGRADES
from truing.checks.common import expectation
from truing.checks.fits import on_the_base
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.expected import expected_fit
from truing.contract.judgement import Expectation, Tolerances
from truing.contract.move import Advice, Move
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.drawing.figures import Figure
from truing.drawing.sketches import SketchFigure
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.words import Words, say, show

ENDS_MM_PER_M = 0.05
"""Twist between the ends of a base that a hobby machine may keep."""


class BaseLevel(Check[BaseLevelSetup, BaseLevelFinding]):
    """Slope and twist of a base by a level that is turned end for end."""

    key: ClassVar[str] = "base_level"
    layout: ClassVar[Any] = "plan"
    limit_kinds: ClassVar[Any] = {
        "twist": ("Twist", "twist"),
        "level": ("Level, either way", "slope"),
    }
    setup_type = BaseLevelSetup
    finding_type = BaseLevelFinding
    upgrades = UPGRADES

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> BaseLevelSetup | None:
        return propose(machine)

    def doubts(self, setup: BaseLevelSetup, machine: Machine) -> list[Words]:
        return on_the_base(machine, setup.across_x_mm, setup.along_y_mm)

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"twist": ENDS_MM_PER_M / max(0.3, _length_mm(machine) / 1000), "level": 0.2}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        length = _length_mm(machine)
        return say(
            "one end of the base is turned against the other by {turn} over its {length}: what is "
            "bolted to it is twisted as much.",
            turn=show(tolerances["twist"] * length / 1000, 0.001, "slope"),
            length=show(length, 1),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return {"ends": ("level",), "single": ("level",)}

    def stations(self, setup: BaseLevelSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return list(stations(setup))

    def expect(self, case: Case[BaseLevelSetup, BaseLevelFinding]) -> Expectation | None:
        setup, instrument, tolerances = case.setup, case.instrument, case.tolerances
        plan = stations(setup)
        whole = design(setup, plan, {s.key for s in plan}, instrument)
        twist, _ = expected_fit(whole, case, plan).estimate("twist", "twist")
        helps = say(
            "a level of {s} per division would do, or stations further apart.",
            s=show(
                instrument.level_sensitivity_mm_per_m * tolerances["twist"] / 4 / twist.expanded,
                1e-3,
                "slope",
            ),
        )
        return expectation(twist.expanded, tolerances["twist"], "twist", helps)

    def evaluate(self, case: Case[BaseLevelSetup, BaseLevelFinding]) -> BaseLevelFinding:
        return evaluate(case)

    def figures(self, case: Case[BaseLevelSetup, BaseLevelFinding]) -> list[Figure]:
        return [warp(case.setup, case.finding)]

    def sketch(self, setup: BaseLevelSetup, machine: Machine) -> SketchFigure | None:
        return set_up(setup, machine)

    def move_sketch(
        self, move: Move, case: Case[BaseLevelSetup, BaseLevelFinding]
    ) -> SketchFigure | None:
        return turned(move, case.machine)

    def remedies(self, case: Case[BaseLevelSetup, BaseLevelFinding]) -> Advice:
        return advise(case)


def _length_mm(machine: Machine) -> float:
    places = machine.feet.places if machine.feet else []
    xs, ys = [f.x_mm for f in places], [f.y_mm for f in places]
    if not places:
        return 500.0
    return max(max(xs) - min(xs), max(ys) - min(ys))


CHECK = BaseLevel()
