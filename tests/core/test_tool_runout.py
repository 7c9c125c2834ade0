"""What is put into a spindle: who adds what, as a rigid body turns; and what the cut sees of it."""

from __future__ import annotations

import cmath
import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.helpers import about, case_of, known, readings
from truing.checks.tool_runout.setup import visits
from truing.checks.tool_runout.vectors import bad_seat, design
from truing.contract.history import History, PastRound
from truing.effects.runout import good_for, least_cutter_mm, tooth_load
from truing.kit.instruments import PlungerDial
from truing.kit.tooling import Collet, Cutter, Holder, Nut, Pin
from truing.machine import starting_point
from truing.measure.estimate import Estimate
from truing.measure.problem import Problem
from truing.measure.spread import Spread
from truing.registry import kind
from truing.standin.evening import one_round
from truing.standin.truth import PieceTruth, ToolingTruth, Truth

RUNOUT = kind("tool_runout")
DIAL = PlungerDial(graduation_mm=0.001, range_mm=10, repeatability_mm=0.0003)
MILL = starting_point("column_mill")
EXACT = {"passes": 1, "pin_mm": 0.0}


class Chain:
    """Lines one in the other that turn about Z: each part has an offset and a tilt in the frame of
    the part that it sits in. The tip comes from +X, `z` is the height above the face."""

    def __init__(self, **parts: tuple[complex, complex]) -> None:
        self.parts = {"spindle": (0j, 0j), **parts}

    def centre(self, z: float, angles: dict[str, float], spindle: Any = 0.0) -> Any:
        """Where the end stands in the room, with the spindle turned, or each of many turns."""
        at, turned = 0j, spindle
        for slot in ("spindle", "holder", "collet", "nut", "tool"):
            off, tilt = self.parts.get(slot, (0j, 0j))
            turned += angles.get(slot, 0.0)
            at += (off + tilt * z / 1000) * np.exp(1j * turned)
        return at

    def shown(self, mark: Any, z: float, angles: dict[str, float], on_tool: bool = False) -> Any:
        """Pushed in, with the spindle turned until a mark, on it or on the tool, faces the tip."""
        turned = -mark - (sum(angles.values()) if on_tool else 0.0)
        at = self.centre(z, angles, turned)
        return at.real + np.sqrt(3.0**2 - at.imag**2) - 3.0

    def tir(self, z: float, angles: dict[str, float] | None = None) -> float:
        """Highest less lowest over a whole turn."""
        return float(np.ptp(self.shown(np.linspace(0, 2 * math.pi, 721), z, angles or {})))


def read(chain_: Chain, /, *, swaps: dict[str, Chain] | None = None, **more: Any) -> Any:
    pieces, lent = more.pop("kit", {}), more.pop("lent", ())
    off = more.pop("off", {})
    names = {k: more.get("called", {}).get(k, k) for k in pieces}
    more.pop("called", None)
    how = RUNOUT.setup_type(**{**EXACT, **more}).named(names)
    made = visits(how)
    seen = []
    for s in RUNOUT.stations(how):
        visit = made[s.visit]
        at = (swaps or {}).get(visit.candidate, chain_)
        if how.reads == "swing":
            value = at.tir(s.at_mm, dict(visit.angles))
        else:
            value = at.shown(s.angle_rad, s.at_mm, dict(visit.angles), how.marks_on == "above")
        # something lies in one of the seats
        extra = off.get(s.visit, 0.0) * math.cos(s.angle_rad)
        seen.append((s.key, value + extra))
    case = case_of(RUNOUT, how, readings(seen), DIAL, machine=MILL, pieces=pieces, known=lent)
    return RUNOUT.weigh(case)


def said(case: Any) -> str:
    words = [*(n.text for n in case.finding.notes), *case.finding.lines]
    return " ".join(w.metric for w in words)


def remarks(case: Any) -> str:
    return " ".join(r.metric for r in RUNOUT.advise(case).remarks)


