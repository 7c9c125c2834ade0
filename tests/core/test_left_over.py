"""What a fit leaves of the readings belongs to what it says: surfaces with bumps that no repeat
shows, and one reading that slipped."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest

from tests.core.bodies import BODIES, DIAL, FITTED, MILL, played
from tests.core.helpers import case_of, readings
from truing.kit.instruments import Level
from truing.registry import kind

LEVEL = Level(sensitivity_mm_per_m=0.02, read_fraction=0.2, repeatability_mm=0.0004)


@pytest.mark.parametrize("bumps", [0.0, 0.0015, 0.004])
@pytest.mark.parametrize("key", FITTED)
def test_bumps_that_no_repeat_shows_make_nothing_true(key: str, bumps: float) -> None:
    rng, runs = np.random.default_rng(8), 500
    body = FITTED[key]
    told = [body.verdict(played(body, rng, bumps=bumps)[0]) for _ in range(runs)]
    assert told.count("true") / runs <= 0.04
    assert told.count("out") / runs <= 0.04


@pytest.mark.parametrize("passes", [1, 2])
@pytest.mark.parametrize("key", FITTED)
def test_one_reading_that_slipped_is_named_and_nothing_is_true(key: str, passes: int) -> None:
    rng, runs = np.random.default_rng(9), 60
    named = 0
    for _ in range(runs):
        case, at = played(FITTED[key], rng, passes, slip=0.1)
        told = case.finding.pointed_out
        assert case.judgement.verdict != "true"
        # one that a single pass comes back to leaves its loop open instead
        named += case.finding.wandered if told is None else told.station == at
        if told is None:
            continue
        # all of it says one thing, and nothing is learnt from it
        assert case.judgement.sentence == told.text
        assert not case.finding.spreads
        assert not case.finding.teaches
        assert not any("what is stated" in n.text.metric for n in case.finding.notes)
        advice = kind(FITTED[key].kind).advise(case)
        assert (advice.moves, advice.remarks) == ([], [told.text])
    assert named / runs >= 0.95


@pytest.mark.parametrize("slip", [0.005, 0.02, 0.1])
@pytest.mark.parametrize("key", ["tram, quarters", "tool"])
def test_a_slip_that_one_pass_over_few_places_cannot_name_counts_in_full(
    key: str, slip: float
) -> None:
    """Nothing tells it from a surface that is not flat; a second pass would."""
    body, rng, runs = BODIES[key], np.random.default_rng(12), 300
    cases = [played(body, rng, 1, slip=slip)[0] for _ in range(runs)]
    told = [body.verdict(case) for case in cases]
    assert told.count("true") / runs <= 0.03
    assert told.count("out") / runs <= 0.03
    seen = [case for case in cases if case.finding.one_off]
    assert len(seen) / runs >= 0.6
    for case in seen:
        outs = [j.way_out for j in case.judgement.judged if j.way_out]
        assert all(out.passes == 2 for out in outs)
    # what is clean is doubted seldom, and a second pass over a shape settles it
    clean = [played(body, rng, 1)[0].finding.one_off for _ in range(runs)]
    assert sum(clean) / runs <= 0.02
    assert not any(played(body, rng, 2, bumps=0.02)[0].finding.one_off for _ in range(20))


@pytest.mark.parametrize("passes", [1, 2, 3])
@pytest.mark.parametrize("key", BODIES)
def test_what_is_expected_is_what_clean_readings_give(key: str, passes: int) -> None:
    """An instrument as good as its sheet, whose readings leave nothing: U as promised."""
    body = BODIES[key]
    case, shown = body.at_limit(passes)
    core = kind(body.kind)
    promised = core.expect(case)
    # repeats that scatter by just what is stated, and whose means are true
    apart = {1: [0.0, 0.0], 2: [-(0.5**0.5), 0.5**0.5], 3: [-1.0, 0.0, 1.0]}[passes]
    places = [s.key for s in core.stations(case.setup)]
    seen, often = [], Counter[str]()
    for s in core.order(case.setup):
        side = (-1) ** places.index(s.key) * apart[often[s.key]]
        seen.append((s.key, shown(s) + side * DIAL.repeatability_mm))
        often[s.key] += 1
    found = core.weigh(case.but(readings=readings(seen)))
    judged = [
        q.estimate.expanded for q in found.finding.quantities if q.tolerance_key == body.limit
    ]
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
