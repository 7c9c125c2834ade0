"""Spread, uncertainty and verdicts: honest, not timid."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from tests.core.helpers import (
    FINE,
    NOTHING,
    TRAM,
    about,
    evaluate,
    expect,
    judge,
    readings,
    setup,
)
from tests.core.rigid import Spindle
from tests.core.test_tram import swing
from truing.kit.instruments import PlungerDial
from truing.measure.estimate import Estimate
from truing.measure.spread import Spread, outliers, spread_of, t_factor
from truing.measure.verdict import verdict, way_out
from truing.standin.evening import one_round
from truing.standin.truth import Truth

LIMIT = 0.1


def estimate(value: float, expanded: float) -> Estimate:
    return about(value, expanded)


@pytest.mark.parametrize(
    ("value", "expanded", "expected"),
    [
        (0.08, 0.02, "true"),
        (-0.08, 0.02, "true"),
        (0.09, 0.02, "too_close"),
        (-0.11, 0.02, "too_close"),
        (0.13, 0.02, "out"),
        (-0.13, 0.02, "out"),
        (0.0, 0.2, "too_close"),
    ],
)
def test_a_verdict_takes_the_uncertainty_into_account(
    value: float, expanded: float, expected: str
) -> None:
    assert verdict(estimate(value, expanded), LIMIT) == expected


@pytest.mark.parametrize(("lean", "nod"), [(0.5, -0.3), (0.3, -0.5), (-0.2, 0.21)])
def test_what_is_furthest_out_is_said_first_by_its_own_limit(lean: float, nod: float) -> None:
    finding = evaluate(TRAM, setup(), readings(swing(Spindle().leaning(lean, nod))), FINE, NOTHING)
    for limits in ({"lean_x": 0.1, "nod": 0.1}, {"lean_x": 0.02, "nod": 0.1}):
        told = judge(TRAM, setup(), finding, limits)
        assert told.verdict == "out"
        shares = {"lean_x": abs(lean) / limits["lean_x"], "nod": abs(nod) / limits["nod"]}
        worst = max(shares, key=lambda k: shares[k])
        first = next(j for j in told.judged if j.quantity == worst)
        assert told.sentence.metric.startswith(first.text.metric)


def test_pooled_spread_is_that_of_the_groups() -> None:
    rng = np.random.default_rng(5)
    groups = [list(rng.normal(m, 0.003, 4)) for m in (0.0, 1.0, -2.0)]
    pooled = spread_of(groups)
    by_hand = math.sqrt(sum(np.var(g, ddof=1) for g in groups) / 3)
    assert pooled.dof == 9
    assert pooled.s_mm == pytest.approx(by_hand)
    assert t_factor(10_000) == pytest.approx(2, abs=0.001)
    assert Spread().k_s(0.004) == (2.0, 0.004)
    # what contradicts the sheet counts alone, what does not counts beside it
    assert Spread(ss_mm2=9e-4, dof=1).k_s(0.004) == (t_factor(1), 0.03)
    assert Spread(ss_mm2=2e-5, dof=1).k_s(0.004) == (t_factor(5), pytest.approx(0.0041, abs=1e-4))


def test_a_wild_pair_is_pointed_out_and_nothing_is_dropped() -> None:
    groups = [[0.0, 0.001], [0.02, 0.021], [0.05, 0.21], [0.03, 0.03]]
    assert outliers(groups, step_mm=0.005, repeatability_mm=0.003, prior=Spread(), trials=4)[0][
        :2
    ] == (2, 1)
    # three pairs that happen to agree say little about the fourth
    calm = [[0.0, 0.0], [0.02, 0.02], [0.05, 0.057], [0.03, 0.03]]
    assert outliers(calm, step_mm=0.005, repeatability_mm=0.003, prior=Spread(), trials=4) == []
    keys = ["12", "3", "6", "9"]
    values = [(k, g[i]) for i in (0, 1) for k, g in zip(keys, groups, strict=True)]
    finding = evaluate(TRAM, setup(), readings(values), PlungerDial(), NOTHING)
    assert [n.station for n in finding.notes if "disagree" in n.text.metric] == ["6"]
    assert sum(len(s.repeats_mm) for s in finding.stations) == 8


def decided(seed: int, at: float, passes: int = 2) -> tuple[float, float, str]:
    """(error of the lean, U, verdict) of one simulated check with an instrument of U about T/4."""
    rng = np.random.default_rng(seed)
    dial = PlungerDial(graduation_mm=0.0005, range_mm=2, repeatability_mm=0.0018)
    stated = setup(radius_mm=100.0, passes=passes)
    truth = Truth(head_about_y_mrad=at)
    found = evaluate(TRAM, stated, one_round(TRAM, stated, truth, dial, rng), dial, NOTHING)
    lean = next(q for q in found.quantities if q.key == "lean_x").estimate
    return lean.value - at, lean.expanded, verdict(lean, LIMIT)


def test_rates_of_coverage_false_true_and_decision() -> None:
    dial = PlungerDial(graduation_mm=0.0005, range_mm=2, repeatability_mm=0.0016)
    expected = expect(TRAM, setup(radius_mm=100.0), dial, {"lean_x": LIMIT, "nod": LIMIT})
    assert LIMIT / 6 < expected.expanded <= LIMIT / 4
    runs = 800
    trials = [decided(i, LIMIT) for i in range(runs)]
    covered = sum(abs(error) <= big for error, big, _ in trials) / runs
    assert 0.93 <= covered <= 0.975
    assert sum(v == "true" for *_, v in trials) / runs <= 0.03
    halves = [decided(10_000 + i, LIMIT / 2)[2] for i in range(runs)]
    assert sum(v == "true" for v in halves) / runs >= 0.9


def out_of(x: Any, n: int = 2, dof: int = 4, **more: Any) -> Any:
    told = {"gain": 1.0, "s_mm": 0.012, "step_mm": 0.001, "extended": False, **more}
    return way_out(x, LIMIT, passes=n, spread_dof=dof, stations=4, **told)


@given(
    st.floats(0.0, 0.2),
    st.integers(1, 5),
    st.floats(0.001, 0.03),
    st.floats(0.0, 0.02),
)
def test_a_way_out_leads_out_and_goes_on_from_where_one_is(
    size: float, read: int, s: float, fixed: float
) -> None:
    """Whatever is offered would decide, and nothing less than it would."""
    dof = 4 * (read - 1)

    def big(n: int) -> float:
        degrees = dof + 4 * (n - read)
        k = stats.t.ppf(0.97725, degrees) if degrees >= 4 else 2.0
        return math.sqrt(4 * 0.001**2 / 12 + (k * s) ** 2 / n + fixed**2)

    x = estimate(size, big(read))
    if verdict(x, LIMIT) != "too_close" or abs(size - LIMIT) < x.expanded / 10:
        return
    told = out_of(x, read, dof, s_mm=s)
    gap = abs(LIMIT - size)
    decides = [n for n in range(read + 1, 11) if big(n) <= gap * 1.002]
    if told.passes is None:
        assert not [n for n in decides if big(n) < gap * 0.998]
        assert told.needed_expanded == pytest.approx(gap)
    else:
        assert told.passes > read
        assert told.passes in decides[:2]
        assert told.passes_sure >= told.passes


def test_ten_passes_are_the_most_that_are_asked_for() -> None:
    gaps = np.linspace(0.004, 0.014, 400)
    asked = [out_of(estimate(LIMIT - gap, 0.012), s_mm=0.012).passes for gap in gaps]
    known = [n for n in asked if n]
    # the wider the gap, the fewer
    assert set(known) == set(range(min(known), 11))
    assert known == sorted(known, reverse=True)
    assert asked[0] is None


def test_no_way_out_is_offered_that_does_not_lead_out() -> None:
    coarse = out_of(estimate(0.095, 0.05), s_mm=0.001, step_mm=0.05)
    assert coarse.passes is None
    assert coarse.needed_expanded == pytest.approx(0.005)
    once = out_of(estimate(0.09, 0.02), extended=True)
    assert once.passes is None
    assert "still too close" in once.text.metric
    # nothing is on the limit that only cannot be read
    blind = out_of(estimate(0.0, 5.0), s_mm=0.001, step_mm=8.0)
    assert "cannot decide" in blind.text.metric
    assert "on the limit itself" in out_of(estimate(0.1004, 0.02)).text.metric
