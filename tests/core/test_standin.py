"""Every registered kind on the stand-in: truth → readings → finding; advice → true."""

from __future__ import annotations

from collections import Counter
from typing import Any

import numpy as np
import pytest

from tests.core.cases import CASES, FINE, IDS, STOCK, Case, marked
from tests.core.helpers import NOTHING, TRAM, advise, case_of, evaluate, expect, judge, setup
from truing.contract.move import Move, PadStack
from truing.kit.instruments import FeelerBlades, PlungerDial, ScaleTrigger
from truing.machine import Machine, Rails, starting_point
from truing.measure.verdict import worst
from truing.measure.words import plain
from truing.registry import kind, registry
from truing.standin.apply import apply
from truing.standin.evening import one_round, play
from truing.standin.hands import Hands
from truing.standin.rails import shimmed
from truing.standin.read import as_typed, readers
from truing.standin.seen import Seen
from truing.standin.truth import FootTruth, RailsTruth, StandTruth, Truth


def test_every_kind_is_played_here() -> None:
    assert {c.kind for c in CASES} == set(registry()) == set(readers()), (
        "give a new kind its truth and its cases in cases.py"
    )


@pytest.mark.parametrize("shown", [0.0, 0.127, -0.0508, 2.5])
def test_what_the_stand_in_types_is_read_as_what_it_saw(shown: float) -> None:
    """In the unit of whatever it reads with."""
    dials = [
        PlungerDial(unit=unit, graduation_mm=0.01, range_mm=10) for unit in ("mm", "in", "div")
    ]
    for instrument in (*dials, PlungerDial(unit="thou", graduation_mm=0.0254), FeelerBlades()):
        text, unit = as_typed(Seen(shown_mm=shown), instrument)
        assert instrument.read(text, unit).mm == pytest.approx(shown, rel=1e-4, abs=1e-9)
    assert as_typed(Seen(grade="binds"), FINE) == ("", FINE.unit)


@pytest.mark.parametrize("case", CASES, ids=IDS)
def test_the_truth_is_found(case: Case) -> None:
    core, machine, how = kind(case.kind), case.machine, case.setup()
    inside: list[bool] = []
    for seed in range(40):
        rng = np.random.default_rng(seed)
        truth = case.truth(rng, machine, how)
        readings = one_round(core, how, truth, case.instrument, rng)
        finding = evaluate(core, how, readings, case.instrument, NOTHING)
        found = {q.key: q.estimate for q in finding.quantities}
        if case.sound is not None:
            case.sound(truth, how, finding)
        known = case.known(truth, how)
        assert known
        for key, value in known.items():
            # rotations do not add up exactly, and readings are linearised: a part in a thousand
            doubt = found[key].expanded + 1e-3 * abs(value) + 1e-4
            inside.append(abs(found[key].value - value) <= doubt)
    assert sum(inside) / len(inside) >= 0.92


@pytest.mark.parametrize("way", ["up", "depth_down", "knee_up"])
def test_a_tip_that_triggers_tells_the_lean_whichever_way_its_scale_counts(way: Any) -> None:
    how = TRAM.setup_type(way="trigger", radius_mm=100, height_counts=way, passes=2)
    truth = Truth(head_about_y_mrad=0.5, head_about_x_mrad=-0.3, noise_share=0.0)
    scale = ScaleTrigger(resolution_mm=0.0005, repeatability_mm=0.0002)
    read = one_round(TRAM, how, truth, scale, np.random.default_rng(1))
    found = {q.key: q.estimate for q in evaluate(TRAM, how, read, scale, NOTHING).quantities}
    assert found["lean_x"].value == pytest.approx(0.5, abs=0.02)
    assert found["nod"].value == pytest.approx(0.3, abs=0.02)


@pytest.mark.parametrize("case", marked([c for c in CASES if c.mends]))
def test_following_the_advice_ends_true(case: Case) -> None:
    core, machine, how = kind(case.kind), case.machine, case.setup()
    limits = core.tolerances(machine)
    told = core.expect(case.case())
    assert told
    assert told.enough, told.text.metric
    ended: Counter[str] = Counter()
    runs = 24
    for seed in range(runs):
        rng = np.random.default_rng(seed)
        truth = case.truth(rng, machine, how)
        evening = play(core, case.case(), truth, rng)
        # what lies in the tin beside what is in the machine may be as bad as it is
        judged = [j for j in evening.judgement.judged if not j.quantity.startswith("with:")]
        alone = worst([j.verdict for j in judged]) if judged else evening.judgement.verdict
        ended[alone if case.kind == "tool_runout" else evening.judgement.verdict] += 1
        for key, value in case.known(evening.truth, how).items():
            limit = limits.get(key.partition("@")[0])
            if evening.judgement.verdict == "true" and limit is not None:
                # believed true is true: what is really there, not only what was read of it
                assert abs(value) < limit * 1.15
    # what is left of a handful of places may look like more than it is, once in ten
    assert ended["true"] / runs >= 0.85, ended


