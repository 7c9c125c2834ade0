"""A dial whose works have play: it follows only once that is taken up, so that a turn shows less
than there is, and a slope that is come to from both sides shows anything within it."""

from __future__ import annotations

import math

import numpy as np
import pytest

from tests.core.bodies import DIAL, FITTED, MILL, played
from tests.core.helpers import case_of, readings
from truing.contract.gather import gather
from truing.kit.instruments import Caliper, DigitalIndicator, Instrument, LeverDial, Rule
from truing.registry import kind


def told(key: str, rng: np.random.Generator, dial: Instrument, h: float, runs: int) -> list[str]:
    """Verdicts on a body at its limit, read by a dial whose works have so much play."""
    body = FITTED[key]
    return [body.verdict(played(body, rng, 2, dial, works=h)[0]) for _ in range(runs)]


@pytest.mark.parametrize("h", [0.001, 0.003])
@pytest.mark.parametrize("key", FITTED)
def test_a_stated_hysteresis_makes_nothing_true_at_the_limit(key: str, h: float) -> None:
    rng, runs = np.random.default_rng(4), 200
    dial = DIAL.model_copy(update={"hysteresis_mm": h})
    verdicts = told(key, rng, dial, h, runs)
    assert verdicts.count("true") / runs <= 0.03
    assert verdicts.count("out") / runs <= 0.03


@pytest.mark.parametrize("key", FITTED)
def test_an_unstated_one_counts_as_is_usual(key: str) -> None:
    rng, runs = np.random.default_rng(5), 200
    dial = DIAL.model_copy(update={"hysteresis_mm": None})
    verdicts = told(key, rng, dial, dial.usual_hysteresis_mm, runs)
    assert verdicts.count("true") / runs <= 0.03
    assert verdicts.count("out") / runs <= 0.03


def test_a_swing_shows_the_whole_of_it_too_little() -> None:
    """A taper that swings by its limit and 4 µm less on the dial is not called true."""
    core = kind("spindle_runout")
    how = core.setup_type(
        kind="spindle_runout", way="swing", surface="taper", distances_mm=[5], passes=2
    )
    limit = core.tolerances(MILL)["nose"]
    for h, verdict in ((0.004, "too_close"), (0.0001, "true")):
        dial = DIAL.model_copy(update={"hysteresis_mm": h})
        seen = readings([("5", limit - 0.004)] * 2)
        case = core.weigh(case_of(core, how, seen, dial, machine=MILL))
        assert case.judgement.verdict == verdict
        once = how.model_copy(update={"passes": 1})
        promised = core.expect(case_of(core, once, dial=dial, machine=MILL))
        assert promised.expanded == pytest.approx(
            h + 2 * math.hypot(0.0005 / 12**0.5, 0.0005), rel=0.05
        )


def test_what_is_compared_counts_instead_of_what_is_usual() -> None:
    assert LeverDial(graduation_mm=0.01, hysteresis_mm=0.0).reversal_mm == 0.0
    assert LeverDial(graduation_mm=0.01).reversal_mm == pytest.approx(0.003)
    assert DigitalIndicator(resolution_mm=0.001).reversal_mm == 0.002
    assert Caliper().wrong_by_mm == 0.03
    assert Caliper(range_mm=25).wrong_by_mm == 0.004
    assert Rule(error_mm=0.2).wrong_by_mm == 0.2


def test_a_caliper_is_as_good_as_its_jaws_and_a_difference_better_than_that() -> None:
    """A size carries its error whole; out of two alike sizes it drops."""
    core = kind("gib_shim")
    how = core.propose(MILL)
    found = {}
    for error in (1e-6, 0.03):
        caliper = Caliper(repeatability_mm=0.001, error_mm=error)
        seen = readings([("thick", 6.0), ("thin", 4.0)] * 2)
        got = gather(case_of(core, how, seen, caliper, machine=MILL), core.stations(how))
        found[error] = [
            got.combine(w)[0].expanded for w in ({"thick": 1.0}, {"thick": 1.0, "thin": -1.0})
        ]
    assert found[0.03][0] - found[1e-6][0] == pytest.approx(0.03, abs=1e-5)
    assert found[0.03][1] == pytest.approx(found[1e-6][1], abs=1e-5)


@pytest.mark.parametrize(("step", "asked"), [(0.01, "0.010 mm"), (0.005, "0.005 mm"), (0.001, "")])
def test_readings_coarser_than_the_stated_division_are_asked_about(step: float, asked: str) -> None:
    case, shown = FITTED["table"].at_limit(2)
    rng = np.random.default_rng(2)
    seen = [
        (s.key, round((shown(s) + rng.uniform(-0.1, 0.1)) / step) * step)
        for s in kind("table_travel").order(case.setup)
    ]
    notes = kind("table_travel").evaluate(case.but(readings=readings(seen))).notes
    said = [n.text.metric for n in notes if "Every reading is a whole" in n.text.metric]
    assert bool(said) == bool(asked)
    assert all(asked.rstrip("0 m") in text for text in said)
