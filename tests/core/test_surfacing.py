"""Plans against a run of their programs in small steps: everything is cut that is not reported,
nothing that must not be, and no rapid meets material."""

from __future__ import annotations

import math
import random
import re
from itertools import pairwise
from typing import Any

import numpy as np
import pytest
from shapely.affinity import translate
from shapely.geometry import LineString, Point, Polygon, box
from shapely.geometry.base import BaseGeometry
from shapely.ops import unary_union

from tests.core.boards import a_board, a_wish
from tests.core.running import Ran, Yard, run
from truing.machine.board import Board, KeepOut
from truing.measure.problem import Problem
from truing.programs import read
from truing.programs.check import check
from truing.programs.cutters import Cutter
from truing.programs.ground import Ground
from truing.surfacing.facts import Facts
from truing.surfacing.levels import levels
from truing.surfacing.lines import rings
from truing.surfacing.path import Move
from truing.surfacing.plan import Surfacing, make
from truing.surfacing.seat import pocket, pocket_rings
from truing.surfacing.wish import Wish
from truing.surfacing.write import comment, write


def outline_of(k: KeepOut) -> BaseGeometry:
    """What lies on the board, as it was measured."""
    if k.shape == "circle":
        return Point(k.x_mm, k.y_mm).buffer(k.across_mm / 2)
    if k.shape == "rectangle":
        across, deep = k.across_mm / 2, k.deep_mm / 2
        return box(k.x_mm - across, k.y_mm - deep, k.x_mm + across, k.y_mm + deep)
    corners = np.array(k.corners_mm).reshape(-1, 2) + np.array([k.x_mm, k.y_mm])
    return Polygon(corners)


def yard_of(facts: Facts, wish: Wish, plan: Surfacing) -> Yard:
    """The same board for the slow run, its heights by its own interpolation."""
    from scipy.interpolate import griddata

    x0, y0 = plan.origin
    wide, deep = facts.table_x_mm, facts.table_y_mm
    gx, gy = np.meshgrid(np.arange(0.5, wide, 1.0) - wide / 2, np.arange(0.5, deep, 1.0) - deep / 2)
    places = np.array([m[:2] for m in facts.map])
    up = np.array([m[2] for m in facts.map])
    face = griddata(places, up, (gx, gy), method="linear")
    face = np.where(np.isnan(face), griddata(places, up, (gx, gy), method="nearest"), face)
    spot = (
        float(face.max())
        if wish.zero == "highest"
        else float(griddata(places, up, (wish.zero_x_mm, wish.zero_y_mm)))
    )
    zero = spot + wish.plate_mm
    kept = []
    for k in facts.board.keep_outs:
        shape = translate(outline_of(k), -x0, -y0)
        local = griddata(places, up, (k.x_mm, k.y_mm), method="nearest")
        kept.append((shape, float(local) + k.top_mm - zero))
    r = wish.reach
    return Yard(
        wide=wide,
        deep=deep,
        radius=wish.radius_mm,
        most_bite=wish.depth_mm * 1.5 + 0.05,
        floor=float(face.max()) - zero - (facts.board.thickness_mm - facts.board.least_mm),
        reach=(r[0] - x0, r[1] - y0, r[2] - x0, r[3] - y0),
        most_feed=3000,
        most_rev=12000,
        ramp_deg=wish.ramp_deg,
        safe=float(face.max()) - zero + wish.safe_mm,
        heights=face - zero,
        kept=kept,
        x0=-wide / 2 - x0,
        y0=-deep / 2 - y0,
        body=wish.body_mm / 2,
        below=wish.below_mm,
    )


def ran(plan: Surfacing, facts: Facts, wish: Wish) -> tuple[Ran, Yard]:
    yard = yard_of(facts, wish, plan)
    return run(plan.program, yard), yard


