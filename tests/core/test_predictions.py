"""Whether what a move promises comes true: on machines that are moved here, by their own rules."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from tests.core.cases import CASES, IDS, Case
from tests.core.helpers import TRAM, case_of, readings, setup
from truing.contract.history import History, PastRound
from truing.kit.instruments import Level, PlungerDial
from truing.kit.shims import Shim
from truing.machine import Feet, Foot, Machine, starting_point
from truing.machine.parts import Head
from truing.measure.problem import Problem
from truing.moves.changes import move_made
from truing.registry import kind
from truing.standin.apply import apply
from truing.standin.evening import moved, one_round

DIAL = PlungerDial(graduation_mm=0.001, range_mm=10, repeatability_mm=0.001)
LIMITS = {"lean_x": 0.02, "nod": 0.02}


def swung(lean: float, rng: Any, past: list[PastRound]) -> Any:
    at = {"12": 0.0, "3": lean * 0.1, "6": 0.0, "9": -lean * 0.1}
    shown = [(k, v + rng.normal(0, 0.0005)) for _ in (1, 2) for k, v in at.items()]
    machine = Machine(head=Head(turns=True))
    history = History(sitting="now", past=past)
    case = case_of(TRAM, setup(), readings(shown), DIAL, history, limits=LIMITS, machine=machine)
    return TRAM.weigh(case)


@pytest.mark.parametrize("undone", [0.4, 0.2, -0.3])
def test_the_coach_promises_what_follows_once_it_knows_the_hand(undone: float) -> None:
    """A hand that leaves so much of every tap undone; from the third tap on that is allowed for."""
    inside, near = [], []
    for seed in range(60):
        rng = np.random.default_rng(seed)
        lean, past = float(rng.uniform(0.6, 1.0)), []
        for number in range(1, 4):
            case = swung(lean, rng, past)
            move = TRAM.advise(case).moves[0]
            values = {q.key: q.estimate for q in case.finding.quantities}
            made = move_made(move, case.finding.quantities)
            past = [*past, PastRound(number=number, sitting="now", values=values, move=made)]
            lean -= move.taken("lean_x") * (1 - undone) * rng.uniform(0.97, 1.03)
            if number < 3:
                # something knocks it out again, so that there is something to be learnt from
                lean += 0.7
                again = swung(lean - 0.7, rng, past)
                seen = {q.key: q.estimate for q in again.finding.quantities}
                past = [*past, PastRound(number=number, sitting="now", values=seen)]
        then = swung(lean, rng, past)
        found = next(q for q in then.finding.quantities if q.key == "lean_x").estimate
        told = move.predicted[0].after
        inside.append(abs(found.value - told.value) <= told.expanded)
        near.append(abs(found.value) < 0.1)
    assert np.mean(inside) >= 0.94
    assert np.mean(near) >= 0.9, "what the hand leaves undone is aimed past"


ENOUGH = 40
"""Foretold figures of a case, of which it can be said how often they are read."""
# the best seat may leave more than the limit; what it leaves is foretold all the same
PLAYED = [(c, i) for c, i in zip(CASES, IDS, strict=True) if c.mends or "turned" in c.name]


@pytest.mark.parametrize("case", [c for c, _ in PLAYED], ids=[i for _, i in PLAYED])
def test_what_is_predicted_is_read_afterwards(case: Case) -> None:
    """The first move of many machines, made by hands that land at about what was meant."""
    core, held = kind(case.kind), []
    # of tools in their seats only every other one is out, and has a seat that is better
    for seed in range(150):
        if len(held) >= ENOUGH:
            break
        rng = np.random.default_rng(1000 + seed)
        stated = case.case()
        truth = case.truth(rng, stated.machine, stated.setup)
        read = one_round(core, stated.setup, truth, stated.instrument, rng)
        known = core.weigh(stated.but(readings=read))
        if known.judgement.verdict == "true":
            continue
        move = next((m for m in core.advise(known).moves if m.needs is None), None)
        if move is None:
            continue
        truth = apply(core.key, move, truth, known.machine, rng)
        following = moved(core, known, move)
        read = one_round(core, following.setup, truth, following.instrument, rng)
        then = core.weigh(following.but(readings=read))
        for p in move.predicted:
            q = then.get(p.quantity)
            if q is not None:
                held.append(abs(q.estimate.value - p.after.value) <= p.after.expanded)
    assert held
    assert np.mean(held) >= 0.94 or held.count(False) == 1


# --- feet -----------------------------------------------------------------------------------------

LEVEL = kind("base_level")
MILL = starting_point("column_mill")
FINE_LEVEL = Level(sensitivity_mm_per_m=0.005, repeatability_mm=0.0001)


def levelled(school: str, feet: list[Foot], a: float, b: float, t: float, **more: Any) -> Any:
    machine = MILL.model_copy(update={"feet": Feet(places=feet, pitch_mm=1.0)})
    how = LEVEL.propose(machine).model_copy(update={"school": school, "way": "ends", **more})
    base = FINE_LEVEL.level_base_mm / 1000
    shown = []
    for s in LEVEL.stations(how):
        slope = a + t * s.y_mm / 1000 if s.lies == "x" else b + t * s.x_mm / 1000
        shown.append((s.key, (s.marked * slope + 0.04) * base))
    case = case_of(LEVEL, how, readings(shown), FINE_LEVEL, machine=machine)
    return LEVEL.weigh(case)


FOUR = [(-200.0, -100.0), (250.0, -100.0), (-200.0, 220.0), (250.0, 220.0)]
THREE = [(-200.0, -150.0), (200.0, -150.0), (0.0, 220.0)]


@pytest.mark.parametrize("places", [FOUR, THREE])
def test_feet_bring_the_base_where_it_is_promised(places: list[tuple[float, float]]) -> None:
    """The base follows its feet: the plane and, with four of them, the twist that they make."""
    a, b, t = 0.6, -0.4, 0.0 if len(places) == 3 else 0.5
    feet = [Foot(name=f"f{i}", x_mm=x, y_mm=y) for i, (x, y) in enumerate(places)]
    case = levelled("earth", feet, a, b, t)
    move = LEVEL.advise(case).moves[0]
    up = {m.place: m.amount_mm for m in move.amounts}
    rows = [[f.x_mm / 1000, f.y_mm / 1000, 1.0, f.x_mm * f.y_mm / 1e6] for f in feet]
    design = np.array(rows)[:, : len(feet)]
    change = np.linalg.lstsq(design, np.array([up[f.name] for f in feet]), rcond=None)[0]
    then = {"slope_x": a + change[0], "slope_y": b + change[1]}
    if len(feet) == 4:
        then["twist"] = t + change[3]
    for p in move.predicted:
        assert then[p.quantity] == pytest.approx(p.after.value, abs=5e-3)
    assert {p.quantity for p in move.predicted} == set(then)


@pytest.mark.parametrize(("aside", "behind"), [(0.0, 0.0), (300.0, 0.0), (-200.0, 500.0)])
def test_a_base_freed_of_its_twist_is_not_tilted_for_it(aside: float, behind: float) -> None:
    """However far its feet stand from the middle of the base."""
    places = [(x, y) for y in (-150.0, 150.0) for x in (-200.0, 200.0)]
    feet = [Foot(name=f"f{i}", x_mm=x + aside, y_mm=y + behind) for i, (x, y) in enumerate(places)]
    move = LEVEL.advise(levelled("twist", feet, 0.0, 0.0, 2.0)).moves[0]
    up = {m.place: m.amount_mm for m in move.amounts}
    lifted = np.array([up.get(f.name, 0.0) for f in feet])
    design = np.array([[x / 1000, y / 1000, 1.0, x * y / 1e6] for x, y in places])
    slope_x, slope_y, _, twist = np.linalg.solve(design, lifted)
    assert [slope_x, slope_y, twist] == pytest.approx([0, 0, -2], abs=1e-6)


def test_three_feet_promise_nothing_of_a_twist_that_they_cannot_take_out() -> None:
    feet = [Foot(name=f"f{i}", x_mm=x, y_mm=y) for i, (x, y) in enumerate(THREE)]
    case = levelled("earth", feet, 0.6, -0.4, 0.5)
    move = LEVEL.advise(case).moves[0]
    assert {p.quantity for p in move.predicted} == {"slope_x", "slope_y"}
    assert any("Three feet cannot" in n.metric for n in move.notes)


def test_a_level_that_was_only_read_turned_tells_nothing() -> None:
    """Its own error stands in every reading alike: half a turn apart they would tell it."""
    feet = [Foot(name=f"f{i}", x_mm=x, y_mm=y) for i, (x, y) in enumerate(FOUR)]
    case = levelled("twist", feet, 0.0, 0.3, 0.0)
    turned = {s.key for s in LEVEL.stations(case.setup) if s.marked == -1}
    read = [r for r in case.readings if r.station in turned]
    with pytest.raises(Problem, match="cannot be told"):
        LEVEL.evaluate(case.but(readings=read))
    slope = next(q for q in case.finding.quantities if q.key == "slope_y").estimate
    assert slope.value == pytest.approx(0.3)


# --- the zero of the dial -------------------------------------------------------------------------


@pytest.mark.parametrize("key", ["rail_straight", "screw_centre", "spindle_tram"])
def test_needle_targets_are_told_as_the_dial_stands_now(key: str) -> None:
    """The dial is set to zero in the middle of the round; what it shows from then on is less."""
    case = next(c for c in CASES if c.kind == key)
    core = kind(key)
    rng = np.random.default_rng(8)
    stated = case.case(limits=dict.fromkeys(core.tolerances(case.machine), 0.001))
    truth = case.truth(rng, stated.machine, stated.setup)
    read = one_round(core, stated.setup, truth, stated.instrument, rng)
    on = read[len(read) // 2]
    zeroed = [
        r.model_copy(update={"zeroed_on": on.id, "shown_mm": r.shown_mm - on.shown_mm})
        if i > len(read) // 2
        else r
        for i, r in enumerate(read)
    ]

    def figures(case: Any) -> list[str]:
        moves = core.advise(core.weigh(case)).moves
        told = [t.words.metric for m in moves for t in m.targets]
        return told + [a.detail.metric for m in moves for a in m.amounts if a.detail]

    def numbers(texts: list[str]) -> list[float]:
        words = " ".join(texts).replace("\N{MINUS SIGN}", "-").replace("+", " ").split()
        return [float(w) for w in words if w.lstrip("-")[:1].isdigit()]

    before, after = figures(stated.but(readings=read)), figures(stated.but(readings=zeroed))
    assert before
    was, now = numbers(before), numbers(after)
    size = stated.instrument.read(f"1 {stated.instrument.unit}").mm
    assert np.array(was) - np.array(now) == pytest.approx(
        np.full(len(was), on.shown_mm / size), abs=2.1 * stated.instrument.step_mm / size
    )


def test_a_rail_that_is_shimmed_is_read_off_its_own_line() -> None:
    """Through its ends, as the set-up says: the narrowest zone would promise too much."""
    core, machine = kind("rail_straight"), starting_point("gantry_router")
    how = core.propose(machine).model_copy(
        update={"plane": "height", "line": "ends", "edge_within_mm": 0.0, "passes": 2}
    )
    stock = [Shim(thickness_mm=t, count=20) for t in (0.02, 0.05, 0.1)]
    held = []
    for seed in range(40):
        rng = np.random.default_rng(seed)
        high = dict(zip(how.places_mm, rng.normal(0, 0.08, len(how.places_mm)), strict=True))

        def read(high: dict[float, float] = high, rng: Any = rng) -> Any:
            shown = [(f"{x:g}", v + rng.normal(0, 0.001)) for _ in (1, 2) for x, v in high.items()]
            stated = case_of(core, how, readings(shown), DIAL, machine=machine, stock=stock)
            return core.weigh(stated)

        move = core.advise(read()).moves[0]
        after = {
            x: high[x] + sum(s.after_mm) + rng.normal(0, 0.001)
            for x, s in zip(high, move.stacks, strict=True)
        }
        told = move.predicted[0].after
        found = read(after).finding.straightness
        held.append(abs(found.value - told.value) <= told.expanded)
    assert np.mean(held) >= 0.94
