"""A swing that fits the table: what is warned of, and what is never advised."""

from __future__ import annotations

import re
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.helpers import FINE, TRAM, case_of
from truing.checks.spindle_tram.setup import SpindleTramSetup, largest_swing_mm
from truing.kit.instruments import PlungerDial
from truing.machine import Machine, starting_point

CLOCKS = st.lists(
    st.sampled_from([h / 2 for h in range(1, 25)]), min_size=2, max_size=8, unique=True
)
COARSE = PlungerDial(graduation_mm=0.1, range_mm=10, repeatability_mm=0.03)


def mill(x_mm: float = 300, y_mm: float = 160) -> Machine:
    return starting_point("column_mill").model_copy(update={"table_x_mm": x_mm, "table_y_mm": y_mm})


def on_the_table(setup: SpindleTramSetup, machine: Machine) -> bool:
    """Whether the tip is over the table at every station, point by point."""
    return all(
        abs(s.x_mm + (s.at_mm or 0)) <= machine.table_x_mm / 2 + 1e-6
        and abs(s.y_mm) <= machine.table_y_mm / 2 + 1e-6
        for s in TRAM.stations(setup)
    )


def expected(setup: SpindleTramSetup, machine: Machine, dial: Any) -> str:
    told = TRAM.expect(case_of(TRAM, setup, dial=dial, machine=machine))
    assert told
    return told.text.metric


@given(CLOCKS, st.floats(60, 900), st.floats(60, 900), st.lists(st.floats(-25, 25), max_size=3))
def test_the_largest_swing_is_as_large_as_the_table_lets_it_be(
    positions: list[float], x: float, y: float, places: list[float]
) -> None:
    machine = mill(x, y)
    along = sorted({*map(round, places)})
    stated: dict[str, Any] = {"positions": positions, "along_beam_mm": along}
    most = largest_swing_mm(SpindleTramSetup(radius_mm=50, **stated), machine)
    for part, fits in ((0.999, True), (1.01, False)):
        radius = part * most
        if not 5 < radius <= 1000:
            continue
        setup = SpindleTramSetup(radius_mm=radius, **stated)
        # a place off the middle counts to its own side only, and both sides have to fit
        mirrored = SpindleTramSetup(
            radius_mm=radius,
            positions=[12 - h if h < 12 else 12 for h in positions],
            along_beam_mm=along,
        )
        assert (on_the_table(setup, machine) and on_the_table(mirrored, machine)) == fits
        assert bool(TRAM.doubts(setup, machine)) != fits


@given(st.floats(10, 400), st.floats(80, 900), st.floats(80, 900), st.sampled_from([COARSE, FINE]))
def test_no_longer_arm_is_advised_than_the_table_lets_swing(
    radius: float, x: float, y: float, dial: Any
) -> None:
    machine = mill(x, y)
    told = expected(SpindleTramSetup(radius_mm=radius), machine, dial)
    most = min(x, y) / 2
    for arm in re.findall(r"(?:radius of|on this table,) ([\d.]+) mm", told):
        assert float(arm) <= most, told
        assert float(arm) > radius, told


def test_what_would_decide_is_said_in_the_words_of_this_table() -> None:
    small = SpindleTramSetup(radius_mm=40)
    assert "the longest swing on this table, 80 mm, would leave ±" in expected(
        small, mill(), COARSE
    )
    # as long as it can be: only another instrument helps
    full = expected(SpindleTramSetup(radius_mm=78), mill(), COARSE)
    assert "swing" not in full
    assert "an instrument good to ±" in full
    middling = PlungerDial(graduation_mm=0.01, range_mm=10, repeatability_mm=0.004)
    assert "a swing radius of" in expected(SpindleTramSetup(radius_mm=60), mill(900, 900), middling)


def test_a_swing_beyond_the_table_is_told_with_what_fits() -> None:
    [told] = TRAM.doubts(SpindleTramSetup(radius_mm=112), mill())
    assert told.metric == (
        "A swing of 112 mm goes beyond the table, which is 300 mm by 160 mm: up to 80 mm fits."
    )
    assert TRAM.doubts(SpindleTramSetup(radius_mm=112, positions=[3, 9]), mill()) == []
    assert TRAM.doubts(SpindleTramSetup(radius_mm=80), mill()) == []


@pytest.mark.parametrize("way", ["scrape", "gauges"])
def test_what_goes_all_round_has_to_fit_all_round(way: Any) -> None:
    setup = SpindleTramSetup(radius_mm=100, way=way, positions=[3, 9])
    assert TRAM.doubts(setup, mill())
    assert not TRAM.doubts(setup, mill(300, 210))
