"""The spindle itself: how far it gives, and where it runs to as a rigid body turns."""

from __future__ import annotations

import cmath
import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.helpers import about, answers, case_of, known, readings, setup
from truing.checks.common import changes_figure
from truing.contract.history import History, PastRound
from truing.contract.trends import trends
from truing.kit.instruments import PlungerDial
from truing.machine import starting_point
from truing.measure.problem import Problem
from truing.measure.words import plain
from truing.registry import kind

PLAY, TRAM, RUNOUT = kind("spindle_play"), kind("spindle_tram"), kind("spindle_runout")
DIAL = PlungerDial(graduation_mm=0.001, range_mm=10, repeatability_mm=0.0005)
MILL = starting_point("column_mill")


def pushed(across: tuple[float, float], along: float, feel: str = "drag", **more: Any) -> Any:
    stated = {k: more.pop(k) for k in ("way", "nose_mm") if k in more}
    how = PLAY.setup_type(passes=1, **stated)
    shown = zip(("across_x", "across_y", "along"), (*across, along), strict=True)
    read = [*readings(shown), *answers([("feel", feel)])]
    return PLAY.weigh(case_of(PLAY, how, read, DIAL, machine=MILL, **more))


def test_the_worse_direction_is_judged_whichever_way_the_dial_counts() -> None:
    for across in ((0.002, -0.03), (-0.03, 0.002)):
        case = pushed(across, 0.001)
        radial = case.get("radial").estimate
        assert radial.value == pytest.approx(0.03)
        assert case.judgement.verdict == "out"
        way = "front–back" if abs(across[1]) > abs(across[0]) else "left–right"
        assert f"gives by {case.get('radial').words.metric}, {way}" in (
            case.judgement.sentence.metric
        )
    assert pushed((0.002, 0.001), 0.002).judgement.verdict == "true"


def test_a_rough_or_binding_spindle_is_out_however_little_it_gives() -> None:
    for feel, said, done in (("rough", "no preload mends it", True), ("binds", "too tight", False)):
        case = pushed((0.001, 0.001), 0.001, feel)
        assert case.judgement.verdict == "out"
        assert said in case.judgement.sentence.metric
        advice = PLAY.advise(case)
        assert not advice.moves
        assert ("replace them" in advice.remarks[0].metric) == done
    # loose and smooth, it is closed a little; loose and rough, it is not
    [move] = PLAY.advise(pushed((0.03, 0.0), 0.0)).moves
    assert move.mechanism == "spindle_bearing"
    assert move.taken("radial") == pytest.approx(0.025)
    assert not PLAY.advise(pushed((0.03, 0.0), 0.0, "rough")).moves


def test_warm_is_compared_with_cold() -> None:
    past = [
        PastRound(
            number=1, sitting="a", way="cold", values={"radial": about(0.02, 0.001, "length")}
        )
    ]
    warm = pushed((0.012, 0.0), 0.0, way="warm", history=History(sitting="b", past=past))
    assert "less than cold" in warm.finding.lines[0].metric
    assert "0.008" in warm.finding.lines[0].metric
    # read the other way round it is the same: warm then, cold now
    values = {"radial": about(0.012, 0.001, "length")}
    earlier = [PastRound(number=1, sitting="a", way="warm", values=values)]
    cold = pushed((0.02, 0.0), 0.0, history=History(sitting="b", past=earlier))
    assert cold.finding.lines[0].metric == warm.finding.lines[0].metric
    same = pushed((0.0201, 0.0), 0.0, way="warm", history=History(sitting="b", past=past))
    assert "cannot be told apart" in same.finding.lines[0].metric
    assert pushed((0.012, 0.0), 0.0).finding.lines == []


def test_play_further_out_is_told_as_such_and_held_against_nothing_else() -> None:
    values = {"radial": about(0.02, 0.001, "length")}
    past = [PastRound(number=1, sitting="b", way="warm", values=values)]
    history = History(sitting="b", past=past)
    out = pushed((0.03, 0.0), 0.0, nose_mm=80.0, history=history)
    assert "80 mm out it gives by 0.028" in out.judgement.sentence.metric
    assert "Dial on the bar, 80 mm out" in PLAY.stations(out.setup)[0].prompt.metric
    assert out.finding.lines == []
    assert "at the nose before" in PLAY.advise(out).remarks[0].metric
    assert not any(
        "at the nose before" in r.metric for r in PLAY.advise(pushed((0.03, 0), 0)).remarks
    )
    # at the same distance it is compared
    there = past[0].model_copy(update={"condition": "warm, 80 mm out"})
    again = pushed((0.03, 0.0), 0.0, nose_mm=80.0, history=History(sitting="b", past=[there]))
    assert "less than cold" in again.finding.lines[0].metric


