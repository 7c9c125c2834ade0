"""Does the empty spindle run true?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.common import changes_figure, expectation
from truing.checks.spindle_runout.evaluate import SpindleRunoutFinding, evaluate, promised
from truing.checks.spindle_runout.setup import SpindleRunoutSetup, stations
from truing.checks.spindle_runout.sketch import set_up
from truing.checks.turning import axis_figure, polar_figure
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.judgement import Expectation, Judgement, Tolerances
from truing.contract.move import Advice, Ask
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.drawing.figures import Figure
from truing.drawing.sketches import SketchFigure
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.words import Words, plain, say, show

RunoutCase = Case[SpindleRunoutSetup, SpindleRunoutFinding]
BY_ANGLES = (
    "One swing tells no direction, so that two of them leave this open. Read it at angles by a "
    "mark, and it closes."
)


class SpindleRunout(Check[SpindleRunoutSetup, SpindleRunoutFinding]):
    """Eccentricity by angle and distance; see `geometry.md` in docs."""

    key: ClassVar[str] = "spindle_runout"
    layout: ClassVar[Any] = "turn"
    limit_kinds: ClassVar[Any] = {
        "nose": ("TIR at the nose", "length"),
        "stick_out": ("TIR where tools stick out", "length"),
    }
    leans_on: ClassVar[tuple[str, ...]] = ("spindle_play",)
    setup_type = SpindleRunoutSetup
    finding_type = SpindleRunoutFinding

    def propose(
        self, machine: Machine, subject: Subject = THE_MACHINE
    ) -> SpindleRunoutSetup | None:
        return SpindleRunoutSetup()

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"nose": 0.01, "stick_out": 0.02}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return say(
            "every holder, collet and tool runs out by {d} before it adds its own; slots come out "
            "wider by up to as much.",
            d=show(tolerances["nose"], 0.001),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return dict.fromkeys(("angles", "swing"), ("lever_dial", "plunger_dial", "digital"))

    def stations(
        self, setup: SpindleRunoutSetup, readings: Sequence[Reading] = ()
    ) -> list[Station]:
        return list(stations(setup))

    def expect(self, case: RunoutCase) -> Expectation | None:
        setup, limit = case.setup, case.tolerances["nose"]
        own = setup.surface == "bar" and len(setup.turned) == 1
        big = promised(case)
        helps = None
        if own and setup.bar_mm > limit / 4:
            helps = plain("the bar’s own error is most of it: seat it twice, half round.")
        return expectation(big, limit, "length", helps)

    def evaluate(self, case: RunoutCase) -> SpindleRunoutFinding:
        return evaluate(case)

    def judge(self, case: RunoutCase) -> Judgement:
        judged = super().judge(case)
        if case.setup.way == "swing" and judged.verdict == "too_close":
            return judged.decided_otherwise(plain(BY_ANGLES))
        return judged

    def figures(self, case: RunoutCase) -> list[Figure]:
        circles = case.finding.circles
        leans = plain("The axis from the nose outward")
        return [
            *polar_figure(plain("Each turn as it was read, the first mark up"), circles),
            *axis_figure(leans, circles, case.setup.stick_out_mm),
            *changes_figure(case, "nose", plain("The nose, change by change")),
        ]

    def sketch(self, setup: SpindleRunoutSetup, machine: Machine) -> SketchFigure | None:
        return set_up(setup, machine)

    def remedies(self, case: RunoutCase) -> Advice:
        amiss = [*case.amiss("nose"), *case.amiss("stick_out")]
        if not amiss:
            return Advice(moves=[], leave=None, remarks=[])
        remarks = [
            plain(
                "Wipe the bore and the bar, seat it again and read once more: a chip does more "
                "than most bearings."
            )
        ]
        own = case.setup.surface == "bar" and case.setup.bar_mm > 0
        if own and len(case.setup.turned) == 1:
            text = "The bar’s own error is in it. Seated a second time, half round, it drops out."
            remarks.append(plain(text))
        if not case.latest("spindle_play", "radial"):
            why = plain("A nose that gives makes every runout doubtful: see whether it shakes.")
            return Advice(moves=[], leave=None, remarks=remarks, asks=[Ask.of("spindle_play", why)])
        remarks.append(
            plain(
                "What is left is the spindle’s own: its bearings or its bore. No holder or collet "
                "gets below it; a tool seated at the best angle may partly undo it."
            )
        )
        remarks.append(
            plain(
                "Bearings or spindle are replaced one at a time, and read after each: say what you "
                "did, and what each of them gained is drawn. The tram is asked for again after it."
            )
        )
        return Advice(moves=[], leave=None, remarks=remarks)


CHECK = SpindleRunout()
