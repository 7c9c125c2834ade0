"""Is the spindle square to the table? Lean side to side, nod front to back."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.common import Plain, expectation
from truing.checks.spindle_tram.advise import advise, cost_of_lean
from truing.checks.spindle_tram.evaluate import SpindleTramFinding, evaluate
from truing.checks.spindle_tram.fit import fit_place
from truing.checks.spindle_tram.setup import INSTRUMENTS_FOR, SpindleTramSetup, stations
from truing.contract.check import Tolerances
from truing.contract.gather import expected_mean
from truing.contract.judgement import Expectation
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.machine import TOLERANCE_MM_PER_M, Machine
from truing.measure.words import Words, say, show, span


class SpindleTram(Plain[SpindleTramSetup, SpindleTramFinding]):
    """Tram by any way of reading heights round a circle; see `geometry.md` in docs."""

    key: ClassVar[str] = "spindle_tram"
    limit_kinds: ClassVar[Any] = {
        "lean_x": ("Lean, side to side", "slope"),
        "nod": ("Nod, front to back", "slope"),
    }
    setup_type = SpindleTramSetup
    finding_type = SpindleTramFinding
    evaluator = staticmethod(evaluate)
    adviser = staticmethod(advise)

    def tolerances(self, machine: Machine) -> Tolerances:
        limit = TOLERANCE_MM_PER_M[machine.work]
        return {"lean_x": limit, "nod": limit}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return cost_of_lean(machine, max(tolerances.values()))

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return {str(way): types for way, types in INSTRUMENTS_FOR.items()}

    def stations(self, setup: SpindleTramSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return list(stations(setup))

    def expect(
        self, setup: SpindleTramSetup, instrument: Instrument, tolerances: Tolerances
    ) -> Expectation:
        mean = expected_mean(instrument, setup.passes)
        plan = stations(setup)
        first = [s for s in plan if s.place_mm == plan[0].place_mm]
        means = {s.key: mean for s in first}
        fit = fit_place(
            first, means, radius_mm=setup.radius_mm, radius_u_mm=setup.radius_u_mm, dof=None
        )
        expanded = max(lean.estimate.expanded for lean in (fit.lean_x, fit.nod) if lean)
        limit = min(tolerances.values())
        arm = setup.radius_mm * expanded / (limit / 4)
        finer = show(mean.expanded_mm * (limit / 4) / expanded, 1e-4)
        helps = say(
            "a swing radius of {arm} would do, or an instrument good to ±{finer}.",
            arm=span(math.ceil(arm / 5) * 5),
            finer=finer,
        )
        return expectation(expanded, limit, "slope", helps)

    def tightening(
        self,
        setup: SpindleTramSetup,
        station: str,
        mechanism: str,
        machine: Machine,
        instrument: Instrument,
        change_mm: float,
    ) -> dict[str, float]:
        place = next((s for s in stations(setup) if s.key == station), None)
        if place is None or mechanism not in ("head_pivot", "bracket_pivot"):
            return {}
        part = machine.head if mechanism == "head_pivot" else machine.bracket
        key = "lean_x" if abs(place.x_mm) >= abs(place.y_mm) else "nod"
        pivot = getattr(part, "pivot_x_mm" if key == "lean_x" else "pivot_y_mm", 0.0)
        lever = (place.x_mm if key == "lean_x" else place.y_mm) - pivot
        true_change = setup.sign * instrument.true_mm(change_mm)
        return {key: true_change / lever * 1000}


CHECK = SpindleTram()