small = st.builds(complex, st.floats(-0.02, 0.02), st.floats(-0.02, 0.02))
tilts = st.builds(complex, st.floats(-0.2, 0.2), st.floats(-0.2, 0.2))


@given(
    *(small, small, small, small),
    st.sampled_from([2, 3, 4, 6]),
    st.sampled_from(["below", "above"]),
    st.sampled_from(["tool", "pin"]),
)
def test_turning_each_joint_tells_what_each_part_adds(
    spindle: complex,
    holder: complex,
    collet: complex,
    pin: complex,
    seats: int,
    marks_on: str,
    what: str,
) -> None:
    chain = Chain(spindle=(spindle, 0j), holder=(holder, 0j), collet=(collet, 0j), tool=(pin, 0j))
    case = read(
        chain,
        way="index",
        turned=["holder", "collet", "tool"],
        seats=seats,
        marks_on=marks_on,
        what=what,
    )
    found = [complex(k.x_mm, k.y_mm) for k in case.finding.links]
    # the surface of a pin bulges by r²/2R, which the dial sees
    assert found == pytest.approx([spindle, holder, collet, pin], abs=1.5e-3)
    # a pin that was split off is read in place of the tool, and is no part of what is judged
    parts = [spindle, holder, collet, pin if what == "tool" else 0j]
    assert case.get("tool").estimate.value == pytest.approx(2 * abs(sum(parts)), abs=3e-3)
    if what == "tool":
        assert case.get("tool").estimate.value == pytest.approx(chain.tir(25.0), abs=3e-3)
    for link, one in zip(case.finding.links, parts, strict=True):
        assert link.without.value == pytest.approx(2 * abs(sum(parts) - one), abs=3e-3)


@given(small, small, tilts, tilts)
def test_the_best_seat_is_the_best_of_all_seats(
    spindle: complex, holder: complex, lean: complex, tilt: complex
) -> None:
    chain = Chain(spindle=(spindle, lean), holder=(holder, tilt))
    case = read(chain, way="index", seats=3, heights_mm=[40])
    [seat] = case.finding.seats
    there = chain.tir(40, {"holder": math.radians(seat.degrees)})
    best = min(chain.tir(40, {"holder": 2 * math.pi * k / 90}) for k in range(90))
    assert there <= best + 1e-3
    assert seat.tir.value == pytest.approx(there, abs=1e-3)
    # keys leave only the seats that were read
    keyed = read(chain, way="index", seats=2, heights_mm=[40], fits="these").finding.seats[0]
    assert keyed.degrees in (pytest.approx(0.0), pytest.approx(180.0))
    halves = [chain.tir(40, {"holder": a}) for a in (0.0, math.pi)]
    assert keyed.tir.value == pytest.approx(min(halves), abs=1.5e-3)


@given(small, small, st.sampled_from([3, 4, 6]))
def test_swings_at_three_seats_give_the_pair(a: complex, b: complex, seats: int) -> None:
    case = read(Chain(spindle=(a, 0j), holder=(b, 0j)), way="index", reads="swing", seats=seats)
    more, less = (case.get(k).estimate for k in ("larger", "smaller"))
    for estimate, true in ((more, 2 * max(abs(a), abs(b))), (less, 2 * min(abs(a), abs(b)))):
        assert estimate.least - 1e-3 <= true <= estimate.most + 1e-3
    if abs(abs(a) - abs(b)) > 0.004:
        assert more.value == pytest.approx(2 * max(abs(a), abs(b)), abs=2e-3)


@given(small, small, small, st.sampled_from(["angles", "swing"]))
def test_a_swap_tells_the_difference_and_never_one_alone(
    holder: complex, one: complex, other: complex, reads: str
) -> None:
    first, second = (Chain(holder=(holder, 0j), collet=(c, 0j)) for c in (one, other))
    kit = {"a": Collet(), "b": Collet()}
    case = read(
        first, swaps={"b": second}, way="swap", collet="a", compared=["b"], reads=reads, kit=kit
    )
    against = case.get("against:b").estimate
    assert against.least - 1e-3 <= 2 * abs(other - one) <= against.most + 1e-3
    if reads == "angles":
        assert against.value == pytest.approx(2 * abs(other - one), abs=1e-3)
    assert case.get("with:b").estimate.value == pytest.approx(2 * abs(holder + other), abs=1e-3)
    assert "What it adds alone" in said(case)
    assert not case.finding.links


