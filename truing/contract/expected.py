"""What a plan can be expected to tell before its first reading, by the same rules as what is found.

The instrument is taken to be as good as it is stated, and the readings to be clean: they scatter as
it says, nothing drifts, every loop closes.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence
from typing import Any

from truing.contract.case import Case
from truing.contract.design import Design, Fit, MeanReading, combine
from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.measure.estimate import Estimate
from truing.measure.spread import Spread, mean_uncertainty
from truing.measure.words import Measure


def expected_mean(
    instrument: Instrument, passes: int, tip_sides: int = 1, places: int = 1
) -> MeanReading:
    """The mean of so many readings at one of so many places that are read alike; `tip_sides` as
    `Setup.tip_sides`."""
    s, dof = instrument.repeatability_mm, places * (passes - 1)
    k, s = Spread(ss_mm2=dof * s**2, dof=dof).k_s(s, instrument.step_mm)
    u, big = mean_uncertainty(passes, step_mm=instrument.step_mm, k=k, s_mm=s)
    return MeanReading(
        mean_mm=0.0,
        u_mm=u,
        expanded_mm=big,
        bound_mm=tip_sides * instrument.reversal_mm / 2,
        size_mm=instrument.wrong_by_mm if instrument.sized else 0.0,
    )


def expected_means(
    case: Case[Any, Any], plan: Sequence[Station], once: Collection[str] = ()
) -> dict[str, MeanReading]:
    """What each place of a plan comes to in as many passes as are planned, those that are read
    `once` in one; the first of a loop that is come back to, as certain as that makes it."""
    setup, instrument = case.setup, case.instrument
    passes = getattr(setup, "passes", 1)
    lengths = [s for s in plan if s.reads == "length"]
    often = [s for s in lengths if s.key not in once]
    mean = expected_mean(instrument, passes, setup.tip_sides, len(often))
    found = dict.fromkeys((s.key for s in often), mean)
    dof = len(often) * (passes - 1)
    for s in lengths:
        if s.key not in found:
            k, sd = Spread(ss_mm2=dof * instrument.repeatability_mm**2, dof=dof).k_s(
                instrument.repeatability_mm, instrument.step_mm
            )
            u, big = mean_uncertainty(1, step_mm=instrument.step_mm, k=k, s_mm=sd)
            found[s.key] = mean.model_copy(update={"u_mm": u, "expanded_mm": big})
    return _closing(found, setup.loops(plan)) if passes == 1 else found


def _closing(
    means: dict[str, MeanReading], loops: Sequence[Sequence[Station]]
) -> dict[str, MeanReading]:
    """With what closing each loop leaves in doubt: from half of it at its first place to half the
    other way at its end."""
    found = dict(means)
    for loop in loops:
        keys = [s.key for s in loop if s.key in means]
        if len(keys) < 2:
            continue
        missed = math.sqrt(2) * means[keys[0]].expanded_mm
        for i, key in enumerate(keys):
            wander = {keys[0]: missed * (i / len(keys) - 0.5)}
            found[key] = means[key].model_copy(update={"wander_mm": wander})
    return found


def expected_fit(design: Design, case: Case[Any, Any], plan: Sequence[Station]) -> Fit:
    """What so many passes over a plan tell of a design of some of its stations."""
    means = expected_means(case, plan)
    return Fit.of(design, {key: means[key] for key in design.stations})


def expected_sum(
    case: Case[Any, Any],
    plan: Sequence[Station],
    weights: Mapping[str, float],
    measure: Measure = "length",
) -> Estimate:
    """A weighted sum of the means of a plan."""
    return combine(expected_means(case, plan), weights, measure)[0]


def expected_size(case: Case[Any, Any], plan: Sequence[Station]) -> float:
    """U (mm) of the least certain place of a plan that is judged by itself."""
    means = expected_means(case, plan)
    return max(combine(means, {key: 1.0})[0].expanded for key in means)


def expected_range(case: Case[Any, Any], plan: Sequence[Station]) -> float:
    """U (mm) of highest less lowest of a plan's places."""
    means = expected_means(case, plan).values()
    return math.sqrt(2) * max(m.all_mm for m in means) + 2 * max(m.bound_mm for m in means)
