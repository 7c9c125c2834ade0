"""What a series of rounds is taken to mean."""

from __future__ import annotations

import pytest

from tests.core.helpers import about
from truing.contract.trends import Trend, trend
from truing.measure.estimate import Estimate


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


def test_rounds_left_are_those_that_halving_needs() -> None:
    assert said(1.6, 0.8).rounds_left == 3  # 0.8 → 0.4 → 0.2 → 0.1
    assert said(0.4, 0.8).rounds_left is None
    assert said(0.4, 0.08).rounds_left is None
    assert said(0.005, -0.008).ratio is None


def test_a_result_unlike_its_prediction_is_asked_about_even_inside_the_limit() -> None:
    assert said(0.5, 0.08, predicted=0.0).surprise
    assert "predicted" in said(0.5, 0.08, predicted=0.0).text.metric
    assert not said(0.5, 0.03, predicted=0.0).surprise
