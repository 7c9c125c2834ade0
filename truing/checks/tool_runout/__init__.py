"""Does the tool run true, and if not, what makes it wobble?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

import numpy as np

from truing.checks.common import expectation
from truing.checks.tool_runout.advise import following, remedies
from truing.checks.tool_runout.evaluate import evaluate
from truing.checks.tool_runout.figures import figures
from truing.checks.tool_runout.finding import ToolRunoutFinding
from truing.checks.tool_runout.fitting import pin_bound_mm, whole_chain
from truing.checks.tool_runout.setup import ToolRunoutSetup, stations, visits
from truing.checks.tool_runout.sketch import seated, set_up
from truing.checks.tool_runout.upgrades import UPGRADES
from truing.checks.tool_runout.vectors import design
from truing.checks.turning import harmonics, rings_of, size_of
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.expected import expected_fit, expected_size
from truing.contract.judgement import Expectation, Judgement, Tolerances
from truing.contract.move import Advice, Move
from truing.contract.readings import Reading
from truing.contract.setup import Station, closed
from truing.drawing.figures import Figure
from truing.drawing.sketches import SketchFigure
from truing.effects.runout import USUAL_MM
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.words import Words, plain, say, show

ToolCase = Case[ToolRunoutSetup, ToolRunoutFinding]
DIALS = ("lever_dial", "plunger_dial", "digital")
BY_ANGLES = (
    "One swing tells no direction, which leaves this open. Read it at angles by a mark, and it "
    "closes."
)
BY_SEATS = "Seat each of them again: it is how a seat repeats that leaves this open."


class ToolRunout(Check[ToolRunoutSetup, ToolRunoutFinding]):
    """The chain from spindle to tool, turned and swapped; see `geometry.md` in docs."""

    key: ClassVar[str] = "tool_runout"
    upgrades = UPGRADES
    layout: ClassVar[Any] = "turn"
    limit_kinds: ClassVar[Any] = {"tool": ("TIR where the tool cuts", "length")}
    leans_on: ClassVar[tuple[str, ...]] = ("spindle_play", "tool_runout")
    compares: ClassVar[tuple[str, ...]] = ("spindle_runout",)
    setup_type = ToolRunoutSetup
    finding_type = ToolRunoutFinding

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> ToolRunoutSetup | None:
        return ToolRunoutSetup()

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"tool": USUAL_MM}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return say(
            "a cutter that runs out by {d} cuts with one tooth where its chip is thinner than "
            "that, and slots come out wider by up to as much.",
            d=show(tolerances["tool"], 0.001),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return dict.fromkeys(("plain", "index", "swap"), DIALS)

    def stations(self, setup: ToolRunoutSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return list(stations(setup))

    def order(self, setup: ToolRunoutSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        """Every whole turn of one seat before the next: nobody seats a holder twice to turn it
        twice."""
        plan = stations(setup)
        seats = [[s for s in plan if s.visit == v.number] for v in visits(setup)]
        if setup.passes == 1:
            return closed([s for seat in seats for s in seat], setup.loops(plan))
        return [s for seat in seats for s in seat * setup.passes]

    def expect(self, case: ToolCase) -> Expectation | None:
        whole_chain(case)
        setup, limit = case.setup, case.tolerances["tool"]
        plan = stations(setup)
        if setup.reads == "swing":
            return expectation(expected_size(case, plan) + pin_bound_mm(case), limit, "length")
        heights = np.array(sorted(setup.heights_mm))
        middle = heights.mean()
        spread = ((heights - middle) ** 2).sum()
        share = np.full(len(heights), 1 / len(heights))
        if spread:
            share = share + (setup.judged_at_mm - middle) * (heights - middle) / spread
        ring = [s for s in plan if s.group == plan[0].group]
        rows = harmonics([s.angle_rad for s in ring])
        axes = {
            a: {s.key: float(w) for s, w in zip(ring, rows[a], strict=True)} for a in ("x", "y")
        }
        _, centre = size_of(expected_fit(rings_of({"": ring}), case, plan), axes)
        big = 2 * centre * float(np.sqrt((share**2).sum()))
        if setup.way != "plain":
            made = visits(setup)
            often = np.sqrt(setup.again)
            if setup.way == "index":
                inverse = np.linalg.pinv(design(setup, made))
                often = 1 / np.sqrt((np.abs(inverse.sum(axis=0)) ** 2).sum())
            big = float(np.hypot(big, setup.seat_mm) / often)
        helps = None
        if setup.way != "plain" and setup.seat_mm > limit / 4:
            helps = plain("how a seat repeats is most of it: seat each of them twice.")
        return expectation(big + pin_bound_mm(case), limit, "length", helps)

    def evaluate(self, case: ToolCase) -> ToolRunoutFinding:
        return evaluate(case)

    def judge(self, case: ToolCase) -> Judgement:
        judged = super().judge(case)
        if judged.verdict != "too_close":
            return judged
        if case.setup.reads == "swing":
            return judged.decided_otherwise(plain(BY_ANGLES))
        if case.setup.way != "plain":
            return judged.decided_otherwise(plain(BY_SEATS))
        return judged

    def figures(self, case: ToolCase) -> list[Figure]:
        return figures(case)

    def sketch(self, setup: ToolRunoutSetup, machine: Machine) -> SketchFigure | None:
        return set_up(setup, machine)

    def move_sketch(self, move: Move, case: ToolCase) -> SketchFigure | None:
        return seated(move, case.setup, case.machine)

    def remedies(self, case: ToolCase) -> Advice:
        return remedies(case)

    def following(self, setup: ToolRunoutSetup, move: Move | None) -> ToolRunoutSetup:
        return following(setup, move)


CHECK = ToolRunout()
