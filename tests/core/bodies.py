"""Surfaces with one quantity exactly at its limit, and how they are read when something is amiss:
bumps, a slip, a dial whose zero creeps or is knocked, works with play. They share nothing with the
core or its stand-in."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from tests.core.helpers import case_of, readings
from truing.kit.instruments import Instrument, PlungerDial
from truing.machine import starting_point
from truing.registry import kind

Rng = np.random.Generator
MILL = starting_point("column_mill")
DIAL = PlungerDial(graduation_mm=0.001, range_mm=5, repeatability_mm=0.0005, hysteresis_mm=0)
NOISE_MM = 0.0005
Shown = Callable[[Any], float]


def face(limit: float) -> tuple[dict[str, Any], Shown]:
    places = [-80.0, -40.0, 0.0, 40.0, 80.0]
    return {"face_mm": 200.0, "places_mm": places}, lambda s: limit * s.x_mm / 1000


def table(limit: float) -> tuple[dict[str, Any], Shown]:
    """Uphill to the right by the limit, downhill to the rear by half of it."""
    grid = {"x_places_mm": [-120.0, 0.0, 120.0], "y_places_mm": [-50.0, 0.0, 50.0]}
    return grid, lambda s: limit * (s.x_mm - s.y_mm / 2) / 1000


def square(limit: float) -> tuple[dict[str, Any], Shown]:
    """The head drifts by the limit; the square leans by 0.3 mm/m by itself, turned about."""
    heights = {"heights_mm": [20.0, 55.0, 90.0, 125.0, 160.0], "way": "reversed"}
    return heights, lambda s: s.points * limit * s.at_mm / 1000 - 0.3 * s.at_mm / 1000


def bar(limit: float) -> tuple[dict[str, Any], Shown]:
    """A ground bar that runs out by the limit, TIR, read at twelve marks close to the nose."""
    how = {"marks": 12, "distances_mm": [5.0], "surface": "taper"}
    return how, lambda s: limit / 2 * math.cos(s.angle_rad - 1.1)


def tram(limit: float) -> tuple[dict[str, Any], Shown]:
    """A spindle that leans to the right by the limit, swung over twelve hours of a true table."""
    hours = {"positions": [float(h) for h in range(1, 13)], "radius_mm": 100.0, "radius_u_mm": 0.0}
    return hours, lambda s: limit * s.x_mm / 1000


def quarters(limit: float) -> tuple[dict[str, Any], Shown]:
    """The same at four quarters, as most people do it."""
    return {"radius_mm": 110.0, "radius_u_mm": 0.0}, lambda s: limit * s.x_mm / 1000


def pin(limit: float) -> tuple[dict[str, Any], Shown]:
    """A pin that runs out by the limit where it is judged, its offset alike at both heights."""
    how = {"way": "plain", "heights_mm": [10.0, 40.0], "cuts_at_mm": 25.0, "pin_mm": 0.0}
    return how, lambda s: limit / 2 * math.cos(s.angle_rad - 0.4)


@dataclass(frozen=True)
class Body:
    """A surface, the quantity that is at its limit, and the name of that limit."""

    kind: str
    made: Callable[[float], tuple[dict[str, Any], Shown]]
    quantity: str
    limit: str

    def at_limit(self, passes: int) -> tuple[Any, Shown]:
        """The case before it is read, and what a place truly shows."""
        core = kind(self.kind)
        how, shown = self.made(self.tolerance)
        proposed = core.propose(MILL)
        stated = {**(proposed.model_dump() if proposed else {}), **how, "passes": passes}
        setup = core.setup_type.model_validate({**stated, "kind": self.kind})
        return case_of(core, setup, dial=DIAL, machine=MILL), shown

    @property
    def tolerance(self) -> float:
        return float(kind(self.kind).tolerances(MILL)[self.limit])

    def verdict(self, case: Any) -> str:
        """Of the quantity that is at its limit."""
        judged = case.judgement.judged
        return str(next(j.verdict for j in judged if j.quantity == self.quantity))


FITTED = {
    "face": Body("face_alignment", face, "face", "face"),
    "table": Body("table_travel", table, "slope_x", "slope"),
    "square": Body("travel_square", square, "square", "square"),
    "runout": Body("spindle_runout", bar, "nose", "nose"),
    "tram": Body("spindle_tram", tram, "lean_x", "lean_x"),
}
"""With enough places that what a fit leaves of them tells."""
BODIES = {
    **FITTED,
    "tram, quarters": Body("spindle_tram", quarters, "lean_x", "lean_x"),
    "tool": Body("tool_runout", pin, "tool", "tool"),
}


class Works:
    """A needle behind works with play `h` (mm): it stands still until the tip has taken that up."""

    def __init__(self, h: float) -> None:
        self.h, self.at = h, -1.0

    def shows(self, tip: float) -> float:
        self.at = min(max(self.at, tip - self.h / 2), tip + self.h / 2)
        return self.at


def played(
    body: Body,
    rng: Rng,
    passes: int = 2,
    dial: Instrument = DIAL,
    *,
    bumps: float = 0.0,
    slip: float = 0.0,
    creep: float = 0.0,
    knock: float = 0.0,
    works: float = 0.0,
) -> tuple[Any, str]:
    """The case, weighed, with every reading of the plan in its turn, and the place where a slip of
    one reading of the first pass, or a knock that stays, came about (all in mm). `bumps` is their
    standard deviation by place; `creep` is of the zero by reading, `works` the play of the dial."""
    case, shown = body.at_limit(passes)
    core = kind(body.kind)
    order = core.order(case.setup)
    bump = {s.key: rng.normal(0, bumps) for s in order}
    at = int(rng.integers(1 if knock else 0, len(core.stations(case.setup))))
    needle, seen, zero = Works(works), [], rng.uniform(0, 0.01)
    for i, s in enumerate(order):
        moved = creep * i + (knock if i >= at else 0.0) + (slip if i == at else 0.0)
        tip = needle.shows(zero + shown(s) + bump[s.key] + moved + rng.normal(0, NOISE_MM))
        seen.append((s.key, round(tip / dial.step_mm) * dial.step_mm))
    return core.weigh(case.but(readings=readings(seen), instrument=dial)), order[at].key
