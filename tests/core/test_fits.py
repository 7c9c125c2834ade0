"""What does not fit a machine is said while it is typed, with what would."""

from __future__ import annotations

import re
from typing import Any

import pytest

from truing.machine import Machine, starting_point
from truing.registry import kind, registry

MILL, ROUTER, ROUND = "column_mill", "gantry_router", "round_column"
BEYOND: list[tuple[str, str, dict[str, Any], str]] = [
    # a table of 500 by 160 that travels 300 by 160, up and down 280
    ("table_travel", MILL, {"x_places_mm": [-400.0, 0.0, 400.0]}, "150 mm either side can"),
    ("table_travel", MILL, {"x_places_mm": [-200.0, 0.0, 200.0]}, "150 mm either side can"),
    ("table_travel", MILL, {"y_places_mm": [-90.0, 90.0]}, "80 mm either side fits"),
    ("slide_play", MILL, {"places_mm": [-180.0, 0.0]}, "this slide travels 300 mm"),
    ("lost_motion", MILL, {"places_mm": [0.0, 151.0, 170.0]}, "go out to 170 mm"),
    ("screw_centre", MILL, {"apart_mm": 250.0}, "travels 300 mm"),
    ("travel_square", MILL, {"heights_mm": [0.0, 300.0]}, "travels 280 mm"),
    ("face_alignment", MILL, {"places_mm": [-160.0, 160.0]}, "is 320 mm long"),
    ("test_cut", MILL, {"width_mm": 300.0}, "the cutter runs 329 mm left–right"),
    ("test_cut", MILL, {"depth_mm": 155.0}, "the cutter runs 184 mm front–back"),
    ("ridge_reading", MILL, {"arm_mm": 100.0}, "80 mm either side fits"),
    ("base_level", MILL, {"across_x_mm": [-400.0, 400.0]}, "the machine ends at 250 mm"),
    ("base_level", MILL, {"along_y_mm": [-300.0]}, "the machine ends at 190 mm"),
    ("column_turn", ROUND, {"places_mm": [-210.0, 210.0]}, "travels 400 mm"),
    # a bed of 800 by 1000, travelled 760 by 960, on rails of 1100 that lie 860 apart
    ("bed_map", ROUTER, {"y_places_mm": [-600.0, 600.0]}, "this slide travels 960 mm"),
    ("beam_travel", ROUTER, {"x_places_mm": [-390.0, 390.0]}, "380 mm either side can"),
    ("gantry_level", ROUTER, {"places_mm": [-420.0, 420.0]}, "380 mm either side can"),
    ("gantry_square", ROUTER, {"width_mm": 900.0}, "The figure across is 900 mm long"),
    ("gantry_square", ROUTER, {"depth_mm": 990.0}, "travels 960 mm"),
    ("drive_proof", ROUTER, {"travel_mm": 800.0}, "travels 760 mm"),
    (
        "rail_straight",
        ROUTER,
        {"places_mm": [0.0, 600.0, 1200.0]},
        "the rails from 0 mm to 1100 mm",
    ),
    ("rail_parallel", ROUTER, {"places_mm": [0.0, 600.0, 1300.0]}, "run from 0 mm to 1300 mm"),
    ("rail_twist", ROUTER, {"length_mm": 1200.0}, "which are 1100 mm long"),
    ("rail_twist", ROUTER, {"apart_mm": 600.0}, "a corner lies on its rail"),
    ("rail_twist", ROUTER, {"way": "stations", "places_mm": [0.0, 1150.0]}, "from 0 mm to 1100 mm"),
]


@pytest.mark.parametrize(("key", "form", "stated", "told"), BEYOND)
def test_what_lies_beyond_the_machine_is_told(
    key: str, form: Any, stated: dict[str, Any], told: str
) -> None:
    core, machine = kind(key), starting_point(form)
    usual = core.propose(machine)
    setup = core.setup_type.model_validate({**usual.model_dump(), **stated})
    assert core.doubts(usual, machine) == []
    [doubt] = core.doubts(setup, machine)
    assert told in doubt.metric
    # and in inches nothing is left in mm
    assert " in" in doubt.inch
    assert not re.search(r"\d mm", doubt.inch)


def test_a_way_that_does_not_read_them_has_no_doubts_of_them() -> None:
    machine, core = starting_point(MILL), kind("table_travel")
    usual = core.propose(machine).model_dump()
    far = {**usual, "x_places_mm": [-400.0, 400.0]}
    for way, doubts in (("along_x", 1), ("grid", 1), ("along_y", 0)):
        setup = core.setup_type.model_validate({**far, "way": way})
        assert len([d for d in core.doubts(setup, machine) if "150 mm" in d.metric]) == doubts


def test_what_a_machine_is_not_described_with_raises_no_doubts() -> None:
    """Nobody is told off by a travel that was never stated."""
    bare = {
        "slides": [],
        "rails": None,
        "feet": None,
    }
    for key, core in registry().items():
        whole = next((m for f in (MILL, ROUTER, ROUND) if core.suits(m := starting_point(f))), None)
        assert whole
        setup = core.propose(whole)
        if setup is None or key == "lost_motion":
            continue
        less = Machine.model_validate({**whole.model_dump(), **bare})
        assert core.doubts(setup, less) == []
