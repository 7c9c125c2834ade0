"""Does the screw pinch near the ends of its travel? Each end block to the middle of its float."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.common import expectation
from truing.checks.fits import nearer_than_travel
from truing.checks.screw_centre.advise import advise
from truing.checks.screw_centre.evaluate import MIDDLE, ScrewCentreFinding, evaluate
from truing.checks.screw_centre.setup import ScrewCentreSetup, stations
from truing.checks.screw_centre.sketch import centred, set_up
from truing.checks.screw_centre.upgrades import UPGRADES
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.design import combine
from truing.contract.expected import expected_means
from truing.contract.judgement import Expectation, Tolerances
from truing.contract.move import Advice, Move
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.drawing.sketches import SketchFigure
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.words import Words, say, show

DIALS = ("plunger_dial", "lever_dial", "digital")
USUAL_MM = 0.05


class ScrewCentre(Check[ScrewCentreSetup, ScrewCentreFinding]):
    """The nut pulls a loose block to where the screw runs free: with the slide at that end, the
    middle of the block's float is its place."""

    key: ClassVar[str] = "screw_centre"
    layout: ClassVar[Any] = "list"
    part_field: ClassVar[str | None] = "slide"
    limit_kinds: ClassVar[Any] = {"off": ("Screw off its centre", "length")}
    setup_type = ScrewCentreSetup
    finding_type = ScrewCentreFinding
    upgrades = UPGRADES

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> ScrewCentreSetup | None:
        slide = next(
            (
                s
                for s in machine.slides
                if s.drive in ("screw", "ball_screw") and subject.key in ("", s.direction)
            ),
            None,
        )
        if slide is None:
            return None
        return ScrewCentreSetup.model_validate(
            {"slide": slide.direction, "apart_mm": round(slide.travel_mm * 1.3)}
        )

    def doubts(self, setup: ScrewCentreSetup, machine: Machine) -> list[Words]:
        return nearer_than_travel(machine, setup.slide, setup.apart_mm)

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
        return list(stations(setup))

    def order(self, setup: ScrewCentreSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        """As found it is read once: after its bolts were slackened it does not stand so again."""
        plan = stations(setup)
        limits = [s for s in plan if s.stands != "now"]
        return [*plan, *(limits * (setup.passes - 1))]

    def expect(self, case: Case[ScrewCentreSetup, ScrewCentreFinding]) -> Expectation | None:
        plan = stations(case.setup)
        means = expected_means(case, plan, [s.key for s in plan if s.key.endswith(":now")])
        first = plan[0].key.partition(":")[0]
        off, _ = combine(means, {f"{first}:{what}": share for what, share in MIDDLE.items()})
        return expectation(off.expanded, case.tolerances["off"], "length")

    def evaluate(self, case: Case[ScrewCentreSetup, ScrewCentreFinding]) -> ScrewCentreFinding:
        return evaluate(case)

    def sketch(self, setup: ScrewCentreSetup, machine: Machine) -> SketchFigure | None:
        return set_up(setup, machine)

    def move_sketch(
        self, move: Move, case: Case[ScrewCentreSetup, ScrewCentreFinding]
    ) -> SketchFigure | None:
        return centred(move, case.setup, case.machine)

    def remedies(self, case: Case[ScrewCentreSetup, ScrewCentreFinding]) -> Advice:
        return advise(case)


CHECK = ScrewCentre()
