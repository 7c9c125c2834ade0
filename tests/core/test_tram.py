"""Tram against a rigid-body model: signs, ways of reading, weak and useless input."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from tests.core.helpers import (
    FINE,
    NOTHING,
    TRAM,
    case_of,
    evaluate,
    judge,
    leans,
    readings,
    setup,
)
from tests.core.rigid import Spindle
from truing.checks.spindle_tram.evaluate import nod_along_beam
from truing.checks.spindle_tram.fit import Lean, PlaceFit
from truing.kit.instruments import FeelerBlades, LeverDial, PlungerDial, ScaleTrigger
from truing.machine import starting_point
from truing.measure.clock import clock_label
from truing.measure.estimate import Estimate
from truing.measure.problem import Problem

LEAN = st.floats(-3, 3)
CLOCK4 = (12.0, 3.0, 6.0, 9.0)


def swing(
    spindle: Spindle, positions: tuple[float, ...] = CLOCK4, radius: float = 100.0
) -> list[tuple[str, float]]:
    return [(clock_label(h), spindle.reading(h, radius)) for h in positions]


@given(LEAN, LEAN, st.floats(20, 300))
@settings(max_examples=60)
def test_a_swing_finds_both_leans_with_their_signs(a: float, b: float, radius: float) -> None:
    spindle = Spindle().leaning(a, b)
    finding = evaluate(
        TRAM, setup(radius_mm=radius), readings(swing(spindle, radius=radius)), FINE, NOTHING
    )
    assert leans(finding) == pytest.approx({"lean_x": a, "nod": b}, abs=2e-4)


@given(LEAN, LEAN, st.lists(st.floats(0.5, 12), min_size=3, max_size=8), st.integers(1, 3))
@settings(max_examples=60)
def test_any_spread_positions_do(a: float, b: float, hours: list[float], passes: int) -> None:
    hours = sorted({round(h * 4) / 4 for h in hours})
    gaps = [(y - x) % 12 for x, y in zip(hours, [*hours[1:], hours[0]], strict=True)]
    if len(hours) < 3 or max(gaps) > 6 or min(gaps) < 1:
        return
    spindle = Spindle().leaning(a, b)
    values = swing(spindle, tuple(hours)) * passes
    finding = evaluate(TRAM, setup(positions=hours), readings(values), FINE, NOTHING)
    assert leans(finding) == pytest.approx({"lean_x": a, "nod": b}, abs=1e-3)


def test_the_clock_is_seen_from_above_by_who_stands_at_the_front() -> None:
    sides = {"right": (1, 0), "left": (-1, 0), "rear": (0, 1), "front": (0, -1)}
    told = {
        side: s for s in TRAM.stations(setup()) for side in sides if f"({side})" in s.prompt.metric
    }
    assert set(told) == set(sides)
    for side, (x, y) in sides.items():
        station = told[side]
        assert (station.x_mm, station.y_mm) == pytest.approx((100 * x, 100 * y))


def test_a_lean_to_the_right_pushes_the_plunger_in_on_the_right() -> None:
    right = Spindle().leaning(1.0, 0.0)
    assert right.reading(3, 100) > right.reading(9, 100)
    finding = evaluate(TRAM, setup(), readings(swing(right)), FINE, NOTHING)
    assert "The top leans right" in finding.quantities[0].sentence.metric
    assert finding.total_clock == pytest.approx(3, abs=0.01)
    rear = evaluate(TRAM, setup(), readings(swing(Spindle().leaning(0, 1))), FINE, NOTHING)
    assert "leans to the rear" in rear.quantities[1].sentence.metric
    assert rear.total_clock == pytest.approx(12, abs=0.01)


def bars(spindle: Spindle) -> list[tuple[str, float]]:
    gap = {h: 200 - spindle.reading(h, 100) for h in CLOCK4}
    return [
        (f"{bolt}:{clock_label(h)}", gap[h] - longer)
        for bolt, longer in (("P", 0.0), ("Q", 0.37))
        for h in CLOCK4
    ]


@pytest.mark.parametrize(
    ("stated", "instrument", "values"),
    [
        (
            {"way": "gap"},
            FeelerBlades(blade_step_mm=0.001),
            lambda s: [(k, 150 - v) for k, v in swing(s)],
        ),
        ({"way": "two_bolts"}, FeelerBlades(blade_step_mm=0.001), bars),
        (
            {"way": "trigger"},
            ScaleTrigger(resolution_mm=0.001),
            lambda s: [(clock_label(h), s.touch_height(h, 100)) for h in CLOCK4],
        ),
        (
            {"way": "trigger", "height_counts": "knee_up"},
            ScaleTrigger(resolution_mm=0.001),
            lambda s: [(clock_label(h), -s.touch_height(h, 100)) for h in CLOCK4],
        ),
        (
            {"way": "trigger", "height_counts": "depth_down"},
            ScaleTrigger(resolution_mm=0.001),
            lambda s: [(clock_label(h), 400 - s.touch_height(h, 100)) for h in CLOCK4],
        ),
        (
            {},
            LeverDial(tip_angle_deg=25, graduation_mm=0.0002),
            lambda s: [(k, v / math.cos(math.radians(25))) for k, v in swing(s)],
        ),
    ],
)
def test_every_way_of_reading_agrees(
    stated: dict[str, str], instrument: PlungerDial, values: Callable[[Spindle], list]
) -> None:
    spindle = Spindle().leaning(0.7, -1.1)
    finding = evaluate(TRAM, setup(**stated), readings(values(spindle)), instrument, NOTHING)
    assert leans(finding) == pytest.approx({"lean_x": 0.7, "nod": -1.1}, abs=2e-3)


def test_an_opposite_pair_tells_one_lean() -> None:
    values = swing(Spindle().leaning(0.5, 2.0), (9.0, 3.0))
    finding = evaluate(TRAM, setup(positions=[9, 3]), readings(values), FINE, NOTHING)
    assert leans(finding) == pytest.approx({"lean_x": 0.5}, abs=1e-3)


def test_zeroing_on_the_way_changes_nothing() -> None:
    spindle = Spindle().leaning(0.4, 0.9)
    plain = readings(swing(spindle))
    zeroed = [r.model_copy() for r in plain]
    for later in zeroed[2:]:
        later.zeroed_on = "r1"
        later.shown_mm -= plain[1].shown_mm
    one, other = (evaluate(TRAM, setup(), rs, FINE, NOTHING) for rs in (plain, zeroed))
    assert leans(one) == pytest.approx(leans(other), abs=1e-9)


def test_a_gantry_read_along_its_beam_shows_its_twist() -> None:
    values = []
    for x in (-300, 0, 300):
        spindle = Spindle().leaning(0.1, 0.4 + 0.5 * x / 1000)
        values += [(f"x{x}:{k}", v) for k, v in swing(spindle)]
    finding = evaluate(TRAM, setup(along_beam_mm=[-300, 0, 300]), readings(values), FINE, NOTHING)
    assert leans(finding)["nod@-300"] == pytest.approx(0.25, abs=1e-3)
    assert leans(finding)["nod@300"] == pytest.approx(0.55, abs=1e-3)
    assert finding.twist
    assert "0.500" in finding.twist.metric or "0.50" in finding.twist.metric
    assert "to the rear toward the right" in finding.twist.metric


@given(
    st.lists(st.floats(-0.4, 0.9), min_size=2, max_size=6, unique_by=lambda x: round(x, 2)),
    st.data(),
)
def test_twist_along_a_beam_is_the_slope_of_a_line_through_its_places(
    xs: list[float], data: Any
) -> None:
    """Against a solver for any line, and against nods that each go off by their own U in turn."""
    nods = [data.draw(st.floats(-1, 1)) for _ in xs]
    us = [data.draw(st.floats(0.001, 0.1)) for _ in xs]

    def nod(value: float, u: float) -> Lean:
        return Lean(estimate=Estimate.within("slope", value, u), gain=1.0)

    def line(values: list[float]) -> tuple[float, float, float]:
        none = {"lean_x": None, "left_mm": {}, "dof": 1, "largest_left_ratio": 0.0}
        found = nod_along_beam(
            [
                PlaceFit(
                    at_mm=1000 * x,
                    nod=Lean(estimate=Estimate.within("slope", v, u), gain=1.0),
                    **none,
                )
                for x, v, u in zip(xs, values, us, strict=True)
            ]
        )
        assert found is not None
        return found

    level, twist, expanded = line(nods)
    slope, at_nil = np.polyfit(xs, nods, 1)
    assert (level, twist) == pytest.approx((at_nil, slope), abs=1e-9, rel=1e-6)
    moved = [
        line([v + u * (k == i) for k, (v, u) in enumerate(zip(nods, us, strict=True))])[1] - twist
        for i in range(len(xs))
    ]
    assert expanded == pytest.approx(math.hypot(*moved), rel=1e-6)


def test_a_saddle_shows_as_shape_and_does_not_keep_a_perfect_head_from_true() -> None:
    dial = PlungerDial(graduation_mm=0.001, repeatability_mm=0.0005)
    saddle = [("12", -0.01), ("3", 0.01), ("6", -0.01), ("9", 0.01)] * 2
    finding = evaluate(TRAM, setup(), readings(saddle), dial, NOTHING)
    judged = judge(TRAM, setup(), finding, {"lean_x": 0.1, "nod": 0.1})
    assert judged.verdict == "true"
    assert any("not flat" in n.text.metric for n in finding.notes)


def test_an_uncertain_radius_widens_a_large_lean_only() -> None:
    values = readings(swing(Spindle().leaning(2.0, 0.0)))
    sure, vague = (
        evaluate(TRAM, setup(radius_u_mm=u), values, FINE, NOTHING).quantities for u in (0.0, 5.0)
    )
    assert vague[0].estimate.expanded == pytest.approx(2 * 2.0 * 5 / 100, rel=0.02)
    assert vague[1].estimate.expanded == pytest.approx(sure[1].estimate.expanded, rel=0.02)


def test_weak_and_missing_readings_are_used_and_named() -> None:
    three = readings(swing(Spindle().leaning(0.3, 0.3), (12.0, 4.0, 8.0)))
    finding = evaluate(TRAM, setup(positions=[12, 4, 8]), three, FINE, NOTHING)
    assert any(n.tone == "weak" and "Three positions" in n.text.metric for n in finding.notes)
    missing = readings(swing(Spindle().leaning(0.3, 0.3), (12.0, 3.0, 6.0)))
    finding = evaluate(TRAM, setup(), missing, FINE, NOTHING)
    assert any("9 was left out" in n.text.metric for n in finding.notes)


@pytest.mark.parametrize(
    ("stated", "values", "why"),
    [
        ({}, [], "Nothing has been read"),
        ({}, [("12", 0.0), ("12", 0.1)], "Only one position"),
        ({}, [("12", 0.0), ("3", 0.1)], "not opposite"),
        ({"way": "two_bolts"}, [("P:9", 0.5), ("Q:3", 0.4)], "one side only"),
        (
            {"way": "two_bolts", "positions": [9, 12, 3]},
            [("P:9", 0.5), ("P:12", 0.3), ("Q:3", 0.4)],
            "not opposite",
        ),
        (
            {"positions": [3.0, 2 + 1 / 3, 1 + 2 / 3]},
            [("3", 0.0), ("2:20", 0.0), ("1:40", 0.0)],
            "too close together",
        ),
    ],
)
def test_useless_readings_are_refused_with_the_reason(
    stated: dict[str, object], values: list[tuple[str, float]], why: str
) -> None:
    with pytest.raises(Problem, match=why) as caught:
        evaluate(TRAM, setup(**stated), readings(values), FINE, NOTHING)
    assert caught.value.expected


@pytest.mark.parametrize(
    ("wrong", "field"),
    [
        ({"positions": "3, 3:05, 9"}, "positions"),
        ({"positions": "3"}, "positions"),
        ({"positions": "3, 15"}, "positions"),
        ({"radius_mm": "2 mil"}, "radius_mm"),
        ({"radius_mm": "-70"}, "radius_mm"),
        ({"along_beam_mm": "100, 100"}, "along_beam_mm"),
        ({"passes": 0}, "passes"),
    ],
)
def test_a_setup_that_cannot_work_is_refused_at_its_field(
    wrong: dict[str, object], field: str
) -> None:
    with pytest.raises(ValidationError) as caught:
        setup(**wrong)
    assert caught.value.errors()[0]["loc"][0] == field
    with pytest.raises(ValidationError, match="radius_mm"):
        TRAM.setup_type()


def test_the_expected_u_is_that_which_comes_out_and_the_arm_it_asks_for_does() -> None:
    dial = PlungerDial(graduation_mm=0.01, repeatability_mm=0.003, hysteresis_mm=0)
    limits = {"lean_x": 0.1, "nod": 0.1}
    # on a table that is large enough for it
    wide = starting_point("column_mill").model_copy(update={"table_y_mm": 500})

    def told_of(radius: float) -> Any:
        return TRAM.expect(
            case_of(TRAM, setup(radius_mm=radius), dial=dial, limits=limits, machine=wide)
        )

    told = told_of(90)
    assert not told.enough
    rng = np.random.default_rng(3)
    errors = []
    for _ in range(400):
        values = [
            (k, round((v + rng.normal(0, 0.003)) / dial.step_mm) * dial.step_mm)
            for k, v in swing(Spindle().leaning(0.033, 0.071), radius=90) * 2
        ]
        found = evaluate(TRAM, setup(radius_mm=90), readings(values), dial, NOTHING)
        errors.append(leans(found)["lean_x"] - 0.033)
    assert 1.6 * np.std(errors) < told.expanded < 3 * np.std(errors)
    needed = float(told.text.metric.split("radius of ")[1].split(" mm")[0])
    assert told_of(needed).enough
