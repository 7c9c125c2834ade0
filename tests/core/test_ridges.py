"""Ridges against the lower envelope of leaning discs, found by laying them side by side."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from truing.effects.ridges import dish, ridge, widest, worst_dish, worst_ridge
from truing.measure.problem import Problem
from truing.surfacing.choose import choose
from truing.surfacing.wish import Wish


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


def stepped(lean_x: float, lean_y: float, **more: Any) -> Any:
    usual = {"ridge_mm": 0.01, "stepover_mm": 0.0, "along": "best"}
    wish = Wish(diameter_mm=25, **{**usual, **more})
    return choose(wish, (lean_x, 0.02), (lean_y, 0.02), "x")


@settings(max_examples=40, deadline=None)
@given(st.floats(-1.5, 1.5), st.floats(-1.5, 1.5), st.sampled_from([0.01, 1e-5]))
@example(0.8, -0.5, 1e-6)
def test_it_is_fed_the_way_that_leaves_less_and_what_stays_is_said(
    a: float, b: float, wanted: float
) -> None:
    found, wish = stepped(a, b, ridge_mm=wanted), Wish(diameter_mm=25, ridge_mm=wanted)
    flat = wish.flat_mm
    steps = {f: widest(flat, wanted, (a, 0.02), (b, 0.02), f, 0.9 * flat) for f in ("x", "y")}
    other = "y" if found.along == "x" else "x"
    assert steps[found.along] >= 0.98 * steps[other]
    # in whichever way nobody could tell apart the lines turn least
    if abs(steps["x"] - steps["y"]) <= 0.02 * max(steps.values()):
        assert found.along == "x"
    left = worst_ridge(flat, found.stepover_mm, (a, 0.02), (b, 0.02), found.along).height_mm
    assert found.ridge_mm == pytest.approx(left)
    told = found.words.metric
    if steps[found.along]:
        assert found.stepover_mm == steps[found.along]
        assert found.ridge_mm <= 1.01 * wanted
        assert ("left to right" in told) == (found.along == "x")
    else:
        assert found.stepover_mm == pytest.approx(0.6 * flat)
        assert "Only the tram can" in told
    for row in found.rows:
        assert row.x_mm == worst_ridge(flat, row.stepover_mm, (a, 0.02), (b, 0.02), "x").height_mm
        assert row.y_mm == worst_ridge(flat, row.stepover_mm, (a, 0.02), (b, 0.02), "y").height_mm
    assert [r.stepover_mm / flat for r in found.rows] == pytest.approx(np.arange(0.3, 0.95, 0.1))


def test_steps_that_are_wished_too_wide_are_held_against_the_widest_that_hide() -> None:
    wide = stepped(0.8, 0.8, stepover_mm=20.0, along="y")
    assert wide.stepover_mm == 20.0
    assert wide.ridge_mm > 0.01
    flat = Wish(diameter_mm=25).flat_mm
    best = widest(flat, 0.01, (0.8, 0.02), (0.8, 0.02), "y")
    assert 0 < best < 20
    assert wide.words.metric.startswith("Steps of 20.0 mm leave ridges of up to")
    assert f"{best:.1f} mm would keep them below" in wide.words.metric
    # where no step hides them, none is praised
    hopeless = stepped(0.8, 0.8, stepover_mm=20.0, ridge_mm=1e-6)
    assert widest(flat, 1e-6, (0.8, 0.02), (0.8, 0.02), "x") == 0
    assert "Only the tram can" in hopeless.words.metric
    # a way that was chosen is kept, whatever it leaves
    for along in ("x", "y"):
        assert stepped(1.5, 0.0, along=along).along == along
    unknown = choose(Wish(diameter_mm=25, along="best", stepover_mm=0.0), None, (0.0, 0.1), "y")
    assert (unknown.along, unknown.ridge_mm, unknown.dish_mm) == ("y", None, None)
    assert unknown.stepover_mm == pytest.approx(0.6 * flat, abs=0.01)
    assert {(r.x_mm, r.y_mm) for r in unknown.rows} == {(None, None)}
