"""Faces against a travel: points of a rigid part that is turned about a bolt, and a tilted head in
three dimensions."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from tests.core.helpers import FINE, START, case_of, readings
from truing.checks.column_turn import tilted
from truing.checks.face_alignment import cosine_error
from truing.contract.history import History, MoveMade, PastRound
from truing.course.standing import Log, Result, Touch, standings
from truing.kit.instruments import PlungerDial
from truing.machine import Machine, Thing, starting_point
from truing.measure.problem import Problem
from truing.moves.changes import move_made
from truing.registry import kind, registry

VICE, COLUMN = kind("face_alignment"), kind("column_turn")
DIAL = PlungerDial(graduation_mm=0.002, range_mm=10, repeatability_mm=0.001)


class Part:
    """A bar with a straight face, turned as a rigid body about a point of the table."""

    def __init__(self, angle_rad: float, pivot_mm: float) -> None:
        ends = np.array([[-80.0, 0.0, 0.0], [80.0, 0.0, 0.0]])
        self.ends = Rotation.from_euler("z", angle_rad).apply(ends)
        self.pivot = Rotation.from_euler("z", angle_rad).apply([pivot_mm, 0.0, 0.0])

    def turned(self, by_rad: float) -> Part:
        other = object.__new__(Part)
        other.pivot = self.pivot
        other.ends = self.pivot + Rotation.from_euler("z", by_rad).apply(self.ends - self.pivot)
        return other

    def shown(self, x: float) -> float:
        """What a dial over a place of the travel shows: where the face's line crosses there."""
        (ax, ay, _), (bx, by, _) = self.ends
        return float(2.0 + ay + (x - ax) / (bx - ax) * (by - ay))

    def slope(self) -> float:
        (ax, ay, _), (bx, by, _) = self.ends
        return float((by - ay) / (bx - ax) * 1000)


def setup(**more: Any) -> Any:
    given = {"face_mm": 160.0, "places_mm": [-75.0, -30.0, 20.0, 75.0], "passes": 1, **more}
    return VICE.setup_type(**given)


def read(part: Part, how: Any, history: History | None = None) -> Any:
    seen = readings([(s.key, part.shown(s.x_mm)) for s in VICE.stations(how)] * how.passes)
    case = case_of(VICE, how, seen, FINE, history or History())
    return case.but(found=VICE.evaluate(case))


def test_a_sweep_there_and_back_shows_what_gives() -> None:
    """A slide with play across stands nearer by a hundredth on the way back."""
    how, part = setup(sweep="return", passes=2), Part(0.002, 0.0)
    dial = PlungerDial(graduation_mm=0.001, range_mm=10, repeatability_mm=0.0005)
    for play in (0.0, 0.01):
        seen: list[Any] = []
        while (station := VICE.next_station(how, seen)) is not None:
            back = play if len(seen) >= 4 else 0.0
            value = part.shown(station.x_mm) + back
            seen = [*seen, *readings([(station.key, value)])]
        order = [float(r.station) for r in seen]
        assert order == [-75.0, -30.0, 20.0, 75.0, 75.0, 20.0, -30.0, -75.0]
        seen = readings([(r.station, r.shown_mm) for r in seen])
        found = VICE.evaluate(case_of(VICE, how, seen, dial))
        assert found.face.slope.value == pytest.approx(part.slope(), abs=0.02)
        told = [n.text.metric for n in found.notes if "On the way back" in n.text.metric]
        assert bool(told) == bool(play)
    assert "+0.0100 mm" in told[0]