def test_the_tin_is_ranked_and_the_best_one_put_in() -> None:
    tin = {"a": 0.018, "b": 0.004, "c": 0.03, "d": 0.001}
    chains = {k: Chain(collet=(complex(v), 0j)) for k, v in tin.items()}
    kit = {k: Collet(series="ER 11", retired=k == "d") for k in tin}
    case = read(
        chains["a"], swaps=chains, way="swap", collet="a", compared=["b", "c", "d"], kit=kit
    )
    assert [t.piece for t in case.finding.tried] == ["d", "b", "a", "c"]
    [row, *_] = next(f for f in RUNOUT.figures(case) if f.type == "ranked").rows
    assert row.sort == "retired"
    # one that was retired is not put in again
    [move] = RUNOUT.advise(case).moves
    assert (move.about, move.taken("tool")) == ("b", pytest.approx(0.028, abs=1e-3))
    after = RUNOUT.following(case.setup, move)
    assert (after.way, after.collet) == ("plain", "b")
    # what was read is kept with each of them, but for what they add by themselves
    kept = {t.piece: t.figures for t in case.finding.teaches}
    assert kept["c"]["tir_mm"] == pytest.approx(0.06, abs=1e-3)
    assert set(kept) == set(tin)
    assert "own_tir_mm" not in kept["c"]


def test_pieces_that_are_alike_are_neither_ranked_nor_put_in() -> None:
    """Two collets with the same error, each seated anew three times, read by a dial that scatters:
    which reads less is luck."""
    rng, runs, swapped = np.random.default_rng(6), 120, 0
    how = RUNOUT.setup_type(**EXACT, way="swap", collet="a", compared=["b"], again=3, marks=6)
    made = visits(how)
    for _ in range(runs):
        seat = [complex(*rng.normal(0, how.seat_mm / 4, 2)) for _ in made]
        seen = [
            (s.key, (v := seat[s.visit] + 0.02).real * math.cos(s.angle_rad)
             + v.imag * math.sin(s.angle_rad) + rng.normal(0, 0.0003))
            for s in RUNOUT.stations(how)
        ]  # fmt: skip
        kit = {k: Collet() for k in "ab"}
        case = RUNOUT.weigh(case_of(RUNOUT, how, readings(seen), DIAL, machine=MILL, pieces=kit))
        swapped += bool(RUNOUT.advise(case).moves)
        if not next(t.less for t in case.finding.tried if t.piece == "b").visible:
            assert "cannot be told from" in said(case)
            assert [t.piece for t in case.finding.tried] == ["a", "b"]
    assert swapped / runs <= 0.04


def test_every_piece_of_a_swap_is_held_against_the_limit() -> None:
    """The one that is in runs true, two others do not: not *true*, and nothing to move."""
    tin = {"a": 0.001, "b": 0.03, "c": 0.04}
    chains = {k: Chain(collet=(complex(v), 0j)) for k, v in tin.items()}
    kit = {k: Collet() for k in tin}
    case = read(chains["a"], swaps=chains, way="swap", collet="a", compared=["b", "c"], kit=kit)
    verdicts = {j.quantity: j.verdict for j in case.judgement.judged}
    assert verdicts == {"tool": "true", "with:b": "out", "with:c": "out"}
    assert not RUNOUT.advise(case).moves
    assert "Keep b and c" in remarks(case)


def test_a_dirty_seat_of_a_swap_is_named_and_nothing_is_true_by_it() -> None:
    chains = {k: Chain(collet=(complex(v), 0j)) for k, v in {"a": 0.001, "b": 0.002}.items()}
    kit = {k: Collet() for k in chains}
    stated = {"way": "swap", "collet": "a", "compared": ["b"], "again": 3, "kit": kit}
    assert "dirt" not in said(read(chains["a"], swaps=chains, **stated))
    case = read(chains["a"], swaps=chains, off={3: 0.03}, **stated)
    assert case.finding.pointed_out.station.startswith("3:")
    assert case.judgement.verdict != "true"
    assert not case.finding.teaches


