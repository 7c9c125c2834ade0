"""Without stock: the heights that are told would do, tried on the simulated machine."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from tests.core.cases import CASES, Case
from tests.core.helpers import FINE, TRAM, case_of, readings, setup
from tests.core.rigid import Spindle
from tests.core.test_tram import swing
from truing.contract.move import Move, PadStack
from truing.kit.shims import Shim
from truing.machine import starting_point
from truing.measure.problem import Problem
from truing.measure.words import plain
from truing.moves.wanted import wanted
from truing.registry import kind
from truing.standin.apply import apply
from truing.standin.evening import one_round
from truing.standin.hands import Hands

SHIMMED = {
    ("spindle_tram", "two bolts"),
    ("travel_square", "a square turned about"),
    ("rail_twist", "four corners"),
    ("rail_twist", "many places"),
    ("rail_straight", "reversal, in height"),
    ("gib_shim", "two thicknesses"),
}
PLAYED = [c for c in CASES if (c.kind, c.name) in SHIMMED]


def lacking(case: Case, seed: int, stock: list[Shim]) -> tuple[Any, Any, list[Move]]:
    """The machine, what was found of it, and the moves that a tin like this cannot serve."""
    core, how, rng = kind(case.kind), case.setup(), np.random.default_rng(seed)
    truth = case.truth(rng, case.machine, how)
    read = one_round(core, how, truth, case.instrument, rng)
    weighed = core.weigh(case.case().but(readings=read, stock=stock))
    moves = [m for m in core.advise(weighed).moves if m.needs is not None and m.wanted]
    return truth, weighed, moves


def cut_to_size(move: Move) -> Move:
    """The same move with stacks of just these heights, as if cut from one sheet."""
    stacks = [
        PadStack(
            pad=w.place,
            x_mm=w.x_mm,
            y_mm=w.y_mm,
            before_mm=[],
            after_mm=[w.amount_mm] if w.amount_mm > 0 else [],
            words=plain("cut"),
        )
        for w in move.wanted
    ]
    return move.model_copy(update={"stacks": stacks, "needs": None, "takes": []})


@pytest.mark.parametrize("case", PLAYED, ids=[f"{c.kind}: {c.name}" for c in PLAYED])
def test_an_empty_tin_still_tells_how_high_each_stack_should_be(case: Case) -> None:
    told = 0
    for seed in range(6):
        _, _, moves = lacking(case, seed, [])
        for move in moves:
            told += 1
            heights = [w.amount_mm for w in move.wanted]
            assert min(heights) >= 0
            # let down as far as they go: one of several pads is bare
            assert len(heights) == 1 or min(heights) == 0
            assert all(w.words.metric.endswith((" mm", "nothing")) for w in move.wanted)
            assert all(w.words.inch.endswith((" in", "nothing")) for w in move.wanted)
    assert told >= 2


@pytest.mark.parametrize("case", PLAYED, ids=[f"{c.kind}: {c.name}" for c in PLAYED])
def test_an_empty_tin_is_no_reason_to_shim_what_nothing_calls_for(case: Case) -> None:
    """Too coarse a dial on a machine that may well be true: nothing is seen that a stack mends."""
    core, how = kind(case.kind), case.setup().model_copy(update={"passes": 1})
    dull = case.instrument.model_copy(update={"repeatability_mm": 2.0})
    flat = readings((s.key, 1.0) for s in core.stations(how))
    stated = case.case().but(setup=how, readings=flat, stock=[], instrument=dull)
    if case.kind == "gib_shim":
        # two thicknesses alike are no taper
        with pytest.raises(Problem, match="no taper can be told"):
            core.weigh(stated)
        return
    weighed = core.weigh(stated)
    assert weighed.judgement.verdict == "too_close"
    assert core.advise(weighed).moves == []


@pytest.mark.parametrize("name", ["four corners", "many places"])
def test_stacks_of_these_heights_bring_the_rails_on_to_one_plane(
    name: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(Hands, "stack_mm", lambda self, n: 0.0)
    [case] = [c for c in PLAYED if c.name == name]
    core, how, mended = kind(case.kind), case.setup(), 0
    for seed in range(6):
        truth, weighed, moves = lacking(case, seed, [])
        for move in moves:
            after = apply(
                case.kind, cut_to_size(move), truth, case.machine, np.random.default_rng(1)
            )
            rng = np.random.default_rng(seed)
            again = core.weigh(
                weighed.but(readings=one_round(core, how, after, case.instrument, rng))
            )
            before, now = (w.finding.quantities[0].estimate for w in (weighed, again))
            mended += 1
            assert abs(now.value) <= 2 * now.expanded + 0.1 * abs(before.value), seed
    assert mended >= 3


def test_a_tin_that_serves_says_nothing_of_it() -> None:
    for case in PLAYED:
        core, how, rng = kind(case.kind), case.setup(), np.random.default_rng(3)
        truth = case.truth(rng, case.machine, how)
        read = one_round(core, how, truth, case.instrument, rng)
        for move in core.advise(core.weigh(case.case().but(readings=read))).moves:
            assert bool(move.wanted) <= (move.needs is not None), move.title.metric


@pytest.mark.parametrize(
    ("height", "metric"), [(0.0, "nothing"), (0.0004, "nothing"), (0.0006, "0.001 mm")]
)
def test_half_a_micrometre_is_no_shim_and_more_is_told_as_one(height: float, metric: str) -> None:
    stack = wanted("left", height)
    assert stack.words.metric == metric
    assert stack.amount_mm == (0.0 if metric == "nothing" else height)


@pytest.mark.parametrize(("lean", "nod"), [(0.9, 1e-17), (1e-17, -0.9), (0.5, -0.9)])
def test_only_sides_that_rise_are_named_and_what_is_missing_is_told_by_one_figure(
    lean: float, nod: float
) -> None:
    """All in the tin is far too thick for a column that leans a little; the dial is so dull that
    what does not lean at all is too close to call."""
    dull = FINE.model_copy(update={"repeatability_mm": 0.03})
    machine = starting_point("column_mill").model_copy(update={"head": None})
    seen = readings(swing(Spindle().leaning(lean, nod)))
    for stock in ([], [Shim(thickness_mm=3.0, count=9)]):
        case = case_of(TRAM, setup(), seen, dull, machine=machine, stock=stock)
        (move,) = TRAM.advise(TRAM.weigh(case)).moves
        told = move.title.metric
        assert ("right" in told or "left" in told) == (abs(lean) > 0.1)
        assert ("rear" in told or "front" in told) == (abs(nod) > 0.1)
        assert move.needs is not None
        if stock:
            highest = max(move.wanted, key=lambda w: w.amount_mm)
            assert f"the {highest.place} would take {highest.words.metric}" in move.needs.metric