def test_warm_and_cold_are_no_rounds_of_one_series() -> None:
    """Read cold, a touch of preload, read warm: that is no “better”, and no step of a waterfall."""
    values = {"radial": about(0.02, 0.001, "length")}
    past = [PastRound(number=1, sitting="b", way="cold", values=values, did="Preload")]
    history = History(sitting="b", past=past)
    warm = pushed((0.012, 0.0), 0.0, way="warm", history=history)
    assert trends(warm, []) == []
    assert changes_figure(warm, "radial", plain("")) == []
    cold = pushed((0.012, 0.0), 0.0, way="cold", history=history)
    assert [t.sense for t in trends(cold, [])] == ["better"]
    assert len(changes_figure(cold, "radial", plain(""))[0].bars) == 3


def test_a_spindle_that_shakes_makes_its_tram_doubtful_and_says_so() -> None:
    how = setup(passes=1)
    read = readings([(s.key, 0.0) for s in TRAM.stations(how)])

    def told(play: float, fresh: bool = True) -> bool:
        found = known("spindle_play", fresh=fresh, radial=about(play, 0.002, "length"))
        lent = found.model_copy(update={"limits": {"radial": 0.01}})
        case = case_of(TRAM, how, read, DIAL, machine=MILL, known=[lent])
        notes = TRAM.evaluate(case).notes
        return any("shakes in its bearings" in n.text.metric for n in notes)

    assert told(0.03)
    assert not told(0.005)
    # one that was mended since is no doubt any more
    assert not told(0.03, fresh=False)


# --- runout ---------------------------------------------------------------------------------------


class Bar:
    """A bar in a spindle as a line in space that turns about Z with it, the nose at z = 0 and z
    growing away from it; its surface may have lobes. The tip comes from +X."""

    def __init__(
        self,
        bore: tuple[complex, complex],
        bar: tuple[complex, complex] = (0, 0),
        lobes: dict[int, float] | None = None,
    ) -> None:
        self.bore, self.bar, self.lobes = bore, bar, lobes or {}

    def centre(self, z: float, seat: int) -> complex:
        """Its middle in the spindle's frame (mm); tilts are mm/m."""
        bore = self.bore[0] + self.bore[1] * z / 1000
        return bore + (self.bar[0] + self.bar[1] * z / 1000) * (-1) ** seat

    def shown(self, mark: float, z: float, seat: int = 0) -> float:
        """Pushed in, with the spindle turned until this mark faces the tip."""
        turned = self.centre(z, seat) * cmath.exp(-1j * mark)
        surface = 10 + sum(a * math.cos(n * (mark - seat * math.pi)) for n, a in self.lobes.items())
        return turned.real + math.sqrt(surface**2 - turned.imag**2) - 10

    def tir(self, z: float) -> float:
        """Of the spindle's own share."""
        return 2 * abs(self.bore[0] + self.bore[1] * z / 1000)


def turned(bar: Bar, **more: Any) -> Any:
    how = RUNOUT.setup_type(**{"passes": 1, "bar_mm": 0.0, **more})
    seen = [
        (
            s.key,
            bar.shown(s.angle_rad, s.at_mm, s.seat) if how.way == "angles" else swing(bar, s.at_mm),
        )
        for s in RUNOUT.stations(how)
    ]
    return RUNOUT.weigh(case_of(RUNOUT, how, readings(seen), DIAL, machine=MILL))


def swing(bar: Bar, z: float) -> float:
    seen = [bar.shown(2 * math.pi * k / 720, z) for k in range(720)]
    return max(seen) - min(seen)


small = st.builds(complex, st.floats(-0.02, 0.02), st.floats(-0.02, 0.02))
tilts = st.builds(complex, st.floats(-0.2, 0.2), st.floats(-0.2, 0.2))


@given(small, tilts, st.sampled_from([5, 6, 9, 24]), st.floats(-0.01, 0.01))
def test_runout_and_tilt_are_those_of_a_line_that_turns(
    off: complex, tilt: complex, marks: int, oval: float
) -> None:
    bar = Bar((off, tilt), lobes={2: oval})
    case = turned(bar, marks=marks, distances_mm=[10, 110], stick_out_mm=[60])
    for key, z in (("nose", 0.0), ("tir@110", 110.0), ("stick_out@60", 60.0)):
        assert case.get(key).estimate.value == pytest.approx(bar.tir(z), abs=1e-3)
    assert case.get("tilt").estimate.value == pytest.approx(abs(tilt), abs=0.02)
    found = case.finding.circles[0]
    assert complex(found.x_mm, found.y_mm) == pytest.approx(bar.centre(10, 0), abs=5e-4)
    assert found.oval_mm == pytest.approx(abs(oval), abs=5e-4)