def test_a_joint_that_was_turned_is_kept_with_its_piece_and_priced() -> None:
    kit = {
        "h": Holder(series="ER 11", price=40.0),
        "c": Collet(series="er-11", price=12.0),
        "p": Pin(stated_mm=0.001),
    }
    chain = Chain(
        spindle=(0.002 + 0j, 0j), holder=(0.003j, 0j), collet=(0.02 + 0j, 0j), tool=(0.0005j, 0j)
    )
    case = read(
        chain,
        way="index",
        turned=["holder", "collet", "tool"],
        holder="h",
        collet="c",
        tool="p",
        kit=kit,
        called={"h": "the chuck", "c": "the 6 mm collet", "p": "the pin"},
    )
    own = [t for t in case.finding.teaches if "own_tir_mm" in t.figures]
    kept = {t.piece: t.figures["own_tir_mm"] for t in own}
    assert kept == {"h": pytest.approx(0.006, abs=1e-3)}
    words = said(case)
    # the collet was turned with its nut, so that the two share what they add
    assert "Most of it is the 6 mm collet and the nut" in words
    assert "No holder or collet gets below that" in words
    alone = read(
        Chain(holder=(0.02 + 0j, 0j), tool=(0.001 + 0j, 0j)),
        way="index",
        seats=4,
        chain="holder",
        turned=["holder", "tool"],
        holder="h",
        tool="p",
        kit=kit,
        called={"h": "the chuck", "p": "the pin"},
    )
    # 0.04 TIR at 40 is 1 for each micrometre
    assert "it costs 40: 1.0" in said(alone)
    # the pin was turned itself, so that it is no doubt and no part of what is judged
    assert alone.get("tool").estimate.value == pytest.approx(0.04, abs=1e-3)


def test_a_pin_is_doubt_by_all_that_it_may_run_out_by() -> None:
    true = Chain(collet=(0.002 + 0j, 0j))
    assert read(true).judgement.verdict == "true"
    assert read(true, pin_mm=0.02).judgement.verdict == "too_close"
    assert (
        read(true, tool="p", pin_mm=0.0, kit={"p": Pin(stated_mm=0.02)}).judgement.verdict
        == "too_close"
    )
    assert read(true, what="tool", pin_mm=0.02).judgement.verdict == "true"


def test_a_seat_with_dirt_in_it_is_named_and_only_that_one() -> None:
    chain = Chain(spindle=(0.003 + 0j, 0j), holder=(0.004j, 0j))
    clean = read(chain, way="index", seats=6)
    assert "dirt" not in said(clean)
    dirty = read(chain, way="index", seats=6, off={4: 0.03})
    note = next(n for n in dirty.finding.notes if "dirt" in n.text.metric)
    assert "240° on stands off" in note.text.metric
    assert note.station.startswith("4:")
    assert dirty.get("tool").estimate.expanded > 3 * clean.get("tool").estimate.expanded


@pytest.mark.parametrize("value", [0j, 0.01 + 0.02j])
def test_seats_that_agree_to_the_last_digit_accuse_none(value: complex) -> None:
    how = RUNOUT.setup_type(**EXACT, way="index", turned=["holder"], seats=6)
    matrix = design(how, visits(how))
    values = list(matrix @ np.full(matrix.shape[1], value))
    with np.errstate(all="raise"):
        assert bad_seat(matrix, values, 0.0) is None
        values[2] += 0.003
        assert bad_seat(matrix, values, 0.0) == (2, pytest.approx(0.003, rel=0.6))