@pytest.mark.parametrize("share", [0.9, 1.1])
def test_a_way_back_differs_once_its_mean_is_beyond_what_the_dial_does_by_itself(
    share: float,
) -> None:
    """Twice the scatter of the mean of four differences, each of two readings that scatter as the
    dial is said to; its step adds nothing that would show."""
    how, part = setup(sweep="return", passes=2), Part(0.0, 0.0)
    dial = PlungerDial(graduation_mm=0.0002, range_mm=10, repeatability_mm=0.005)
    rng = np.random.default_rng(1)
    scatter = np.std(rng.normal(0, 0.005, (200_000, 4, 2)) @ [1, -1], axis=0).mean() / 2
    seen = [(s.key, part.shown(s.x_mm)) for s in VICE.stations(how)]
    back = [(key, value + share * 2 * scatter) for key, value in reversed(seen)]
    found = VICE.evaluate(case_of(VICE, how, readings([*seen, *back]), dial))
    told = [n for n in found.notes if "On the way back" in n.text.metric]
    assert bool(told) == (share > 1)


@pytest.mark.parametrize("angle", [0.004, -0.004])
@pytest.mark.parametrize("pivot", [-70.0, 0.0, 60.0])
def test_a_jaw_tapped_to_its_target_runs_true(angle: float, pivot: float) -> None:
    part, how = Part(angle, pivot), setup(pivot_mm=pivot)
    case = read(part, how)
    assert case.finding.face.slope.value == pytest.approx(part.slope(), abs=0.01)
    near = "right" if angle > 0 else "left"
    assert f"The {near} end stands" in case.finding.quantities[0].sentence.metric
    [move] = VICE.advise(case).moves
    # away from the dial where there is a lever for it, else the other end toward it
    far = {"left": "right", "right": "left"}[near]
    beside = (angle > 0) == (pivot > 0) and pivot
    said = f"its {far} end toward" if beside else f"its {near} end away"
    assert said in move.title.metric
    for target in move.targets:
        at = float(target.station)
        assert target.from_mm == pytest.approx(part.shown(at), abs=1e-3)
        # tapped until the needle stands there, with the tip where it stood
        low, high = -0.02, 0.02
        for _ in range(60):
            mid = (low + high) / 2
            rises = part.turned(high).shown(at) > part.turned(low).shown(at)
            if (part.turned(mid).shown(at) < target.to_mm) == rises:
                low = mid
            else:
                high = mid
        assert part.turned(mid).slope() == pytest.approx(0, abs=0.03)
        # a needle that moves while bolts are tightened tells the slope by its lever on the pivot
        pushed = part.turned(mid + 0.001)
        change = pushed.shown(at) - part.turned(mid).shown(at)
        assert change * target.per_mm == pytest.approx(1.0, abs=0.03)


def test_a_tip_over_the_bolt_has_no_target_and_is_named() -> None:
    move = VICE.advise(read(Part(0.004, 20.0), setup(pivot_mm=20.0))).moves[0]
    assert "20" not in [t.station for t in move.targets]
    assert any("At 20 mm the tip stands by the pivot" in n.metric for n in move.notes)
    # what the step goes by comes first, from the dial's side; then the others by their lever
    assert move.targets[0] == move.acts[0].target
    assert [t.station for t in move.targets] == ["75", "-75", "-30"]


def test_one_tap_tells_where_it_really_turns() -> None:
    """The bolt that was named is at 0; the other one held."""
    how, part = setup(pivot_mm=0.0), Part(0.006, -68.0)
    first = read(part, how)
    move = VICE.advise(first).moves[0]
    after = part.turned(-0.004)
    values = {q.key: q.estimate for q in first.finding.quantities}
    made = move_made(move, first.finding.quantities)
    history = History(
        sitting="now", past=[PastRound(number=1, sitting="now", values=values, move=made)]
    )
    second = read(after, how, history)
    move = VICE.advise(second).moves[0]
    assert any("it turns about −68 mm, not 0 mm" in n.metric for n in move.notes)
    best = move.targets[0]
    assert best.station == "75"
    # by the bolt that was named this target would be short by half
    trued = after.turned(-np.arctan(after.slope() / 1000))
    assert best.to_mm == pytest.approx(trued.shown(75.0), abs=2e-3)
    # a dial that was set anew in between tells no pivot
    moved = [(s.key, after.shown(s.x_mm) + 3.0) for s in VICE.stations(how)]
    case = case_of(VICE, how, readings(moved), FINE, history)
    again = VICE.advise(case.but(found=VICE.evaluate(case))).moves[0]
    assert not any("it turns about" in n.metric for n in again.notes)


