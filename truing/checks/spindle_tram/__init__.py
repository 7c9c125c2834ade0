"""Is the spindle square to the table? Lean side to side, nod front to back."""

from __future__ import annotations

import math
from collections.abc import Sequence
from copy import deepcopy
from typing import Any, ClassVar

from truing.checks.common import expectation, loose_bearings
from truing.checks.spindle_tram.advise import advise, cost_of_lean
from truing.checks.spindle_tram.coarse import expected, gauged, joined, scraped, would_do
from truing.checks.spindle_tram.evaluate import SpindleTramFinding, evaluate
from truing.checks.spindle_tram.fit import design, leans_of
from truing.checks.spindle_tram.setup import (
    INSTRUMENTS_FOR,
    SpindleTramSetup,
    largest_swing_mm,
    stations,
)
from truing.checks.spindle_tram.sketch import corrected, set_up
from truing.checks.spindle_tram.upgrades import UPGRADES
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.design import Fit
from truing.contract.expected import expected_means
from truing.contract.judgement import Expectation, Judgement, Tolerances
from truing.contract.move import Advice, Move
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.drawing.sketches import SketchFigure
from truing.machine import TOLERANCE_MM_PER_M, Machine
from truing.measure.words import Words, say, show, span


class SpindleTram(Check[SpindleTramSetup, SpindleTramFinding]):
    """Tram by any way of reading heights round a circle; see `geometry.md` in docs."""

    key: ClassVar[str] = "spindle_tram"
    limit_kinds: ClassVar[Any] = {
        "lean_x": ("Lean, side to side", "slope"),
        "nod": ("Nod, front to back", "slope"),
    }
    draws: ClassVar[tuple[str, ...]] = ("lean_x", "nod")
    leans_on: ClassVar[tuple[str, ...]] = ("spindle_play",)
    compares: ClassVar[tuple[str, ...]] = ("travel_square", "ridge_reading")
    setup_type = SpindleTramSetup
    finding_type = SpindleTramFinding
    upgrades = UPGRADES

    def tolerances(self, machine: Machine) -> Tolerances:
        limit = TOLERANCE_MM_PER_M[machine.work]
        return {"lean_x": limit, "nod": limit}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return cost_of_lean(machine, max(tolerances.values()))

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return {str(way): types for way, types in INSTRUMENTS_FOR.items()}

    def form(self, machine: Machine) -> dict[str, Any]:
        schema = deepcopy(super().form(machine))
        if machine.board is not None:
            schema["properties"]["surface"]["default"] = "board"
        return schema

    def stations(self, setup: SpindleTramSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return list(stations(setup))

    def expect(self, case: Case[SpindleTramSetup, SpindleTramFinding]) -> Expectation:
        setup, tolerances = case.setup, case.tolerances
        if setup.way in ("scrape", "gauges"):
            return expected(case, min(tolerances.values()))
        plan = stations(setup)
        first = [s for s in plan if s.at_mm == plan[0].at_mm]
        means = expected_means(case, plan)
        fit = leans_of(Fit.of(design(first, setup.radius_mm), means), None, means, setup)
        expanded = max(lean.estimate.expanded for lean in (fit.lean_x, fit.nod) if lean)
        limit = min(tolerances.values())
        finer = show(means[first[0].key].expanded_mm * (limit / 4) / expanded, 1e-4)
        other = say("an instrument good to ±{finer}", finer=finer)
        helps = would_do(setup, case.machine, expanded, limit, other)
        return expectation(expanded, limit, "slope", helps)

    def doubts(self, setup: SpindleTramSetup, machine: Machine) -> list[Words]:
        fits = largest_swing_mm(setup, machine)
        if setup.radius_mm <= fits:
            return []
        return [
            say(
                "A swing of {r} goes beyond the table, which is {x} by {y}: up to {fits} fits.",
                r=span(setup.radius_mm),
                x=span(machine.table_x_mm),
                y=span(machine.table_y_mm),
                fits=span(math.floor(fits)),
            )
        ]

    def evaluate(self, case: Case[SpindleTramSetup, SpindleTramFinding]) -> SpindleTramFinding:
        if case.setup.way == "scrape":
            found = scraped(case)
        else:
            found = gauged(case) if case.setup.way == "gauges" else evaluate(case)
        return found.model_copy(update={"notes": [*found.notes, *loose_bearings(case)]})

    def judge(self, case: Case[SpindleTramSetup, SpindleTramFinding]) -> Judgement:
        return joined(case, super().judge(case))

    def example(self, machine: Machine) -> SpindleTramSetup:
        reach = 0.45 * min(machine.table_x_mm, machine.table_y_mm)
        return SpindleTramSetup(radius_mm=max(10.0, min(1000.0, reach)))

    def sketch(self, setup: SpindleTramSetup, machine: Machine) -> SketchFigure | None:
        return set_up(setup, machine)

    def move_sketch(
        self, move: Move, case: Case[SpindleTramSetup, SpindleTramFinding]
    ) -> SketchFigure | None:
        return corrected(move, case.machine)

    def remedies(self, case: Case[SpindleTramSetup, SpindleTramFinding]) -> Advice:
        return advise(case)


CHECK = SpindleTram()