def test_two_things_changed_at_once_tell_nothing() -> None:
    then = known("tool_runout", subject="pieces:h+c", **{"tir@25": about(0.03, 0.002, "length")})
    kit = {"h": Holder(), "c2": Collet(), "h2": Holder()}
    chain = Chain(collet=(0.005 + 0j, 0j))
    one = read(chain, holder="h", collet="c2", kit=kit, lent=[then])
    assert "only c2 is new" in said(one)
    # the swings alone are known: anything from their difference to their sum
    assert "0.02 to 0.04 mm of TIR" in said(one)
    both = read(chain, holder="h2", collet="c2", kit=kit, lent=[then])
    assert "nothing is told of either" in said(both)
    same = read(chain, holder="h", collet="c2", kit=kit, heights_mm=[40], lent=[then])
    assert "is new" not in said(same)


def test_what_tells_most_next_splits_what_is_unknown() -> None:
    worn = Chain(collet=(0.03 + 0j, 0j))
    plain = read(worn)
    assert "the collet: turn it in its seat" in " ".join(
        r.metric for r in RUNOUT.advise(plain).remarks
    )
    assert [a.kind for a in RUNOUT.advise(plain).asks] == ["spindle_runout"]
    # a spindle that is known leaves the doubt further out
    floor = known("spindle_runout", nose=about(0.004, 0.001, "length"))
    lent = read(worn, lent=[floor])
    assert not RUNOUT.advise(lent).asks
    known_collet = {"c": Collet(own_tir_mm=0.002, own_expanded_mm=0.001)}
    less = read(worn, collet="c", kit=known_collet)
    assert "the holder: turn it in the spindle" in " ".join(
        r.metric for r in RUNOUT.advise(less).remarks
    )
    assert RUNOUT.advise(read(Chain())).remarks == []
    # where hardly anything is left to be told apart nothing is asked for
    every = ["holder", "collet"]
    done = read(worn, way="index", turned=every, kit={"p": Pin(stated_mm=0.001)}, tool="p")
    assert "would tell most" not in remarks(done)


@pytest.mark.parametrize(
    ("kit", "stated", "message", "field"),
    [
        ({"h": Holder(series="ER 20"), "c": Collet(series="ER 11")}, {}, "takes ER 20", "collet"),
        ({"n": Nut(series="ER 20"), "c": Collet(series="ER11")}, {}, "takes ER 20", "nut"),
        ({"c": Collet(size_mm=6), "t": Pin(shank_mm=5)}, {}, "5.50 mm to 6.00 mm", "collet"),
        ({"c": Collet(size_mm=6), "t": Cutter(shank_mm=6.35)}, {}, "holds", "collet"),
        ({"c": Holder()}, {}, "is no collet", "collet"),
        (
            {"c": Collet(size_mm=6), "t": Pin()},
            {"compared": ["big"], "way": "swap"},
            "holds",
            "compared",
        ),
        ({}, {"cuts_at_mm": 60}, "nothing is told of another", "cuts_at_mm"),
    ],
)
def test_pieces_that_do_not_go_together_are_refused_before_they_are_read(
    kit: dict[str, Any], stated: dict[str, Any], message: str, field: str
) -> None:
    slots = {"h": "holder", "c": "collet", "n": "nut", "t": "tool"}
    chain = {slots[k]: k for k in kit}
    how = RUNOUT.setup_type(**{**EXACT, **chain, **stated})
    case = case_of(RUNOUT, how, dial=DIAL, machine=MILL, pieces={**kit, "big": Collet(size_mm=8)})
    with pytest.raises(Problem, match=message) as refused:
        RUNOUT.expect(case)
    assert refused.value.field == field
    assert refused.value.expected


def test_a_seat_that_repeats_poorly_is_to_be_taken_twice() -> None:
    """Where it alone is more than a quarter of the limit; a plain reading has one seat."""
    coarse = PlungerDial(graduation_mm=0.01, range_mm=10, repeatability_mm=0.01)
    for way, share, dial, told in (
        ("index", 0.4, DIAL, True),
        ("index", 0.2, coarse, False),
        ("plain", 0.4, coarse, False),
    ):
        limit = RUNOUT.tolerances(MILL)["tool"]
        more = {"way": way, "seat_mm": share * limit, "pin_mm": 0.0}
        how = RUNOUT.propose(MILL).model_copy(update=more)
        words = RUNOUT.expect(case_of(RUNOUT, how, dial=dial, machine=MILL)).text.metric
        assert "more than a quarter" in words
        assert ("seat each of them twice" in words) == told, (way, share, words)