@pytest.mark.parametrize(
    ("left", "told"),
    [
        (0.3, "left about 30% undone: the target goes past zero"),
        (-0.2, "went about 20% too far: the target stops short"),
    ],
)
def test_what_earlier_taps_left_undone_is_said(left: float, told: str) -> None:
    how, part = setup(pivot_mm=0.0), Part(0.03, 0.0)
    past: list[PastRound] = []
    for number in (1, 2, 3):
        now = read(part, how, History(sitting="now", past=past))
        values = {q.key: q.estimate for q in now.finding.quantities}
        made = MoveMade(key="turn", mechanism="vice", aimed={"face": 0.0})
        past.append(PastRound(number=number, sitting="now", values=values, move=made))
        part = part.turned(-part.slope() / 1000 * (1 - left))
    case = read(part, how, History(sitting="now", past=past))
    move = VICE.advise(case).moves[0]
    assert any(told in n.metric for n in move.notes), [n.metric for n in move.notes]
    before = next(q for q in case.finding.quantities if q.key == "face").estimate.value
    # by the usual hand it comes out straight
    assert before - move.taken("face") * (1 - left) == pytest.approx(0, abs=0.02 * abs(before))


def test_a_dowelled_face_is_not_tapped_and_a_bowed_one_says_so() -> None:
    thing = Thing(name="Old vice", face_mm=160, dowelled=True)
    mill = starting_point("column_mill").model_copy(update={"things": [thing]})
    how = setup(thing=thing.key)
    part = Part(0.004, 0.0)
    seen = [(s.key, part.shown(s.x_mm) + 0.05 * (abs(s.x_mm) < 50)) for s in VICE.stations(how)]
    case = case_of(VICE, how, readings(seen), FINE, machine=mill)
    case = case.but(found=VICE.evaluate(case))
    assert any("dowelled" in r.metric for r in VICE.advise(case).remarks)
    bow = next(q for q in case.finding.quantities if q.key == "bow")
    assert "no tap takes that out" in bow.sentence.metric
    assert "Old vice" in VICE.figures(case)[0].title.metric


@pytest.mark.parametrize(("length", "slope"), [(300.0, 5.0), (1000.0, 20.0), (150.0, 0.5)])
def test_a_scale_askew_shows_the_cosine_and_nothing_else(length: float, slope: float) -> None:
    askew = np.arcsin(slope / 1000)
    along = Rotation.from_euler("z", askew).apply([length, 0.0, 0.0])[0]
    assert cosine_error(length, slope) == pytest.approx(length - along, rel=1e-6)
    how = setup(sort="scale", face_mm=160.0)
    case = read(Part(0.004, 0.0), how)
    assert "too little over its 160 mm" in case.finding.lines[0].metric
    leave = VICE.advise(case).leave
    assert leave is not None
    assert leave.text.metric == case.finding.lines[0].metric


@pytest.mark.parametrize(("slant", "verdict"), [(0.0, "true"), (0.004, "true"), (0.03, "out")])
def test_a_scale_is_judged_by_what_it_shows_and_not_by_its_slant(
    slant: float, verdict: str
) -> None:
    """Twenty times the limit of a jaw: no part will ever show it, and no evening goes into it."""
    how = setup(sort="scale", face_mm=160.0)
    case = read(Part(slant, 0.0), how)
    case = case.but(judged=VICE.judge(case))
    assert case.judgement.verdict == verdict
    [judged] = case.judgement.judged
    assert judged.quantity == "scale"
    ends = Rotation.from_euler("z", slant).apply([160.0, 0.0, 0.0])
    found = case.get("scale").estimate
    short = 160 - ends[0]
    assert found.limits.low - 1e-4 * short <= short * 1.001
    assert short <= found.limits.high
    assert bool(VICE.advise(case).moves) == (verdict == "out")
    assert VICE.expect(case).measure == "length"


