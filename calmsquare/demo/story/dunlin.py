"""Dunlin, a micro mill whose spindle nobody has measured: only how its head travels."""

from __future__ import annotations

from calmsquare.demo.story.shed import Shed
from truing.machine import (
    starting_point,
)
from truing.standin.truth import SlideTruth, SquareTruth, TravelTruth, Truth


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
