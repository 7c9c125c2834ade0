"""Is the gantry as high on the left as on the right?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.common import expectation
from truing.checks.fits import reachable
from truing.checks.gantry_level.advise import advise
from truing.checks.gantry_level.evaluate import GantryLevelFinding, curve, design, evaluate
from truing.checks.gantry_level.setup import (
    INSTRUMENTS_FOR,
    GantryLevelSetup,
    beyond,
    lift_of,
    proposed,
    stations,
)
from truing.checks.gantry_level.sketch import corrected, set_up
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.expected import expected_fit
from truing.contract.judgement import Expectation, Tolerances
from truing.contract.move import Advice, Move
from truing.contract.readings import LogReading, Reading
from truing.contract.setup import Station
from truing.drawing.figures import Figure
from truing.drawing.sketches import SketchFigure
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.problem import Problem
from truing.measure.words import Words, say, show

USUAL_MM = 0.1
"""Over the width between the motors."""


class GantryLevel(Check[GantryLevelSetup, GantryLevelFinding]):
    """A gantry on two motors by touches across the bed; see `geometry.md` in docs."""

    key: ClassVar[str] = "gantry_level"
    layout: ClassVar[Any] = "line"
    limit_kinds: ClassVar[Any] = {"level": ("One end over the other", "length")}
    setup_type = GantryLevelSetup
    finding_type = GantryLevelFinding

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> GantryLevelSetup | None:
        return proposed(machine)

    def doubts(self, setup: GantryLevelSetup, machine: Machine) -> list[Words]:
        if setup.way == "log":
            return []
        outside = beyond(machine.lift, setup.places_mm) if machine.lift else []
        return outside or reachable(machine, "left_right", setup.places_mm, called="bed")

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"level": USUAL_MM}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return say(
            "an engraving is {d} deeper on one side of the bed than on the other.",
            d=show(tolerances["level"], 0.001),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return {str(way): types for way, types in INSTRUMENTS_FOR.items()}

    def powered(self, machine: Machine) -> bool:
        return True

    def stations(self, setup: GantryLevelSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return stations(setup)

    def take_log(self, setup: GantryLevelSetup, station: Station, log: LogReading) -> LogReading:
        names = {name.lower(): name for name in log.columns}
        known = names if "x" in names else dict(zip("xz", log.columns, strict=False))
        if "x" not in known or "z" not in known:
            raise Problem(
                "A column x and a column z are needed; there is " + " and ".join(log.columns) + ".",
                expected="Name them in the first line, such as “x z feed”.",
                field="text",
            )
        kept = {"x": log.columns[known["x"]], "z": log.columns[known["z"]]}
        feed = names.get("feed") or names.get("f")
        if feed:
            kept["feed"] = log.columns[feed]
        if len(kept["x"]) > MOST_TOUCHES:
            raise Problem(
                f"{len(kept['x'])} touches are a map, not a line across the bed.",
                expected=f"Keep those of one line, {MOST_TOUCHES} at most.",
                field="text",
            )
        return log.model_copy(update={"columns": kept})

    def expect(self, case: Case[GantryLevelSetup, GantryLevelFinding]) -> Expectation | None:
        setup = case.setup
        places = setup.places_mm
        if setup.way == "log":
            start = proposed(case.machine)
            places = start.places_mm if start else places
        setup = setup.model_copy(update={"way": "touch", "places_mm": places, "touches": "once"})
        plan = stations(setup)
        touched = design(lift_of(case.machine), {s.key: s.at_mm or 0.0 for s in plan})
        level, _ = expected_fit(touched, case.but(setup=setup), plan).estimate("level")
        return expectation(level.expanded, case.tolerances["level"], "length")

    def evaluate(self, case: Case[GantryLevelSetup, GantryLevelFinding]) -> GantryLevelFinding:
        return evaluate(case)

    def figures(self, case: Case[GantryLevelSetup, GantryLevelFinding]) -> list[Figure]:
        return [curve(case)]

    def sketch(self, setup: GantryLevelSetup, machine: Machine) -> SketchFigure | None:
        return set_up(setup, machine)

    def move_sketch(
        self, move: Move, case: Case[GantryLevelSetup, GantryLevelFinding]
    ) -> SketchFigure | None:
        return corrected(move, case.machine)

    def remedies(self, case: Case[GantryLevelSetup, GantryLevelFinding]) -> Advice:
        return advise(case)


MOST_TOUCHES = 2000

CHECK = GantryLevel()
