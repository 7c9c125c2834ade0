"""Tram without a dial: a rod turned as a rigid body and lowered in steps, and two gauges."""

from __future__ import annotations

import math
import re
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from tests.core.helpers import TRAM, answers, case_of, readings
from truing.checks.spindle_tram.coarse import would_do
from truing.kit.instruments import FeelerBlades, ScaleTrigger
from truing.machine import starting_point
from truing.measure.problem import Problem
from truing.measure.words import plain
from truing.standin.evening import one_round
from truing.standin.truth import Truth

FINE_SCALE = ScaleTrigger(resolution_mm=0.0002, repeatability_mm=0.0001)
BLADES = FeelerBlades(blade_step_mm=0.01, repeatability_mm=0.001)
MILL = starting_point("column_mill")
CLOCKS = {h: math.radians(90 - 30 * h) for h in range(1, 13)}
leans = st.floats(-2, 2)


def ends(a: float, b: float, radius: float, angles: Any) -> Any:
    """Height of the rod's end above a flat table at each turn of a spindle whose top leans to the
    right by a and to the rear by b (mm/m)."""
    axis = np.array([a / 1000, b / 1000, 1.0])
    axis /= np.linalg.norm(axis)
    lean, _ = Rotation.align_vectors([axis], [[0.0, 0.0, 1.0]])
    rod = np.column_stack([np.cos(angles), np.sin(angles), np.zeros_like(angles)]) * radius
    return lean.apply(rod)[:, 2]


def scrape(a: float, b: float, *, step: float, radius: float = 120.0, start: float = 0.3) -> Any:
    """Lowered step by step: what is felt at each of them, all round."""
    angles = np.linspace(0, 2 * math.pi, 721)
    heights = ends(a, b, radius, angles)
    gaps = heights - heights.min() + start * step
    down = np.ceil(gaps / step)
    at = float(angles[int(gaps.argmin())])
    hour = min(CLOCKS, key=lambda h: abs(math.remainder(CLOCKS[h] - at, 2 * math.pi)))
    how = TRAM.setup_type(way="scrape", radius_mm=radius, drop_mm=step, passes=1)
    further = float(down.max() - down.min()) * step
    read = [*answers([("first", f"{hour}")]), *readings([("round", further)])]
    return TRAM.weigh(case_of(TRAM, how, read, FINE_SCALE, machine=MILL))


@pytest.mark.parametrize("hour", range(1, 13))
def test_the_stand_ins_rod_touches_first_where_its_spindle_leans_to(hour: int) -> None:
    """Towards any hour of the clock, and named as that hour is."""
    how = TRAM.setup_type(way="scrape", radius_mm=120, drop_mm=0.01, passes=1)
    # the rod is lowest on the side that the top leans to
    lean = 0.8 * np.exp(1j * CLOCKS[hour])
    truth = Truth(
        head_about_y_mrad=float(lean.real), head_about_x_mrad=-float(lean.imag), noise_share=0.0
    )
    read = one_round(TRAM, how, truth, FINE_SCALE, np.random.default_rng(hour))
    assert read[0].grade == f"{hour}"
    found = TRAM.weigh(case_of(TRAM, how, read, FINE_SCALE, machine=MILL))
    for key, true in (("lean_x", lean.real), ("nod", lean.imag)):
        estimate = found.get(key).estimate
        assert abs(estimate.value - true) <= estimate.expanded


@given(leans, leans, st.floats(0.01, 0.99), st.sampled_from([0.005, 0.02]))
def test_a_rod_tells_the_lean_within_a_step_and_half_an_hour(
    a: float, b: float, start: float, step: float
) -> None:
    case = scrape(a, b, step=step, start=start)
    for key, true in (("lean_x", a), ("nod", b)):
        q = case.get(key)
        assert abs(q.estimate.value - true) <= q.estimate.expanded + 1e-3
        # whichever way within that half hour, it is never more than the whole
        assert abs(q.estimate.value) + q.estimate.expanded <= (
            math.hypot(a, b) + 2 * step / 240 * 1000 + 0.01
        )


def test_it_touches_first_where_the_top_leans_to() -> None:
    for a, b, hour, said in ((0.6, 0, 3, "leans right"), (0, -0.6, 6, "leans to the front")):
        case = scrape(a, b, step=0.005)
        assert f"toward {hour} o’clock" in case.finding.total.metric
        assert case.judgement.verdict == "out"
        assert said in case.judgement.sentence.metric
        moves = TRAM.advise(case).moves
        assert moves
        assert not any(m.targets for m in moves)


@given(st.floats(0, 2 * math.pi), st.floats(0, 0.3))
def test_it_is_accepted_when_all_that_it_may_lean_is_within_the_limit(
    toward: float, size: float
) -> None:
    a, b = size * math.cos(toward), size * math.sin(toward)
    case = scrape(a, b, step=0.005)
    further = next(s.mean_mm for s in case.finding.stations if s.station == "round")
    if (further + 0.005) / 240 * 1000 < 0.1 - 0.005:
        assert case.judgement.verdict == "true"
    if case.judgement.verdict == "true":
        assert size <= 0.15


