"""What stands in the second line of an advice, a drawing or a tolerance, and is read only by who
looks twice."""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from tests.core.helpers import evaluate, figures, readings
from tests.core.test_drive import CENTRE, DIAL, LOST, MILL, PROOF, ROUTER, chased, driven, stated
from tests.core.test_predictions import swung
from tests.core.test_stand_and_slides import played
from truing.contract.history import History, PastRound
from truing.machine import Machine, Slide
from truing.measure.estimate import Estimate
from truing.measure.extremes import peak_to_valley, worst_of
from truing.measure.words import show_limits
from truing.moves.changes import done, move_made
from truing.moves.pivot import aim
from truing.registry import kind


def test_rollers_are_set_by_feel_and_told_to_the_micrometre() -> None:
    machine = Machine(slides=[Slide(direction="left_right", gib="rollers")])
    _, advice, _ = played(machine, (0.0532, 0.0532, 0.0532))
    for amount in advice.moves[0].amounts:
        assert amount.turns == 0
        assert amount.words.metric == "until the shake just goes"
        assert amount.detail.metric == "about 0.046 mm of play"


@pytest.mark.parametrize(
    ("undone", "told"), [(0.4, "left about 40% undone"), (-0.3, "went about 30% too far")]
)
def test_what_a_hand_does_is_said_where_it_is_allowed_for(undone: float, told: str) -> None:
    rng = np.random.default_rng(0)
    past: list[PastRound] = []
    for lean in (1.0, 0.8):
        case = swung(lean, rng, past)
        move = kind("spindle_tram").advise(case).moves[0]
        values = {q.key: q.estimate for q in case.finding.quantities}
        made = move_made(move, case.finding.quantities)
        past = [*past, PastRound(number=1, sitting="now", values=values, move=made)]
        left = lean - move.taken("lean_x") * (1 - undone)
        seen = swung(left, rng, past).finding.quantities
        past = [*past, PastRound(number=2, sitting="now", values={q.key: q.estimate for q in seen})]
    found = aim("lean_x", 0.9, "head_pivot", History(sitting="now", past=past))
    assert found.share_left == pytest.approx(undone, abs=0.03)
    # going for 0.9/(1 − undone) leaves nothing
    assert (0.9 - found.aim) * (1 - undone) == pytest.approx(0.9, abs=0.03)
    assert found.left == 0
    final = swung(0.9, rng, past)
    move = kind("spindle_tram").advise(final).moves[0]
    notes = " ".join(n.metric for n in move.notes)
    assert told in notes
    assert ("goes past zero" in notes) == (undone > 0)


def test_one_way_of_a_screw_is_told_though_the_other_was_read_at_one_end_only() -> None:
    how = stated(CENTRE, apart_mm=500, passes=1)
    shown = []
    for block, at in {"0v": (1.3, 0.8, 1.4), "0h": (0.5, 0.2, 0.8), "1h": (0.62, 0.3, 0.9)}.items():
        shown += [(f"{block}:{n}", v) for n, v in zip(("now", "low", "high"), at, strict=True)]
    finding = evaluate(CENTRE, how, readings(shown), DIAL, History())
    assert len(finding.blocks) == 3
    assert len(finding.lines) == 1, "a slope takes two ends"
    assert "+0.040" in finding.lines[0].metric


def test_making_a_move_leaves_the_description_it_was_made_on_alone() -> None:
    move = next(m for m in chased((0.06,) * 3, ROUTER)[2].moves if m.key == "compensate")
    before = ROUTER.model_dump()
    after = done(move, ROUTER)
    assert ROUTER.model_dump() == before
    assert after.model_dump() != before


def test_feeds_are_told_whole() -> None:
    ladder = driven(
        stated(
            PROOF,
            ROUTER,
            proven=True,
            start=1001,
            step=1002,
            top=3005,
            fixed=800,
            wanted=100,
            travel_mm=300,
        ),
        ("1001", "clean", 0.0),
        ("2003", "stalls", 0.4),
    )
    entry = PROOF.advise(ladder).moves[0].entries[0]
    assert entry.words.metric == "1001 mm/min"
    drawn = figures(PROOF, ladder.setup, ladder.finding)[0]
    assert [r.label.metric for r in drawn.rungs][:2] == ["1001 mm/min", "2003 mm/min"]
    assert drawn.recommended_words.metric == "1001 mm/min"


@pytest.mark.parametrize(
    ("low", "high", "metric", "inch"),
    [
        (0.0193, 0.0223, "0.019 to 0.022 mm", "0.00076 to 0.00088 in"),
        (0.0, 0.0091, "at most 0.009 mm", "at most 0.0004 in"),
        (1.25, 1.75, "1.2 to 1.8 mm", "0.05 to 0.07 in"),
    ],
)
def test_a_range_is_told_with_the_digits_it_carries(
    low: float, high: float, metric: str, inch: str
) -> None:
    words = show_limits(low, high, "length")
    assert (words.metric, words.inch) == (metric, inch)


def test_limits_of_a_size_follow_what_is_done_to_it() -> None:
    found = Estimate.within("length", -0.05, 0.01)
    assert (found.least, found.most) == (pytest.approx(0.04), pytest.approx(0.06))
    ranged = found.between(-1.0, 0.07)
    assert (ranged.least, ranged.most) == (0.0, 0.07)
    assert not ranged.visible
    doubled = ranged.times(-2, "slope")
    assert doubled.limits is not None
    assert (doubled.limits.low, doubled.limits.high) == (0.0, 0.14)
    wide = found.between(0.02, 0.07).widened(0.03)
    assert (wide.least, wide.most) == (0.0, pytest.approx(0.10))
    assert wide.expanded == pytest.approx(0.04)
    # a bound is no deviation: it counts whole, and as a rectangle in u
    assert found.widened(0.03).u == pytest.approx((0.005**2 + 0.03**2 / 3) ** 0.5)


def test_the_worst_place_is_named_whatever_its_sign() -> None:
    places = [Estimate.within("length", v, 0.002) for v in (0.01, -0.03, 0.02)]
    at, found = worst_of(places)
    assert at == 1
    assert found.value == -0.03
    assert found.most == pytest.approx(0.032)
    # of one place alone the limits are nearly those of ±
    _, alone = worst_of(places[:1])
    assert alone.least == pytest.approx(0.008, abs=3e-4)
    with pytest.raises(ValueError, match="empty"):
        worst_of([])


def test_more_places_take_more_to_be_told_from_nothing() -> None:
    quiet = [peak_to_valley([0.0, 0.01] + [0.005] * n, 0.004).least for n in (0, 3, 10, 40)]
    assert all(a >= b for a, b in itertools.pairwise(quiet))
    assert quiet[0] > quiet[-1]
    assert peak_to_valley([], 0.004).value == 0


def test_a_machine_without_links_read_says_where_to_look_first() -> None:
    _, _, advice, _ = chased((0.06,) * 3, MILL)
    assert advice.moves[0].about == "nut"
    assert "tells bearing from nut" in advice.remarks[0].metric
    places = LOST.propose(MILL).places_mm
    assert places[0] == -places[-1] < 0, "from the middle, to both sides alike"
