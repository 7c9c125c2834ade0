"""What do the marks of the cutter say? Lean and nod from the ridges of two patches."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.common import expectation
from truing.checks.cutting import Patches, beyond_travel, offered, patches
from truing.checks.fits import on_the_table
from truing.checks.ridge_reading.advise import advise
from truing.checks.ridge_reading.evaluate import RidgeReadingFinding, evaluate, foretold, told_of
from truing.checks.ridge_reading.figure import sections
from truing.checks.ridge_reading.setup import (
    WIDE,
    RidgeReadingSetup,
    checked,
    proposed,
    stations,
)
from truing.checks.ridge_reading.sketch import corrected, set_up
from truing.checks.ridge_reading.solve import Told, leans
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.cut import CutProgram
from truing.contract.expected import expected_size
from truing.contract.judgement import Expectation, Judgement, Tolerances
from truing.contract.move import Advice, Move
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.drawing.figures import Figure
from truing.drawing.sketches import SketchFigure
from truing.machine import TOLERANCE_MM_PER_M, Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.fields import exact
from truing.measure.verdict import Verdict
from truing.measure.words import Words, plain, say, show, span

DIALS = ("plunger_dial", "lever_dial", "digital")
BARE = ("rule", *DIALS)
"""For ways that need no instrument: whatever lies there."""
RidgeCase = Case[RidgeReadingSetup, RidgeReadingFinding]


class RidgeReading(Check[RidgeReadingSetup, RidgeReadingFinding]):
    """Two patches and what their passes left; see `geometry.md` in docs."""

    key: ClassVar[str] = "ridge_reading"
    layout: ClassVar[Any] = "list"
    limit_kinds: ClassVar[Any] = {
        "lean_x": ("Lean, side to side", "slope"),
        "nod": ("Nod, front to back", "slope"),
    }
    compares: ClassVar[tuple[str, ...]] = ("spindle_tram",)
    cuts: ClassVar[bool] = True
    setup_type = RidgeReadingSetup
    finding_type = RidgeReadingFinding

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> RidgeReadingSetup | None:
        return proposed(machine)

    def doubts(self, setup: RidgeReadingSetup, machine: Machine) -> list[Words]:
        # for the needle, when a head is turned by it
        arm = [setup.arm_mm]
        return [
            *beyond_travel(machine, patches(setup, machine, _patches(setup))),
            *on_the_table(machine, "left_right", arm),
            *on_the_table(machine, "front_back", arm),
        ][:1]

    def tolerances(self, machine: Machine) -> Tolerances:
        limit = TOLERANCE_MM_PER_M[machine.work]
        return {"lean_x": limit, "nod": limit}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        cutter, limit = machine.cutter_mm, max(tolerances.values())
        found = foretold(proposed(machine), limit, 0.0)
        return say(
            "a {cutter} cutter leaves steps of {step} between its passes.",
            cutter=span(cutter),
            step=show(found["y"], 0.001),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        ways = {"step": DIALS, "dial": DIALS, "nail": BARE, "finger": BARE, "look": BARE}
        return {str(way): types for way, types in ways.items()}

    def stations(self, setup: RidgeReadingSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return list(stations(setup))

    def passes(self, setup: RidgeReadingSetup) -> int:
        return setup.passes if setup.measured else 1

    def expect(self, case: RidgeCase) -> Expectation | None:
        setup, limit = checked(case.setup), min(case.tolerances.values())
        if setup.way == "look":
            return None
        if setup.measured:
            big = expected_size(case, self.stations(setup))
            told = [
                Told(patch, "step" if setup.steps else "height", max(0.0, v - big), v + big, v)
                for patch, v in foretold(setup, limit / 2, limit / 2).items()
            ]
        else:
            told = told_of(setup, {f"{patch}:size": "none" for patch in setup.cut})
        found = leans(setup.flat_mm, setup.steps_mm, told)
        high = max(found.x.high, found.y.high) * 1000 if found else float("inf")
        low = min(found.x.low, found.y.low) * 1000 if found and setup.measured else 0.0
        helps = plain("a wider cutter, more passes, or a finer dial.")
        if setup.way != "step" or min(setup.steps_mm) < 0.95 * WIDE * setup.flat_mm:
            helps = say(
                "the step test tells more: both patches, {s} from pass to pass, a dial over it.",
                s=exact(round(WIDE * setup.flat_mm, 1)),
            )
        if high == float("inf"):
            # such patches bound nothing where they show nothing: say so with the widest that a
            # head stands off
            return expectation(10 * limit, limit, "slope", helps)
        return expectation((high - low) / (2 if setup.measured else 1), limit, "slope", helps)

    def evaluate(self, case: RidgeCase) -> RidgeReadingFinding:
        return evaluate(case)

    def judge(self, case: RidgeCase) -> Judgement:
        judged = super().judge(case)
        if not case.setup.measured:
            text = "A finer way decides it: the step test with a dial over each step, or the tram."
            judged = judged.decided_otherwise(plain(text))
        found: list[tuple[Verdict, Words]] = []
        if case.finding.contradicts is not None:
            found.append(("too_close", case.finding.contradicts))
        open_ = [
            name
            for name, lean in (("lean", case.finding.lean_x), ("nod", case.finding.nod))
            if lean.high is None
        ]
        if open_:
            what = " and ".join(open_)
            found.append(
                ("too_close", plain(f"What was read says nothing of how large {what} is."))
            )
        return judged.joined_by(found)

    def programs(self, setup: RidgeReadingSetup, machine: Machine) -> list[CutProgram]:
        checked(setup)
        return offered(setup, machine, patches(setup, machine, _patches(setup)), self.key)

    def figures(self, case: RidgeCase) -> list[Figure]:
        return list(sections(case))

    def sketch(self, setup: RidgeReadingSetup, machine: Machine) -> SketchFigure | None:
        return set_up(setup, machine)

    def move_sketch(self, move: Move, case: RidgeCase) -> SketchFigure | None:
        return corrected(move, case.machine)

    def remedies(self, case: RidgeCase) -> Advice:
        return advise(case)


def _patches(setup: RidgeReadingSetup) -> Patches:
    return Patches(
        diameter_mm=setup.diameter_mm,
        corner_mm=setup.corner_mm,
        steps_mm=setup.steps_mm,
        cut=setup.cut,
    )


CHECK = RidgeReading()