def test_half_a_reading_or_one_the_wrong_way_round_says_what_to_do() -> None:
    how = TRAM.setup_type(way="scrape", radius_mm=120, drop_mm=0.01, passes=1)
    for read in (answers([("first", "3")]), readings([("round", 0.02)])):
        with pytest.raises(Problem, match=r"both needed|Nothing has been read"):
            TRAM.evaluate(case_of(TRAM, how, read, FINE_SCALE))
    both = [*answers([("first", "3")]), *readings([("round", -0.2)])]
    with pytest.raises(Problem, match="before it touches"):
        TRAM.evaluate(case_of(TRAM, how, both, FINE_SCALE))
    # a scale that shows a little less than before is within the step that it was lowered by
    both = [*answers([("first", "3")]), *readings([("round", -0.009)])]
    lean = TRAM.evaluate(case_of(TRAM, how, both, FINE_SCALE)).quantities[0].estimate
    assert abs(lean.value) <= lean.expanded < 0.1
    told = TRAM.expect(case_of(TRAM, how, (), FINE_SCALE, machine=MILL))
    assert not told.enough
    assert "steps of" in told.text.metric


# --- two gauges -----------------------------------------------------------------------------------


def gauge(a: float, b: float, *, thin: float = 0.2, thick: float = 0.22) -> Any:
    """The rod set at the rear so that its gap lies between both gauges."""
    how = TRAM.setup_type(way="gauges", radius_mm=120, thin_mm=thin, thick_mm=thick)
    hours = {"12": 12, "3": 3, "6": 6, "9": 9}
    gaps = ends(a, b, 120, np.array([CLOCKS[h] for h in hours.values()]))
    gaps = gaps - gaps[0] + (thin + thick) / 2
    felt = ["narrow" if g < thin else "wide" if g > thick else "in" for g in gaps]
    case = case_of(TRAM, how, answers(zip(hours, felt, strict=True)), BLADES, machine=MILL)
    return TRAM.weigh(case)


@given(leans, leans)
def test_gauges_accept_only_what_is_within_the_limit(a: float, b: float) -> None:
    case = gauge(a, b)
    if case.judgement.verdict == "true":
        assert max(abs(a), abs(b)) <= 0.1
    if max(abs(a), abs(b)) < 0.02:
        assert case.judgement.verdict == "true"
    if case.judgement.verdict == "out":
        assert max(abs(a), abs(b)) > 0.1
    assert not TRAM.advise(case).moves


def test_gauges_that_do_not_go_say_which_way_it_leans_and_no_more() -> None:
    # set at the rear, a top that leans right comes down on that side
    for a, side in ((1.0, "right"), (-1.0, "left")):
        case = gauge(a, 0.0, thick=0.215)
        assert f"the top leans to the {side}" in case.judgement.sentence.metric
        assert case.judgement.verdict == "too_close"
        assert case.get("lean_x") is None
    assert gauge(0.0, 3.0).judgement.verdict == "too_close"
    # too narrow here and too wide there is more than between the gauges; but for what a hand takes
    for thick, least in ((0.215, 0.0625), (0.22, 0.0833), (0.2005, None)):
        said = gauge(1.0, 0.0, thick=thick).judgement.sentence.metric
        bound = re.search(r"by more than (\d\.\d+) mm/m", said)
        assert ("an amount that these gauges do not bound" in said) == (least is None)
        assert (bound is not None) == (least is not None)
        if bound and least:
            assert 0.7 * least < float(bound[1]) < least
    # right here and too wide there may be next to nothing
    said = gauge(0.07, 0.0, thick=0.22).judgement.sentence.metric
    assert "an amount that these gauges do not bound" in said or "no lean" in said


def test_what_both_sides_show_alike_is_no_lean() -> None:
    how = TRAM.setup_type(way="gauges", radius_mm=120)
    felt = answers([("12", "in"), ("3", "wide"), ("6", "in"), ("9", "wide")])
    case = TRAM.weigh(case_of(TRAM, how, felt, BLADES, machine=MILL))
    assert "set the rod anew" in case.judgement.sentence.metric
    with pytest.raises(Problem, match="Two opposite places"):
        TRAM.evaluate(case_of(TRAM, how, felt[:2], BLADES))


@pytest.mark.parametrize(
    ("thin", "thick", "said"), [(0.2, 0.2, "thicker one"), (0.2, 0.3, "the limit is")]
)
def test_gauges_that_could_never_accept_are_refused(thin: float, thick: float, said: str) -> None:
    how = TRAM.setup_type(way="gauges", radius_mm=120, thin_mm=thin, thick_mm=thick)
    with pytest.raises(Problem, match=said) as refused:
        TRAM.expect(case_of(TRAM, how, (), BLADES, machine=MILL))
    assert refused.value.field == "thick_mm"


@pytest.mark.parametrize(
    ("radius", "expanded", "metric", "inch"),
    [
        # ± goes with one over the swing: 0.028 at 60 mm is a quarter of the limit at 67.2
        (60, 0.028, "a swing radius of 70 mm would do, or a dial.", "of 2.76 in would do"),
        (60, 0.3, "72 mm, would leave ±0.25 mm/m.", "2.83 in, would leave ±0.0030 in/ft."),
        # little longer than what was swung is no other reading
        (66, 0.3, "a dial would do.", "a dial would do."),
    ],
)
def test_a_longer_swing_is_advised_where_it_fits(
    radius: float, expanded: float, metric: str, inch: str
) -> None:
    small = starting_point("micro_mill")
    told = would_do(TRAM.setup_type(radius_mm=radius), small, expanded, 0.1, plain("a dial"))
    assert told.metric.endswith(metric)
    assert inch in told.inch
