"""A summary judged by other limits agrees with judging its readings anew, and is never kinder than
what is known allows."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.helpers import TRAM, case_of, readings, setup
from truing.record import Outcome, Summary
from truing.record.rejudge import rejudged
from truing.registry import kind

LIMITS = st.floats(0.01, 2.0)


def judged(nod: float, limits: dict[str, float]) -> Any:
    round_ = [(s, v) for s, v in (("12", nod / 10), ("3", 0.002), ("6", -nod / 10), ("9", -0.002))]
    return TRAM.weigh(case_of(TRAM, setup(), readings(round_), limits=limits))


def summary_of(case: Any) -> Summary:
    return Summary.of(Outcome(finding=case.finding, judgement=case.judgement))


@settings(max_examples=60, deadline=None)
@given(st.floats(-1.0, 1.0), LIMITS, LIMITS, LIMITS)
def test_figures_are_judged_as_if_they_were_read_under_those_limits(
    nod: float, was: float, lean: float, now: float
) -> None:
    before = judged(nod, {"lean_x": was, "nod": was})
    limits = {"lean_x": lean, "nod": now}
    anew = judged(nod, limits)
    summary, verdict = rejudged(summary_of(before), before.judgement.verdict, limits, " for “it”")
    assert verdict == anew.judgement.verdict
    assert [v.verdict for v in summary.values] == [j.verdict for j in anew.judgement.judged]
    assert [v.limit for v in summary.values] == [lean, now]
    if (lean, now) != (was, was):
        assert "for “it”" in summary.sentence.metric  # type: ignore[union-attr]


def test_without_another_limit_nothing_is_touched() -> None:
    case = judged(0.3, {"lean_x": 0.1, "nod": 0.1})
    summary = summary_of(case)
    same, verdict = rejudged(summary, "out", {"lean_x": 0.1, "nod": 0.1, "other": 5})
    assert same is summary
    assert verdict == "out"


@pytest.mark.parametrize(("nod", "limit", "expected"), [(0.3, 0.2, "out"), (0.1, 0.2, "too_close")])
def test_an_old_record_without_its_uncertainty_is_never_called_true(
    nod: float, limit: float, expected: str
) -> None:
    summary = summary_of(judged(nod, {"lean_x": 0.5, "nod": 0.5}))
    bare = {"least": None, "most": None}
    values = [v.model_copy(update=bare) for v in summary.values]
    old = summary.model_copy(update={"values": values, "otherwise": None})
    _, verdict = rejudged(old, "true", {"lean_x": 0.5, "nod": limit})
    assert verdict == expected
    # and a wider limit makes it no better
    _, kept = rejudged(old, "out", {"lean_x": 9, "nod": 9})
    assert kept == "out"


def test_what_was_seen_otherwise_keeps_its_weight() -> None:
    case = judged(0.3, {"lean_x": 0.1, "nod": 0.1})
    seen = case.judgement.joined_by([("out", case.judgement.sentence)])
    assert seen.otherwise == "out"
    summary = Summary.of(Outcome(finding=case.finding, judgement=seen))
    _, verdict = rejudged(summary, "out", {"lean_x": 2, "nod": 2})
    assert verdict == "out"
    plain = Summary.of(Outcome(finding=case.finding, judgement=case.judgement))
    assert rejudged(plain, "out", {"lean_x": 2, "nod": 2})[1] == "true"


def test_every_kind_says_by_which_limit_each_figure_is_judged() -> None:
    case = judged(0.3, {"lean_x": 0.1, "nod": 0.1})
    told = summary_of(case)
    assert {v.tolerance for v in told.values} == set(kind("spindle_tram").limit_kinds)
    assert all(v.least is not None and v.most is not None for v in told.values)
