"""What a series of rounds is taken to mean."""

from __future__ import annotations

import pytest

from tests.core.helpers import TRAM, about, case_of, readings, setup
from tests.core.rigid import Spindle
from tests.core.test_tram import swing
from truing.contract.history import History, PastRound
from truing.contract.trends import Trend, trend, trends
from truing.kit.instruments import Rule
from truing.machine import starting_point
from truing.measure.estimate import Estimate
from truing.registry import kind

MILL = starting_point("column_mill")


def said(before: float, now: float, *, u: float = 0.01, predicted: float | None = None) -> Trend:
    def estimate(value: float, big: float = u) -> Estimate:
        return about(value, big)

    forecast = None if predicted is None else estimate(predicted, 0.05)
    return trend("lean_x", "Lean", estimate(before), estimate(now), 0.1, forecast)


@pytest.mark.parametrize(
    ("before", "now", "sense"),
    [
        (0.8, 0.4, "better"),
        (0.4, 0.8, "wrong_way"),
        (0.4, -0.8, "overshoot"),
        (0.4, -0.2, "better"),
        (0.4, 0.405, "steady"),
        (0.005, -0.008, "nothing"),
    ],
)
def test_sense(before: float, now: float, sense: str) -> None:
    assert said(before, now).sense == sense


def test_only_what_is_judged_and_was_there_before_has_a_trend() -> None:
    core = kind("inspection")
    walk = core.propose(starting_point("column_mill"))
    read = readings([("travel:left_right", 300.0)])
    past = PastRound(number=1, values={"travel:left_right": about(299.0, 1.0, "length")})
    stated = case_of(core, walk, read, dial=Rule(), history=History(past=[past]))
    # a travel is measured, not judged
    assert trends(stated.but(found=core.evaluate(stated)), []) == []
    tram = case_of(TRAM, setup(), readings(swing(Spindle().leaning(0.3, 0.2))), machine=MILL)
    tram = tram.but(history=History(past=[PastRound(number=1, values={"nod": about(0.5)})]))
    found = trends(tram.but(found=TRAM.evaluate(tram)), [])
    assert [(t.quantity, t.sense) for t in found] == [("nod", "better")]


def test_rounds_left_are_those_that_halving_needs() -> None:
    assert said(1.6, 0.8).rounds_left == 3  # 0.8 → 0.4 → 0.2 → 0.1
    assert said(0.4, 0.8).rounds_left is None
    assert said(0.4, 0.08).rounds_left is None
    assert said(0.005, -0.008).ratio is None
    # hardly smaller than before: no rate, and none that nobody would go on by
    assert said(0.8, 0.8 - 1e-15).rounds_left is None
    assert said(0.8, 0.795).rounds_left is None
    assert said(0.9, 0.8).rounds_left is None
    assert "more round" not in said(0.9, 0.8).text.metric


def test_a_result_unlike_its_prediction_is_asked_about_even_inside_the_limit() -> None:
    assert said(0.5, 0.08, predicted=0.0).surprise
    assert "predicted" in said(0.5, 0.08, predicted=0.0).text.metric
    assert not said(0.5, 0.03, predicted=0.0).surprise
