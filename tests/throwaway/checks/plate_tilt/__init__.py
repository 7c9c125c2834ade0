"""A throw-away kind: does a plate lie level? It uses what no built kind uses yet."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from truing.checks.common import after, expectation, prediction
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.expected import expected_mean
from truing.contract.finding import Finding, quantity
from truing.contract.gather import gather
from truing.contract.judgement import Expectation, Tolerances
from truing.contract.move import Advice, Change, Move
from truing.contract.readings import LengthReading, LogReading, Reading
from truing.contract.setup import Setup, Station
from truing.drawing.sketches import Easel, SketchFigure
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.estimate import Estimate
from truing.measure.fields import hint
from truing.measure.problem import Problem
from truing.measure.words import plain, say, show_estimate
from truing.moves.changes import altered, take_of

DIALS = ("plunger_dial", "digital")


class PlateTiltSetup(Setup):
    """Which plate it is."""

    kind: Literal["plate_tilt"] = "plate_tilt"
    plate: str = Field("small", title="Plate", json_schema_extra=hint("", field="text"))
    passes: int = Field(1, ge=1, le=5, title="Passes", json_schema_extra=hint("", field="integer"))

    @property
    def subject(self) -> Subject:
        return Subject.thing(self.plate)


class PlateTiltFinding(Finding):
    """Tilt along a log, thickness, and the places that were probed."""

    kind: Literal["plate_tilt"] = "plate_tilt"
    tilt: Estimate
    probed: list[tuple[float, float]]


PlateCase = Case[PlateTiltSetup, PlateTiltFinding]


class PlateTilt(Check[PlateTiltSetup, PlateTiltFinding]):
    """A log of heights, a thickness by caliper, and probes that bring their own place."""

    key: ClassVar[str] = "plate_tilt"
    layout: ClassVar[Any] = "list"
    limit_kinds: ClassVar[Any] = {"tilt": ("Tilt", "slope")}
    setup_type = PlateTiltSetup
    finding_type = PlateTiltFinding

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> PlateTiltSetup | None:
        return PlateTiltSetup.model_validate({"plate": subject.key or "small"})

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"tilt": 0.1}

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return {"": DIALS}

    def stations(self, setup: PlateTiltSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        def station(key: str, prompt: str, **more: Any) -> Station:
            return Station(key=key, label=key, prompt=prompt, x_mm=0.0, y_mm=0.0, **more)

        return [
            station("log", "Run along the plate and open the log.", reads="log"),
            station("probe", "Touch anywhere.", where="Where on the plate"),
            station("thick", "How thick is it?", takes=("caliper",), wants_photo=True),
        ]

    def take_log(self, setup: PlateTiltSetup, station: Station, log: LogReading) -> LogReading:
        if len(log.columns) < 2:
            raise Problem("One column is no line.", expected="Two: x and z.", field="text")
        names = list(log.columns)[:2]
        columns = {"x_mm": log.columns[names[0]], "z_mm": log.columns[names[1]]}
        return log.model_copy(update={"columns": columns})

    def expect(self, case: PlateCase) -> Expectation | None:
        mean = expected_mean(case.instrument, case.setup.passes)
        return expectation(mean.expanded_mm, case.tolerances["tilt"], "slope")

    def evaluate(self, case: PlateCase) -> PlateTiltFinding:
        log = next((r for r in case.readings if isinstance(r, LogReading)), None)
        if log is None:
            raise Problem("There is no log yet.", expected="Open it.", field="readings")
        x, z = np.array(log.columns["x_mm"]), np.array(log.columns["z_mm"])
        (slope, _), cov = np.polyfit(x, z, 1, cov=True)
        u = float(np.sqrt(cov[0][0])) * 1000
        tilt = Estimate(measure="slope", value=float(slope) * 1000, u=u, expanded=2 * u)
        found = [
            quantity(
                "tilt",
                "Tilt",
                tilt,
                say("It tilts by {t}.", t=show_estimate(tilt.value, tilt.expanded, "slope")),
                gain=0.0,
                tolerance_key="tilt",
            )
        ]
        plan = self.stations(case.setup)
        got = None
        if any(isinstance(r, LengthReading) for r in case.readings):
            got = gather(case, plan)
            if got.has("thick"):
                thick, gain = got.combine({"thick": 1.0})
                found.append(
                    quantity("thick", "Thickness", thick, None, gain=gain, tolerance_key=None)
                )
        return PlateTiltFinding(
            quantities=found,
            stations=got.station_means() if got else [],
            notes=got.notes() if got else [],
            spreads=got.spreads if got else {},
            s_mm=got.s_mm if got else 0.0,
            step_mm=case.instrument.step_mm,
            tilt=tilt,
            probed=[
                (r.place.x_mm, r.place.y_mm or 0.0)
                for r in case.readings
                if isinstance(r, LengthReading) and r.place
            ],
        )

    def sketch(self, setup: PlateTiltSetup, machine: Machine) -> SketchFigure | None:
        easel = self._plate(machine)
        easel.dial((-40, 60), (-40, 10))
        shows = "A dial is run along the plate, and its readings are logged."
        return easel.done(plain("Along the plate"), shows)

    def move_sketch(self, move: Move, case: PlateCase) -> SketchFigure | None:
        easel = self._plate(case.machine)
        easel.bolt((-60, 5), holds=True)
        return easel.done(move.title, "The plate is held at one end and planed at the other.")

    def _plate(self, machine: Machine) -> Easel:
        easel = Easel(machine, "front", bare=True)
        easel.pencil((-70, 0), (70, 0), (70, 10), (-70, 10))
        easel.moves((-20, 30), (50, 30), by="hand")
        return easel

    def remedies(self, case: PlateCase) -> Advice:
        board = case.machine.board
        q = case.finding.quantities[0]
        if board is None:
            return Advice(moves=[], leave=None, remarks=[plain("There is no board.")])
        move = Move(
            key="plane",
            mechanism="board",
            title=plain("Plane it"),
            steps=[plain("Plane the high end.")],
            predicted=[prediction(q, after(q.estimate, 0.0, 0.1))],
            takes=[take_of(q, q.estimate.value)],
            changes=altered(
                Change(
                    path="board.thickness_mm",
                    before=board.thickness_mm,
                    after=board.thickness_mm - 0.5,
                )
            ),
        )
        return Advice(moves=[move], leave=None)


CHECK = PlateTilt()
