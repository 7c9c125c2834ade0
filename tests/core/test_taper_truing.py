"""A taper turned down on its bore, against a surface that a tool really cuts away."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.helpers import answers, case_of, readings
from truing.kit.instruments import PlungerDial
from truing.kit.tooling import Collet, Holder
from truing.machine import starting_point
from truing.measure.problem import Problem
from truing.registry import kind

TAPER = kind("taper_truing")
DIAL = PlungerDial(graduation_mm=0.0005, range_mm=10, repeatability_mm=0.0002)
MILL = starting_point("column_mill")
ENDS = {"thin": 0.0, "middle": 0.5, "thick": 1.0}


class Blank:
    """A grid of radii over angle and length that a cone takes material off."""

    def __init__(self, thin: complex, thick: complex, one_in: float = 20.0) -> None:
        turn = np.linspace(0, 2 * np.pi, 720, endpoint=False)
        where = np.linspace(0, 1, 41)
        self.taper = 60 * where / one_in / 2
        rows = []
        for w, more in zip(where, self.taper, strict=True):
            off = thin + (thick - thin) * w
            along = off.real * np.cos(turn) + off.imag * np.sin(turn)
            beside = off.imag * np.cos(turn) - off.real * np.sin(turn)
            rows.append(along + np.sqrt((9 + more) ** 2 - beside**2))
        self.reach = np.array(rows)
        self.first = float((self.reach - self.taper[:, None]).max())

    def cut(self, advance_mm: float) -> None:
        """To so far beyond the first touch."""
        cone = self.first - advance_mm + self.taper
        self.reach = np.minimum(self.reach, cone[:, None])

    def tir(self, place: str) -> float:
        row = self.reach[round(ENDS[place] * 40)]
        return float(np.ptp(row))

    def diameter(self, place: str) -> float:
        """Mean."""
        return float(2 * self.reach[round(ENDS[place] * 40)].mean())


def read(blank: Blank, flat: str = "uncut", bore: float = 0.0, **more: Any) -> Any:
    kit = more.pop("kit", {})
    how = TAPER.setup_type(**{"passes": 1, **more})
    swings = [("bore", bore), *((p, blank.tir(p)) for p in ENDS)]
    seen = [*readings(swings), *answers([("flat", flat)])]
    return TAPER.weigh(case_of(TAPER, how, seen, DIAL, machine=MILL, pieces=kit))


@pytest.mark.parametrize(("one_in", "less"), [(3.429, 0.01), (20.0, 0.0003)])
def test_a_plunger_square_to_the_side_shows_less_than_the_section_goes(
    one_in: float, less: float
) -> None:
    """A cone's side as a line that goes up and down, met by a plunger at right angles to it."""
    slope = 1 / (2 * one_in)
    # from the tip so far along the taper and so far out, at right angles to the side
    along, out = np.array([slope, 1.0]) / math.hypot(slope, 1)
    # a side that is h higher there is h − slope·x high at x: where does the plunger meet it?
    shown = 0.08 / (out + slope * along)
    assert shown == pytest.approx(0.08 * (1 - less), rel=2e-3)
    how = TAPER.setup_type(passes=1, one_in=one_in, plunger="side")
    swings = readings([("bore", 0.0), *((p, shown) for p in ENDS)])
    seen = [*swings, *answers([("flat", "uncut")])]
    found = TAPER.weigh(case_of(TAPER, how, seen, DIAL, machine=MILL))
    assert found.get("tir@thin").estimate.value == pytest.approx(0.08, rel=1e-6)


off = st.builds(complex, st.floats(-0.05, 0.05), st.floats(-0.05, 0.05))


@given(off, off, st.floats(0.01, 0.05))
def test_every_pass_leaves_what_was_foretold_until_it_is_clean(
    thin: complex, thick: complex, depth: float
) -> None:
    blank, cut = Blank(thin, thick), 0.0
    before = {p: blank.diameter(p) for p in ENDS}
    first = read(blank, pass_mm=depth)
    plan = first.finding.passes
    for p in plan:
        blank.cut(cut + p.advance_mm * p.number)
        for place in ENDS:
            assert p.left_mm[place] == pytest.approx(blank.tir(place), abs=3e-4)
    assert all(blank.tir(p) < 3e-4 for p in ENDS)
    worst = "thin" if abs(thin) > abs(thick) else "thick"
    lost = before[worst] - blank.diameter(worst)
    assert first.finding.off_mm == pytest.approx(lost, abs=3e-4)
    assert first.finding.deeper_mm == pytest.approx(lost * 20, abs=6e-3)


