"""What the kit is good for: which instrument is told to be used, what stated errors do, and whether
what is promised of a reading or a move comes out so."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from pydantic import TypeAdapter, ValidationError

from tests.core.helpers import NOTHING, TRAM, about, case_of, evaluate, readings, setup
from truing.checks.common import after, expectation
from truing.contract.gather import gather
from truing.contract.suggest import suggest
from truing.contract.tin import tins
from truing.kit.instruments import (
    Caliper,
    Instrument,
    Level,
    LeverDial,
    PlungerDial,
    Rule,
    ScaleTrigger,
)
from truing.kit.tooling import PIECE_TITLES, Collet, Cutter, Holder, Piece, Square
from truing.machine import starting_point
from truing.measure.problem import Problem
from truing.moves.shims import sold_near
from truing.registry import kind

MILL = starting_point("column_mill")
COARSE = PlungerDial(graduation_mm=0.1, repeatability_mm=0.05)
USUAL = PlungerDial(graduation_mm=0.01, repeatability_mm=0.003)
FINE = LeverDial(graduation_mm=0.002, repeatability_mm=0.001)


def ranked(*kit: Instrument, check: Any = TRAM, **stated: Any) -> Any:
    """What is suggested of these, by their place in the kit."""
    how = setup(radius_mm=115, radius_u_mm=0.5, **stated) if check is TRAM else stated["how"]
    named = [(str(i), f"No {i}", instrument) for i, instrument in enumerate(kit)]
    return suggest(check, lambda dial: case_of(check, how, dial=dial, machine=MILL), named)


def test_the_finest_that_suits_comes_first_and_says_what_to_expect() -> None:
    told = ranked(COARSE, Rule(), FINE, USUAL)
    # a rule cannot read a tram at all
    assert [c.id for c in told.choices] == ["2", "3", "0"]
    shares = [c.share for c in told.choices]
    assert shares == sorted(shares)
    assert [c.enough for c in told.choices] == [s <= 0.25 for s in shares]
    assert told.choices[0].enough
    assert not told.choices[-1].enough
    assert told.none is None
    assert "of" in told.choices[0].words.metric
    for choice, instrument in zip(told.choices, (FINE, USUAL, COARSE), strict=True):
        limits = TRAM.tolerances(MILL)
        how = setup(radius_mm=115, radius_u_mm=0.5)
        told_alone = TRAM.expect(case_of(TRAM, how, dial=instrument, machine=MILL, limits=limits))
        assert choice.share == pytest.approx(told_alone.expanded / told_alone.tolerance)


def test_of_equals_the_usual_one_comes_first_and_a_coarse_kit_is_told_so() -> None:
    twin = LeverDial(graduation_mm=USUAL.graduation_mm, repeatability_mm=USUAL.repeatability_mm)
    takes = TRAM.takes(setup())
    first = min((USUAL, twin), key=lambda i: takes.index(i.type))
    for kit in ((USUAL, twin), (twin, USUAL)):
        assert kit[int(ranked(*kit).choices[0].id)].type == first.type
    none = ranked(COARSE).none
    assert none is not None
    assert "No 0 comes nearest" in none.metric
    with pytest.raises(Problem, match="no instrument") as told:
        ranked(Rule())
    assert told.value.field == "instrument"


def test_one_that_cannot_be_used_as_described_hides_no_other() -> None:
    level = kind("base_level")
    how = level.propose(MILL)
    unknown, known = Level(base_mm=200), Level(sensitivity_mm_per_m=0.02)
    assert [c.id for c in ranked(unknown, known, check=level, how=how).choices] == ["1"]
    with pytest.raises(Problem) as told:
        ranked(unknown, check=level, how=how)
    assert told.value.field == "instrument"
    # where nothing is needed, an empty kit is no trouble
    walk = kind("inspection")
    assert ranked(check=walk, how=walk.propose(MILL)).choices == []


@pytest.mark.parametrize(("share", "enough"), [(0.24, True), (0.25, True), (0.26, False)])
def test_a_quarter_of_the_limit_decides(share: float, enough: bool) -> None:
    told = expectation(share * 0.1, 0.1, "slope")
    assert told.enough is enough
    assert ("more than a quarter" in told.text.metric) is not enough
    assert "never call it true" not in told.text.metric
    assert "never call it true" in expectation(0.11, 0.1, "slope").text.metric


def test_a_stated_error_counts_only_when_readings_differ_by_more_than_a_few_divisions() -> None:
    dial = PlungerDial(graduation_mm=0.01, repeatability_mm=0.001, error_mm=0.05)
    step = dial.step_mm

    def u(apart: float, with_: PlungerDial) -> float:
        how = setup(passes=1)
        read = readings([("12", 0.0), ("3", apart), ("6", 0.0), ("9", 0.0)])
        got = gather(case_of(TRAM, how, dial=with_, read=read), TRAM.stations(how))
        return got.combine({"3": 1.0})[0].expanded

    exact = dial.model_copy(update={"error_mm": 0.0})
    assert u(5.9 * step, dial) == u(5.9 * step, exact)
    # half of it either way at one place, beside the other doubt and not in quadrature
    assert u(6.1 * step, dial) - u(6.1 * step, exact) == pytest.approx(0.05 / 2)


def test_a_second_reading_falls_within_what_was_predicted_as_often_as_promised() -> None:
    rng = np.random.default_rng(5)
    scatter, u = 0.05, 0.01
    inside = []
    for _ in range(4000):
        true, aimed = rng.normal(0, 0.4), 0.0
        seen = true + rng.normal(0, u)
        moved = true + (aimed - seen) * (1 + rng.normal(0, scatter / 2))
        again = moved + rng.normal(0, u)
        told = after(about(seen, 2 * u), aimed, scatter)
        assert told.value == aimed
        inside.append(abs(again - told.value) <= told.expanded)
    assert 0.94 < np.mean(inside) < 0.97


def test_the_expected_u_comes_out_for_every_number_of_passes() -> None:
    dial = PlungerDial(graduation_mm=0.01, repeatability_mm=0.004)
    rng = np.random.default_rng(3)
    wide = {}
    for passes in (1, 2, 4):
        how = setup(passes=passes)
        told = TRAM.expect(case_of(TRAM, how, dial=dial, machine=MILL)).expanded
        errors = []
        for _ in range(400):
            read = [
                (s.key, float(np.round(rng.normal(0, 0.004) / 0.005) * 0.005))
                for _ in range(passes)
                for s in TRAM.stations(how)
            ]
            found = evaluate(TRAM, how, readings(read), dial, NOTHING)
            errors.append(found.quantities[0].estimate.value)
        wide[passes] = told
        # what is read to a step does not average out, and is promised in full
        assert 0.55 * told < 2 * np.std(errors) < 1.1 * told
    assert wide[1] > wide[2] > wide[4]


@pytest.mark.parametrize(
    ("wanted", "near", "below"),
    [(0.36, 0.35, 0.35), (0.39, 0.4, 0.35), (1.9, 2.0, 1.5), (0.001, 0.01, 0.01), (9, 2.0, 2.0)],
)
def test_what_could_be_bought_is_what_is_sold(wanted: float, near: float, below: float) -> None:
    assert sold_near(wanted) == near
    assert sold_near(wanted, below=True) == below


def test_pieces_are_kept_by_their_sort_and_refuse_what_cannot_be() -> None:
    pieces: Any = TypeAdapter(Piece)
    for piece in (
        Holder(mark="H1", taper="2 Morse"),
        Collet(mark="C6", series="ER 20", size_mm=6),
        Cutter(mark="E6", diameter_mm=6, teeth=3, shank_mm=6, most_rev_per_min=20_000),
    ):
        assert pieces.validate_python(piece.model_dump(mode="json")) == piece
        assert piece.type in PIECE_TITLES
    for wrong in (
        {"type": "collet", "size_mm": 0},
        {"type": "tool", "teeth": 0},
        {"type": "tool", "teeth": 41},
        {"type": "tool", "diameter_mm": -1},
        {"type": "tool", "diameter_mm": 301},
        {"type": "collet", "size_mm": 61},
        {"type": "holder", "holds": "hope"},
        {"type": "spoon"},
        {"type": "holder", "size_mm": 6},
    ):
        with pytest.raises(ValidationError):
            pieces.validate_python(wrong)


def test_calipers_and_triggers_tell_the_same_length_by_their_own_steps() -> None:
    for instrument in (Caliper(resolution_mm=0.01), ScaleTrigger(resolution_mm=0.01)):
        assert instrument.read("12.34 mm").mm == pytest.approx(12.34)
        assert instrument.read("0.5 in").mm == pytest.approx(12.7)
        assert instrument.step_mm == 0.01


def test_a_tin_is_ranked_by_size_with_its_limit_and_without_what_was_never_read() -> None:
    def collet(tir: float | None, size: float = 6.0, **more: Any) -> Collet:
        return Collet(series="ER 20", size_mm=size, tir_mm=tir, tir_expanded_mm=0.002, **more)

    small, six = tins(
        [
            ("bent", collet(0.05)),
            ("new", collet(None)),
            ("best", collet(0.004)),
            ("alone", collet(0.01, size=3.0)),
            ("doubtful", collet(0.019)),
            ("done", collet(0.03, retired=True)),
        ]
    )
    assert (small.title.metric, six.title.metric) == ("ER 20, 3.0 mm", "ER 20, 6.0 mm")
    assert [r.name for r in six.rows] == ["best", "doubtful", "done", "bent"]
    assert [r.sort for r in six.rows] == ["good", "doubt", "retired", "bad"]
    assert [r.name for r in small.rows] == ["alone"]
    assert (six.limit_mm, six.limit_words.metric) == (0.02, "0.020 mm")
    best = six.rows[0]
    assert (best.low_mm, best.high_mm) == (pytest.approx(0.002), pytest.approx(0.006))


def test_what_was_read_of_a_piece_counts_only_with_its_doubt() -> None:
    square = Square(own_mm_per_m=-0.123, own_expanded_mm_per_m=0.02)
    assert (square.own.value, square.own.expanded) == (-0.123, 0.02)
    assert square.found.metric == "edge leans toward the tip by 0.12 ± 0.02 mm/m"
    away = Square(own_mm_per_m=0.123, own_expanded_mm_per_m=0.02)
    assert away.found.metric == "edge leans away from the tip by 0.12 ± 0.02 mm/m"
    collet = Collet(tir_mm=0.01, tir_expanded_mm=0.002, own_tir_mm=0.004, own_expanded_mm=0.001)
    assert collet.found.metric == (
        "adds 0.0040 ± 0.0010 mm TIR by itself; "
        "ran out by 0.010 ± 0.002 mm TIR as it was put together last"
    )
    # how well it is known is not known: it is none
    assert Square(own_mm_per_m=-0.123).own is None
    assert Square(own_mm_per_m=-0.123).found is None
    assert Collet(tir_mm=0.01).tir is None
    bare = Collet(tir_mm=0.01, tir_expanded_mm=0.002, own_tir_mm=0.004)
    assert bare.found.metric == "ran out by 0.010 ± 0.002 mm TIR as it was put together last"
