"""What is told from some of the places alone: it holds, or it is not told. Planes that are known
here, read without any noise at whatever places somebody got to."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from tests.core.helpers import TRAM, case_of, readings, setup
from truing.kit.instruments import Level, PlungerDial
from truing.machine import Machine, starting_point
from truing.measure.problem import Problem
from truing.registry import kind

DIAL = PlungerDial(graduation_mm=0.001, range_mm=10, repeatability_mm=0.0005)
LEVEL = Level(sensitivity_mm_per_m=0.01, repeatability_mm=0.0001)
MILL = starting_point("column_mill")
slopes = st.floats(-2, 2).map(lambda v: round(v, 2))
some = st.sets(st.integers(0, 8), min_size=1)


def held(core: Any, case: Any, truth: dict[str, float]) -> set[str]:
    """Names of what is told, each of which has to hold."""
    try:
        found = core.evaluate(case)
    except Problem:
        return set()
    told = {q.key: q.estimate for q in found.quantities if q.key in truth}
    for key, estimate in told.items():
        assert abs(estimate.value - truth[key]) <= estimate.expanded + 1e-9, key
    return set(told)


TABLE = kind("table_travel")
GRID = TABLE.propose(MILL).model_copy(
    update={"way": "grid", "x_places_mm": [-100.0, 0.0, 100.0], "y_places_mm": [-50.0, 0.0, 50.0]}
)


@given(read=some, a=slopes, b=slopes)
@example(read={0, 4, 8}, a=1.0, b=0.0)
@example(read={2, 6}, a=0.0, b=1.0)
def test_a_top_read_at_some_places_tells_no_slope_that_is_not_its_own(
    read: set[int], a: float, b: float
) -> None:
    plan = TABLE.stations(GRID)
    here = [plan[i] for i in read]
    shown = [(s.key, (a * s.x_mm + b * s.y_mm) / 1000) for s in here]
    case = case_of(TABLE, GRID, readings(shown), DIAL, machine=MILL)
    told = held(TABLE, case, {"slope_x": a, "slope_y": b})
    # a row tells its own slope, and three places that lie on no line tell both
    if any(s.y_mm == t.y_mm and s.x_mm != t.x_mm for s in here for t in here):
        assert "slope_x" in told
    if len({s.x_mm for s in here}) > 1 and len({s.y_mm for s in here}) > 1 and len(here) > 5:
        assert told == {"slope_x", "slope_y"}


@given(read=some, a=slopes, b=slopes)
@example(read={1, 5}, a=1.0, b=1.0)
def test_a_tram_read_at_some_positions_tells_no_lean_that_is_not_its_own(
    read: set[int], a: float, b: float
) -> None:
    how = setup(positions=[12, 1.5, 3, 4.5, 6, 7.5, 9, 10.5], radius_mm=100)
    plan = TRAM.stations(how)
    here = [plan[i] for i in read if i < len(plan)]
    shown = [(s.key, (a * s.x_mm + b * s.y_mm) / 1000) for s in here]
    case = case_of(TRAM, how, readings(shown), DIAL, machine=MILL)
    held(TRAM, case, {"lean_x": a, "nod": b})


BASE = kind("base_level")


@pytest.mark.parametrize("school", ["earth", "twist"])
@given(read=st.sets(st.integers(0, 30), min_size=1), a=slopes, b=slopes, t=slopes)
def test_a_base_read_at_some_places_tells_nothing_that_is_not_its_own(
    school: str, read: set[int], a: float, b: float, t: float
) -> None:
    machine: Machine = MILL
    how = BASE.propose(machine).model_copy(update={"school": school, "way": "ends"})
    plan = BASE.stations(how)
    base = LEVEL.level_base_mm / 1000
    shown = []
    for s in (plan[i] for i in read if i < len(plan)):
        slope = a + t * s.y_mm / 1000 if s.lies == "x" else b + t * s.x_mm / 1000
        shown.append((s.key, (s.marked * slope + 0.04) * base))
    case = case_of(BASE, how, readings(shown), LEVEL, machine=machine)
    held(BASE, case, {"slope_x": a, "slope_y": b, "twist": t})
