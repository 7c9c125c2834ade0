"""Leans from ridges, against discs laid side by side and leans that are tried one by one."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tests.core.helpers import about, answered, case_of, known
from tests.core.test_ridges import envelope
from truing.checks.cutting import NAIL
from truing.checks.ridge_reading.setup import FINGER
from truing.kit.instruments import PlungerDial
from truing.machine import starting_point
from truing.measure.problem import Problem
from truing.programs import read
from truing.registry import kind
from truing.standin.evening import one_round
from truing.standin.truth import Truth

RIDGES, TRAM = kind("ridge_reading"), kind("spindle_tram")
MILL = starting_point("column_mill")
DIAL = PlungerDial(graduation_mm=0.001, range_mm=10, repeatability_mm=0.0005)
PATCHES = {"x": "xy", "y": "yx"}


def told(how: dict[str, Any], said: dict[str, Any], lent: Any = (), machine: Any = MILL) -> Any:
    """The case that comes of lengths (mm) and grades, by station."""
    stated = {"passes": 1, "diameter_mm": 60.0, "stepover_mm": 54.0, **how}
    setup = RIDGES.setup_type.model_validate(stated)
    return RIDGES.weigh(
        case_of(RIDGES, setup, answered(RIDGES, setup, said), DIAL, machine=machine, known=lent)
    )


def limits_of(case: Any, key: str) -> tuple[float, float]:
    q = case.get(key)
    return q.estimate.least, q.estimate.most


leaning = st.floats(0.02, 1.5)


@settings(max_examples=25, deadline=None)
@given(leaning, leaning, st.floats(0.6, 0.95), st.floats(0.6, 0.95))
def test_patches_of_two_steps_are_reckoned_each_by_its_own(
    lean: float, nod: float, one: float, other: float
) -> None:
    """Cut by discs as in a patch of each; taken for one step, they contradict or mislead."""
    d = 60.0
    steps = {"x": one * d, "y": other * d}
    shown = {
        f"{patch}:size": round(envelope(d, steps[patch], along / 1000, across / 1000)[0], 5)
        for patch, (along, across) in {"x": (lean, nod), "y": (nod, lean)}.items()
    }
    case = told({"way": "dial", "stepover_mm": steps["x"], "stepover_y_mm": steps["y"]}, shown)
    assert case.finding.contradicts is None
    slack = 5e-3 * max(lean, nod)
    for key, real in (("lean_x", lean), ("nod", nod)):
        if case.get(key) is not None:
            low, high = limits_of(case, key)
            assert low - slack <= real <= high + slack


def test_a_step_wider_than_the_flat_is_named_by_its_patch() -> None:
    with pytest.raises(Problem) as refused:
        told({"stepover_y_mm": 70.0}, {"x:size": 0.02})
    assert refused.value.field == "stepover_y_mm"


@settings(max_examples=60, deadline=None)
@given(st.floats(16, 80), st.floats(0.6, 0.95), leaning, leaning, st.sampled_from(["step", "dial"]))
def test_what_two_patches_tell_is_what_cut_them(
    d: float, share: float, lean: float, nod: float, way: str
) -> None:
    """Cut by discs that lean, whatever the regime: the lean is within its limits, and near."""
    s = share * d
    shown = {}
    for patch, (along, across) in {"x": (lean, nod), "y": (nod, lean)}.items():
        height, step = envelope(d, s, along / 1000, across / 1000)
        shown[f"{patch}:size"] = round(step if way == "step" else height, 5)
    case = told({"way": way, "diameter_mm": d, "stepover_mm": s}, shown)
    assert case.finding.contradicts is None
    # the grid of the envelope takes in a little of the steep rim; a reading is as good as U
    slack = 2e-3 * max(lean, nod) + 60 * 4e-4 / d * 3 * max(lean, nod)
    for key, real in (("lean_x", lean), ("nod", nod)):
        if case.get(key) is None:
            continue
        low, high = limits_of(case, key)
        assert low - slack <= real <= high + slack
    if way == "step" and all(v > 0.1 * lean * d / 1000 for v in shown.values()):
        a, b = limits_of(case, "lean_x"), limits_of(case, "nod")
        q = np.sqrt(s * (d - s))
        wide = (s + q) / (s * (2 * s - d)) * 0.0016 * 1000
        assert a[1] - a[0] <= 2.2 * wide
        assert b[1] - b[0] <= 2.2 * wide


@settings(max_examples=25, deadline=None)
@given(
    st.floats(0.55, 0.95),
    st.sampled_from(list(NAIL)),
    st.sampled_from(list(NAIL)),
    st.sampled_from(["nail", "finger"]),
    st.sampled_from(["both", "x", "y"]),
)
def test_limits_hold_every_lean_that_feels_so(
    share: float, one: str, other: str, way: str, patches: str
) -> None:
    """Leans are tried over a whole grid: those that would feel as told lie within, and reach up to,
    the limits; where none does it is called a contradiction."""
    d, s = 50.0, 50.0 * share
    grades = NAIL if way == "nail" else FINGER
    names = {"x": one, "y": other} if patches == "both" else {patches: one}
    keys = {p: k if k in grades else "rough" for p, k in names.items()}
    case = told(
        {"way": way, "patches": patches, "diameter_mm": d, "stepover_mm": s},
        {f"{p}:size": k for p, k in keys.items()},
    )
    grid = np.linspace(0, 20, 101) / 1000
    a, b = (g.ravel() for g in np.meshgrid(grid, grid))
    fits = np.ones_like(a, dtype=bool)
    for patch, grade in keys.items():
        along, across = (a, b) if patch == "x" else (b, a)
        size = _sizes(d, s, along, across, way == "nail")
        _, low, high = grades[grade]
        fits &= (size >= low) & (size <= high)
    if case.finding.contradicts is not None:
        assert not fits.any()
        assert case.judgement.verdict == "too_close"
        return
    assume(fits.any())
    for key, tried in (("lean_x", a[fits]), ("nod", b[fits])):
        if case.get(key) is None:
            # nothing bounds it: leans as large as any feel alike
            assert tried.max() > 0.2 * grid[-1]
            assert case.judgement.verdict == "too_close"
            continue
        least, most = limits_of(case, key)
        assert tried.min() * 1000 >= least * 0.999 - 1e-9
        # a section through so few points misses a little of the peaks
        assert tried.max() * 1000 <= most * 1.02
        if most < 19:
            assert most - tried.max() * 1000 <= 0.4 + 0.02 * most, "no wider than it has to be"


def _sizes(d: float, s: float, along: Any, across: Any, step: bool) -> Any:
    """Height or step for many leans at once, by the rims of neighbouring passes."""
    v = np.linspace(-s / 2, s / 2, 161)
    r = d / 2
    low = np.full((len(along), len(v)), np.inf)
    for k in range(-2, 3):
        w = v - k * s
        on = np.abs(w) <= r
        z = -across[:, None] * w[on] - along[:, None] * np.sqrt(r * r - w[on] ** 2)
        low[:, on] = np.minimum(low[:, on], z)
    if not step:
        return low.max(axis=1) - low.min(axis=1)
    # where the rim of one pass ends, on the surface of the next
    end = -across * (r - s) - along * np.sqrt(r * r - (r - s) ** 2)
    return np.maximum(0.0, end + across * r)


def test_the_ratio_of_two_ridges_has_its_limits() -> None:
    """One patch can stand so much higher than the other, and no more, by whatever lean."""
    s = 40.0
    most = s / (30 - np.sqrt(900 - 400))
    fine = told({"way": "dial", "stepover_mm": s}, {"x:size": 0.1, "y:size": 0.1 / most * 1.02})
    assert fine.finding.contradicts is None
    odd = told({"way": "dial", "stepover_mm": s}, {"x:size": 0.1, "y:size": 0.1 / most * 0.8})
    assert odd.finding.contradicts is not None
    assert "the height of the patch fed left–right" in odd.finding.contradicts.metric
    assert odd.judgement.verdict == "too_close"
    assert RIDGES.figures(odd) == []


def test_one_patch_does_not_bound_the_lean_across_by_its_height_over_the_step() -> None:
    """A lean along the feed lowers the step, so that a larger one across may hide behind it."""
    case = told({"way": "dial", "patches": "x", "stepover_mm": 50.0}, {"x:size": 0.02})
    assert [limits_of(case, k)[0] for k in ("lean_x", "nod")] == pytest.approx([0, 0], abs=1e-9)
    across = limits_of(case, "nod")[1]
    assert across > 1.03 * 0.02 / 50 * 1000
    grid = np.linspace(0, 1.2, 121) / 1000
    a, b = (g.ravel() for g in np.meshgrid(grid, grid))
    # no lean that leaves so little is larger
    assert b[_sizes(60, 50, a, b, step=False) <= 0.02].max() * 1000 <= across + 0.01


@pytest.mark.parametrize("said", [NAIL, FINGER])
def test_what_is_felt_leaves_no_height_out_and_only_neighbours_share_one(said: Any) -> None:
    least, most = ([bounds[i] for bounds in said.values()] for i in (1, 2))
    assert least[0] == 0
    assert least == sorted(least)
    assert all(low < high for low, high in zip(least, most, strict=True))
    assert all(then <= high for high, then in zip(most, least[1:], strict=False))
    assert all(high < after for high, after in zip(most, least[2:], strict=False))


@pytest.mark.parametrize(
    ("said", "key", "side"),
    [
        ({"y:edge": "left", "x:marks": "leading"}, "lean_x", 1),
        ({"y:edge": "right"}, "lean_x", -1),
        ({"x:marks": "trailing"}, "lean_x", -1),
        ({"x:edge": "front", "y:marks": "leading"}, "nod", 1),
        ({"x:edge": "rear"}, "nod", -1),
        ({"y:edge": "left", "x:marks": "trailing"}, "lean_x", 0),
        ({"y:edge": "level"}, "lean_x", 0),
    ],
)
def test_edges_and_marks_tell_the_side(said: dict[str, str], key: str, side: int) -> None:
    case = told({}, {"x:size": 0.012, "y:size": 0.012, **said})
    assert getattr(case.finding, key).side == side
    value = case.get(key).estimate.value
    assert np.sign(value) == side
    odd = [n for n in case.finding.notes if "Look again" in n.text.metric]
    assert bool(odd) == (len(said) == 2 and side == 0)


@pytest.mark.parametrize(
    ("key", "patch", "axis", "sides"),
    [
        ("lean_x", "y", "side to side", ("left", "right")),
        ("nod", "x", "front to back", ("front", "rear")),
    ],
)
def test_a_lean_is_told_with_its_axis_and_its_side_or_that_none_is_known(
    key: str, patch: str, axis: str, sides: tuple[str, str]
) -> None:
    read = {"x:size": 0.012, "y:size": 0.012}
    open_ = told({}, read).get(key).sentence
    assert open_.metric.startswith(f"It leans {axis} by ")
    assert "to which side, edges and marks did not tell" in open_.metric
    for side in sides:
        said = told({}, {**read, f"{patch}:edge": side}).get(key).sentence.metric
        # the high edge is where the top does not lean: it leans the other way
        there = sides[1 - sides.index(side)]
        assert f"the top leans {'to the ' if key == 'nod' else ''}{there}" in said
        assert axis not in said
        # and where nothing tells how far, its side is told alone
        aside = told({}, {f"{patch}:edge": side}).finding.lines
        known = [w.metric for w in aside if w.metric.startswith("Its side is known")]
        assert known == [
            f"Its side is known: the top leans {'to the ' if key == 'nod' else ''}{there}."
        ]
    flat = told({}, {"x:size": 0.0, "y:size": 0.0}).get(key).sentence.metric
    assert flat.startswith(axis.capitalize())
    assert "no lean that can be told from nothing" in flat


@pytest.mark.parametrize(("lean", "nod"), [(0.8, 0.3), (-0.8, 0.3), (0.3, -0.8), (-0.5, -0.5)])
def test_the_stand_in_shows_the_side_that_it_leans_to(lean: float, nod: float) -> None:
    """A head that is turned as a rigid body: its marks tell which way."""
    truth = Truth(head_about_y_mrad=lean, head_about_x_mrad=-nod, noise_share=0.0)
    setup = RIDGES.propose(MILL)
    readings = one_round(RIDGES, setup, truth, DIAL, np.random.default_rng(3))
    found = RIDGES.weigh(case_of(RIDGES, setup, readings, DIAL, machine=MILL)).finding
    assert found.lean_x.best * found.lean_x.side == pytest.approx(lean, rel=0.05)
    assert found.nod.best * found.nod.side == pytest.approx(nod, rel=0.05)


def test_crossed_marks_bound_a_lean_that_no_ridge_bounds() -> None:
    """Eyes alone: without crossed marks nothing is known, with them both leans have a limit."""
    look: dict[str, Any] = {"way": "look", "seen_mm": 0.003}
    seen = told(look, {"x:marks": "leading", "y:marks": "unseen"})
    assert (seen.finding.quantities, seen.judgement.verdict) == ([], "too_close")
    assert seen.finding.lean_x.side == 1
    crossed = told(look, {"x:marks": "crossed", "y:marks": "crossed"})
    # the trailing edge comes round a whole diameter behind the leading one
    assert limits_of(crossed, "lean_x") == pytest.approx((0, 0.003 / 60 * 1000), rel=1e-3)
    assert crossed.judgement.verdict == "true"
    aside = told({**look, "beside_mm": 24.0}, {"x:marks": "crossed", "y:marks": "crossed"})
    assert limits_of(aside, "nod")[1] == pytest.approx(0.003 / 36 * 1000, rel=1e-3)


def test_shallow_steps_that_feel_smooth_say_nothing_of_equal_leans() -> None:
    """Half the cutter from pass to pass: leans alike both ways leave a cusp and no step, however
    large; nine tenths would tell."""
    smooth = {"x:size": "none", "y:size": "none"}
    shallow = told({"way": "nail", "stepover_mm": 30.0}, smooth)
    assert shallow.judgement.verdict == "too_close"
    assert "54 mm" in " ".join(line.metric for line in shallow.finding.lines)
    wide = told({"way": "nail"}, smooth)
    assert wide.get("nod").estimate.most < 0.5


def test_the_needle_of_a_head_follows_from_ridges_and_the_dial_counts() -> None:
    said = {"x:size": 0.0, "y:size": 0.03, "y:edge": "left", "x:marks": "leading"}
    case = told({"arm_mm": 80.0}, {**said, "x:edge": "level"})
    advice = RIDGES.advise(case)
    move = advice.moves[0]
    lean = case.get("lean_x").estimate.value
    assert lean == pytest.approx(0.6, abs=0.06)
    assert (move.mechanism, move.title.metric) == ("head_pivot", "Turn the head: top to the left")
    # 80 mm from the pivot a lean to the right stands the tip low; it has to be pushed in
    assert MILL.head is not None
    lever = 80 + abs(MILL.head.pivot_x_mm)
    assert f"{lean / 1000 * lever:.3f}" in move.steps[2].metric
    assert [a.kind for a in advice.asks] == ["spindle_tram"]
    # beside a swung dial
    for swung, says in ((0.58, "agree with it"), (-0.4, "say otherwise")):
        lent = known("spindle_tram", lean_x=about(swung, 0.03, "slope"))
        remarks = RIDGES.advise(told({}, said, lent=[lent])).remarks
        assert any(says in r.metric for r in remarks)


def test_a_dial_is_asked_for_where_ridges_tell_too_much_or_nothing() -> None:
    fine = {"x:size": 0.0, "y:size": 0.0, "x:edge": "level", "y:edge": "level"}
    still = told({}, fine)
    assert [q.key for q in still.finding.quantities] == ["lean_x", "nod"]
    assert RIDGES.advise(still).asks == []
    leans = told({}, {**fine, "y:size": 0.03, "y:edge": "left"})
    assert [a.kind for a in RIDGES.advise(leans).asks] == ["spindle_tram"]
    nothing = told({"way": "finger"}, {"x:edge": "level"})
    assert nothing.finding.quantities == []
    assert [a.kind for a in RIDGES.advise(nothing).asks] == ["spindle_tram"]


@pytest.mark.parametrize(("lean", "says"), [(0.5, "they agree"), (-0.5, "do not agree")])
def test_the_dial_tells_how_the_ridges_go_with_it(lean: float, says: str) -> None:
    lent = known("ridge_reading", lean_x=about(0.52, 0.2, "slope").between(0.35, 0.7))
    setup = TRAM.setup_type.model_validate({"radius_mm": 100})
    truth = Truth(head_about_y_mrad=lean)
    readings = one_round(TRAM, setup, truth, DIAL, np.random.default_rng(1))
    case = TRAM.weigh(case_of(TRAM, setup, readings, DIAL, machine=MILL, known=[lent]))
    assert any(says in r.metric for r in TRAM.advise(case).remarks)


@pytest.mark.parametrize("patches", ["both", "x", "y"])
def test_patches_are_cut_side_by_side_from_the_corner_of_their_block(patches: str) -> None:
    """Three passes a step apart; one patch alone takes no room for the other."""
    router, d, s = starting_point("gantry_router"), 30.0, 27.0
    setup = RIDGES.setup_type.model_validate(
        {"patches": patches, "diameter_mm": d, "stepover_mm": s, "way": "step"}
    )
    [piece] = RIDGES.programs(setup, router)
    motions = read(piece.program.encode()).motions
    cut = motions.at[motions.cuts]
    along = {
        "x": sorted({round(float(p[1]), 3) for p in cut if abs(p[3] - p[0]) > 2 * d}),
        "y": sorted({round(float(p[0]), 3) for p in cut if abs(p[4] - p[1]) > d}),
    }
    beside = 1.5 * d if patches == "both" else 0.0
    if patches != "y":
        assert along["x"] == pytest.approx([beside + d / 2 + k * s for k in range(3)], abs=0.01)
    if patches != "x":
        assert along["y"] == pytest.approx([d / 2 + k * s for k in range(3)], abs=0.01)


def test_a_step_that_hides_the_ridges_is_told_and_hides_them() -> None:
    case = told({"hide_mm": 0.01}, {"x:size": 0.006, "y:size": 0.03})
    line = next(w.metric for w in case.finding.lines if "from pass to pass or less" in w.metric)
    feed = "x" if "left–right" in line else "y"
    s = float(line.split("with ")[1].split(" mm")[0])
    a, b = case.finding.lean_x, case.finding.nod
    corners = [(i / 1000, j / 1000) for i in (a.low, a.high) for j in (b.low, b.high)]
    left = [envelope(60, s, *((i, j) if feed == "x" else (j, i)))[0] for i, j in corners]
    assert 0.009 < max(left) <= 0.0102


@pytest.mark.parametrize(
    ("how", "field", "says"),
    [
        ({"stepover_mm": 61.0}, "stepover_mm", "leaves a strip"),
        ({"corner_mm": 30.0}, "corner_mm", "has no flat"),
        ({"corner_mm": 5.0}, "stepover_mm", "leaves a strip"),
        ({"beside_mm": 29.0}, "beside_mm", "whatever the lean"),
    ],
)
def test_patches_that_tell_nothing_are_refused(how: Any, field: str, says: str) -> None:
    with pytest.raises(Problem, match=says) as refused:
        told(how, {"x:size": 0.01})
    assert refused.value.field == field
    assert refused.value.expected