@pytest.mark.parametrize("marks", ["0, 50, 130°, 175 260 300", "0; 72.5; 140; 215; 290"])
def test_marks_need_not_be_evenly_round(marks: str) -> None:
    """A slanting, oval bar by marks where they are; its doubt the way that they tell worst is
    enough."""
    bar = Bar((0.012 + 0.004j, 0.1), lobes={2: 0.01})
    case = turned(bar, marks_deg=marks, distances_mm=[10, 110])
    assert case.get("nose").estimate.value == pytest.approx(bar.tir(0), abs=1e-3)
    assert case.finding.circles[0].oval_mm == pytest.approx(0.01, abs=5e-4)
    assert not any("out of round for" in n.text.metric for n in case.finding.notes)


def test_marks_that_crowd_say_what_they_cannot_tell() -> None:
    crowded = "0, 30, 60, 90, 225"
    case = turned(Bar((0.012, 0)), marks_deg=crowded, distances_mm=[10])
    assert case.get("nose").estimate.value == pytest.approx(0.024, abs=1e-3)
    assert any("as uneven as these" in n.text.metric for n in case.finding.notes)
    # they scatter most between the axes: noisy turns whose high side lies there, and across
    rng, inside = np.random.default_rng(3), []
    how = RUNOUT.setup_type(passes=1, bar_mm=0.0, marks_deg=crowded, distances_mm=[10])
    dial = DIAL.model_copy(update={"repeatability_mm": 0.002, "hysteresis_mm": 0.0})
    for high in np.radians([45, 135]):
        held = 0
        for _ in range(800):
            noisy = readings(
                (s.key, 0.1 * math.cos(s.angle_rad - high) + rng.normal(0, 0.002))
                for s in RUNOUT.stations(how)
            )
            nose = RUNOUT.weigh(case_of(RUNOUT, how, noisy, dial, machine=MILL)).get("nose")
            held += nose.estimate.least <= 0.2 <= nose.estimate.most
        inside.append(held / 800)
    assert 0.95 <= min(inside) <= 0.99, inside
    for marks, why in (
        ("30, 120, 240", "from the first one, which is 0"),
        ("0, 100, 90", "does not go on round"),
        ("0, 10, 20", "do not go round"),
        ("0, 90, 400", "does not go on round"),
        ([0.0, 120.0, 120.0], "each after the one before"),
        ("0, east", "does not go on round"),
    ):
        with pytest.raises(ValueError, match=why):
            RUNOUT.setup_type(marks_deg=marks)


def test_what_few_angles_mistake_for_runout_is_said() -> None:
    """An oval leaks whole into three angles, three lobes into four; neither into six."""
    oval, lobed = Bar((0, 0), lobes={2: 0.02}), Bar((0, 0), lobes={3: 0.02})
    for bar, marks, leaks in (
        (oval, 3, 0.04),
        (oval, 4, 0.0),
        (oval, 6, 0.0),
        (lobed, 4, 0.04),
        (lobed, 6, 0.0),
    ):
        case = turned(bar, marks=marks, distances_mm=[20])
        assert case.get("nose").estimate.value == pytest.approx(leaks, abs=2e-3), marks
        told = [n for n in case.finding.notes if "Six do not" in n.text.metric]
        assert bool(told) == (marks < 5)
    assert any("out of round" in line.metric for line in turned(oval).finding.lines)


@given(small, small, tilts)
def test_a_bar_seated_half_round_drops_out(off: complex, own: complex, tilt: complex) -> None:
    bar = Bar((off, tilt), bar=(own, 0.05))
    case = turned(bar, seats="half", distances_mm=[5, 105], bar_mm=0.05)
    assert case.get("nose").estimate.value == pytest.approx(2 * abs(off), abs=1.5e-3)
    # seated twice nothing of it is left to doubt
    assert case.get("tir@105").estimate.expanded < 0.01
    assert case.finding.bar_tir_mm == pytest.approx(2 * abs(own + 0.05 * 0.105), abs=1.5e-3)


