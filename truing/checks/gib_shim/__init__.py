"""How thick a shim does a tapered gib need, that has come to the end of its screw?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.common import expectation
from truing.checks.gib_shim.advise import advise
from truing.checks.gib_shim.evaluate import GibShimFinding, evaluate
from truing.checks.gib_shim.setup import GibShimSetup, stations
from truing.checks.gib_shim.sketch import fitted, set_up
from truing.checks.gib_shim.template import template
from truing.checks.gib_shim.upgrades import UPGRADES
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.expected import expected_size, expected_sum
from truing.contract.judgement import Expectation, Tolerances
from truing.contract.move import Advice, Move
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.drawing.shapes import Drawing
from truing.drawing.sketches import SketchFigure
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.words import Words, plain, say, show

USUAL_TAPER_MM_PER_M = 20.0
"""One in fifty, to reckon with before the gib has been measured."""
NEAR_MM = 4.0
"""A shift that comes within this of what was wanted leaves the screw well inside its thread."""


class GibShim(Check[GibShimSetup, GibShimFinding]):
    """Two thicknesses give the taper; taper × shift is the shim; the real shift gives back the
    real taper."""

    key: ClassVar[str] = "gib_shim"
    layout: ClassVar[Any] = "list"
    part_field: ClassVar[str | None] = "slide"
    limit_kinds: ClassVar[Any] = {"shift": ("Shift still wanted", "length")}
    setup_type = GibShimSetup
    finding_type = GibShimFinding
    upgrades = UPGRADES

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> GibShimSetup | None:
        slide = next(
            (s for s in machine.slides if s.gib == "tapered" and subject.key in ("", s.direction)),
            None,
        )
        if slide is None:
            return None
        return GibShimSetup.model_validate({"slide": slide.direction})

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"shift": NEAR_MM}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return plain("the screw still has thread on both sides, and the gib can follow its wear.")

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return {"measure": ("caliper",), "fitted": ("caliper", "rule")}

    def stations(self, setup: GibShimSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return stations(setup)

    def expect(self, case: Case[GibShimSetup, GibShimFinding]) -> Expectation | None:
        setup, tolerances = case.setup, case.tolerances
        plan = stations(setup)
        big = expected_size(case, plan)
        if setup.way == "measure":
            fall = expected_sum(case, plan, {"thick": 1.0, "thin": -1.0}).expanded
            big = fall / setup.apart_mm * 1000 / USUAL_TAPER_MM_PER_M * setup.wanted_mm
        return expectation(
            big,
            tolerances["shift"],
            "length",
            say(
                "places further apart than {d}, or a finer instrument, would do.",
                d=show(setup.apart_mm, 1),
            ),
        )

    def following(self, setup: GibShimSetup, move: Move | None) -> GibShimSetup:
        """Once a shim is in, what is read is what it did."""
        if move is None or not move.stacks:
            return setup
        stack, took = move.stacks[0], move.taken("shift")
        # the next shift is read against where the gib sits now
        return setup.model_copy(
            update={
                "way": "fitted",
                "fitted_mm": sum(stack.after_mm),
                "there_mm": stack.before_mm,
                "wanted_mm": took + move.predicted[0].after.value,
            }
        )

    def drawing(self, case: Case[GibShimSetup, GibShimFinding]) -> Drawing | None:
        return template(case.setup, case.finding)

    def evaluate(self, case: Case[GibShimSetup, GibShimFinding]) -> GibShimFinding:
        return evaluate(case)

    def sketch(self, setup: GibShimSetup, machine: Machine) -> SketchFigure | None:
        return set_up(setup, machine)

    def move_sketch(
        self, move: Move, case: Case[GibShimSetup, GibShimFinding]
    ) -> SketchFigure | None:
        return fitted(move, case.machine)

    def remedies(self, case: Case[GibShimSetup, GibShimFinding]) -> Advice:
        return advise(case)


CHECK = GibShim()
