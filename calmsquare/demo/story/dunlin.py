"""Dunlin, a micro mill that nobody has measured."""

from __future__ import annotations

from calmsquare.demo.story.shed import Shed
from truing.machine import (
    starting_point,
)
from truing.standin.truth import SlideTruth, Truth


def dunlin(shed: Shed) -> None:
    """Micro mill, never measured."""
    spec = starting_point("micro_mill")
    shed.machine(
        "Dunlin",
        spec,
        Truth(
            base_about_x_mrad=0.42,
            base_about_y_mrad=0.31,
            saddle_mm=0.0003,
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
        ),
    )
