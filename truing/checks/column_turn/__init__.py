"""Does the column face run with the table?"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, ClassVar, Literal

from pydantic import Field

from truing.checks.common import ISOLATE, expectation
from truing.checks.faces import (
    FaceFinding,
    FaceSetup,
    along_the_face,
    curve,
    evaluated,
    expected_slope,
    face_drawn,
    proposed_places,
    stations,
    turn,
    turn_drawn,
)
from truing.checks.fits import within_travel
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.judgement import Expectation, Tolerances
from truing.contract.move import Advice, Move
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.drawing.figures import Figure
from truing.drawing.sketches import Easel, SketchFigure
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.fields import hint
from truing.measure.words import Words, plain, say, show

USUAL_MM_PER_M = 0.1
DROPS = "A column or head can swing or drop when its bolts are loose: support both first."


NOT_THE_BAR = (
    "This holds of a ground flat clamped to the column, or of the head’s own machined face: along "
    "the round bar itself a dial reads the bar’s own curve."
)


class ColumnTurnSetup(FaceSetup):
    """How a column's face is read."""

    kind: Literal["column_turn"] = "column_turn"
    tilt_deg: float = Field(
        30.0,
        ge=0,
        le=90,
        title="You tilt the head by",
        json_schema_extra=hint("Degrees. What the turn costs is told for it.", field="number"),
    )


class ColumnTurnFinding(FaceFinding):
    """A column's face against the table's travel."""

    kind: Literal["column_turn"] = "column_turn"


ColumnCase = Case[ColumnTurnSetup, ColumnTurnFinding]


def tilted(turn_mm_per_m: float, tilt_deg: float) -> tuple[float, float]:
    """What a column that is turned by so much (mm/m) does with its head tilted (degrees): how far
    the spindle leans out of the plane of tilt, and that as a slope over the table (mm/m). At 90°
    the spindle lies along the table, and the slope means nothing: it is infinite.
    """
    angle = math.radians(tilt_deg)
    over = math.tan(angle) if tilt_deg < 90 else math.inf
    return turn_mm_per_m * math.sin(angle), turn_mm_per_m * over


class ColumnTurn(Check[ColumnTurnSetup, ColumnTurnFinding]):
    """The column's face by a dial along it; see `geometry.md` in docs."""

    key: ClassVar[str] = "column_turn"
    layout: ClassVar[Any] = "line"
    limit_kinds: ClassVar[Any] = {"face": ("Column face against travel", "slope")}
    setup_type = ColumnTurnSetup
    finding_type = ColumnTurnFinding

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> ColumnTurnSetup | None:
        face = ((machine.base and machine.base.width_mm) or 200.0) * 0.6
        return ColumnTurnSetup(face_mm=face, places_mm=proposed_places(face))

    def doubts(self, setup: ColumnTurnSetup, machine: Machine) -> list[Words]:
        run = max(setup.places_mm) - min(setup.places_mm)
        return within_travel(machine, setup.runs, run, "The run along the face")

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"face": USUAL_MM_PER_M}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        lean, _ = tilted(tolerances["face"], 30)
        return say(
            "the spindle leans out of the plane of its tilt by {lean} with the head at 30°; "
            "upright it hardly shows.",
            lean=show(lean, 0.001, "slope"),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return {"": ("plunger_dial", "lever_dial", "digital")}

    def stations(self, setup: ColumnTurnSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return stations(setup)

    def order(self, setup: ColumnTurnSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return along_the_face(setup)

    def expect(self, case: ColumnCase) -> Expectation | None:
        return expectation(expected_slope(case).expanded, case.tolerances["face"], "slope")

    def evaluate(self, case: ColumnCase) -> ColumnTurnFinding:
        face, fields = evaluated(case)
        lean, over = tilted(abs(face.slope.value), case.setup.tilt_deg)
        lines = [
            say(
                "With the head tilted by {deg}° the spindle leans out of the plane of tilt by "
                "{lean}, which is {over} over the table. Upright it leans by nothing.",
                deg=f"{case.setup.tilt_deg:g}",
                lean=show(lean, 0.001, "slope"),
                over=show(over, 0.001, "slope") if math.isfinite(over) else "without meaning",
            )
        ]
        column = case.machine.column
        if column is not None and column.shape == "round":
            lines.append(plain(NOT_THE_BAR))
        return ColumnTurnFinding(**fields, lines=lines)

    def figures(self, case: ColumnCase) -> list[Figure]:
        return [curve(case, case.finding.face, "column face")]

    def sketch(self, setup: ColumnTurnSetup, machine: Machine) -> SketchFigure | None:
        shows = "A dial stands on the table, its tip on the column’s face; the table takes it on."
        return face_drawn(
            setup, machine, title="Along the column’s face", shows=shows, where=_face_at(machine)
        )

    def move_sketch(self, move: Move, case: ColumnCase) -> SketchFigure | None:
        return turn_drawn(move, case.setup, case.machine, _face_at(case.machine))

    def remedies(self, case: ColumnCase) -> Advice:
        move = turn(case, what="the column", mechanism="column_pivot", cautions=[ISOLATE, DROPS])
        return Advice(moves=[move] if case.amiss("face") else [], leave=None, remarks=[])


def _face_at(machine: Machine) -> float:
    """Where the column’s face stands behind the spindle, in the drawing."""
    return Easel(machine, "plan").edges("Column")[2]


CHECK = ColumnTurn()
