"""Does anything shake in its slide? Push–pull play along the travel, and how freely it moves."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.common import at_place, default_places, expectation
from truing.checks.fits import in_the_travel
from truing.checks.slide_play.advise import advise
from truing.checks.slide_play.evaluate import SlidePlayFinding, curve, evaluate
from truing.checks.slide_play.setup import USUAL_MM, SlidePlaySetup, stations
from truing.checks.slide_play.sketch import closed, set_up
from truing.checks.slide_play.upgrades import UPGRADES
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.expected import expected_size
from truing.contract.judgement import Expectation, Judgement, Tolerances
from truing.contract.move import Advice, Move
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.drawing.figures import Figure
from truing.drawing.sketches import SketchFigure
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.verdict import Verdict
from truing.measure.words import Words, join, say, show


class SlidePlay(Check[SlidePlaySetup, SlidePlayFinding]):
    """Play at each place is its own reading; the worst of them is judged."""

    key: ClassVar[str] = "slide_play"
    layout: ClassVar[Any] = "line"
    part_field: ClassVar[str | None] = "slide"
    limit_kinds: ClassVar[Any] = {"play": ("Play", "length")}
    setup_type = SlidePlaySetup
    finding_type = SlidePlayFinding
    upgrades = UPGRADES

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> SlidePlaySetup | None:
        slide = next((s for s in machine.slides if subject.key in ("", s.direction)), None)
        if slide is None:
            return None
        return SlidePlaySetup.model_validate(
            {"slide": slide.direction, "places_mm": default_places(slide.travel_mm)}
        )

    def doubts(self, setup: SlidePlaySetup, machine: Machine) -> list[Words]:
        return in_the_travel(machine, setup.slide, setup.places_mm)

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"play": USUAL_MM}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return say(
            "the cutter can step aside by {play} when the cut changes sides: a slot that wide of "
            "its size, a mark where it turned.",
            play=show(tolerances["play"], 0.001),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return {"": ("plunger_dial", "lever_dial", "digital")}

    def stations(self, setup: SlidePlaySetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return stations(setup)

    def expect(self, case: Case[SlidePlaySetup, SlidePlayFinding]) -> Expectation | None:
        big = expected_size(case, stations(case.setup))
        return expectation(big, case.tolerances["play"], "length")

    def judge(self, case: Case[SlidePlaySetup, SlidePlayFinding]) -> Judgement:
        setup, finding = case.setup, case.finding
        found: list[tuple[Verdict, Words]] = []
        tight = [p for p in finding.places if p.feel in ("stiff", "binds")]
        if tight:
            word = "binds" if any(p.feel == "binds" for p in tight) else "is stiff"
            where = join([at_place(p.at_mm, setup.slide) for p in tight], " and ")
            found.append(
                ("out", say("It {word} at {where}: too tight there.", word=word, where=where))
            )
        return super().judge(case).joined_by(found)

    def evaluate(self, case: Case[SlidePlaySetup, SlidePlayFinding]) -> SlidePlayFinding:
        return evaluate(case)

    def figures(self, case: Case[SlidePlaySetup, SlidePlayFinding]) -> list[Figure]:
        return [curve(case)]

    def sketch(self, setup: SlidePlaySetup, machine: Machine) -> SketchFigure | None:
        return set_up(setup, machine)

    def move_sketch(
        self, move: Move, case: Case[SlidePlaySetup, SlidePlayFinding]
    ) -> SketchFigure | None:
        return closed(move, case.machine, case.setup.slide)

    def remedies(self, case: Case[SlidePlaySetup, SlidePlayFinding]) -> Advice:
        return advise(case)


CHECK = SlidePlay()