@pytest.mark.parametrize("turn", [1.0, -0.6, 3.0])
@pytest.mark.parametrize("tilt", [0.0, 20.0, 45.0, 80.0])
def test_a_turned_column_shows_only_with_its_head_tilted(turn: float, tilt: float) -> None:
    """A head tilted about Y on a column that was turned about Z: how far the axis leaves the XZ
    plane, and what slope along Y the disc it stands for has over the table."""
    psi, phi = np.arctan(turn / 1000), np.radians(tilt)
    axis = Rotation.from_euler("z", psi).apply(Rotation.from_euler("y", phi).apply([0, 0, 1.0]))
    lean, over = tilted(turn, tilt)
    assert axis[1] * 1000 == pytest.approx(lean, abs=2e-5 * max(1, abs(turn) ** 3))
    assert axis[1] / axis[2] * 1000 == pytest.approx(over, rel=1e-4, abs=1e-6)


def test_at_a_right_angle_no_slope_is_told() -> None:
    how = COLUMN.setup_type(face_mm=160, places_mm=[-70, 70], tilt_deg=90)
    seen = readings([("-70", 1.0), ("70", 1.05)] * 2)
    machine = starting_point("round_column")
    found = COLUMN.evaluate(case_of(COLUMN, how, seen, DIAL, machine=machine))
    assert "without meaning" in found.lines[0].metric


@pytest.mark.parametrize(
    ("given", "told"),
    [
        ({"places_mm": [0.0]}, "One place"),
        ({"places_mm": [0.0, 0.0]}, "One place"),
        ({"places_mm": [0.0, 5.0, 5.0]}, "same"),
    ],
)
def test_places_that_tell_no_direction_are_refused(given: dict[str, Any], told: str) -> None:
    with pytest.raises(ValueError, match=told):
        setup(**given)


def test_a_face_shorter_than_the_tips_stroke_and_one_place_alone() -> None:
    short = setup(face_mm=100.0)
    for ask in (VICE.expect, VICE.evaluate):
        with pytest.raises(Problem, match="beyond the face, which is 100 mm long"):
            ask(case_of(VICE, short, readings([("-75", 1.0), ("75", 1.0)]), FINE))
    with pytest.raises(Problem, match="One place"):
        VICE.evaluate(case_of(VICE, setup(), readings([("20", 1.0)]), FINE))


# --- things on a machine --------------------------------------------------------------------------


def shed() -> tuple[Machine, Thing, Thing]:
    vice, fence = Thing(name="Vice"), Thing(name="Fence", sort="fence", face_mm=400, pivot_mm=-180)
    return starting_point("column_mill").model_copy(update={"things": [vice, fence]}), vice, fence


def test_each_thing_has_a_record_of_its_own_by_whatever_name() -> None:
    machine, vice, fence = shed()
    how = VICE.propose(machine, VICE.setup_type(thing=fence.key).subject)
    assert (how.thing, how.sort, how.face_mm, how.pivot_mm) == (fence.key, "fence", 400, -180)
    assert max(map(abs, how.places_mm)) < 200
    text = how.subject.text
    renamed = fence.model_copy(update={"name": "Long fence"})
    later = machine.model_copy(update={"things": [vice, renamed]})
    results = [Result(kind="face_alignment", subject=text, at=START, verdict="true")]
    found = standings(later, Log(results=results), built=list(registry()), now=START)
    mine = next(s for s in found if s.kind == "face_alignment")
    assert [(p.title, p.status) for p in mine.parts] == [
        ("Vice", "unmeasured"),
        ("Long fence", "true"),
    ]


