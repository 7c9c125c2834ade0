"""How far does the handwheel or motor turn before anything moves?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.common import default_places, expectation
from truing.checks.fits import in_the_travel
from truing.checks.lost_motion.advise import COMPENSATE, advise
from truing.checks.lost_motion.evaluate import TOLERANCE_KEYS, LostMotionFinding, evaluate
from truing.checks.lost_motion.figure import figures
from truing.checks.lost_motion.links import LINKS_OF, NAMED
from truing.checks.lost_motion.setup import LostMotionSetup, stations
from truing.checks.lost_motion.sketch import cured, set_up
from truing.checks.lost_motion.upgrades import UPGRADES
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.expected import expected_range
from truing.contract.judgement import Expectation, Tolerances
from truing.contract.move import Advice, Move
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.drawing.figures import Figure
from truing.drawing.sketches import SketchFigure
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.words import Words, plain, say, show

DIALS = ("plunger_dial", "lever_dial", "digital")


class LostMotion(Check[LostMotionSetup, LostMotionFinding]):
    """The difference of two approaches at places along the travel, and where it sits."""

    key: ClassVar[str] = "lost_motion"
    layout: ClassVar[Any] = "line"
    part_field: ClassVar[str | None] = "slide"
    limit_kinds: ClassVar[Any] = {
        "both_sides": ("Lost motion, cut from both sides", "length"),
        "one_side": ("Lost motion, cut from one side", "length"),
    }
    setup_type = LostMotionSetup
    finding_type = LostMotionFinding
    upgrades = UPGRADES

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> LostMotionSetup | None:
        slide = next(
            (s for s in machine.slides if s.drive != "lever" and subject.key in ("", s.direction)),
            None,
        )
        if slide is None:
            return None
        return LostMotionSetup.model_validate(
            {
                "slide": slide.direction,
                "places_mm": default_places(slide.travel_mm, margin=0.2),
                "read_bearing": slide.drive in ("screw", "ball_screw"),
                "compensation_mm": slide.compensation_mm,
            }
        )

    def form(self, machine: Machine) -> dict[str, Any]:
        """Only the links that the drives of this machine have, each for the slides that have it."""
        schema = super().form(machine)
        for field in schema["properties"].values():
            link = field.get("x-form", {}).get("link")
            if link is not None:
                having = [s.direction for s in machine.slides if link in LINKS_OF[s.drive]]
                field["x-form"]["when"] = {"slide": having}
        return schema

    def doubts(self, setup: LostMotionSetup, machine: Machine) -> list[Words]:
        slide = machine.slide(setup.slide)
        has = LINKS_OF[slide.drive] if slide else ()
        return [
            *(
                plain(f"This slide has no {NAMED[link].title}: it is driven otherwise.")
                for link in setup.links
                if link not in has
            ),
            *in_the_travel(machine, setup.slide, setup.places_mm),
        ]

    def powered(self, machine: Machine) -> bool:
        return machine.control == "controller"

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"both_sides": 0.02, "one_side": 0.05}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return say(
            "a circle is two halves that miss each other by {d}, and a slot that is cut both ways "
            "is that much too wide.",
            d=show(tolerances["both_sides"], 0.001),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return {"": DIALS}

    def stations(self, setup: LostMotionSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return list(stations(setup))

    def expect(self, case: Case[LostMotionSetup, LostMotionFinding]) -> Expectation | None:
        limit = case.tolerances[TOLERANCE_KEYS[case.setup.cutting]]
        return expectation(expected_range(case, stations(case.setup)), limit, "length")

    def following(self, setup: LostMotionSetup, move: Move | None) -> LostMotionSetup:
        """A value that was entered in the controller is at work from then on."""
        if move is None or move.key != COMPENSATE or not move.entries:
            return setup
        # with nothing compensated the lag itself told which way the dial counts
        plus_is = move.about if setup.plus_is == "unknown" and move.about else setup.plus_is
        entered = {"compensation_mm": move.entries[0].value_mm, "plus_is": plus_is}
        return setup.model_copy(update=entered)

    def evaluate(self, case: Case[LostMotionSetup, LostMotionFinding]) -> LostMotionFinding:
        return evaluate(case)

    def figures(self, case: Case[LostMotionSetup, LostMotionFinding]) -> list[Figure]:
        return figures(case)

    def sketch(self, setup: LostMotionSetup, machine: Machine) -> SketchFigure | None:
        return set_up(setup, machine)

    def move_sketch(
        self, move: Move, case: Case[LostMotionSetup, LostMotionFinding]
    ) -> SketchFigure | None:
        return cured(move, case.machine, case.setup.slide)

    def remedies(self, case: Case[LostMotionSetup, LostMotionFinding]) -> Advice:
        return advise(case)


CHECK = LostMotion()
