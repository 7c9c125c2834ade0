"""A table or bed against the travel over it: what a dial that stands still reads on a top that is
moved under it, or one that is carried over a top that stands still.

Plus is pushed in, so that the top is higher where the dial reads more. Places are those under the
tip, on the top itself: a table that is moved to the left brings places further right under it.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import Field, field_validator

from truing.checks.common import default_places, expectation
from truing.checks.fits import reachable
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.design import Design, Fit
from truing.contract.expected import expected_fit
from truing.contract.finding import Finding, Quantity, quantity, shown
from truing.contract.gather import Gathered, gather
from truing.contract.judgement import Expectation, Tolerances
from truing.contract.readings import Reading
from truing.contract.setup import Setup, Station
from truing.drawing.figures import Figure, Spot, plan_figure
from truing.drawing.sketches import Easel, SketchFigure
from truing.effects.reach import over_mm
from truing.machine import Machine
from truing.measure.estimate import Estimate
from truing.measure.extremes import peak_to_valley
from truing.measure.fields import Mm, MmList, choice, hint, length
from truing.measure.problem import Problem
from truing.measure.words import Words, place, plain, say, show, show_estimate, spot, stated

SLOPES = ("slope_x", "slope_y")
SIDES = {"slope_x": ("left", "right"), "slope_y": ("front", "rear")}
WAYS = {
    "grid": "over the whole of it, in a grid",
    "along_x": "along one line, left–right",
    "along_y": "along one line, front–back",
}


class TopSetup(Setup):
    """Where a top is read."""

    way: Literal["grid", "along_x", "along_y"] = choice("You read it", "grid", WAYS)
    x_places_mm: MmList = Field(
        default_factory=lambda: [-100.0, 0.0, 100.0],
        max_length=15,
        title="Places, left to right",
        json_schema_extra=hint(
            "On the top itself, from its middle; left is minus.",
            field="lengths",
            when={"way": ["grid", "along_x"]},
        ),
    )
    y_places_mm: MmList = Field(
        default_factory=lambda: [-40.0, 0.0, 40.0],
        max_length=15,
        title="Places, front to rear",
        json_schema_extra=hint(
            "From its middle; front is minus.", field="lengths", when={"way": ["grid", "along_y"]}
        ),
    )
    surface: Literal["bare", "plate"] = choice(
        "The tip runs on", "bare", {"bare": "the bare top", "plate": "a ground plate laid on it"}
    )
    plate_mm: Mm = length(
        "The plate is even within",
        0.005,
        ge=0,
        le=2,
        prompt="Its thickness from end to end.",
        when={"surface": ["plate"]},
    )
    passes: int = Field(
        2,
        ge=1,
        le=10,
        title="Whole passes",
        json_schema_extra=hint("Back to the first place: two show drift.", field="integer"),
    )

    @field_validator("x_places_mm", "y_places_mm")
    @classmethod
    def _apart(cls, value: list[float]) -> list[float]:
        if len({round(v, 3) for v in value}) < max(2, len(value)):
            raise ValueError("Give two or more places that are not the same.")
        return value

    def loops(self, plan: Sequence[Station]) -> list[list[Station]]:
        return [list(plan)]

    @property
    def places(self) -> list[tuple[float, float]]:
        """Each place (x, y) in mm, row by row from the front left."""
        xs = sorted(self.x_places_mm) if self.way != "along_y" else [0.0]
        ys = sorted(self.y_places_mm) if self.way != "along_x" else [0.0]
        return [(x, y) for y in ys for x in xs]


class TopFinding(Finding):
    """A top against the travel over it."""

    slope_x: Estimate | None
    """Plus = the right end is the higher one (mm/m)."""
    slope_y: Estimate | None
    """Plus = the rear is the higher one."""
    twist: Estimate | None
    """How much the slope along left–right changes for each metre to the rear."""
    off_mm: dict[str, float]
    """How far each place stands off the mean height, by station."""


Case_ = Case[Any, Any]


def _stations(setup: TopSetup) -> list[Station]:
    both = setup.way == "grid"
    found = []
    for x, y in setup.places:
        label = spot(x, y) if both else stated(f"{place(x if setup.way == 'along_x' else y)} mm")
        found.append(
            Station(
                key=f"{x:g},{y:g}",
                label=label,
                prompt=say("Bring {label} under the tip; lift the tip over slots.", label=label),
                x_mm=x,
                y_mm=y,
                at_mm=None if both else (x if setup.way == "along_x" else y),
            )
        )
    return found


def _design(stations: Sequence[Station]) -> Design:
    """A plane that may be twisted where the places tell that, and bowed where enough of them do.
    Problem where they tell no slope."""
    wide = {key: _spread(key, stations) for key in SLOPES}
    names = {"level", *(key for key in SLOPES if wide[key] > 0)}

    def rows(names: set[str]) -> Design:
        plane, bows = {}, {}
        for s in stations:
            at = {key: _at(key, s) for key in SLOPES}
            whole = {"level": 1.0, **{key: v / 1000 for key, v in at.items()}}
            whole["twist"] = s.x_mm * s.y_mm / 1e6
            plane[s.key] = {key: v for key, v in whole.items() if key in names}
            bows[s.key] = {
                f"bow of {key}": (2 * v / wide[key]) ** 2 for key, v in at.items() if key in names
            }
        return Design(plane, bows)

    twisted = rows(names | {"twist"}) if names > set(SLOPES) else None
    if twisted is not None and twisted.weights.keys() > {*SLOPES, "twist"}:
        return twisted
    found = rows(names)
    if found.weights.keys() & set(SLOPES):
        return found
    if len(stations) < 2:
        raise Problem(
            "One place has been read, which tells no slope.",
            expected="Read a second one, far from it.",
            field="readings",
        )
    raise Problem(
        "What was read lies on one line aslant: which way it slopes cannot be told.",
        expected="Read a place beside that line.",
        field="readings",
    )


def _estimates(
    setup: TopSetup, fit: Fit, stations: Sequence[Station]
) -> dict[str, tuple[Estimate, float]]:
    """Every slope that is told, with its gain; a plate adds what it is uneven by."""
    found = {}
    for key in SLOPES:
        if fit.tells(key):
            slope, gain = fit.estimate(key, "slope")
            if setup.surface == "plate":
                slope = slope.widened(setup.plate_mm / _spread(key, stations) * 1000)
            found[key] = slope, gain
    return found


def _at(key: str, station: Station) -> float:
    return station.x_mm if key == "slope_x" else station.y_mm


def _spread(key: str, stations: Sequence[Station]) -> float:
    places = [_at(key, s) for s in stations]
    return max(places) - min(places)


def evaluated(case: Case_, name: str) -> dict[str, Any]:
    """What a finding of a top holds; `name` is what the top is called."""
    setup: TopSetup = case.setup
    plan = _stations(setup)
    got = gather(case, plan)
    read = [s for s in plan if got.has(s.key)]
    fit = got.fit(_design(read))
    found = _estimates(setup, fit, read)
    told = [_slope(key, *it, _spread(key, read), name) for key, it in found.items()]
    values = {key: slope for key, (slope, _) in found.items()}
    if fit.tells("twist"):
        values["twist"], gain = fit.estimate("twist", "twist")
        told.append(_twist(values["twist"], gain))
    means = [got.means[s.key].mean_mm for s in read]
    middle = sum(means) / len(means)
    return {
        **got.told("The slope stands, but check the dial’s clamp.", fit=fit),
        "quantities": [*told, *_flat(setup, got, read)],
        **{key: values.get(key) for key in (*SLOPES, "twist")},
        "off_mm": {s.key: v - middle for s, v in zip(read, means, strict=True)},
    }


def _slope(key: str, slope: Estimate, gain: float, spread: float, name: str) -> Quantity:
    low, high = SIDES[key]
    over = slope.times(spread / 1000, "length")
    size = show_estimate(abs(over.value), over.expanded, "length")
    end = high if slope.value > 0 else low
    sentence = (
        say(
            "The {end} end of the {name} is the higher one, by {size} over the {long} read: "
            "{slope}.",
            end=end,
            name=name,
            size=size,
            long=show(spread, 1),
            slope=shown(slope.size),
        )
        if slope.visible
        else say(
            "No slope {low} to {high} that can be told from nothing: {size} over the {long} read, "
            "{slope}.",
            low=low,
            high=high,
            size=size,
            long=show(spread, 1),
            slope=shown(slope.size),
        )
    )
    return quantity(
        key,
        f"Slope, {low} to {high}",
        slope,
        sentence,
        gain=gain,
        tolerance_key="slope",
        sort=key,
    )


def _twist(twist: Estimate, gain: float) -> Quantity:
    sentence = say("It is twisted: {t} for each metre across.", t=shown(twist))
    return quantity(
        "twist",
        "Twist",
        twist,
        sentence if twist.visible else None,
        gain=gain,
        tolerance_key=None,
    )


def _flat(setup: TopSetup, got: Gathered, read: Sequence[Station]) -> list[Quantity]:
    """What one straight line or plane leaves: off it from the lowest to the highest place."""
    places = np.array([[1.0, s.x_mm, s.y_mm] for s in read])
    design = places[:, [True, *(np.ptp(places[:, 1:], axis=0) > 0)]]
    if len(read) <= design.shape[1]:
        return []
    means = np.array([got.means[s.key].mean_mm for s in read])
    left = means - design @ np.linalg.lstsq(design, means, rcond=None)[0]
    big = max(m.all_mm for m in got.means.values())
    bound = max(m.bound_mm for m in got.means.values())
    off = peak_to_valley([float(v) for v in left], big, bound=bound)
    if setup.surface == "plate":
        off = off.widened(setup.plate_mm)
    what = "one plane" if design.shape[1] == 3 else "one line"
    sentence = say("It stands off {what} by {off}.", what=what, off=shown(off))
    return [
        quantity("flat", "Flatness", off, sentence, gain=2**0.5, tolerance_key="flat", signed=False)
    ]


class Top(Check[Any, Any]):
    """A top against its travel; each kind adds whose it is."""

    layout: ClassVar[Any] = "plan"
    limit_kinds: ClassVar[Any] = {
        "slope": ("Slope to the travel", "slope"),
        "flat": ("Flatness", "length"),
    }
    called: ClassVar[str]
    """What the top is called."""
    usual: ClassVar[Tolerances]

    def proposed_places(self, machine: Machine) -> dict[str, list[float]]:
        """As far as both the top and the travel reach."""
        reach = {}
        for name, size, way in (
            ("x_places_mm", machine.table_x_mm, "left_right"),
            ("y_places_mm", machine.table_y_mm, "front_back"),
        ):
            slide = next((s for s in machine.slides if s.direction == way), None)
            reach[name] = default_places(min(size * 0.9, slide.travel_mm if slide else size))
        return reach

    def doubts(self, setup: Any, machine: Machine) -> list[Words]:
        across: list[float] = [] if setup.way == "along_y" else setup.x_places_mm
        along: list[float] = [] if setup.way == "along_x" else setup.y_places_mm
        return [
            *reachable(machine, "left_right", across, called=self.called),
            *reachable(machine, "front_back", along, called=self.called),
        ]

    def tolerances(self, machine: Machine) -> Tolerances:
        return dict(self.usual)

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return say(
            "a part 200 mm long comes out {d} thicker at one end than at the other.",
            d=show(over_mm(tolerances["slope"], 200), 0.001),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return dict.fromkeys(WAYS, ("plunger_dial", "lever_dial", "digital"))

    def stations(self, setup: Any, readings: Sequence[Reading] = ()) -> list[Station]:
        return _stations(setup)

    def expect(self, case: Case_) -> Expectation | None:
        setup: TopSetup = case.setup
        plan = _stations(setup)
        promised = expected_fit(_design(plan), case, plan)
        worst = max(slope.expanded for slope, _ in _estimates(setup, promised, plan).values())
        return expectation(worst, case.tolerances["slope"], "slope")

    def sketch(self, setup: Any, machine: Machine) -> SketchFigure | None:
        if setup.way == "grid":
            return self._from_above(setup, machine)
        lengthwise = setup.way == "along_y"
        easel = Easel(machine, "side" if lengthwise else "front")
        places = sorted(setup.y_places_mm if lengthwise else setup.x_places_mm)
        nose = easel.nose
        easel.empty()
        easel.dial((0, 0.8 * nose), (0, 0))
        easel.line((0, nose), (0, 0.8 * nose))
        easel.moves((places[0] / 2, -0.25 * nose), (places[-1] / 2, -0.25 * nose), by="slide")
        moved = "is taken over it" if self.called == "bed" else "stands still"
        shows = (
            f"The dial {moved}, its tip on the {self.called}; it does not turn. The slides bring "
            "one place after another under it."
        )
        way = "front to back" if lengthwise else "left to right"
        return easel.done(plain(f"A dial on the {self.called}, {way}"), shows)

    def _from_above(self, setup: Any, machine: Machine) -> SketchFigure:
        """The whole grid, the dial on its first place and the way over it."""
        easel = Easel(machine, "plan")
        xs, ys, size = sorted(setup.x_places_mm), sorted(setup.y_places_mm), 0.05 * easel.unit
        for y in ys:
            for x in xs:
                easel.line((x - size, y), (x + size, y))
                easel.line((x, y - size), (x, y + size))
        out = 0.4 * easel.unit
        easel.dial((xs[0] - out, ys[0] - out), (xs[0], ys[0]))
        rows = [[(x, y) for x in (xs if i % 2 == 0 else xs[::-1])] for i, y in enumerate(ys)]
        easel.moves(*(place for row in rows for place in row), by="slide")
        shows = (
            f"From above: a dial that does not turn, its tip on the {self.called}; row by row "
            "every place of the grid comes under it."
        )
        return easel.done(plain(f"A dial over the {self.called}, place by place"), shows)

    def figures(self, case: Case_) -> list[Figure]:
        off, step = case.finding.off_mm, case.instrument.step_mm
        spots = [
            Spot(
                label=s.label,
                x_mm=s.x_mm,
                y_mm=s.y_mm,
                words=show(off[s.key], step / 4, signed=True),
                sort="up"
                if off[s.key] > step / 4
                else "down"
                if off[s.key] < -step / 4
                else "stay",
            )
            for s in _stations(case.setup)
            if s.key in off
        ]
        title = plain(f"The {self.called} over its travel, off its mean height, seen from above")
        return [plan_figure(title, spots)]
