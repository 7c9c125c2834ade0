"""A reading that was left out counts for nothing, and its place is asked for again only where what
is left does not tell as much."""

from __future__ import annotations

from typing import Any

import pytest

from tests.core.helpers import FINE, TRAM, case_of, readings, setup
from truing.contract.readings import LengthReading
from truing.machine import starting_point
from truing.registry import kind

MILL = starting_point("column_mill")


def without(case: Any, *stations: str) -> Any:
    """The case, weighed, with all that was read at these places left out."""
    gone = [r for r in case.readings if r.station in stations]
    left = [r for r in case.readings if r.station not in stations]
    return kind(case.setup.kind).weigh(case.but(readings=left, left_out=gone))


def face(*slipped: tuple[str, float]) -> Any:
    core = kind("face_alignment")
    at = [-80.0, -60.0, -40.0, -20.0, 0.0, 20.0, 40.0, 60.0, 80.0]
    how = core.propose(MILL).model_copy(update={"face_mm": 200.0, "places_mm": at, "passes": 1})
    off = dict(slipped)
    seen = [(f"{x:g}", 0.0001 * x + off.get(f"{x:g}", 0.0)) for x in at]
    return core.weigh(case_of(core, how, readings(seen), FINE, machine=MILL))


def test_a_place_that_stands_off_names_its_readings_and_the_rest_tells_the_slope() -> None:
    case = face(("40", 0.1))
    told = case.finding.pointed_out
    [named] = told.readings
    assert next(r.station for r in case.readings if r.id == named) == told.station == "40"
    left = without(case, "40")
    assert left.finding.pointed_out is None
    assert left.get("face").estimate.value == pytest.approx(0.1, abs=1e-3)
    assert [r.id for r in kind("face_alignment").spared(left)] == [named]
    assert "40" not in {s.station for s in left.finding.stations}


def test_what_alone_tells_a_lean_is_asked_for_again() -> None:
    seen = readings([("12", 0.0), ("3", 0.01), ("6", 0.0), ("9", -0.01)])
    case = TRAM.weigh(case_of(TRAM, setup(passes=1), seen))
    # three of four still tell both leans, two opposite ones only one
    assert [r.station for r in TRAM.spared(without(case, "9"))] == ["9"]
    assert TRAM.spared(without(case, "3", "9")) == []


def test_the_worst_of_several_places_is_not_known_without_one_of_them() -> None:
    core = kind("slide_play")
    how = core.propose(MILL)
    plan = [s.key for s in core.stations(how) if s.reads == "length"]
    once = case_of(core, how, readings([(k, 0.02) for k in plan]), machine=MILL)
    assert core.spared(without(once, plan[0])) == []
    # one of several readings of a place can be spared
    twice = case_of(core, how, readings([(k, 0.02) for k in plan * 2]), machine=MILL)
    gone = twice.readings[0]
    left = core.weigh(twice.but(readings=twice.readings[1:], left_out=[gone]))
    assert core.spared(left) == [gone]


def test_a_dial_that_was_zeroed_on_what_was_left_out_stays_read_as_before() -> None:
    zeroed = "r1"
    shown = [("12", 0.02, None), ("3", 0.05, None), ("6", -0.03, zeroed), ("9", -0.06, zeroed)]
    seen = [
        LengthReading(
            id=f"r{i}", station=s, shown_mm=mm, zeroed_on=on, read_at=f"2026-03-01T00:0{i}Z"
        )
        for i, (s, mm, on) in enumerate(shown)
    ]
    left = without(case_of(TRAM, setup(passes=1), seen), "3")
    assert {s.station: s.mean_mm for s in left.finding.stations} == {
        "12": pytest.approx(0.02),
        "6": pytest.approx(0.02),
        "9": pytest.approx(-0.01),
    }
