"""Does the screw pinch near the ends of its travel? Each end block to the middle of its float."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.common import Plain, expectation
from truing.checks.screw_centre.advise import advise
from truing.checks.screw_centre.evaluate import ScrewCentreFinding, evaluate
from truing.checks.screw_centre.setup import ScrewCentreSetup, stations
from truing.contract.check import Tolerances
from truing.contract.gather import expected_mean
from truing.contract.judgement import Expectation
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.machine import Machine
from truing.measure.words import Words, say, show

DIALS = ("plunger_dial", "lever_dial", "digital")
USUAL_MM = 0.05


class ScrewCentre(Plain[ScrewCentreSetup, ScrewCentreFinding]):
    """The nut pulls a loose block to where the screw runs free: with the slide at that end, the
    middle of the block's float is its place."""

    key: ClassVar[str] = "screw_centre"
    layout: ClassVar[Any] = "list"
    part_field: ClassVar[str | None] = "slide"
    limit_kinds: ClassVar[Any] = {"off": ("Screw off its centre", "length")}
    setup_type = ScrewCentreSetup
    finding_type = ScrewCentreFinding
    evaluator = staticmethod(evaluate)
    adviser = staticmethod(advise)

    def propose(self, machine: Machine, part: str = "") -> ScrewCentreSetup | None:
        slide = next(
            (
                s
                for s in machine.slides
                if s.drive in ("screw", "ball_screw") and part in ("", s.direction)
            ),
            None,
        )
        if slide is None:
            return None
        return ScrewCentreSetup.model_validate(
            {"slide": slide.direction, "apart_mm": round(slide.travel_mm * 1.3)}
        )

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"off": USUAL_MM}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return say(
            "the screw is bent by {d} each time the nut comes to that end: it turns stiff, stalls "
            "early, and wears the nut on one side.",
            d=show(tolerances["off"], 0.001),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return {"": DIALS}

    def stations(self, setup: ScrewCentreSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return stations(setup)

    def expect(
        self, setup: ScrewCentreSetup, instrument: Instrument, tolerances: Tolerances
    ) -> Expectation | None:
        mean = expected_mean(instrument, setup.passes)
        return expectation(math.sqrt(1.5) * mean.expanded_mm, tolerances["off"], "length")


CHECK = ScrewCentre()
