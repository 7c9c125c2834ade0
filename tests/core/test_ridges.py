"""Ridges against the lower envelope of leaning discs, found by laying them side by side."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from truing.effects.ridges import dish, ridge, widest, worst_dish, worst_ridge
from truing.measure.problem import Problem


def envelope(d: float, s: float, along: float, across: float) -> tuple[float, float]:
    """(highest less lowest, largest sudden step) of what discs leave, passing along +u at offsets
    k·s across: each place keeps the lowest point of the disc that ever stood over it."""
    r = d / 2
    v = np.linspace(-s, s, 8001)
    heights = []
    for k in range(-math.ceil(d / s) - 2, math.ceil(d / s) + 3):
        w = v - k * s
        half = np.sqrt(np.maximum(r * r - w * w, 0))
        # the disc z = −along·u − across·w: over a whole pass both its rims go by
        low = np.minimum(-along * half, along * half) - across * w
        heights.append(np.where(np.abs(w) <= r, low, np.inf))
    z = np.min(heights, axis=0)
    middle = (v > -s / 2 - 1e-9) & (v <= s / 2 + s / 2)
    jump = np.abs(np.diff(z)).max()
    return float(z[middle].max() - z[middle].min()), float(jump)


leans = st.floats(0.02, 2.0).map(lambda v: v / 1000)


@settings(max_examples=80, deadline=None)
@given(st.floats(10, 80), st.floats(0.1, 0.98), leans, leans)
def test_a_ridge_is_what_the_discs_leave(
    d: float, share: float, along: float, across: float
) -> None:
    found = ridge(d, share * d, along, across)
    height, jump = envelope(d, share * d, along, across)
    lean = math.hypot(along, across)
    assert found.height_mm == pytest.approx(height, abs=0.01 * lean * d + 1e-6)
    if found.step_mm > 0.05 * lean * d:
        # a fingernail feels what is sudden
        # and the grid takes in a little of the disc's steep rim
        rim = along * math.sqrt(d * share * d / 4000)
        assert jump == pytest.approx(found.step_mm, abs=1.5 * rim + 1e-6)
    if found.cusp:
        assert jump < 0.05 * lean * d


@settings(max_examples=40, deadline=None)
@given(
    st.floats(15, 60),
    st.floats(0.2, 0.95),
    st.tuples(st.floats(-1, 1), st.floats(0.01, 0.5)),
    st.tuples(st.floats(-1, 1), st.floats(0.01, 0.5)),
    st.sampled_from(["x", "y"]),
)
def test_the_worst_ridge_is_worse_than_any_that_may_be(d, share, lean_x, lean_y, feed) -> None:  # type: ignore[no-untyped-def]
    """No lean within both intervals leaves more than is foretold."""
    s = share * d
    worst = worst_ridge(d, s, lean_x, lean_y, feed).height_mm
    hollow = worst_dish(d, lean_x, lean_y, feed)
    grid = np.linspace(-1, 1, 13)
    for i in grid:
        for j in grid:
            a, b = (lean_x[0] + i * lean_x[1]) / 1000, (lean_y[0] + j * lean_y[1]) / 1000
            along, across = (a, b) if feed == "x" else (b, a)
            assert ridge(d, s, along, across).height_mm <= worst + 1e-9
            assert dish(d, along, across) <= hollow + 1e-9


@settings(max_examples=40, deadline=None)
@given(st.floats(15, 60), st.floats(0.002, 0.05), st.floats(-0.5, 0.5), st.floats(-0.5, 0.5))
def test_the_widest_step_just_hides_the_ridges(d: float, wanted: float, a: float, b: float) -> None:
    lean_x, lean_y = (a, 0.05), (b, 0.05)
    s = widest(d, wanted, lean_x, lean_y, "x")
    if s == 0:
        assert worst_ridge(d, d / 50, lean_x, lean_y, "x").height_mm > wanted
        return
    assert worst_ridge(d, s, lean_x, lean_y, "x").height_mm <= wanted * 1.001
    if s < d:
        assert worst_ridge(d, min(d, s * 1.01), lean_x, lean_y, "x").height_mm > wanted


def test_a_step_wider_than_the_cutter_is_refused() -> None:
    with pytest.raises(Problem, match="leaves a strip") as refused:
        ridge(20, 21, 0.001, 0.001)
    assert refused.value.field == "stepover_mm"
    assert ridge(20, 15, 0, 0).height_mm == 0