@pytest.mark.parametrize("seed", range(24))
def test_a_plan_cuts_what_it_says_and_nothing_else(seed: int) -> None:
    """Run in small steps: no harm, every cell at the last level but those that are reported."""
    rng = random.Random(seed)
    facts = a_board(rng)
    wish = a_wish(rng, facts)
    plan = make(wish, facts)
    assert plan.report.faults == []
    assert plan.program
    after, _ = ran(plan, facts, wish)
    assert after.harm == set()
    last = plan.levels[-1].z_mm
    x0, y0 = plan.origin
    left = [Polygon(u.outline).buffer(1.5) for u in plan.uncut]
    high = np.argwhere(after.up > last + 0.002)
    for j, i in high:
        place = Point(after.x[i] + x0, after.y[j] + y0)
        assert any(u.covers(place) for u in left), f"uncut at {place} and not reported"
    # five digits of an inch
    assert (after.up >= last - 2e-4).all()
    # and what is reported does stand there
    for u in plan.uncut:
        shape = Polygon(u.outline)
        area = [float(w.split(" ")[0]) for w in (u.words.metric, u.words.inch)]
        assert area == pytest.approx([shape.area / 100, shape.area / 645.16], abs=0.05)
        inside = [
            after.up[j, i] > last + 2e-4
            for j in range(0, len(after.y), 2)
            for i in range(0, len(after.x), 2)
            if shape.buffer(-1).covers(Point(after.x[i] + x0, after.y[j] + y0))
        ]
        assert not inside or np.mean(inside) > 0.9


def mutate(program: str, rng: random.Random) -> str:
    """One slip of a hand or of another program."""
    lines = program.splitlines()
    cuts = [i for i, line in enumerate(lines) if line.startswith("G1 ")]
    ups = [i for i, line in enumerate(lines) if re.match(r"G0 Z", line)]
    downs = [i for i, line in enumerate(lines) if re.match(r"G1 .*Z|G1 Z", line)]
    kind = rng.randrange(12)
    i = rng.choice(cuts)
    if kind == 0:  # a lost minus
        i = rng.choice(downs)
        lines[i] = lines[i].replace("Z-", "Z", 1)
    elif kind == 1:
        lines = [{"G21": "G20", "G20": "G21"}.get(line, line) for line in lines]
    elif kind == 2:  # a dropped retract
        del lines[rng.choice(ups)]
    elif kind == 3:  # a lost decimal
        i = rng.choice(downs)
        lines[i] = re.sub(r"Z(-?)(\d*)\.(\d)", r"Z\1\2\3.", lines[i], count=1)
    elif kind == 4:
        lines[i] = lines[i].replace("G1", "G0", 1)
    elif kind == 5:
        lines = ["M4" if line == "M3" else re.sub(r"M3$", "M4", line) for line in lines]
    elif kind == 6:
        lines = [re.sub(r" ?M3$", "", line) for line in lines]
    elif kind == 7:
        lines = [line for line in lines if not line.startswith("G4 ")]
    elif kind == 8:
        lines = [re.sub(r" F[\d.]+", "", line) for line in lines]
    elif kind == 9:  # a digit too many
        lines[i] = re.sub(r"([XY]-?\d+)", r"\g<1>0", lines[i], count=1)
    elif kind == 10:
        lines = ["G91" if line == "G90" else line for line in lines]
    else:
        lines = [re.sub(r"S(\d+)", r"S\g<1>0", line) for line in lines]
    return "\n".join(lines) + "\n"


def test_every_dangerous_change_of_a_good_program_is_found() -> None:
    """200 mutants of ten programs: what a run in small steps finds harmful, the checker names."""
    rng = random.Random(7)
    missed, dangerous, alarms = [], 0, 0
    for seed in range(10):
        facts = a_board(rng)
        wish = a_wish(rng, facts).model_copy(update={"along": "x", "pattern": "raster"})
        plan = make(wish, facts)
        yard = yard_of(facts, wish, plan)
        ground = ground_of(facts, wish, yard, plan)
        assert check(read(plan.program.encode()), ground).faults == []
        for _ in range(20):
            text = mutate(plan.program, rng)
            harm = run(text, yard, first=True).harm
            report = check(read(text.encode()), ground)
            if harm:
                dangerous += 1
                if report.verdict == "sound":
                    missed.append((seed, harm, text))
            elif report.dangers:
                alarms += 1
    assert dangerous > 100
    assert [m[:2] for m in missed] == []
    # a change that does no harm in small steps may still be one to ask about, but rarely
    assert alarms <= 0.1 * 200