@pytest.mark.parametrize(
    ("stated", "message"),
    [
        ({"way": "swap"}, "Name at least one"),
        ({"way": "swap", "chain": "holder", "compared": ["x"]}, "no collet in this chain"),
        ({"way": "index", "chain": "collet", "turned": ["holder"]}, "not in this chain"),
        ({"way": "index", "turned": []}, "at least 1"),
        ({"way": "index", "reads": "swing", "seats": 2}, "two swings"),
        ({"way": "index", "reads": "swing", "turned": ["holder", "tool"]}, "one joint at a time"),
        ({"heights_mm": [20, 21]}, "tells no tilt"),
        ({"marks": 2}, "greater than or equal to 3"),
    ],
)
def test_what_could_tell_nothing_is_refused(stated: dict[str, Any], message: str) -> None:
    with pytest.raises(ValueError, match=message):
        RUNOUT.setup_type(**stated)


def test_what_was_named_for_a_swap_is_no_part_of_another_way() -> None:
    """A form keeps what was ticked while its way is changed back and forth."""
    chain = {"chain": "collet", "collet": "a", "compared": ["b", "c"]}
    swapped = RUNOUT.setup_type(way="swap", swapped="collet", **chain)
    assert set(swapped.pieces) >= {"a", "b", "c"}
    alone = RUNOUT.setup_type(way="plain", **chain)
    assert set(alone.pieces) == {"a"}
    assert alone.candidates == ()


def test_half_a_plan_says_what_is_missing() -> None:
    def first(n: int, **more: Any) -> None:
        how = RUNOUT.setup_type(**{**EXACT, **more})
        keys = [(s.key, 0.01) for s in RUNOUT.stations(how) if s.visit < n]
        RUNOUT.evaluate(case_of(RUNOUT, how, readings(keys), DIAL, machine=MILL))

    with pytest.raises(Problem, match="The holder has not been read in a second seat"):
        first(1, way="index")
    with pytest.raises(Problem, match="Only one of them"):
        first(1, way="swap", compared=["x"])
    with pytest.raises(Problem, match="Fewer than three seats"):
        first(2, way="index", reads="swing")
    how = RUNOUT.setup_type(**{**EXACT, "reads": "swing"})
    with pytest.raises(Problem, match="cannot be below nothing"):
        RUNOUT.evaluate(case_of(RUNOUT, how, readings([("0:25", -0.05)]), DIAL, machine=MILL))
    some = [("0:25:1", 0.0), ("0:25:2", 0.01)]
    how = RUNOUT.setup_type(**EXACT)
    with pytest.raises(Problem, match="do not go round"):
        RUNOUT.evaluate(case_of(RUNOUT, how, readings(some), DIAL, machine=MILL))


def test_a_height_that_was_not_read_is_not_told_from_another() -> None:
    """What leans is small at the face and large where it cuts: half of the plan calls nothing
    true."""
    leaning = Chain(collet=(0j, 0.5 + 0j))
    how = RUNOUT.setup_type(**{**EXACT, "heights_mm": [5, 60]})
    plan = [s for s in RUNOUT.stations(how) if s.at_mm == 5]
    near = [(s.key, leaning.shown(s.angle_rad, 5, {})) for s in plan]
    with pytest.raises(Problem, match="60 mm out has not been read"):
        RUNOUT.evaluate(case_of(RUNOUT, how, readings(near), DIAL, machine=MILL))
    assert read(leaning, heights_mm=[5, 60]).judgement.verdict == "out"


