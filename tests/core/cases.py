"""For every kind of check: machines to play it on, and what there really is to find."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import pytest

from tests.core.helpers import case_of
from tests.core.truths import (
    BLADES,
    TABLE,
    TRAM,
    all_told,
    bed_known,
    bed_truth,
    block_known,
    block_truth,
    cut_known,
    cut_truth,
    drive_known,
    drive_truth,
    face_known,
    face_truth,
    faults,
    gib_known,
    gib_truth,
    lift_known,
    lift_truth,
    motor_truth,
    no_returns,
    not_too_much,
    parallel_known,
    play_known,
    play_truth,
    rail_level_truth,
    rail_slope_known,
    rail_truth,
    ridge_known,
    ridge_truth,
    runout_known,
    runout_truth,
    skew_known,
    skew_truth,
    slide_known,
    slide_truth,
    square_known,
    square_truth,
    stand_known,
    stand_truth,
    taper_known,
    taper_truth,
    tooling_known,
    tooling_truth,
    top_known,
    top_truth,
    tram_known,
    tram_truth,
    travels,
    twist_known,
)
from truing.contract.case import Case as Stated
from truing.contract.known import Known
from truing.kit.instruments import (
    Caliper,
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
    Truth,
)

STOCK = [
    Shim(thickness_mm=t, count=20, tolerance_mm=0.002)
    for t in (0.01, 0.02, 0.03, 0.05, 0.1, 0.2, 0.5)
]
FINE = PlungerDial(graduation_mm=0.002, range_mm=10, repeatability_mm=0.001, hysteresis_mm=0.0006)
FINER = PlungerDial(graduation_mm=0.001, range_mm=10, repeatability_mm=0.0005, hysteresis_mm=0.0001)
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


MICRO = Caliper(resolution_mm=0.001, repeatability_mm=0.001, range_mm=300)
MILL, ROUTER = "column_mill", "gantry_router"
PLATE = ScaleTrigger(resolution_mm=0.005, range_mm=120, repeatability_mm=0.005)
MOTORS = {"proven": True, "start": 1000, "step": 1000, "top": 8000, "fixed": 1000}
RAMPS = {**MOTORS, "ladder": "accel", "start": 200, "step": 300, "top": 3200, "fixed": 2400}

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
        "rail_twist",
        "a level, coarse",
        ROUTER,
        LEVEL,
        rail_level_truth,
        twist_known,
        {"way": "level"},
        "coarse",
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
    Case("spindle_play", "cold", MILL, FINER, play_truth, play_known),
    Case("spindle_play", "warm", ROUTER, FINER, play_truth, play_known, {"way": "warm"}),
    *(
        Case("spindle_runout", name, MILL, FINER, runout_truth, runout_known, stated, mends=False)
        for name, stated in (
            ("six angles at two distances", {"bar_mm": 0.0}),
            ("uneven marks", {"marks_deg": [0, 50, 130, 175, 260, 300], "bar_mm": 0.0}),
            ("seated twice", {"seats": "half", "distances_mm": [5, 60, 120]}),
            ("in the taper", {"surface": "taper", "distances_mm": [-10]}),
            ("one swing", {"way": "swing", "bar_mm": 0.0}),
        )
    ),
    *(
        Case(
            "tool_runout",
            name,
            form,
            FINER,
            tooling_truth,
            tooling_known,
            {"pin_mm": 0.0, **stated},
            mends=mends,
        )
        for name, form, mends, stated in (
            ("as it stands", MILL, False, {"passes": 2, "heights_mm": [20, 60]}),
            ("one swing", MILL, False, {"reads": "swing"}),
            ("the holder turned", MILL, False, {"way": "index", "seats": 4}),
            (
                "every joint turned",
                "micro_mill",
                False,
                {
                    "way": "index",
                    "turned": ["holder", "collet", "tool"],
                    "marks_on": "above",
                    "again": 2,
                },
            ),
            ("swings at four seats", MILL, False, {"way": "index", "reads": "swing", "seats": 4}),
            ("a tin of collets", MILL, True, {"way": "swap", "compared": ["b", "c", "d"]}),
        )
    ),
    Case(
        "taper_truing",
        "a taper on its bore",
        MILL,
        FINER,
        taper_truth,
        taper_known,
        {"pass_mm": 0.04, "room_mm": 10.0},
    ),
    Case(
        "taper_truing",
        "square to its side",
        MILL,
        FINER,
        taper_truth,
        taper_known,
        {"pass_mm": 0.04, "room_mm": 10.0, "taper": "steep", "one_in": 3.429, "plunger": "side"},
    ),
    *(
        Case("bed_map", name, ROUTER, dial, bed_truth, bed_known, stated, mends=False)
        for name, dial, stated in (
            ("touched in a grid", PLATE, {"counts": "down", "passes": 2}),
            ("a dial over it", FINE, {"way": "dial"}),
            ("a probe’s log", PLATE, {"way": "log"}),
        )
    ),
    *(
        Case("ridge_reading", name, form, FINER, ridge_truth, ridge_known, stated, mends=mends)
        for name, form, mends, stated in (
            ("the step test", MILL, True, {"passes": 5}),
            ("a dial dragged across", ROUTER, False, {"way": "dial"}),
            ("a fingernail", ROUTER, False, {"way": "nail"}),
        )
    ),
    *(
        Case("test_cut", name, form, MICRO, cut_truth, cut_known, stated, mends=False)
        for name, form, stated in (
            ("a whole piece", ROUTER, {"thickness": True, "passes": 3}),
            ("no hole, by hand", MILL, {"hole": False}),
            ("hole cut clockwise", ROUTER, {"round": "cw", "face": False}),
        )
    ),
    Case("screw_centre", "both ends", MILL, FINE, block_truth, block_known),
    *(
        Case(
            "drive_proof",
            name,
            ROUTER,
            FINE,
            motor_truth,
            no_returns,
            stated,
            sound=not_too_much,
            mends=False,
        )
        for name, stated in (("feeds", MOTORS), ("accelerations", RAMPS))
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


def marked(cases: Sequence[Case]) -> list[Any]:
    """As parameters by their names."""
    return [pytest.param(c, id=name) for c, name in zip(CASES, IDS, strict=True) if c in cases]