def ground_of(facts: Facts, wish: Wish, yard: Yard, plan: Surfacing) -> Ground:
    x0, y0 = plan.origin
    zero = float(yard.safe) - wish.safe_mm
    high = max(m[2] for m in facts.map)
    return Ground(
        board=(yard.x0, yard.y0, yard.x0 + yard.wide, yard.y0 + yard.deep),
        map=[(x - x0, y - y0, z - high + zero) for x, y, z in facts.map],
        top_mm=zero,
        floor_mm=yard.floor,
        reach=yard.reach,
        safe_mm=yard.safe,
        cutter=Cutter(
            diameter_mm=wish.diameter_mm,
            depth_mm=wish.depth_mm,
            rated_rev_per_min=12000,
            ramp_deg=wish.ramp_deg,
        ),
        most_feed_mm_min=3000,
        spin_up_s=3.0,
        rapid_mm_min=yard.rapid,
        accel_mm_s2=yard.accel,
    )


def test_levels_go_from_the_highest_place_to_a_skim_below_the_lowest() -> None:
    assert levels(1.0, 0.0, 1.0, 0.5, 0.1) == pytest.approx([-0.5, -1.0, -1.1])
    # three tenths in steps of a tenth are three, whatever the floats say
    assert len(levels(0.3, 0.0, 0.0, 0.1, 0.1)) == 4
    assert levels(0.0, 0.0, 0.0, 0.5, 0.2) == pytest.approx([-0.2])
    # zeroed on a plate of 12 over a low spot: everything is that much lower in the program
    assert levels(0.4, 0.0, 0.1 + 12, 0.5, 0.1) == pytest.approx([-12.1, -12.2])


@pytest.mark.parametrize(
    ("typed", "safe"),
    [
        ("Curlew) M3 S24000 (", "(Curlew M3 S24000)"),
        ("50 % off; G0 Z-20", "(50 off G0 Z-20)"),
        ("MSG, Hello", "(MSG - Hello)"),
        ("Möwe\nG0 Z-5", "(M we G0 Z-5)"),
    ],
)
def test_a_name_never_becomes_code(typed: str, safe: str) -> None:
    assert comment(typed) == safe
    assert len(read(f"{comment(typed)}\nG21\n".encode()).words.letter) == 1


def flat(**more: object) -> Facts:
    return Facts(machine="Avocet", table_x_mm=200, table_y_mm=150, board=Board(**more))  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("wish", "board", "field", "says"),
    [
        ({"heights": "map"}, {}, "heights", "no map"),
        ({"skim_mm": 0.6}, {}, "skim_mm", "not between"),
        ({"range_mm": 10.0}, {}, "skim_mm", "would be left"),
        ({"stepover_mm": 45.0}, {}, "stepover_mm", "strip"),
        (
            {"work": "seat", "across_mm": 30.0, "deep_mm": 30.0},
            {},
            "diameter_mm",
            "30.4 mm or less",
        ),
        ({"work": "seat", "x_mm": 150.0}, {}, "x_mm", "within the board"),
        ({"zero": "spot", "zero_x_mm": 900.0}, {}, "zero_x_mm", "on the board"),
        ({"work": "part", "x_mm": 900.0}, {}, "x_mm", "not lie on"),
        (
            {"reach_left_mm": 400.0, "reach_right_mm": 500.0},
            {},
            "reach_left_mm",
            "leaves no room",
        ),
    ],
)
def test_what_cannot_be_done_is_said_at_its_field(
    wish: dict[str, object], board: dict[str, object], field: str, says: str
) -> None:
    stated = {"heights": "range", "range_mm": 0.2, "reach_left_mm": -150.0, "reach_right_mm": 150.0}
    with pytest.raises(Problem, match=says) as refused:
        make(Wish(**{**stated, **wish}), flat(**board))  # type: ignore[arg-type]
    assert refused.value.field == field


