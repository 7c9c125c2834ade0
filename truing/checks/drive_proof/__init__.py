"""How fast may it move without losing its place?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.common import Plain, expectation
from truing.checks.drive_proof.advise import advise
from truing.checks.drive_proof.evaluate import DriveProofFinding, evaluate
from truing.checks.drive_proof.setup import DriveProofSetup, stations, unit
from truing.contract.check import Tolerances
from truing.contract.gather import expected_mean
from truing.contract.judgement import Expectation, Judgement
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.machine import Machine
from truing.measure.problem import Problem
from truing.measure.verdict import Verdict
from truing.measure.words import Words, plain

DIALS = ("plunger_dial", "lever_dial", "digital")


class DriveProof(Plain[DriveProofSetup, DriveProofFinding]):
    """A ladder of feeds or accelerations, each run to and fro and back to zero."""

    key: ClassVar[str] = "drive_proof"
    layout: ClassVar[Any] = "list"
    part_field: ClassVar[str | None] = "slide"
    limit_kinds: ClassVar[Any] = {"return": ("Zero missed after fast runs", "length")}
    setup_type = DriveProofSetup
    finding_type = DriveProofFinding
    evaluator = staticmethod(evaluate)
    adviser = staticmethod(advise)

    def propose(self, machine: Machine, part: str = "") -> DriveProofSetup | None:
        slide = next(
            (s for s in machine.slides if s.drive != "lever" and part in ("", s.direction)), None
        )
        if slide is None:
            return None
        return DriveProofSetup.model_validate(
            {"slide": slide.direction, "travel_mm": round(slide.travel_mm * 0.8)}
        )

    def powered(self, machine: Machine) -> bool:
        return machine.control == "controller"

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"return": 0.02}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return plain(
            "every part made after a lost step is in the wrong place, and nobody hears it."
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return {"": DIALS}

    def stations(self, setup: DriveProofSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return stations(setup, readings)

    def expect(
        self, setup: DriveProofSetup, instrument: Instrument, tolerances: Tolerances
    ) -> Expectation | None:
        if not setup.proven:
            raise Problem(
                "Nothing is driven fast before its stops are proven.",
                expected="Test stops, limit switches and the emergency stop slowly, then say so.",
                field="proven",
            )
        mean = expected_mean(instrument, 1)
        return expectation(mean.expanded_mm, tolerances["return"], "length")

    def judge(
        self, setup: DriveProofSetup, finding: DriveProofFinding, tolerances: Tolerances
    ) -> Judgement:
        told = f"{setup.wanted:g} {unit(setup.ladder)}"
        found: tuple[Verdict, Words]
        if finding.recommended is None:
            found = ("out", plain("No step has run clean and come back to zero."))
        elif finding.recommended >= setup.wanted:
            found = ("true", plain(f"It has what your work needs, {told}, with room to spare."))
        elif finding.fails is None:
            found = (
                "too_close",
                plain(
                    f"It has not failed yet, but it was not driven far enough to promise {told} "
                    "either: climb on."
                ),
            )
        else:
            found = (
                "out",
                plain(
                    f"Your work needs {told}; it should be used up to "
                    f"{finding.recommended:g} {unit(setup.ladder)}."
                ),
            )
        return self.judged_with(super().judge(setup, finding, tolerances), [found])


CHECK = DriveProof()
