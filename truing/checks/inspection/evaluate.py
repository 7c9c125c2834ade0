"""What was seen, what is left to be done, and how far each slide travels."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from pydantic import BaseModel

from truing.checks.inspection.setup import InspectionSetup, stations
from truing.contract.case import Case
from truing.contract.finding import Finding, Note, quantity
from truing.contract.gather import gather
from truing.contract.readings import LengthReading, ObservationReading
from truing.machine import DIRECTIONS, Direction
from truing.measure.problem import Problem
from truing.measure.words import Words, plain, say, show

SPARE_MM = 10.0
"""What a scale has to be longer than its travel and reading head, in all."""


class Seen(BaseModel):
    """One thing that is not in order, or was not."""

    station: str
    label: str
    grade: str
    text: str


class InspectionFinding(Finding):
    """Everything that was not in order, and the scale length for each travel (mm)."""

    kind: Literal["inspection"] = "inspection"
    open: list[Seen]
    mended: list[Seen]
    looked: int
    scales_mm: dict[Direction, float]


def scale_length_mm(travel_mm: float, readhead_mm: float) -> float:
    """The scale to buy: travel, reading head and a little, rounded up to what is sold (every 50 mm
    up to half a metre, every 100 mm beyond)."""
    need = travel_mm + readhead_mm + SPARE_MM
    every = 50.0 if need <= 500 else 100.0
    return math.ceil(need / every - 1e-9) * every


def evaluate(case: Case[InspectionSetup, InspectionFinding]) -> InspectionFinding:
    """See `Check.evaluate`."""
    setup, readings = case.setup, case.readings
    plan = stations(setup)
    labels = {s.key: s.label.metric for s in plan}
    seen = {r.station: r for r in readings if isinstance(r, ObservationReading)}
    if not readings:
        raise Problem(
            "Nothing has been looked at yet.", expected="Begin the walk.", field="readings"
        )
    listed = [
        Seen(station=k, label=labels.get(k, k), grade=r.grade, text=r.text)
        for k, r in seen.items()
        if r.grade not in ("fine", "flows")
    ]
    open_ = [s for s in listed if s.grade != "mended"]
    got = None
    if any(isinstance(r, LengthReading) for r in readings):
        got = gather(case, plan)
    quantities = []
    scales: dict[Direction, float] = {}
    for d in setup.directions:
        key = f"travel:{d}"
        if got is None or not got.has(key):
            continue
        travel = got.combine({key: 1.0})[0]
        scales[d] = scale_length_mm(travel.value, setup.readhead_mm)
        quantities.append(
            quantity(
                key,
                f"Travel {DIRECTIONS[d]}",
                travel,
                None,
                gain=1.0,
                tolerance_key=None,
                signed=False,
            )
        )
    return InspectionFinding(
        quantities=quantities,
        stations=got.station_means() if got else [],
        notes=[
            Note(
                tone="look" if s.grade in ("danger", "dry") else "info",
                station=s.station,
                text=plain(f"{s.label}: {s.text or _without(s.grade)}"),
            )
            for s in open_
        ],
        spreads=got.spreads if got else {},
        s_mm=got.s_mm if got else 0.0,
        step_mm=case.instrument.step_mm,
        lines=_lines(listed, scales),
        open=open_,
        mended=[s for s in listed if s.grade == "mended"],
        looked=len(seen),
        scales_mm=scales,
    )


def _without(grade: str) -> str:
    return {
        "danger": "dangerous; nobody wrote down what it is.",
        "list": "to be put right; nobody wrote down what it is.",
        "dry": "no oil comes through.",
    }.get(grade, grade)


def _lines(listed: Sequence[Seen], scales: dict[Direction, float]) -> list[Words]:
    lines = []
    mended = [s for s in listed if s.grade == "mended"]
    if mended:
        lines.append(
            plain(
                "Put right on the way: "
                + "; ".join(f"{s.label.lower()}{' – ' + s.text if s.text else ''}" for s in mended)
                + "."
            )
        )
    for d, scale in scales.items():
        lines.append(
            say(
                "A scale for {way} should be {scale} long: its travel and the reading head, "
                "rounded up to what is sold.",
                way=DIRECTIONS[d],
                scale=show(scale, 1),
            )
        )
    return lines