@pytest.mark.parametrize("relieve", [False, True])
def test_a_seat_takes_its_panel(relieve: bool) -> None:
    """Cut in small steps: its floor is level, its walls stand, a square panel goes in or is said
    not to."""
    facts = flat()
    wish = Wish(
        work="seat",
        across_mm=60,
        deep_mm=40,
        clearance_mm=0.3,
        feed_mm_min=3000,
        spindle_rev=12000,
        diameter_mm=8,
        depth_mm=1,
        panel_mm=2.5,
        relieve=relieve,
        origin="bed",
    )
    plan = make(wish, facts)
    assert plan.report.faults == []
    assert [p.z_mm for p in plan.levels] == pytest.approx([-2.5 / 3, -5 / 3, -2.5])
    yard = yard_of(
        facts.model_copy(
            update={"map": [(-100, -75, 0), (100, -75, 0), (-100, 75, 0), (100, 75, 0.0)]}
        ),
        wish,
        plan,
    )
    after = run(plan.program, yard)
    assert after.harm == set()
    gx, gy = np.meshgrid(after.x, after.y)
    floor = (np.abs(gx) < 29) & (np.abs(gy) < 19) & ~((np.abs(gx) > 26.0) & (np.abs(gy) > 16.0))
    assert after.up[floor] == pytest.approx(-2.5)
    # the wall stands, but for what relieves the corners
    wall = ((np.abs(gx) > 31) | (np.abs(gy) > 21)) & ~((np.abs(gx) > 25) & (np.abs(gy) > 15))
    assert (after.up[wall] == 0).all()
    corner = (np.abs(gx) > 29.0) & (np.abs(gx) < 30) & (np.abs(gy) > 19.0) & (np.abs(gy) < 20)
    assert (after.up[corner] < 0).all() == relieve
    told = any("corners" in n.metric for n in plan.notes)
    assert told != relieve
    assert not [n for n in plan.notes if "ridges" in n.metric], "of a recess nobody asks"
    # the rim goes through the corner itself, and no further into the board
    outline = pocket(wish)
    along_walls = LineString(pocket_rings(outline, wish, 4.0)[-1])
    for x, y in outline.exterior.coords:
        reach = along_walls.distance(Point(x, y))
        assert reach == pytest.approx(4 if relieve else 4 * 2**0.5)


@pytest.mark.parametrize("relieve", [False, True])
@pytest.mark.parametrize(
    ("across", "deep", "tool"), [(60, 40, 8), (40, 40, 12), (30, 9.4, 9), (20, 20, 20)]
)
def test_rings_leave_nothing_of_a_seat_and_are_no_more_than_it_takes(
    across: float, deep: float, tool: float, relieve: bool
) -> None:
    wish = Wish(
        work="seat", across_mm=across, deep_mm=deep, diameter_mm=tool, corner_mm=1, relieve=relieve
    )
    outline, flat = pocket(wish), tool / 2 - 1
    rings = [LineString(p) for p in pocket_rings(outline, wish, tool)]
    # the flat of the cutter passes over all of the floor but what its corners leave at the walls
    floor = outline.buffer(-1.001).buffer(-flat).buffer(flat)
    strokes = [LineString(pair) for r in rings for pair in pairwise(r.coords)]
    cut = unary_union([stroke.buffer(flat) for stroke in strokes])
    assert floor.difference(cut).area < 1e-3
    for ring in rings if not relieve else rings[:-1]:
        assert outline.buffer(-tool / 2 + 1e-3).covers(ring)
    # the corner of a ring is the farthest from the next: its flat reaches so far along the diagonal
    reach = flat * (1 + math.sin(math.pi / 4)) * 0.99
    room = min(across, deep) / 2 + wish.clearance_mm - tool / 2
    assert len(rings) - 1 == math.ceil(room / min(tool, reach) - 1e-9)


@pytest.mark.parametrize("raised", [0.0, 7.5])
@pytest.mark.parametrize("units", ["mm", "inch"])
def test_what_is_written_is_what_was_planned_from_wherever_it_is_counted(
    units: Any, raised: float
) -> None:
    """Lines and arcs, and up at the end also from a path that ended low."""
    origin = (-120.0, 45.5)
    moves = [
        Move(-100.0, 50.0, 6.0),
        Move(-100.0, 50.0, -1.0, 300.0),
        Move(-80.0, 70.0, -1.0, 900.0, centre=(-100.0, 70.0)),
        Move(-100.0, 50.0, -1.0, 900.0, centre=(-100.0, 70.0), clockwise=True),
    ]
    told: dict[str, Any] = {"says": [], "units": units, "origin": origin, "rev_per_min": 12000}
    told |= {"safe_mm": 6.0, "by_hand": False, "spin_up_s": 3.0, "raise_mm": raised}
    at = read(write(moves, **told).encode()).motions.at
    x, y = origin
    planned = [[m.x - x, m.y - y, m.z + raised] for m in moves]
    ended = [*planned[-1][:2], 6.0 + raised]
    assert at[-5:, 3:6] == pytest.approx(np.array([*planned, ended]), abs=1e-3)
    assert at[-3:-1, 6:8] == pytest.approx(np.array([[20.0, 24.5]] * 2), abs=1e-3)


