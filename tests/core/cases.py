"""For every kind of check: machines to play it on, and what there really is to find."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import pytest
from scipy.optimize import linprog

from tests.core.helpers import about, case_of, known
from truing.contract.case import Case as Stated
from truing.contract.known import Known
from truing.kit.instruments import (
    Caliper,
    FeelerBlades,
    Instrument,
    Level,
    PlungerDial,
    Rule,
    ScaleTrigger,
)
from truing.kit.shims import Shim
from truing.machine import Machine, starting_point
from truing.machine.subject import THE_MACHINE, Subject
from truing.registry import kind
from truing.standin.truth import (
    FaceTruth,
    FootTruth,
    GantryTruth,
    RailsTruth,
    SlideTruth,
    SquareTruth,
    StandTruth,
    TravelTruth,
    Truth,
)

STOCK = [
    Shim(thickness_mm=t, count=20, tolerance_mm=0.002)
    for t in (0.01, 0.02, 0.03, 0.05, 0.1, 0.2, 0.5)
]
FINE = PlungerDial(graduation_mm=0.002, range_mm=10, repeatability_mm=0.001)
FINER = PlungerDial(graduation_mm=0.001, range_mm=10, repeatability_mm=0.0005)
LEVEL = Level(sensitivity_mm_per_m=0.005, repeatability_mm=0.0001)

BEAM = Rule(repeatability_mm=0.02, resolution_mm=0.02)
SCALE = ScaleTrigger(resolution_mm=0.005, repeatability_mm=0.004)

Rng = np.random.Generator


@dataclass(frozen=True)
class Case:
    """One way of reading one kind: a random machine, and the quantities that its truth fixes."""

    kind: str
    name: str
    form: Any
    instrument: Instrument
    truth: Callable[[Rng, Machine, Any], Truth]
    known: Callable[[Truth, Any], dict[str, float]]
    stated: dict[str, Any] = field(default_factory=dict)
    part: str = ""
    stock: Any = field(default_factory=lambda: STOCK)
    lent: Sequence[Known] = ()
    """What other kinds have found before."""
    sound: Callable[[Truth, Any, Any], None] | None = None
    """What has to hold of truth, set-up and finding beyond that."""
    mends: bool = True
    """Whether advice that is followed ends true."""

    @property
    def machine(self) -> Machine:
        return starting_point(self.form)

    def case(self, **more: Any) -> Stated[Any, Any]:
        """What is stated before it is read."""
        return case_of(
            kind(self.kind),
            self.setup(),
            dial=self.instrument,
            machine=self.machine,
            stock=self.stock,
            known=self.lent,
            **more,
        )

    def setup(self) -> Any:
        core = kind(self.kind)
        proposed = core.propose(self.machine, Subject.part(self.part) if self.part else THE_MACHINE)
        stated = {**(proposed.model_dump() if proposed else {}), **self.stated}
        return core.setup_type.model_validate(stated)


# --- tram -----------------------------------------------------------------------------------------


def tram_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    return Truth(
        head_about_y_mrad=rng.normal(0, 0.7),
        head_about_x_mrad=rng.normal(0, 0.4),
        base_about_x_mrad=rng.normal(0, 0.4),
        base_about_y_mrad=rng.normal(0, 0.3),
        beam_twist_mrad_per_m=rng.normal(0, 0.6) if machine.gantry else 0.0,
        tap_gain=rng.uniform(0.85, 1.15),
        tighten_about_y_mrad=rng.normal(0, 0.02),
    )


def tram_known(truth: Truth, setup: Any) -> dict[str, float]:
    found = {}
    for x in setup.along_beam_mm or [0.0]:
        axis = truth.axis(x) / truth.axis(x)[2] * 1000
        at = f"@{x:g}" if setup.along_beam_mm else ""
        found |= {f"lean_x{at}": float(axis[0]), f"nod{at}": float(axis[1])}
    return found


TRAM = {"radius_mm": 115, "radius_u_mm": 1.0}
BLADES = FeelerBlades(blade_step_mm=0.002, repeatability_mm=0.001)

# --- stand and slides -----------------------------------------------------------------------------


def stand_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    assert machine.feet
    feet = [
        FootTruth(name=f.name, x_mm=f.x_mm, y_mm=f.y_mm, out_mm=rng.normal(0, 0.1))
        for f in machine.feet.places
    ]
    stand = StandTruth(feet=feet, give=rng.uniform(0.7, 1.0))
    return Truth(stand=stand, level_error_mm_per_m=rng.normal(0, 0.05))


def stand_known(truth: Truth, setup: Any) -> dict[str, float]:
    """Twist as the change of slope from one end of a square in the middle to the other."""

    def z(x: float, y: float) -> float:
        return truth.stand.surface_mm(x, y)

    twist = (z(50, 50) - z(50, -50)) - (z(-50, 50) - z(-50, -50))
    return {
        "twist": twist / 0.1**2,
        "slope_x": (z(50, 0) - z(-50, 0)) / 0.1,
        "slope_y": (z(0, 50) - z(0, -50)) / 0.1,
    }


def slide_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    slide = SlideTruth(
        travel_mm=300,
        clearance_mm=rng.uniform(0.012, 0.08),
        wear_mm=rng.uniform(0, 0.003),
    )
    return Truth(slides={setup.slide: slide})


def slide_known(truth: Truth, setup: Any) -> dict[str, float]:
    # the worst of several places reads a little high; wear makes the middle the worst place
    slide = truth.slide(setup.slide)
    return {"play": slide.clearance_mm + slide.wear_mm}


def gib_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    return Truth(slides={setup.slide: SlideTruth(taper_mm_per_m=rng.uniform(15, 30))})


def gib_known(truth: Truth, setup: Any) -> dict[str, float]:
    return {"taper": truth.slide(setup.slide).taper_mm_per_m}


# --- rails ----------------------------------------------------------------------------------------


def rail_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    assert machine.rails
    at = [0.0, *setup.places_mm, machine.rails.length_mm]
    n = len(at)
    return Truth(
        rails=RailsTruth(
            at_mm=at,
            side_mm=list(rng.normal(0, 0.06, n)),
            second_mm=list(rng.normal(0, 0.06, n)),
            first_up_mm=list(rng.normal(0, 0.1, n)),
            second_up_mm=list(rng.normal(0, 0.1, n)),
            apart_mm=machine.rails.apart_mm,
            edge_bow_mm=rng.normal(0, 0.03) if getattr(setup, "way", "") == "reversal" else 0.0,
        )
    )


def rail_slope_known(truth: Truth, setup: Any) -> dict[str, float]:
    """The slope through the ends; straightness is highest less lowest, which noise only adds to."""
    rails = truth.rails
    values = rails.side_mm if setup.plane == "side" else rails.first_up_mm
    low, high = setup.places_mm[0], setup.places_mm[-1]
    rise = rails.along(values, high) - rails.along(values, low)
    return {"slope": rise / (high - low) * 1000}


def parallel_known(truth: Truth, setup: Any) -> dict[str, float]:
    x = np.array(setup.places_mm)
    y = np.array([truth.rails.along(truth.rails.second_mm, v) for v in x])
    return {"taper": float(np.cov(x, y)[0, 1] / np.var(x, ddof=1) * (x[-1] - x[0]))}


def twist_known(truth: Truth, setup: Any) -> dict[str, float]:
    rails = truth.rails
    if setup.way == "stations":
        # between which two parallel planes, as near each other as can be, do all places lie?
        at = [(x, y) for y in (0.0, setup.apart_mm) for x in setup.places_mm]
        z = [
            rails.along(values, x)
            for values in (rails.first_up_mm, rails.second_up_mm)
            for x in setup.places_mm
        ]
        rows = [[sign * v for v in (x, y, 1.0)] + [-1.0] for sign in (1, -1) for x, y in at]
        bounds = [(None, None)] * 4
        best = linprog([0, 0, 0, 1], rows, [*z, *(-v for v in z)], bounds=bounds)
        return {"twist": 2 * best.fun}
    margin = (rails.at_mm[-1] - setup.length_mm) / 2
    low, high = margin, rails.at_mm[-1] - margin
    one, two = rails.first_up_mm, rails.second_up_mm
    b = rails.along(two, low) + rails.along(one, high)
    a = rails.along(one, low) + rails.along(two, high)
    return {"twist": (b - a) / 2}


# --- drive ----------------------------------------------------------------------------------------


def drive_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    links = {
        "nut": rng.uniform(0.02, 0.12),
        "bearing": rng.uniform(0.0, 0.08),
        "coupling": rng.uniform(0.0, 0.004),
    }
    slide = SlideTruth(travel_mm=300, links_mm=links, worn_screw_mm=rng.uniform(0, 0.002))
    return Truth(slides={setup.slide: slide})


def drive_known(truth: Truth, setup: Any) -> dict[str, float]:
    slide = truth.slide(setup.slide)
    total = sum(slide.links_mm.values())
    at = [total - slide.worn_screw_mm * (2 * p / slide.travel_mm) ** 2 for p in setup.places_mm]
    return {"mean": sum(at) / len(at), "share:bearing": slide.links_mm["bearing"]}


def block_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    blocks = {f"{e}{w}": rng.uniform(-0.3, 0.3) for e in (0, 1) for w in "vh"}
    return Truth(slides={setup.slide: SlideTruth(blocks_mm=blocks)})


def block_known(truth: Truth, setup: Any) -> dict[str, float]:
    return truth.slide(setup.slide).blocks_mm


def motor_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    tight = float(rng.choice([-95.0, 95.0])) if rng.random() < 0.3 else None
    slide = SlideTruth(
        stalls_above_mm_per_min=rng.uniform(1500, 9000),
        stalls_above_mm_per_s2=2000,
        tight_at_mm=tight,
    )
    return Truth(slides={setup.slide: slide})


def faults(rng: Rng, machine: Machine, setup: Any) -> Truth:
    picked = rng.choice(setup.places, size=2, replace=False)
    return Truth(faults={str(k): str(rng.choice(["list", "danger", "mended"])) for k in picked})


def travels(truth: Truth, setup: Any) -> dict[str, float]:
    return {f"travel:{d}": truth.slide(d).travel_mm for d in setup.directions}


def all_told(truth: Truth, setup: Any, finding: Any) -> None:
    assert {s.station: s.grade for s in [*finding.open, *finding.mended]} == truth.faults
    assert all(s.grade != "mended" for s in finding.open)


def no_returns(truth: Truth, setup: Any) -> dict[str, float]:
    return {"return": 0.0}


def not_too_much(truth: Truth, setup: Any, finding: Any) -> None:
    slide = truth.slide(setup.slide)
    holds = slide.stalls_above_mm_per_min * (1.0 if slide.tight_at_mm is None else 0.6)
    if finding.recommended is not None:
        assert finding.recommended <= finding.proven <= holds
        assert finding.recommended <= 0.5 * max(holds + setup.step, setup.top)
    if finding.fails is not None:
        assert finding.fails > holds * 0.95
        assert finding.fails - (finding.proven or 0.0) <= 2 * setup.step


def lift_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    lift = machine.lift
    assert lift is not None
    return Truth(
        gantry=GantryTruth(
            left_x_mm=lift.left_x_mm,
            right_x_mm=lift.right_x_mm,
            left_up_mm=rng.normal(0, 0.2),
            right_up_mm=rng.normal(0, 0.4),
            bed_bow_mm=rng.normal(0, 0.05),
        )
    )


def lift_known(truth: Truth, setup: Any) -> dict[str, float]:
    return {"level": truth.gantry.right_up_mm - truth.gantry.left_up_mm}


def skew_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    drive = machine.gantry_drive
    assert drive is not None
    return Truth(
        gantry=GantryTruth(
            left_x_mm=drive.left_x_mm,
            right_x_mm=drive.right_x_mm,
            right_ahead_mm=rng.normal(0, 0.8),
            scale_x=1 + rng.normal(0, 2e-4),
            scale_y=1 + rng.normal(0, 2e-4),
        )
    )


def skew_known(truth: Truth, setup: Any) -> dict[str, float]:
    gantry = truth.gantry
    found = {"square": gantry.right_ahead_mm / (gantry.right_x_mm - gantry.left_x_mm) * 1000}
    if setup.sides:
        found |= {"scale_x": (gantry.scale_x - 1) * 1000, "scale_y": (gantry.scale_y - 1) * 1000}
    return found


def face_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    face = FaceTruth(
        near_mm=rng.normal(0, 0.2),
        angle_rad=rng.normal(0, 2e-3),
        bow_mm=rng.normal(0, 0.002),
        pivot_mm=setup.pivot_mm + rng.normal(0, 0.05) * setup.face_mm,
    )
    return Truth(faces={setup.subject.key: face}, tap_gain=rng.uniform(0.85, 1.15))


def face_known(truth: Truth, setup: Any) -> dict[str, float]:
    face = truth.face(setup.subject.key)
    # a bow leans nowhere where the places are even about the middle
    at = np.array(sorted(setup.places_mm))
    seen = [face.nearer_mm(float(x), setup.face_mm) for x in at]
    return {"face": float(np.polyfit(at, seen, 1)[0]) * 1000}


def top_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    travel = TravelTruth(
        top_x_mm_per_m=rng.normal(0, 0.05),
        top_y_mm_per_m=rng.normal(0, 0.05),
        top_twist_mm_per_m2=rng.normal(0, 0.1),
    )
    return Truth(travel=travel)


def top_known(truth: Truth, setup: Any) -> dict[str, float]:
    t = truth.travel
    # the angle between the top's normal and each travel, short of a right one
    normal = np.array([0.0, 0.0, 1.0])
    ways = {"slope_x": t.right(), "slope_y": t.rear()}
    return {
        key: float(-np.arcsin(normal @ way / np.linalg.norm(way))) * 1000
        for key, way in ways.items()
        if setup.way in ("grid", f"along_{key[-1]}")
    }


TOP = {"slope_x": 0.03, "slope_y": -0.02}
TABLE = known("table_travel", **{k: about(v, 0.004) for k, v in TOP.items()})


def square_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    turns = {
        f"{what}_about_{axis}_mrad": rng.normal(0, 0.3)
        for what in ("column", "quill", "knee")
        for axis in "xy"
    }
    travel = TravelTruth(
        **turns,
        top_x_mm_per_m=TOP["slope_x"],
        top_y_mm_per_m=TOP["slope_y"],
        plan_mrad=rng.normal(0, 0.3),
    )
    own = 0.0 if setup.way == "trusted" else rng.normal(0, 0.3)
    taper = rng.uniform(-1, 1) * 0.004 / 2 / 150 * 1000 if setup.way == "cylinder" else 0.0
    return Truth(
        base_about_x_mrad=rng.normal(0, 0.2),
        base_about_y_mrad=rng.normal(0, 0.2),
        head_about_x_mrad=rng.normal(0, 0.2),
        travel=travel,
        square=SquareTruth(away_mm_per_m=own, taper_mm_per_m=taper),
    )


def square_known(truth: Truth, setup: Any) -> dict[str, float]:
    """The angle between two directions of travel, short of a right one."""
    if setup.upright is None:
        one, other = truth.travel.right()[:2], truth.travel.rear()[:2]
    else:
        one = truth.travel.right() if setup.upright[1] == "left_right" else truth.travel.rear()
        other = truth.rising(setup.upright[0])
    return {"square": float(one @ other / np.linalg.norm(one) / np.linalg.norm(other)) * 1000}


MILL, ROUTER = "column_mill", "gantry_router"
MOTORS = {"proven": True, "start": 1000, "step": 1000, "top": 8000, "fixed": 1000}

CASES: list[Case] = [
    Case("spindle_tram", "swing", MILL, FINE, tram_truth, tram_known, TRAM),
    Case(
        "spindle_tram",
        "trigger",
        MILL,
        ScaleTrigger(resolution_mm=0.001, repeatability_mm=0.001),
        tram_truth,
        tram_known,
        {**TRAM, "way": "trigger"},
    ),
    Case("spindle_tram", "gap", MILL, BLADES, tram_truth, tram_known, {**TRAM, "way": "gap"}),
    Case(
        "spindle_tram",
        "two bolts",
        MILL,
        BLADES,
        tram_truth,
        tram_known,
        {**TRAM, "way": "two_bolts"},
    ),
    Case(
        "spindle_tram",
        "a rod that scrapes",
        MILL,
        SCALE,
        tram_truth,
        tram_known,
        {**TRAM, "way": "scrape"},
        mends=False,
    ),
    Case("spindle_tram", "micro mill", "micro_mill", FINE, tram_truth, tram_known, TRAM),
    Case(
        "spindle_tram",
        "along a beam",
        ROUTER,
        FINE,
        tram_truth,
        tram_known,
        {**TRAM, "along_beam_mm": [-250, 250]},
    ),
    Case("base_level", "end for end", MILL, LEVEL, stand_truth, stand_known),
    Case(
        "base_level",
        "dead level",
        ROUTER,
        LEVEL,
        stand_truth,
        stand_known,
        {"school": "earth", "recorded": "right"},
    ),
    Case(
        "slide_play",
        "strip gib",
        "micro_mill",
        FINE,
        slide_truth,
        slide_known,
        {"slide": "left_right", "places_mm": [-100, 0, 100]},
    ),
    Case(
        "slide_play",
        "tapered gib",
        MILL,
        FINE,
        slide_truth,
        slide_known,
        {"slide": "front_back", "places_mm": [-100, 0, 100]},
    ),
    Case(
        "gib_shim",
        "two thicknesses",
        MILL,
        Caliper(resolution_mm=0.001, repeatability_mm=0.001),
        gib_truth,
        gib_known,
        stock=[Shim(thickness_mm=round(0.05 * i, 2), count=2) for i in range(1, 14)],
    ),
    Case(
        "rail_straight",
        "a pass",
        ROUTER,
        FINER,
        rail_truth,
        rail_slope_known,
        {"edge_within_mm": 0.0},
    ),
    Case(
        "rail_straight",
        "a pass, tip to minus",
        ROUTER,
        FINER,
        rail_truth,
        rail_slope_known,
        {"edge_within_mm": 0.0, "tip": "minus"},
    ),
    Case(
        "rail_straight",
        "bolt by bolt",
        ROUTER,
        FINER,
        rail_truth,
        rail_slope_known,
        {"edge_within_mm": 0.0, "way": "bolts"},
    ),
    Case(
        "rail_straight",
        "reversal, in height",
        ROUTER,
        FINER,
        rail_truth,
        rail_slope_known,
        {"way": "reversal", "plane": "height"},
    ),
    Case("rail_parallel", "by the carriage", ROUTER, FINER, rail_truth, parallel_known),
    Case(
        "rail_parallel",
        "by distance",
        ROUTER,
        Caliper(resolution_mm=0.001, repeatability_mm=0.0005, range_mm=1000),
        rail_truth,
        parallel_known,
        {"way": "distance"},
    ),
    Case("rail_twist", "a bridge, riding", ROUTER, FINE, rail_truth, twist_known, {}, "fine"),
    Case(
        "rail_twist",
        "a bridge, fixed, coarse",
        ROUTER,
        FINE,
        rail_truth,
        twist_known,
        {"sense": "fixed"},
        "coarse",
    ),
    Case(
        "rail_twist", "three feet", ROUTER, FINE, rail_truth, twist_known, {"way": "fourth"}, "fine"
    ),
    Case(
        "rail_twist",
        "four corners",
        ROUTER,
        FINE,
        rail_truth,
        twist_known,
        {"way": "corners", "heights_count": "down"},
        "fine",
    ),
    Case(
        "rail_twist",
        "many places",
        ROUTER,
        FINE,
        rail_truth,
        twist_known,
        {"way": "stations"},
        "fine",
    ),
    Case(
        "lost_motion",
        "link by link",
        MILL,
        FINE,
        drive_truth,
        drive_known,
        {
            "slide": "left_right",
            "places_mm": [-100, 0, 100],
            "read_bearing": True,
            "read_nut": True,
        },
    ),
    Case(
        "lost_motion",
        "the rest deduced",
        ROUTER,
        FINE,
        drive_truth,
        drive_known,
        {"slide": "front_back", "places_mm": [-100, 0, 100], "read_bearing": True},
    ),
    *(
        Case("gantry_level", name, ROUTER, dial, lift_truth, lift_known, stated)
        for name, dial, stated in (
            ("touches", SCALE, {"passes": 3}),
            ("touches, counting down", SCALE, {"passes": 3, "scale_counts": "down"}),
            ("fast and slow", SCALE, {"touches": "fast_slow", "places_mm": [-300, 300]}),
            ("a dial", FINE, {"way": "dial", "passes": 2}),
            ("a probe's log", SCALE, {"way": "log"}),
        )
    ),
    Case("gantry_square", "a bar with two points", ROUTER, BEAM, skew_truth, skew_known),
    Case(
        "gantry_square",
        "holes, diagonals alone",
        ROUTER,
        Caliper(resolution_mm=0.02, repeatability_mm=0.02, range_mm=2000),
        skew_truth,
        skew_known,
        {"sides": False, "passes": 2},
    ),
    *(
        Case("table_travel", name, MILL, FINE, top_truth, top_known, {"way": way}, mends=False)
        for name, way in (
            ("a grid", "grid"),
            ("along its length", "along_x"),
            ("across", "along_y"),
        )
    ),
    Case("beam_travel", "a grid", ROUTER, FINE, top_truth, top_known, mends=False),
    *(
        Case(
            "travel_square",
            name,
            form,
            FINE,
            square_truth,
            square_known,
            stated,
            part,
            lent=[TABLE],
            mends=mends,
        )
        for name, form, part, stated, mends in (
            ("a square turned about", MILL, "head_left_right", {}, True),
            ("front to back, tip to the front", MILL, "head_front_back", {"tip": "minus"}, True),
            ("a cylinder", MILL, "head_left_right", {"way": "cylinder"}, False),
            ("a trusted square", MILL, "head_front_back", {"way": "trusted"}, False),
            ("a knee", "knee_mill", "knee_left_right", {}, False),
            ("a quill", "round_column", "quill_front_back", {"tip": "minus"}, False),
            ("in plan", MILL, "plan", {}, False),
        )
    ),
    Case("column_turn", "a face", "round_column", FINE, face_truth, face_known),
    Case("face_alignment", "a vice", MILL, FINE, face_truth, face_known),
    Case(
        "face_alignment",
        "a fence with its bolt at one end",
        ROUTER,
        FINE,
        face_truth,
        face_known,
        {"sort": "fence", "face_mm": 400, "pivot_mm": -180, "places_mm": [-180, 0, 190]},
    ),
    Case("screw_centre", "both ends", MILL, FINE, block_truth, block_known),
    Case(
        "drive_proof",
        "feeds",
        ROUTER,
        FINE,
        motor_truth,
        no_returns,
        MOTORS,
        sound=not_too_much,
        mends=False,
    ),
    Case(
        "inspection",
        "a walk",
        MILL,
        Rule(),
        faults,
        travels,
        sound=all_told,
        mends=False,
    ),
]
IDS = [f"{c.kind}: {c.name}" for c in CASES]
SLOW = ("rail_twist: many places", "rail_straight: reversal, in height")
"""Whose advice searches shims for a dozen places."""


def marked(cases: Sequence[Case]) -> list[Any]:
    """As parameters by their names, those that take long marked slow."""
    return [
        pytest.param(c, id=name, marks=[pytest.mark.slow] if name in SLOW else [])
        for c, name in zip(CASES, IDS, strict=True)
        if c in cases
    ]