@given(off, off, st.floats(0.1, 0.9))
def test_a_plan_made_anew_half_way_goes_on_from_there(
    thin: complex, thick: complex, share: float
) -> None:
    blank = Blank(thin, thick)
    worst = 2 * max(abs(thin), abs(thick))
    blank.cut(share * worst)
    again = read(blank, pass_mm=0.01, cut_mm=share * worst)
    assert again.finding.off_mm == pytest.approx(worst, abs=5e-4)
    for p in again.finding.passes:
        blank.cut(share * worst + p.advance_mm * p.number)
        for place in ENDS:
            assert p.left_mm[place] == pytest.approx(blank.tir(place), abs=5e-4)


def test_the_dial_is_set_on_by_the_number_of_this_lathe_and_both_are_shown() -> None:
    for dial, said in (
        ("diameter", "0.060 mm on its diameter dial, which is 0.030 mm on the radius"),
        ("radius", "0.030 mm on its dial, which is 0.060 mm on the diameter"),
    ):
        case = read(Blank(0.03 + 0j, 0.01 + 0j), pass_mm=0.03, dial=dial)
        [move] = TAPER.advise(case).moves
        assert said in move.title.metric
        assert [a.amount_mm for a in move.amounts] == pytest.approx([0.03, 0.03], abs=3e-4)
        # half of 1 in 20 is 1.432°
        assert "1.432°" in move.steps[0].metric
        assert any("Lathe work" in c for c in move.cautions)
        after = TAPER.following(case.setup, move)
        assert after.cut_mm == pytest.approx(0.03, abs=3e-4)
        later = TAPER.advise(read(Blank(0.03 + 0j, 0.01 + 0j), pass_mm=0.03, cut_mm=0.02)).moves[0]
        assert "top slide to" not in later.steps[0].metric


def test_nothing_is_cut_before_the_bore_runs_true() -> None:
    advice = TAPER.advise(read(Blank(0.03 + 0j, 0j), bore=0.02))
    assert not advice.moves
    assert "Bring its bore to run true first" in advice.remarks[0].metric


def test_a_taper_without_room_to_seat_deeper_is_not_cut() -> None:
    # 0.06 off the diameter seats 1.2 mm deeper at 1 in 20, 0.2 at 7/24
    blank = Blank(0.03 + 0j, 0j)
    [move] = TAPER.advise(read(blank, room_mm=1.0)).moves
    assert "scrap it" in move.needs.metric
    assert "There is room for 1.00 mm only" in read(blank, room_mm=1.0).finding.lines[0].metric
    assert TAPER.advise(read(blank, room_mm=1.3)).moves[0].needs is None
    steep = read(Blank(0.03 + 0j, 0j, 3.429), one_in=3.429, room_mm=0.3)
    assert TAPER.advise(steep).moves[0].needs is None


def test_a_flat_that_was_seen_is_not_clean_however_little_the_dial_shows() -> None:
    true = Blank(0.001 + 0j, 0j)
    assert read(true, "clean", cut_mm=0.03).judgement.verdict == "true"
    left = read(true, "thin", cut_mm=0.03)
    assert left.judgement.verdict == "out"
    assert "A flat is left at the thin end" in left.judgement.sentence.metric
    assert TAPER.advise(left).moves
    # the middle cannot be worse than both ends while nothing has been cut
    bruised = Blank(0.001 + 0j, 0.001 + 0j)
    bruised.reach[20] += np.where(np.arange(720) < 8, 0.03, 0.0)
    assert any("bruise" in n.text.metric for n in read(bruised).finding.notes)


def test_what_is_missing_or_cannot_be_is_said() -> None:
    how = TAPER.setup_type(passes=1)
    for seen, message in (
        ([("bore", 0.0), ("thin", 0.01)], "The middle has not been read"),
        ([("thin", -0.02), ("middle", 0.0), ("thick", 0.0)], "cannot be below nothing"),
    ):
        with pytest.raises(Problem, match=message):
            TAPER.evaluate(case_of(TAPER, how, readings(seen), DIAL, machine=MILL))
    wrong = TAPER.setup_type(holder="c")
    for piece, fits in ((Collet(), False), (Holder(), True)):
        case = case_of(TAPER, wrong, dial=DIAL, machine=MILL, pieces={"c": piece})
        if fits:
            assert TAPER.expect(case)
        else:
            with pytest.raises(Problem, match="no holder"):
                TAPER.expect(case)
    assert TAPER.setup_type(one_in=24 / 7).slide_deg == pytest.approx(
        math.degrees(math.atan(7 / 48))
    )