@pytest.mark.parametrize("wide", [77.8, 82.6, 120.0])
@pytest.mark.parametrize("outward", [False, True])
def test_rings_of_a_board_leave_no_islands_and_are_no_more_than_it_takes(
    wide: float, outward: bool
) -> None:
    """With as wide a step as there is: what bounds it are the corners of the rings."""
    radius = 10.0
    board = box(0, 0, wide, wide * 1.5)
    allowed = board.buffer(3 * radius, join_style="mitre")
    found = rings(board, allowed, 2 * radius, radius, 2 * radius, outward)
    cut = unary_union([LineString(p).buffer(radius, quad_segs=256) for p in found])
    assert board.difference(cut).area < 1e-6
    # spread evenly, one fewer from as far outside would leave some
    insets = sorted({round(board.exterior.distance(Point(*p[1])), 6) for p in found})
    n = len(insets) - 1
    fewer = [insets[0] + (insets[-1] - insets[0]) * k / (n - 1) for k in range(n)]
    # the innermost is a line: a hair wider it is still a ring
    paths = [board.buffer(1e-4 - at, join_style="mitre").exterior for at in fewer]
    left = board.difference(unary_union([p.buffer(radius, quad_segs=256) for p in paths]))
    assert left.area > 1e-6


@pytest.mark.parametrize("plate", [0.0, 12.0])
def test_a_seat_is_as_deep_as_its_panel_wherever_the_tool_is_zeroed(plate: float) -> None:
    """Zeroed on a plate, everything lies that much lower in the program."""
    seat = Wish(
        work="seat", diameter_mm=8, depth_mm=1, panel_mm=2.5, plate_mm=plate, feed_mm_min=3000
    )
    plan = make(seat, flat())
    assert [p.z_mm for p in plan.levels] == pytest.approx(
        [-2.5 / 3 - plate, -5 / 3 - plate, -2.5 - plate]
    )


def test_what_the_map_saves_and_how_often_it_can_be_skimmed() -> None:
    """One high end: upper levels are cut there only; life counts down to the shallowest metal."""
    places = [(x, y) for x in (-300.0, -100.0, 100.0, 300.0) for y in (-150.0, 150.0)]
    face = [(x, y, 3.0 if x > 200 else 0.0) for x, y in places]
    board = Board(
        thickness_mm=18,
        least_mm=8,
        keep_outs=[KeepOut(name="screw", what="screw", x_mm=-200, top_mm=-5.0, across_mm=8)],
    )
    facts = Facts(
        machine="Curlew", table_x_mm=600, table_y_mm=300, board=board, map=face, taken_mm=[0.4, 0.4]
    )
    wish = Wish(
        reach_left_mm=-330, reach_right_mm=330, reach_front_mm=-180, reach_rear_mm=180, depth_mm=1
    )
    plan = make(wish, facts)
    lengths = [p.length_mm for p in plan.levels]
    assert lengths[0] < 0.5 * lengths[-1]
    assert plan.saved_mm > 0
    # 3.1 off 18 leaves 6.9 above the least, but the screw is 5 below the low face: 4.9 − margin 2
    assert plan.more_times == 7
    assert plan.left_mm == pytest.approx(14.9)
    assert board.surfaced(0.4).keep_outs[0].top_mm == pytest.approx(-4.6)
    with pytest.raises(ValueError, match="thin"):
        board.surfaced(12)


