"""How fast may it move without losing its place?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.common import expectation
from truing.checks.drive_proof.advise import advise
from truing.checks.drive_proof.evaluate import DriveProofFinding, cannot_prove, evaluate, ladder
from truing.checks.drive_proof.setup import DriveProofSetup, stations, unit
from truing.checks.drive_proof.sketch import set_up
from truing.checks.drive_proof.upgrades import UPGRADES
from truing.checks.fits import within_travel
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.expected import expected_mean
from truing.contract.judgement import Expectation, Judgement, Tolerances
from truing.contract.move import Advice
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.drawing.figures import Figure
from truing.drawing.sketches import SketchFigure
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.problem import Problem
from truing.measure.verdict import Verdict
from truing.measure.words import Words, plain, say

DIALS = ("plunger_dial", "lever_dial", "digital")


class DriveProof(Check[DriveProofSetup, DriveProofFinding]):
    """A ladder of feeds or accelerations, each run to and fro and back to zero."""

    key: ClassVar[str] = "drive_proof"
    layout: ClassVar[Any] = "list"
    part_field: ClassVar[str | None] = "slide"
    limit_kinds: ClassVar[Any] = {"return": ("Zero missed after fast runs", "length")}
    setup_type = DriveProofSetup
    finding_type = DriveProofFinding
    upgrades = UPGRADES
    grows = True

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> DriveProofSetup | None:
        slide = next(
            (s for s in machine.slides if s.drive != "lever" and subject.key in ("", s.direction)),
            None,
        )
        if slide is None:
            return None
        return DriveProofSetup.model_validate(
            {"slide": slide.direction, "travel_mm": round(slide.travel_mm * 0.8)}
        )

    def powered(self, machine: Machine) -> bool:
        return machine.control == "controller"

    def doubts(self, setup: DriveProofSetup, machine: Machine) -> list[Words]:
        return within_travel(machine, setup.slide, setup.travel_mm, "The run, stop to stop,")

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"return": 0.02}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return plain(
            "every part made after a lost step is in the wrong place, and nobody hears it."
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return {"": DIALS}

    def stations(self, setup: DriveProofSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return list(stations(setup, readings))

    def expect(self, case: Case[DriveProofSetup, DriveProofFinding]) -> Expectation | None:
        if not case.setup.proven:
            raise Problem(
                "Nothing is driven fast before its stops are proven.",
                expected="Test stops, limit switches and the emergency stop slowly, then say so.",
                field="proven",
            )
        cannot_prove(case)
        mean = expected_mean(case.instrument, 1, case.setup.tip_sides)
        return expectation(mean.expanded_mm, case.tolerances["return"], "length")

    def judge(self, case: Case[DriveProofSetup, DriveProofFinding]) -> Judgement:
        setup, finding = case.setup, case.finding
        told = f"{setup.wanted:g} {unit(setup.ladder)}"
        found: tuple[Verdict, Words]
        if finding.recommended is None:
            found = ("out", plain("No step has run clean and come back to zero."))
        elif finding.recommended >= setup.wanted:
            found = ("true", say(f"It has what your work needs, {told}, with room to spare."))
        elif finding.fails is None:
            found = (
                "too_close",
                say(
                    f"It has not failed yet, but it was not driven far enough to promise {told} "
                    "either: climb on."
                ),
            )
        else:
            found = (
                "out",
                say(
                    f"Your work needs {told}; it should be used up to "
                    f"{finding.recommended:g} {unit(setup.ladder)}."
                ),
            )
        return super().judge(case).joined_by([found])

    def evaluate(self, case: Case[DriveProofSetup, DriveProofFinding]) -> DriveProofFinding:
        return evaluate(case)

    def figures(self, case: Case[DriveProofSetup, DriveProofFinding]) -> list[Figure]:
        return [ladder(case.setup, case.finding)]

    def sketch(self, setup: DriveProofSetup, machine: Machine) -> SketchFigure | None:
        return set_up(setup, machine)

    def remedies(self, case: Case[DriveProofSetup, DriveProofFinding]) -> Advice:
        return advise(case)


CHECK = DriveProof()