def test_a_pin_that_is_swapped_is_doubt_as_well() -> None:
    kit = {"p": Pin(stated_mm=0.02), "q": Pin(stated_mm=0.001)}
    case = read(
        Chain(tool=(0.002 + 0j, 0j)), way="swap", swapped="tool", tool="p", compared=["q"], kit=kit
    )
    assert case.judgement.verdict == "too_close"


def test_every_turn_of_a_seat_is_read_before_the_next() -> None:
    how = RUNOUT.setup_type(way="index", seats=2, marks=3, passes=2, heights_mm=[10, 40])
    order: list[Any] = []
    while (station := RUNOUT.next_station(how, readings(order))) is not None:
        order.append((station.key, 0.0))
    seats = [key.split(":")[0] for key, _ in order]
    assert seats == ["0"] * 12 + ["1"] * 12


# --- the cut --------------------------------------------------------------------------------------


@given(st.floats(0.0, 0.2), st.integers(1, 8), st.floats(0.01, 0.1), st.floats(0, 2 * math.pi))
def test_no_tooth_takes_more_than_is_foretold(
    tir: float, teeth: int, chip: float, phase: float
) -> None:
    """Against teeth that go round on a feed, each cutting away what stands before it."""
    outs = [tir / 2 * math.cos(2 * math.pi * k / teeth + phase) for k in range(teeth)]
    surface, thickest = -math.inf, 0.0
    for step in range(teeth * 12):
        reach = step * chip + outs[step % teeth]
        if step >= teeth * 4:
            thickest = max(thickest, reach - surface)
        surface = max(surface, reach)
    foretold = tooth_load(tir, teeth, chip)
    assert thickest / chip <= foretold + 1e-6
    assert 1 - 1e-9 <= foretold <= teeth + 1e-9


def test_the_load_of_a_tooth_is_that_of_the_book_while_all_cut() -> None:
    for teeth, tir, chip in ((2, 0.01, 0.02), (3, 0.01, 0.05), (4, 0.02, 0.05)):
        assert tir * math.sin(math.pi / teeth) <= chip
        book = 1 + tir * math.sin(math.pi / teeth) / chip
        assert tooth_load(tir, teeth, chip) == pytest.approx(book, rel=1e-4)
    # one tooth does it all where the others do not reach
    assert tooth_load(0.2, 2, 0.02) == pytest.approx(2.0)


def test_small_cutters_are_spared_by_a_tenth_of_their_chip() -> None:
    assert least_cutter_mm(0.0005, 0.02) == pytest.approx(0.5)
    assert least_cutter_mm(0.002, 0.02) == pytest.approx(2.0)
    assert least_cutter_mm(0.01, 0.02) == 3.0
    assert least_cutter_mm(0.021, 0.02) is None
    for value, doubt, told in (
        (0.001, 0.0005, "cutters from 1.5 mm"),  # to the next tenth, but not past a whole one
        (0.001, 0.00051, "cutters from 1.6 mm"),
        (0.006, 0.001, "cutters from 3.0 mm"),
        (0.019, 0.002, "no cutter that can be told yet"),
        (0.03, 0.002, "no cutter: it is beyond the limit"),
    ):
        assert good_for(Estimate.within("length", value, doubt), 0.02).metric.startswith(told)
    kit = {"t": Cutter(diameter_mm=2, shank_mm=3, teeth=2)}
    case = read(Chain(collet=(0.004 + 0j, 0j)), what="tool", tool="t", chip_mm=0.01, kit=kit)
    words = said(case)
    assert "takes 1.8 times its share" in words
    assert "a tenth of its chip, 0.0010 mm" in words
    assert "cutters from 3.0 mm" in words