@pytest.mark.parametrize(
    "points",
    [
        [(float(x), 0.0, 0.1) for x in range(-90, 91, 30)],
        [(0.0, 0.0, 0.0)] * 6,
        [(0.0, 0.0, 0.0)],
        [(float(x), 0.5 * x, 0.1) for x in range(-90, 91, 30)],
    ],
    ids=["a line", "one place again and again", "one point", "a slanting line"],
)
def test_a_map_of_one_line_plans_nothing(points: list[tuple[float, float, float]]) -> None:
    facts = flat().model_copy(update={"map": points})
    with pytest.raises(Problem, match="on one line") as refused:
        make(Wish(reach_left_mm=-150, reach_right_mm=150), facts)
    assert refused.value.field == "heights"


@pytest.mark.parametrize("side", [1, -1])
@pytest.mark.parametrize(
    ("gap", "top", "told"),
    # twenty across and two of room beside it; two of room over it as well
    [
        (11.5, 10.0, True),
        (12.5, 10.0, False),
        (11.5, -1.5, True),
        (11.5, -3.5, False),
    ],
)
def test_what_the_rim_comes_too_near_to_is_said_to_be_in_the_way(
    side: int, gap: float, top: float, told: bool
) -> None:
    post = KeepOut(
        name="fence post",
        what="other",
        shape="rectangle",
        top_mm=top,
        x_mm=side * (60 + gap + 15),
        y_mm=20.0,
        across_mm=30.0,
        deep_mm=10.0,
    )
    wish = Wish(
        work="part",
        across_mm=120,
        deep_mm=100,
        diameter_mm=20,
        body_mm=20,
        margin_mm=2,
        heights="range",
        range_mm=0.2,
        reach_left_mm=-95,
        reach_right_mm=95,
    )
    plan = make(wish, flat(keep_outs=[post]))
    assert any("Fence post is in the way" in n.metric for n in plan.notes) == told
    assert plan.report.faults == []


@pytest.mark.parametrize(("up", "told"), [(2.0, True), (-2.0, False)])
def test_what_stands_out_of_a_map_is_named_before_board_is_cut_for_it(
    up: float, told: bool
) -> None:
    """A hole in the map, too: the plan covers it by what lies around."""
    grid = [(float(x), float(y)) for x in range(-90, 91, 30) for y in range(-60, 61, 30)]
    around = [(x, y, 0.1) for x, y in grid if (x, y) not in ((30.0, 0.0), (-30.0, 30.0))]
    facts = flat().model_copy(
        update={"map": [*around, (-30.0, 30.0, 0.1 + up)], "specks": [(-30.0, 30.0, up)]}
    )
    plan = make(Wish(reach_left_mm=-150, reach_right_mm=150, diameter_mm=20), facts)
    assert plan.report.faults == []
    assert any("a screw head" in n.metric for n in plan.notes) == told


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({"diameter_mm": 0.01}, "diameter_mm"),
        ({"diameter_mm": 0.001, "heights": "range", "range_mm": 0.1}, "diameter_mm"),
        ({"diameter_mm": 0.05, "pattern": "rings_in"}, "diameter_mm"),
        ({"diameter_mm": 16.0, "stepover_mm": 0.01}, "diameter_mm"),
        ({"work": "seat", "diameter_mm": 0.01, "panel_mm": 5.0}, "diameter_mm"),
        ({"depth_mm": 0.002, "skim_mm": 0.002, "heights": "range", "range_mm": 5.0}, "depth_mm"),
    ],
)
def test_a_plan_without_end_is_refused_before_it_is_begun(
    monkeypatch: pytest.MonkeyPatch, more: dict[str, Any], field: str
) -> None:
    """A figure in one field that would be millions of passes: named, and nothing worked out."""
    rng = random.Random(3)
    facts = a_board(rng).model_copy(update={"lean_x": None, "lean_y": None})
    size = {"across_mm": 60.0, "deep_mm": 40.0, "stepover_mm": 0.0, "corner_mm": 0.0}
    stated = {**size, "zero": "highest", **more}
    # not one of them is made
    monkeypatch.setattr("truing.surfacing.plan.all_passes", None)
    with pytest.raises(Problem, match="passes") as refused:
        make(a_wish(rng, facts).model_copy(update=stated), facts)
    assert refused.value.field == field
