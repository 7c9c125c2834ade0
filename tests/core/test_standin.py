"""Every registered kind on the stand-in: truth → readings → finding; advice → true."""

from __future__ import annotations

from collections import Counter
from typing import Any

import numpy as np
import pytest

from tests.core.helpers import NOTHING, TRAM, setup
from truing.check import registry
from truing.instruments import FeelerBlades, Instrument, PlungerDial, ScaleTrigger
from truing.machine import Machine, starting_point
from truing.moves.move import Shim
from truing.standin.apply import apply
from truing.standin.evening import one_round, play
from truing.standin.truth import Truth

STOCK = [Shim(thickness_mm=t, count=10, tolerance_mm=0.002) for t in (0.02, 0.03, 0.05, 0.1, 0.2)]
FINE = PlungerDial(graduation_mm=0.002, range_mm=1, repeatability_mm=0.001)

Case = tuple[str, Any, Instrument]
WAYS: list[Case] = [
    ("swing", {}, FINE),
    ("trigger", {"way": "trigger"}, ScaleTrigger(resolution_mm=0.001, repeatability_mm=0.001)),
    ("gap", {"way": "gap"}, FeelerBlades(blade_step_mm=0.002, repeatability_mm=0.001)),
    ("two_bolts", {"way": "two_bolts"}, FeelerBlades(blade_step_mm=0.002, repeatability_mm=0.001)),
]


def test_every_kind_is_played_here() -> None:
    assert set(registry()) == {"spindle_tram"}, "give a new kind its truth and its cases below"


@pytest.mark.parametrize(("name", "stated", "instrument"), WAYS, ids=[w[0] for w in WAYS])
def test_the_truth_is_found(name: str, stated: dict[str, Any], instrument: Instrument) -> None:
    inside = 0
    for seed in range(60):
        rng = np.random.default_rng(seed)
        a, b = rng.normal(0, 0.5, 2)
        truth = Truth(head_about_y_mrad=a, head_about_x_mrad=-b)
        how = setup(radius_u_mm=1.0, **stated)
        finding = TRAM.evaluate(
            how, one_round(TRAM, how, truth, instrument, rng), instrument, NOTHING
        )
        lean, nod = (q.estimate for q in finding.quantities)
        inside += abs(lean.value - a) <= lean.expanded
        inside += abs(nod.value - b) <= nod.expanded
    assert inside / 120 >= 0.92


def truth_for(form: str, rng: np.random.Generator) -> Truth:
    return Truth(
        head_about_y_mrad=rng.normal(0, 0.7),
        head_about_x_mrad=rng.normal(0, 0.4),
        base_about_x_mrad=rng.normal(0, 0.4),
        base_about_y_mrad=rng.normal(0, 0.3),
        beam_twist_mrad_per_m=rng.normal(0, 0.6) if form == "gantry_router" else 0.0,
        saddle_mm=rng.normal(0, 0.0005),
        tap_gain=rng.uniform(0.85, 1.15),
        tighten_about_y_mrad=rng.normal(0, 0.02),
    )


@pytest.mark.parametrize("form", ["column_mill", "micro_mill", "gantry_router"])
def test_following_the_advice_ends_true(form: Any) -> None:
    machine = starting_point(form)
    limits = TRAM.tolerances(machine)
    how = setup(
        radius_mm=115, radius_u_mm=1, along_beam_mm=[-250, 250] if form == "gantry_router" else []
    )
    assert TRAM.expect(how, FINE, limits).enough
    ended: Counter[str] = Counter()
    runs = 120
    for seed in range(runs):
        rng = np.random.default_rng(seed)
        evening = play(TRAM, how, truth_for(form, rng), machine, FINE, STOCK, limits, rng)
        ended[evening.judgement.verdict] += 1
        if evening.judgement.verdict == "true":
            # believed true is true: the real leans, not only what was read of them
            for x in how.along_beam_mm or [0.0]:
                axis = evening.truth.axis(x) / evening.truth.axis(x)[2]
                assert np.max(np.abs(axis[:2])) * 1000 < limits["lean_x"] * 1.15
    assert ended["true"] / runs >= 0.95, ended


def test_a_coarse_instrument_says_that_it_cannot_decide() -> None:
    blades = FeelerBlades(blade_step_mm=0.05, repeatability_mm=0.02)
    how = setup(way="gap", radius_mm=80, radius_u_mm=1)
    machine = starting_point("micro_mill")
    limits = TRAM.tolerances(machine)
    told = TRAM.expect(how, blades, limits)
    assert not told.enough
    assert "never call it true" in told.text.metric
    for seed in range(40):
        rng = np.random.default_rng(seed)
        truth = Truth(head_about_y_mrad=rng.uniform(-0.1, 0.1))
        finding = TRAM.evaluate(how, one_round(TRAM, how, truth, blades, rng), blades, NOTHING)
        judged = TRAM.judge(how, finding, limits)
        assert judged.verdict == "too_close"
        for q, j in zip(finding.quantities, judged.judged, strict=True):
            # a reading that looks out may be called out by more passes; true it never can
            if abs(q.estimate.value) < limits["lean_x"]:
                assert j.way_out
                assert j.way_out.passes is None
                assert 0 < j.way_out.needed_expanded < told.expanded


def test_no_stock_is_said_and_not_guessed() -> None:
    machine = starting_point("micro_mill")
    rng = np.random.default_rng(1)
    tilted = Truth(base_about_y_mrad=0.6)
    evening = play(
        TRAM, setup(radius_mm=115), tilted, machine, FINE, [], TRAM.tolerances(machine), rng
    )
    assert evening.out_of_stock
    assert evening.truth == tilted


def test_a_move_changes_what_it_says_and_little_else() -> None:
    machine = Machine(head=starting_point("column_mill").head)
    rng = np.random.default_rng(4)
    truth = Truth(head_about_y_mrad=1.0, head_about_x_mrad=0.05)
    how = setup(radius_mm=115)
    finding = TRAM.evaluate(how, one_round(TRAM, how, truth, FINE, rng), FINE, NOTHING)
    limits = {"lean_x": 0.1, "nod": 0.1}
    move = TRAM.advise(how, finding, limits, machine, FINE, STOCK, NOTHING).moves[0]
    after = [apply(move, truth, machine, rng) for _ in range(50)]
    assert all(0.7 < 1.0 - t.head_about_y_mrad < 1.3 for t in after)
    assert {t.head_about_x_mrad for t in after} == {0.05}
    assert len({t.head_about_y_mrad for t in after}) == 50