def test_who_picks_a_thing_finds_its_own_figures_filled_in() -> None:
    """Lengths in both systems, what is chosen as it is called."""
    machine, vice, fence = shed()
    fills = VICE.form(machine)["properties"]["thing"]["x-form"]["fills"]
    assert set(fills) == {vice.key, fence.key}
    mine = fills[fence.key]
    assert (mine["sort"], mine["along"]) == ("fence", "left_right")
    assert mine["face_mm"] == {"metric": "400 mm", "inch": "15.748 in"}
    assert mine["pivot_mm"] == {"metric": "−180 mm", "inch": "−7.0866 in"}
    assert mine["places_mm"]["metric"].startswith("−180 mm, −90 mm")
    assert fills[vice.key]["face_mm"] != mine["face_mm"]


def test_the_figures_of_one_thing_are_not_taken_for_another() -> None:
    machine, _, fence = shed()
    how = VICE.propose(machine)
    assert VICE.expect(case_of(VICE, how, dial=DIAL, machine=machine)).enough
    for change, told in (
        ({"thing": fence.key}, "is 400 mm long"),
        ({"pivot_mm": 30.0}, "turns about 0 mm"),
        ({"thing": "gone"}, "no such vice"),
    ):
        other = how.model_copy(update=change)
        with pytest.raises(Problem, match=told):
            VICE.expect(case_of(VICE, other, dial=DIAL, machine=machine))
    # what nobody has described is as it is stated
    loose = how.model_copy(update={"thing": "", "pivot_mm": 30.0})
    VICE.expect(case_of(VICE, loose, dial=DIAL, machine=machine))


def test_what_was_read_before_anything_was_named_is_no_other_thing() -> None:
    machine, _, _ = shed()
    results = [Result(kind="face_alignment", at=START, verdict="true")]
    found = standings(machine, Log(results=results), built=list(registry()), now=START)
    mine = next(s for s in found if s.kind == "face_alignment")
    assert [p.status for p in mine.parts] == ["unmeasured", "unmeasured"]
    assert mine.status != "true"


def test_a_tap_on_the_vice_leaves_the_fence_as_it_was() -> None:
    machine, vice, fence = shed()
    texts = [f"thing:{t.key}" for t in (vice, fence)]
    results = [Result(kind="face_alignment", subject=t, at=START, verdict="true") for t in texts]

    def after(slide: str) -> list[str]:
        at = START + timedelta(hours=1)
        touch = Touch(id="t", at=at, mechanisms=("vice",), said="it was set", slide=slide)
        log = Log(results=results, touches=[touch])
        found = standings(machine, log, built=list(registry()), now=START)
        return [p.status for s in found if s.kind == "face_alignment" for p in s.parts]

    assert after(texts[0]) == ["stale", "true"]
    assert after("") == ["stale", "stale"], "nobody said which"


def test_two_things_of_one_name_are_refused() -> None:
    machine, vice, _ = shed()
    data = machine.model_dump()
    data["things"] = [vice.model_dump(), {"name": "vice "}]
    with pytest.raises(ValueError, match="same name"):
        Machine.model_validate(data)
    # a key names a record: nothing that could be read as two of them, or as none
    for key in ("", "a+b", "thing:x"):
        with pytest.raises(ValueError, match="pattern"):
            Thing(key=key, name="Vice")


def test_a_round_column_is_no_face_to_read_along() -> None:
    core, bar = kind("column_turn"), starting_point("round_column")
    dovetail = bar.model_copy(
        update={"column": bar.column.model_copy(update={"shape": "dovetail"})}
    )
    how = core.propose(bar)
    seen = readings([(s.key, 0.1) for s in core.order(how)])
    for machine, told in ((bar, True), (dovetail, False)):
        found = core.evaluate(case_of(core, how, seen, DIAL, machine=machine))
        assert any("own curve" in line.metric for line in found.lines) == told