@pytest.mark.parametrize("feet", [True, False])
def test_a_twisted_casting_stands_as_high_at_a_corner_as_its_twist_says(feet: bool) -> None:
    """By a metre to the right the slope to the rear grows by it."""
    at = [(-0.3, -0.2), (0.3, -0.2), (-0.3, 0.2), (0.3, 0.2)] if feet else []
    stand = StandTruth(
        feet=[FootTruth(name=f"{x}{y}", x_mm=1000 * x, y_mm=1000 * y) for x, y in at],
        own_twist_mm_per_m2=0.7,
    )
    corner = {(x, y): stand.surface_mm(1000 * x, 1000 * y) for x in (0, 1) for y in (0, 1)}
    turned = corner[1, 1] - corner[1, 0] - corner[0, 1] + corner[0, 0]
    assert turned == pytest.approx(0.7)


@pytest.mark.parametrize("runs", ["front_back", "left_right"])
def test_shims_raise_the_rail_that_they_lie_under(runs: Any) -> None:
    """At the bolt where they lie: the second rail is the right one, or the rear one."""
    machine = starting_point("gantry_router")
    rails = Rails(length_mm=1000, apart_mm=600, runs=runs)
    hands = Hands(machine.model_copy(update={"rails": rails}), np.random.default_rng(1), 0.0)
    truth = Truth(rails=RailsTruth())
    for across, along, first, bolt in (
        (-300.0, -500.0, True, 0),
        (300.0, 500.0, False, 1),
        (300.0, -500.0, False, 0),
    ):
        x, y = (across, along) if runs == "front_back" else (along, across)
        stack = PadStack(
            pad="here", x_mm=x, y_mm=y, before_mm=[0.1], after_mm=[0.3], words=plain("")
        )
        move = Move(
            key="up",
            mechanism="rail_packs",
            title=plain(""),
            steps=[],
            stacks=[stack],
            predicted=[],
            takes=[],
        )
        after = shimmed(move, truth, hands).rails
        raised = after.first_up_mm if first else after.second_up_mm
        other = after.second_up_mm if first else after.first_up_mm
        assert raised[bolt] == pytest.approx(0.2)
        assert raised[1 - bolt] == 0
        assert other == [0, 0]


def test_a_foot_that_is_not_turned_stays_where_it_is() -> None:
    core, rng = kind("base_level"), np.random.default_rng(4)
    case = next(c for c in CASES if c.kind == core.key)
    stated = case.case()
    truth = case.truth(rng, stated.machine, stated.setup)
    read = one_round(core, stated.setup, truth, stated.instrument, rng)
    move = core.advise(core.weigh(stated.but(readings=read))).moves[0]
    first, *others = move.amounts
    after = apply(core.key, move.model_copy(update={"amounts": [first]}), truth, case.machine, rng)
    before = {f.name: f.out_mm for f in truth.stand.feet}
    turned = {f.name: f.out_mm - before[f.name] for f in after.stand.feet}
    assert others
    assert turned.pop(first.place) == pytest.approx(first.amount_mm, rel=0.2)
    assert set(turned.values()) == {0.0}


def test_a_coarse_instrument_says_that_it_cannot_decide() -> None:
    blades = FeelerBlades(blade_step_mm=0.05, repeatability_mm=0.02)
    how = setup(way="gap", radius_mm=80, radius_u_mm=1)
    machine = starting_point("micro_mill")
    limits = TRAM.tolerances(machine)
    told = expect(TRAM, how, blades, limits)
    assert not told.enough
    assert "never call it true" in told.text.metric
    for seed in range(40):
        rng = np.random.default_rng(seed)
        truth = Truth(head_about_y_mrad=rng.uniform(-0.1, 0.1))
        finding = evaluate(TRAM, how, one_round(TRAM, how, truth, blades, rng), blades, NOTHING)
        judged = judge(TRAM, how, finding, limits)
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
    evening = play(TRAM, case_of(TRAM, setup(radius_mm=115), machine=machine), tilted, rng)
    assert evening.out_of_stock
    assert evening.truth == tilted


def test_a_move_changes_what_it_says_and_little_else() -> None:
    machine = Machine(head=starting_point("column_mill").head)
    rng = np.random.default_rng(4)
    truth = Truth(head_about_y_mrad=1.0, head_about_x_mrad=0.05)
    how = setup(radius_mm=115)
    finding = evaluate(TRAM, how, one_round(TRAM, how, truth, FINE, rng), FINE, NOTHING)
    limits = {"lean_x": 0.1, "nod": 0.1}
    move = advise(TRAM, how, finding, limits, machine, FINE, STOCK, NOTHING).moves[0]
    after = [apply("spindle_tram", move, truth, machine, rng) for _ in range(50)]
    assert all(0.7 < 1.0 - t.head_about_y_mrad < 1.3 for t in after)
    assert {t.head_about_x_mrad for t in after} == {0.05}
    assert len({t.head_about_y_mrad for t in after}) == 50


def test_the_edge_of_a_simulated_rail_stands_out_most_in_its_middle() -> None:
    rails = RailsTruth(at_mm=[100.0, 300.0, 700.0], edge_bow_mm=-0.02)
    assert [rails.edge_mm(v) for v in (100.0, 700.0)] == pytest.approx([0.0, 0.0])
    # a bow is a parabola: nothing at its ends, all of it in the middle, and alike on both sides
    assert rails.edge_mm(400.0) == pytest.approx(-0.02)
    assert rails.edge_mm(250.0) == rails.edge_mm(550.0) == pytest.approx(-0.015)