def test_the_scatter_of_seats_is_covered() -> None:
    """±U holds in about 95 of 100 when each seat comes back a little elsewhere."""
    rng = np.random.default_rng(7)
    spindle, holder = 0.006 + 0.002j, -0.003 + 0.005j
    held = {"spindle": 0, "holder": 0}
    n = 150
    for _ in range(n):
        off = rng.normal(0, 0.001, (6, 2))
        how = RUNOUT.setup_type(**{**EXACT, "way": "index", "seats": 3, "again": 2})
        made = visits(how)
        seen = []
        for s in RUNOUT.stations(how):
            turned = made[s.visit].angles.get("holder", 0.0)
            at = spindle + holder * np.exp(1j * turned) + complex(*off[s.visit])
            value = (at * cmath.exp(-1j * s.angle_rad)).real + rng.normal(0, 0.0003)
            seen.append((s.key, round(value / 0.0005) * 0.0005))
        case = RUNOUT.weigh(case_of(RUNOUT, how, readings(seen), DIAL, machine=MILL))
        for name, true in (("spindle", spindle), ("holder", holder)):
            link = next(k for k in case.finding.links if k.slots[0] == name)
            held[name] += abs(link.x_mm - true.real) <= link.expanded_mm
    for name, count in held.items():
        assert 0.92 <= count / n <= 1.0, name


def test_what_was_seen_of_seats_before_counts_with_what_is_seen_now() -> None:
    """Few seats tell little of how far they scatter; as many again from earlier evenings, more."""
    how = RUNOUT.setup_type(**{**EXACT, "way": "index", "seats": 3, "again": 2})
    truth = Truth(tooling=ToolingTruth(seats_mm={"holder": 0.0012}))
    read = one_round(RUNOUT, how, truth, DIAL, np.random.default_rng(5))

    def played(*earlier: Spread) -> Any:
        past = [
            PastRound(number=n, way="index", values={}, spreads={"seat": s})
            for n, s in enumerate(earlier)
        ]
        return RUNOUT.weigh(case_of(RUNOUT, how, read, DIAL, History(past=past), machine=MILL))

    def told(*earlier: Spread) -> float:
        return float(played(*earlier).finding.links[1].expanded_mm)

    own = played().finding.spreads["seat"]
    alike = Spread(ss_mm2=own.ss_mm2 * 10, dof=own.dof * 10)
    assert told(alike) < 0.9 * told()
    # a seat that was worse before is not taken for better than it was
    worse = Spread(ss_mm2=alike.ss_mm2 * 25, dof=alike.dof)
    assert told(worse) > 3 * told(alike)
    assert told(worse, Spread()) == told(worse)


def test_a_worn_seat_widens_what_is_told_of_it() -> None:
    """The stand-in's holder comes back elsewhere each time: six seats show it."""
    how = RUNOUT.setup_type(**{**EXACT, "way": "index", "seats": 6})

    def played(sd_mm: float) -> Any:
        piece = PieceTruth(off_x_mm=0.006)
        tooling = ToolingTruth(pieces={"holder": piece}, seats_mm={"holder": sd_mm})
        truth = Truth(tooling=tooling)
        read = one_round(RUNOUT, how, truth, DIAL, np.random.default_rng(2))
        return RUNOUT.weigh(case_of(RUNOUT, how, read, DIAL, machine=MILL))

    sound, worn = played(0.0), played(0.006)
    assert worn.finding.spreads["seat"].s_mm == pytest.approx(0.006, rel=0.6)
    assert sound.finding.spreads["seat"].s_mm < 0.0015
    link = [c.finding.links[1].expanded_mm for c in (sound, worn)]
    assert link[1] > 3 * link[0]
    assert abs(worn.finding.links[1].x_mm - 0.006) <= worn.finding.links[1].expanded_mm


@pytest.mark.parametrize(
    ("condition", "told"),
    [
        ("rust", "Er 16 was seen with rust: its seat may not repeat."),
        ("worn", "Er 16 was seen to be worn: its seat may not repeat."),
        ("sound", ""),
        ("", ""),
    ],
)
def test_what_was_seen_of_a_piece_makes_its_readings_doubtful(condition: str, told: str) -> None:
    kit = {"c": Collet(condition=condition, retired=condition == "worn")}
    case = read(Chain(), what="tool", collet="c", kit=kit, called={"c": "er 16"})
    words = said(case)
    assert told in words
    assert ("may not repeat" in words) == bool(told)
    assert ("Er 16 was retired from work." in words) == (condition == "worn")
