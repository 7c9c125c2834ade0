"""Is it whole, clean and oiled, and how far does it travel? A walk round the machine."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.inspection.evaluate import InspectionFinding, evaluate
from truing.checks.inspection.setup import InspectionSetup, stations
from truing.checks.inspection.sketch import set_up
from truing.checks.inspection.walk import places_for
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.judgement import Expectation, Judgement, Tolerances
from truing.contract.move import Advice
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.drawing.sketches import SketchFigure
from truing.kit.instruments import Instrument, Rule
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.verdict import Verdict
from truing.measure.words import Words, plain

InspectionCase = Case[InspectionSetup, InspectionFinding]


class Inspection(Check[InspectionSetup, InspectionFinding]):
    """Looked at, not measured: it is out while something found is open."""

    key: ClassVar[str] = "inspection"
    layout: ClassVar[Any] = "list"
    setup_type = InspectionSetup
    finding_type = InspectionFinding

    def without(self) -> Instrument | None:
        return Rule()

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> InspectionSetup | None:
        return InspectionSetup.model_validate(
            {
                "oil_points": 0 if any(s.gib == "carriages" for s in machine.slides) else 4,
                "places": places_for(machine),
                "directions": [s.direction for s in machine.slides],
            }
        )

    def tolerances(self, machine: Machine) -> Tolerances:
        return {}

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return {"": ("rule", "caliper", "scale_trigger")}

    def stations(self, setup: InspectionSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return list(stations(setup))

    def expect(self, case: InspectionCase) -> Expectation | None:
        return None

    def evaluate(self, case: InspectionCase) -> InspectionFinding:
        return evaluate(case)

    def judge(self, case: InspectionCase) -> Judgement:
        finding = case.finding
        danger = [s for s in finding.open if s.grade == "danger"]
        found: tuple[Verdict, Words]
        if danger:
            names = ", ".join(s.label.lower() for s in danger)
            found = ("out", plain(f"Dangerous: {names}. Do not run it before that is put right."))
        elif finding.open:
            n = len(finding.open)
            names = ", ".join(s.label.lower() for s in finding.open)
            thing = "One thing is" if n == 1 else f"{n} things are"
            found = ("out", plain(f"{thing} on the list: {names}."))
        else:
            found = ("true", plain("Nothing is open of what was looked at."))
        return super().judge(case).joined_by([found])

    def sketch(self, setup: InspectionSetup, machine: Machine) -> SketchFigure | None:
        return set_up(setup, machine)

    def remedies(self, case: InspectionCase) -> Advice:
        return Advice(
            moves=[],
            leave=None,
            remarks=[
                plain(
                    "Photograph what is open. When it has been put right, correct its line above: "
                    "“put right now”, and say what was done. Wiring is for a qualified electrician."
                )
            ],
        )


CHECK = Inspection()
