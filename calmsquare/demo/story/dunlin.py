"""Dunlin, a micro mill whose tram nobody has measured; its collets have been traced."""

from __future__ import annotations

from typing import Any

from calmsquare.demo.story.shed import Shed, Sitting
from calmsquare.workshop.models import Machine
from truing.machine import (
    starting_point,
)
from truing.standin.truth import (
    PieceTruth,
    SlideTruth,
    SpindleTruth,
    SquareTruth,
    ToolingTruth,
    TravelTruth,
    Truth,
)

SEEN = {
    "Dunlin’s chuck": PieceTruth(off_x_mm=0.004, off_y_mm=-0.002, tilt_x_mm_per_m=0.03),
    "ER 11 nut": PieceTruth(off_y_mm=0.0006),
    "Boxed 6 mm A": PieceTruth(off_x_mm=0.011, off_y_mm=0.008, tilt_y_mm_per_m=0.2),
    "Boxed 6 mm B": PieceTruth(off_x_mm=-0.019, off_y_mm=0.013, tilt_x_mm_per_m=0.4),
    "Boxed 6 mm C": PieceTruth(off_x_mm=0.004, off_y_mm=-0.014),
    "Ground 6 mm": PieceTruth(off_x_mm=-0.0014, off_y_mm=0.0009),
    "6 mm ground pin": PieceTruth(off_x_mm=0.0004),
}
"""What each piece really adds."""


def _traced(shed: Shed, machine: Machine, truth: Truth) -> None:
    """A broken cutter, the spindle cleared, the collet found, the tin gone through."""
    runout = {"distances_mm": [5, 60], "stick_out_mm": [], "seats": "half", "passes": 2}
    chain: dict[str, Any] = {
        "holder": shed.kit.id("Dunlin’s chuck"),
        "collet": shed.kit.id("Boxed 6 mm B"),
        "nut": shed.kit.id("ER 11 nut"),
        "tool": shed.kit.id("6 mm ground pin"),
        "heights_mm": [25],
    }
    tin = ("A", "C")
    others = [shed.kit.id(f"Boxed 6 mm {letter}") for letter in tin] + [shed.kit.id("Ground 6 mm")]
    swap = {**chain, "way": "swap", "compared": others}
    joints = {**chain, "way": "index", "turned": ["holder", "collet"], "seats": 3}
    told: list[tuple[str, dict[str, Any], int, str]] = [
        ("spindle_play", {"way": "cold"}, 1, "The second 1 mm cutter broke on a dial hand."),
        ("spindle_runout", runout, 1, ""),
        ("tool_runout", chain, 1, "With what was in it when the cutter broke."),
        ("tool_runout", joints, 1, ""),
        ("tool_runout", swap, 2, "All the 6 mm collets there are, wiped with spirit."),
    ]
    for i, (key, setup, rounds, note) in enumerate(told):
        shed.sitting(
            Sitting(
                machine,
                shed.kit.lever,
                setup,
                1.4 - i / 24,
                [truth] * rounds,
                kind=key,
                note=note,
                by_maker=True,
            )
        )


def dunlin(shed: Shed) -> None:
    """Micro mill, its head read against its travel before anybody asked about the spindle."""
    truth = Truth(
        base_about_x_mrad=0.42,
        base_about_y_mrad=0.31,
        travel=TravelTruth(
            top_x_mm_per_m=0.02,
            top_y_mm_per_m=-0.03,
            column_about_x_mrad=-0.37,
            column_about_y_mrad=-0.03,
        ),
        square=SquareTruth(away_mm_per_m=0.11),
        saddle_mm=0.0003,
        turning=SpindleTruth(
            play_across_mm=0.004, play_along_mm=0.003, off_x_mm=0.0018, tilt_y_mm_per_m=0.03
        ),
        tooling=ToolingTruth(
            pieces={shed.kit.id(name): seen for name, seen in SEEN.items()},
            reach_mm=45,
            seat_sd_mm=0.0005,
        ),
        tap_gain=0.95,
        slides={
            way: SlideTruth(
                travel_mm=travel,
                clearance_mm=clearance,
                wear_mm=0.002,
                links_mm={"nut": 0.05, "bearing": 0.02},
            )
            for way, travel, clearance in (
                ("left_right", 180, 0.046),
                ("front_back", 90, 0.021),
                ("up_down", 170, 0.033),
            )
        },
    )
    machine = shed.machine("Dunlin", starting_point("micro_mill"), truth)
    shed.squared(machine, truth, 2.2, note="Second drills start beside the first: is it the head?")
    _traced(shed, machine, truth)
