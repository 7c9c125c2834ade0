"""What a fit leaves of the readings belongs to what it says: surfaces with bumps that no repeat
shows, and one reading that slipped, played on bodies of this file's own."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest

from tests.core.helpers import case_of, readings
from truing.kit.instruments import Level, PlungerDial
from truing.machine import starting_point
from truing.registry import kind

Rng = np.random.Generator
MILL = starting_point("column_mill")
DIAL = PlungerDial(graduation_mm=0.001, range_mm=5, repeatability_mm=0.0005, hysteresis_mm=0)
LEVEL = Level(sensitivity_mm_per_m=0.02, read_fraction=0.2, repeatability_mm=0.0004)
Shown = Callable[[Any], float]


def face(limit: float) -> tuple[dict[str, Any], Shown]:
    places = [-80.0, -40.0, 0.0, 40.0, 80.0]
    return {"face_mm": 200.0, "places_mm": places}, lambda s: limit * s.x_mm / 1000


def table(limit: float) -> tuple[dict[str, Any], Shown]:
    """Uphill to the right by the limit, downhill to the rear by half of it."""
    grid = {"x_places_mm": [-120.0, 0.0, 120.0], "y_places_mm": [-50.0, 0.0, 50.0]}
    return grid, lambda s: limit * (s.x_mm - s.y_mm / 2) / 1000


def square(limit: float) -> tuple[dict[str, Any], Shown]:
    """The head drifts by the limit; the square leans by 0.3 mm/m by itself, turned about."""
    heights = {"heights_mm": [20.0, 55.0, 90.0, 125.0, 160.0], "way": "reversed"}
    return heights, lambda s: s.points * limit * s.at_mm / 1000 - 0.3 * s.at_mm / 1000


def bar(limit: float) -> tuple[dict[str, Any], Shown]:
    """A ground bar that runs out by the limit, TIR, read at twelve marks close to the nose."""
    how = {"marks": 12, "distances_mm": [5.0], "surface": "taper"}
    return how, lambda s: limit / 2 * math.cos(s.angle_rad - 1.1)


def tram(limit: float) -> tuple[dict[str, Any], Shown]:
    """A spindle that leans to the right by the limit, swung over twelve hours of a true table."""
    hours = {"positions": [float(h) for h in range(1, 13)], "radius_mm": 100.0, "radius_u_mm": 0.0}
    return hours, lambda s: limit * s.x_mm / 1000


BODIES: dict[str, tuple[Callable[[float], tuple[dict[str, Any], Shown]], str, str]] = {
    "face_alignment": (face, "face", "face"),
    "table_travel": (table, "slope_x", "slope"),
    "travel_square": (square, "square", "square"),
    "spindle_runout": (bar, "nose", "nose"),
    "spindle_tram": (tram, "lean_x", "lean_x"),
}


def case_at_the_limit(key: str, passes: int) -> tuple[Any, Shown]:
    """The case before it is read, its quantity exactly at its limit; what a place truly shows."""
    core = kind(key)
    body, _, limit = BODIES[key]
    how, shown = body(core.tolerances(MILL)[limit])
    proposed = core.propose(MILL)
    fields = {**(proposed.model_dump() if proposed else {}), **how, "passes": passes}
    return case_of(core, core.setup_type.model_validate(fields), dial=DIAL, machine=MILL), shown


def played(
    key: str, rng: Rng, *, bumps: float = 0.0, slip: float = 0.0, passes: int = 2
) -> tuple[Any, str]:
    """The case, weighed, and the place that slipped in the first pass."""
    case, shown = case_at_the_limit(key, passes)
    core = kind(key)
    plan = core.stations(case.setup)
    bump = {s.key: rng.normal(0, bumps) for s in plan}
    at = int(rng.integers(len(plan)))
    seen = []
    for once in range(passes):
        for i, s in enumerate(plan):
            value = shown(s) + bump[s.key] + rng.normal(0, 0.0005)
            value += slip if once == 0 and i == at else 0.0
            seen.append((s.key, round(value / DIAL.step_mm) * DIAL.step_mm))
    return core.weigh(case.but(readings=readings(seen))), plan[at].key


def verdict_of(case: Any, key: str) -> str:
    _, quantity, _ = BODIES[key]
    return str(next(j.verdict for j in case.judgement.judged if j.quantity == quantity))


@pytest.mark.parametrize("bumps", [0.0, 0.0015, 0.004])
@pytest.mark.parametrize("key", BODIES)
def test_bumps_that_no_repeat_shows_make_nothing_true(key: str, bumps: float) -> None:
    rng, runs = np.random.default_rng(8), 500
    told = [verdict_of(played(key, rng, bumps=bumps)[0], key) for _ in range(runs)]
    assert told.count("true") / runs <= 0.04
    assert told.count("out") / runs <= 0.04


@pytest.mark.parametrize("passes", [1, 2])
@pytest.mark.parametrize("key", BODIES)
def test_one_reading_that_slipped_is_named_and_nothing_is_true(key: str, passes: int) -> None:
    rng, runs = np.random.default_rng(9), 60
    named = 0
    for _ in range(runs):
        case, at = played(key, rng, slip=0.1, passes=passes)
        told = case.finding.pointed_out
        assert case.judgement.verdict != "true"
        named += told is not None and told.station == at
        if told is None:
            continue
        # all of it says one thing, and nothing is learnt from it
        assert case.judgement.sentence == told.text
        assert not case.finding.spreads
        assert not case.finding.teaches
        assert not any("what is stated" in n.text.metric for n in case.finding.notes)
        advice = kind(key).advise(case)
        assert (advice.moves, advice.remarks) == ([], [told.text])
    assert named / runs >= 0.95


@pytest.mark.parametrize("key", BODIES)
def test_what_is_expected_is_what_clean_readings_give(key: str) -> None:
    """An instrument as good as its sheet, whose readings leave nothing: U as promised."""
    case, shown = case_at_the_limit(key, 1)
    core = kind(key)
    promised = core.expect(case)
    seen = [(s.key, shown(s)) for s in core.stations(case.setup)]
    found = core.weigh(case.but(readings=readings(seen)))
    limit = BODIES[key][2]
    judged = [q.estimate.expanded for q in found.finding.quantities if q.tolerance_key == limit]
    assert max(judged) == pytest.approx(promised.expanded, rel=1e-3)


def test_a_bow_that_enough_places_tell_costs_a_face_no_verdict() -> None:
    """Nine places on a jaw that is hollow by a tenth, and runs true: that is told beside it."""
    core = kind("face_alignment")
    at = [-80.0, -60.0, -40.0, -20.0, 0.0, 20.0, 40.0, 60.0, 80.0]
    how = core.propose(MILL).model_copy(update={"face_mm": 200.0, "places_mm": at, "passes": 2})
    rng, runs = np.random.default_rng(3), 100
    told = []
    for _ in range(runs):
        seen = [
            (f"{x:g}", 0.1 * (x / 80) ** 2 + 0.02 * x / 1000 + rng.normal(0, 0.0005))
            for _ in (1, 2)
            for x in at
        ]
        case = core.weigh(case_of(core, how, readings(seen), DIAL, machine=MILL))
        told.append(next(j.verdict for j in case.judgement.judged if j.quantity == "face"))
        assert case.get("bow").estimate.visible
    assert told.count("true") / runs >= 0.9


def test_a_level_that_is_off_at_one_place_is_read_there_again() -> None:
    """Turned end for end the two ways round give one own error at every place; once they do not."""
    core = kind("base_level")
    how = core.propose(MILL).model_copy(update={"passes": 1, "way": "ends"})
    plan = core.stations(how)
    own, rng = 0.03, np.random.default_rng(5)
    named = 0
    for _ in range(60):
        off = plan[int(rng.integers(len(plan)))].key
        seen = []
        for s in plan:
            # what the bubble shows of a base that is neither level nor twisted
            slope = 0.02 if s.lies == "y" else -0.05
            told = s.marked * slope + own if how.recorded == "marked" else slope + s.marked * own
            mm = told / 1000 * LEVEL.level_base_mm + rng.normal(0, 0.0003)
            seen.append(
                (s.key, mm + (5 * 0.02 / 1000 * LEVEL.level_base_mm if s.key == off else 0.0))
            )
        case = core.weigh(case_of(core, how, readings(seen), LEVEL, machine=MILL))
        assert case.judgement.verdict != "true"
        told = case.finding.pointed_out
        named += told is not None and told.station == off
    assert named >= 50