def test_a_bar_of_unknown_truth_is_doubt_by_all_that_it_may_be() -> None:
    true = Bar((0.001, 0))
    assert turned(true).judgement.verdict == "true"
    doubtful = turned(true, bar_mm=0.02)
    assert doubtful.judgement.verdict == "too_close"
    assert "seat it twice" in RUNOUT.expect(doubtful).text.metric
    said = " ".join(r.metric for r in RUNOUT.advise(doubtful).remarks)
    assert "Seated a second time" in said
    # in the taper there is no bar
    assert turned(true, surface="taper", distances_mm=[-5], bar_mm=0.02).judgement.verdict == "true"


@given(small, tilts)
def test_one_swing_gives_bounds_that_hold(off: complex, tilt: complex) -> None:
    bar = Bar((off, tilt))
    case = turned(bar, way="swing", distances_mm=[10, 110], stick_out_mm=[60, 200])
    for key, z in (("nose", 0.0), ("stick_out@60", 60.0), ("stick_out@200", 200.0)):
        limits = case.get(key).estimate.limits
        assert limits.low - 1e-4 <= bar.tir(z) <= limits.high + 1e-4
    if case.judgement.verdict == "true":
        assert bar.tir(0) <= 0.01 + 1e-4
    if case.judgement.verdict == "out":
        assert max(bar.tir(0) / 0.01, bar.tir(60) / 0.02, bar.tir(200) / 0.02) > 1 - 1e-2


def test_the_bound_that_decides_gives_the_verdict() -> None:
    # both ways round it is out; either way it may be true
    assert turned(Bar((0.02, 0)), way="swing").judgement.verdict == "out"
    assert turned(Bar((0.001, 0)), way="swing").judgement.verdict == "true"
    # near at one end, far at the other: it may cross or not
    doubtful = turned(Bar((0.003, 0.05)), way="swing", stick_out_mm=[])
    assert doubtful.judgement.verdict == "too_close"
    assert any("tells no direction" in n.text.metric for n in doubtful.finding.notes)
    outs = [j.way_out.text.metric for j in doubtful.judgement.judged if j.way_out]
    assert outs
    assert all("at angles by a mark" in text for text in outs)


def test_what_cannot_tell_a_centre_is_refused() -> None:
    how = RUNOUT.setup_type(passes=1, marks=6, distances_mm=[20])
    near = [(f"0:20:{k}", 0.01) for k in (1, 2)]
    with pytest.raises(Problem, match="do not go round"):
        RUNOUT.evaluate(case_of(RUNOUT, how, readings(near), DIAL, machine=MILL))
    with pytest.raises(ValueError, match="tells no tilt"):
        RUNOUT.setup_type(distances_mm=[20, 21])
    with pytest.raises(ValueError):
        RUNOUT.setup_type(marks=2)
    twice = RUNOUT.setup_type(passes=1, seats="half", distances_mm=[20])
    once = [(s.key, 0.0) for s in RUNOUT.stations(twice) if s.seat == 0]
    with pytest.raises(Problem, match="second seat"):
        RUNOUT.evaluate(case_of(RUNOUT, twice, readings(once), DIAL, machine=MILL))
    swung = RUNOUT.setup_type(passes=1, way="swing", distances_mm=[20])
    with pytest.raises(Problem, match="cannot be below nothing"):
        RUNOUT.evaluate(case_of(RUNOUT, swung, readings([("20", -0.05)]), DIAL, machine=MILL))


def test_what_was_done_is_drawn_change_by_change_and_nothing_before_that() -> None:
    first, second = {"radial": about(0.05), "other": about(1.0)}, {"radial": about(0.03)}
    past = [
        PastRound(number=1, way="cold", values=first, did="Took the preload up by a quarter"),
        PastRound(number=2, way="cold", values=second),
    ]
    case = pushed((0.002, -0.02), 0.001, history=History(past=past))
    [drawn] = changes_figure(case, "radial", plain("Play"))
    told = [(b.label.metric, b.from_mm, b.to_mm, b.sort) for b in drawn.bars[1:-1]]
    assert told == [
        ("Took the preload up by a…", 0.05, 0.03, "gain"),
        ("read again", 0.03, pytest.approx(0.02), "gain"),
    ]
    # what was not found this time, or is judged by nothing, has no such figure
    assert changes_figure(case, "other", plain("Play")) == []
    free = case.finding.quantities[0].model_copy(update={"key": "other", "tolerance_key": None})
    found = case.finding.model_copy(update={"quantities": [free]})
    assert changes_figure(case.but(found=found), "other", plain("Play")) == []
    undone = History(past=[p.model_copy(update={"did": ""}) for p in past])
    assert changes_figure(case.but(history=undone), "radial", plain("Play")) == []
