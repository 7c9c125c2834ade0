"""Does what lifts the tool travel square to the table's travel, and do the slides to each other?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.bases import shims_drawn
from truing.checks.common import expectation
from truing.checks.fits import within_travel
from truing.checks.travel_square.advise import advise
from truing.checks.travel_square.evaluate import (
    TABLE_DOUBT_MM_PER_M,
    TABLE_KINDS,
    TravelSquareFinding,
    against_travel,
    corrected,
    design,
    evaluate,
    reference,
    sums,
    table_slope,
)
from truing.checks.travel_square.setup import (
    PARTS,
    WAYS,
    TravelSquareSetup,
    proposed,
    refuse_useless,
    stations,
)
from truing.checks.travel_square.sketch import set_up
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.expected import expected_fit
from truing.contract.finding import Quantity
from truing.contract.judgement import Expectation, Judgement, Tolerances
from truing.contract.move import Advice, Move
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.drawing.figures import Curve, CurveFigure, CurvePoint, Figure, magnification
from truing.drawing.sketches import SketchFigure
from truing.effects.reach import over_mm
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.verdict import verdict
from truing.measure.words import Words, plain, say, show, tick

USUAL_MM_PER_M = 0.1
TABLE_FIRST = (
    "More passes will not decide it: what keeps it open is the table’s own travel. Read that "
    "first, and this finding closes."
)
SquareCase = Case[TravelSquareSetup, TravelSquareFinding]


class TravelSquare(Check[TravelSquareSetup, TravelSquareFinding]):
    """A travel up a square, or two along one that lies; see `geometry.md` in docs."""

    key: ClassVar[str] = "travel_square"
    layout: ClassVar[Any] = "line"
    part_field: ClassVar[str | None] = "part"
    limit_kinds: ClassVar[Any] = {"square": ("Out of square", "slope")}
    leans_on: ClassVar[tuple[str, ...]] = TABLE_KINDS
    compares: ClassVar[tuple[str, ...]] = ("spindle_tram",)
    setup_type = TravelSquareSetup
    finding_type = TravelSquareFinding

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> TravelSquareSetup | None:
        return proposed(machine, subject.key)

    def doubts(self, setup: TravelSquareSetup, machine: Machine) -> list[Words]:
        if not setup.part.startswith(("head", "knee")):
            # how far a quill goes is not described
            return []
        run = max(setup.heights_mm) - min(setup.heights_mm)
        return within_travel(machine, "up_down", run, "The run along the square")

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"square": USUAL_MM_PER_M}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return say(
            "a wall 50 mm deep leans by {d}, and a second, shorter tool starts that far aside.",
            d=show(over_mm(tolerances["square"], 50), 0.001),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return dict.fromkeys(WAYS, ("lever_dial", "plunger_dial", "digital"))

    def stations(self, setup: TravelSquareSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return list(stations(setup))

    def expect(self, case: SquareCase) -> Expectation | None:
        setup = case.setup
        refuse_useless(setup)
        reference(case)
        poses: dict[Any, list[Any]] = {}
        plan = stations(setup)
        for s in plan:
            poses.setdefault(s.pose if setup.upright else (s.pose, s.edge), []).append(s)
        promised = expected_fit(design(poses), case, plan)
        found, _ = promised.estimate(sums(setup)[0], "slope")
        helps = None
        if setup.upright is not None:
            found, _ = against_travel(case, found)
            if table_slope(case) is None:
                helps = say(
                    "{d} of it is the table, whose own travel has not been read, or is stale.",
                    d=show(TABLE_DOUBT_MM_PER_M, 0.01, "slope"),
                )
        found = corrected(case, found)
        return expectation(found.expanded, case.tolerances["square"], "slope", helps)

    def evaluate(self, case: SquareCase) -> TravelSquareFinding:
        return evaluate(case)

    def judge(self, case: SquareCase) -> Judgement:
        """As usual; where only the table's doubt keeps it open, more passes are no way out."""
        judged = super().judge(case)
        if judged.verdict != "too_close" or case.setup.upright is None or table_slope(case):
            return judged
        q: Quantity = case.of("square")[0]
        limit = case.tolerances["square"]
        alone = q.estimate.model_copy(
            update={"expanded": max(0.0, q.estimate.expanded - TABLE_DOUBT_MM_PER_M)}
        )
        if verdict(alone, limit) == "too_close":
            return judged
        return judged.decided_otherwise(plain(TABLE_FIRST))

    def figures(self, case: SquareCase) -> list[Figure]:
        finding = case.finding
        if len(finding.at_mm) < 2:
            return []
        rise = finding.at_mm[-1] - finding.at_mm[0]
        band = case.tolerances["square"] * rise / 1000
        points = [
            CurvePoint(label=tick(h), at_mm=h, off_mm=v, words=show(v, 0.001, signed=True))
            for h, v in zip(finding.at_mm, finding.off_mm, strict=True)
        ]
        assert case.setup.upright is not None
        side = "right" if case.setup.upright[1] == "left_right" else "rear"
        return [
            CurveFigure(
                title=plain("Where it goes as it goes up, against the table’s top"),
                curves=[Curve(name=PARTS[case.setup.part], points=points)],
                bolts=False,
                up=f"toward the {side}",
                band_mm=band,
                band_words=show(band, band / 10),
                factor=magnification(max(1e-4, *(abs(v) for v in finding.off_mm)), rise),
            )
        ]

    def sketch(self, setup: TravelSquareSetup, machine: Machine) -> SketchFigure | None:
        return set_up(setup, machine)

    def move_sketch(self, move: Move, case: SquareCase) -> SketchFigure | None:
        return shims_drawn(move, case.machine)

    def remedies(self, case: SquareCase) -> Advice:
        return advise(case)


CHECK = TravelSquare()
