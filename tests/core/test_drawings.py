"""What is drawn and printed: the ghost of a machine, the sheet of a move, cutting templates."""

from __future__ import annotations

import io
import math
import xml.etree.ElementTree as ET
from itertools import pairwise
from typing import Any

import ezdxf
import pytest

from tests.core.helpers import NOTHING, case_of, evaluate, readings
from tests.core.printed import sheets
from truing.contract.move import Amount, Entry, Move, PadStack, Target
from truing.drawing.dxf import to_dxf
from truing.drawing.figures import Spot, plan_figure
from truing.drawing.pdf import MARGIN_MM, OVERLAP_MM, to_pdf
from truing.drawing.shapes import BAR_MM, Circle, Drawing, Line, Text, scale_bar
from truing.drawing.svg import to_svg
from truing.kit.instruments import Caliper
from truing.machine import FORM_TITLES, GANTRY_FORMS, Machine, starting_point
from truing.machine.ghost import DRAWN_DEG, FACTORS, Ghost, GhostPart, ghost
from truing.measure.names import tidied
from truing.measure.words import Words, plain
from truing.moves.sheet import HIGH_MM, WIDE_MM, move_sheet
from truing.registry import kind

FORMS = tuple(FORM_TITLES)
MICROMETER = Caliper(resolution_mm=0.001, repeatability_mm=0.0005)


def parts_of(drawn: Ghost, name: str) -> dict[str, GhostPart]:
    return {p.view: p for p in drawn.parts if p.name == name}


def span(part: GhostPart) -> tuple[float, float, float, float]:
    us = [p.u for o in part.outlines for p in o]
    vs = [p.v for o in part.outlines for p in o]
    return min(us), max(us), min(vs), max(vs)


def leant(part: GhostPart, factor: float) -> list[tuple[float, float]]:
    """The corners of a part turned about its pivot by its lean × factor: plus = its top to +u."""
    turn = -math.atan(part.lean_mm_per_m / 1000 * factor)
    c, s = math.cos(turn), math.sin(turn)
    corners = [(p.u - part.pivot.u, p.v - part.pivot.v) for o in part.outlines for p in o]
    return [(part.pivot.u + c * u - s * v, part.pivot.v + s * u + c * v) for u, v in corners]


@pytest.mark.parametrize("form", FORMS)
def test_the_spindle_leans_the_way_it_was_measured_and_only_then(form: Any) -> None:
    machine = starting_point(form)
    if not machine.spindle:
        assert not parts_of(ghost(machine, {}), "Spindle")
        return
    drawn = ghost(machine, {"lean_x": 0.4, "nod": -0.3}, stale={"nod"})
    spindle = parts_of(drawn, "Spindle")
    for view, sign in (("front", 1), ("side", -1)):
        part = spindle[view]
        straight = [(p.u, p.v) for o in part.outlines for p in o]
        turned = leant(part, drawn.factor)
        highest = max(range(len(straight)), key=lambda i: straight[i][1])
        tip = min(range(len(straight)), key=lambda i: straight[i][1])
        # its top goes over, the cutter the other way, about a pivot that lies within it
        assert (turned[highest][0] - straight[highest][0]) * sign > 0
        assert (turned[tip][0] - straight[tip][0]) * sign < 0
        assert straight[tip][1] < part.pivot.v < straight[highest][1]
        assert part.known
    assert (spindle["front"].stale, spindle["side"].stale) == (False, True)
    # what was not measured is dotted, not square
    bare = parts_of(ghost(machine, {"lean_x": 0.4}), "Spindle")
    assert (bare["front"].known, bare["side"].known) == (True, False)
    assert not any(p.stale for p in ghost(machine, {}, stale={"nod", "lean_x"}).parts)
    assert not parts_of(ghost(machine, {}), "Column").get("front", bare["side"]).known


@pytest.mark.parametrize("worst", [0.02, 0.1, 0.31, 0.7, 1.6, 9.0])
def test_the_worst_lean_is_drawn_at_about_five_degrees(worst: float) -> None:
    drawn = ghost(starting_point("column_mill"), {"lean_x": -worst, "nod": worst / 3})
    degrees = math.degrees(math.atan(worst / 1000 * drawn.factor))
    others = [math.degrees(math.atan(worst / 1000 * f)) for f in FACTORS]
    assert degrees == pytest.approx(min(others, key=lambda d: abs(math.log(d / DRAWN_DEG))))
    assert drawn.worst_mm_per_m == worst
    assert ghost(starting_point("column_mill"), {}).factor == max(FACTORS)


@pytest.mark.parametrize("form", FORMS)
def test_a_ghost_has_the_measures_of_its_machine_and_its_parts_meet(form: Any) -> None:
    machine = starting_point(form)
    drawn = ghost(machine, {})
    name = "Bed" if form in GANTRY_FORMS or form == "frame" else "Table"
    bed = parts_of(drawn, name)
    half_x, half_y = machine.table_x_mm / 2, machine.table_y_mm / 2
    assert span(bed["plan"]) == pytest.approx((-half_x, half_x, -half_y, half_y))
    assert span(bed["front"])[:2] == pytest.approx((-half_x, half_x))
    assert span(bed["side"])[:2] == pytest.approx((-half_y, half_y))
    for part in drawn.parts:
        low_u, high_u, low_v, high_v = span(part)
        assert low_u < high_u
        assert low_v < high_v
    # a cutter stands above the table and its circle is as large as it is
    if machine.spindle:
        spindle = span(parts_of(drawn, "Spindle")["front"])
        top = max(span(bed["front"])[3], 0.0)
        assert top < spindle[2] < spindle[3]
        cutter = span(parts_of(drawn, "Cutter")["plan"])
        assert cutter[1] - cutter[0] == pytest.approx(machine.cutter_mm, rel=0.01)
    # the feet stand where they are, in the plan and below the floor of what they carry
    if machine.feet is not None:
        plan = parts_of(drawn, "Feet")["plan"]
        found = sorted(sum(p.u for p in o) / len(o) for o in plan.outlines)
        assert found == pytest.approx(sorted(f.x_mm for f in machine.feet.places))
        feet = span(parts_of(drawn, "Feet")["front"])
        carried = parts_of(drawn, "Base").get("front") or bed["front"]
        assert feet[3] <= span(carried)[2] + 1e-9
    if machine.form not in GANTRY_FORMS and "Column" in {p.name for p in drawn.parts}:
        # seen from above the column stands behind the table, and from the side too
        column = parts_of(drawn, "Column")
        assert span(column["plan"])[2] >= half_y
        assert span(column["side"])[0] == pytest.approx(span(column["plan"])[2])
        assert span(column["side"])[2] < 0 < span(column["side"])[3]


@pytest.mark.parametrize("form", FORMS)
def test_the_three_views_are_of_one_machine(form: Any) -> None:
    machine = starting_point(form)
    drawn = ghost(machine, {})
    for name in {p.name for p in drawn.parts}:
        seen = {view: span(part) for view, part in parts_of(drawn, name).items()}
        front, side, plan = (seen.get(view) for view in ("front", "side", "plan"))
        if name in ("Feet", "Rails"):
            # stubs in the views from the front and the side, marks in the plan
            continue
        if front and plan:
            assert front[:2] == pytest.approx(plan[:2]), name
        if front and side:
            assert front[2:] == pytest.approx(side[2:]), name
        if side and plan:
            assert side[:2] == pytest.approx(plan[2:]), name
    # what is built alike left and right is drawn alike
    for part in drawn.parts:
        if part.view != "side":
            corners = {(round(p.u, 3), round(p.v, 3)) for o in part.outlines for p in o}
            assert corners == {(-u, v) for u, v in corners}, part.name


def test_what_a_machine_has_is_drawn_and_nothing_else() -> None:
    router = starting_point("gantry_router")
    names = {p.name for p in ghost(router, {}).parts}
    assert {"Beam", "End plates", "Bed"} <= names
    assert "Column" not in names
    bare = Machine.model_validate(
        {**router.model_dump(), "feet": None, "board": None, "lift": None, "gantry_drive": None}
    )
    gone = names - {p.name for p in ghost(bare, {}).parts}
    had = {"Feet": router.feet, "Board": router.board, "Lifting motors": router.lift}
    had["Driving motors"] = router.gantry_drive
    assert gone == {name for name, part in had.items() if part is not None}
    # motors stand left and right where they were said to stand
    if router.gantry_drive:
        motors = parts_of(ghost(router, {}), "Driving motors")["plan"]
        found = [sum(p.u for p in o) / len(o) for o in motors.outlines]
        at = router.gantry_drive
        assert found == pytest.approx([at.left_x_mm, at.right_x_mm])


# --- the sheet of a move --------------------------------------------------------------------------


def words(text: str) -> Words:
    return Words(metric=f"{text} mm", inch=f"{text} in")


MOVE = Move(
    key="feet",
    mechanism="feet",
    title=words("Turn two feet"),
    steps=[plain("Loosen the lock nuts."), words("Turn the right one by 0.2"), plain("Lock.")],
    cautions=["The machine can tip.", "Nobody's hand below it."],
    targets=[Target(station="3", label="At 3", from_mm=0.2, to_mm=0.1, words=words("+0.1"),
                    quantity="lean_x", per_mm=1.0)],
    stacks=[PadStack(pad="Front right", x_mm=100, y_mm=-50, before_mm=[], after_mm=[0.1],
                     words=words("put 0.1"))],
    amounts=[Amount(place="Rear left", x_mm=-100, y_mm=50, turns=0.25, words=plain("+¼ turn"),
                    detail=plain("two flats less one"))],
    entries=[Entry(setting="Backlash of X", value_mm=0.03, words=words("0.03"))],
    figures=[plan_figure(plain("Which feet"), [
        Spot(label="Front right", x_mm=100, y_mm=-50, words=plain("stay"), sort="stay"),
        Spot(label="Rear left", x_mm=-100, y_mm=50, words=plain("+¼ turn"), sort="up"),
    ])],
    notes=[plain("Wait ten minutes.")],
    predicted=[],
    takes=[],
)  # fmt: skip


def texts(drawn: Drawing) -> list[str]:
    return [s.text for s in drawn.shapes if isinstance(s, Text)]


def test_a_sheet_says_all_of_a_move_cautions_first() -> None:
    said = texts(move_sheet(MOVE, "Avocet", "metric"))
    everything = "\n".join(said)
    for part in ("Avocet", "Turn two feet mm", "Mind: The machine can tip.",
                 "Mind: Nobody's hand below it.", "Rear left: +¼ turn – two flats less one",
                 "Front right: put 0.1 mm", "Backlash of X: 0.03 mm", "At 3: +0.1 mm",
                 "1. Loosen the lock nuts.", "2. Turn the right one by 0.2 mm", "3. Lock.",
                 "Wait ten minutes."):  # fmt: skip
        assert part in everything, part
    first_step = next(i for i, t in enumerate(said) if t.startswith("1."))
    assert all(said.index(f"Mind: {c}") < first_step for c in MOVE.cautions)
    in_inch = "\n".join(texts(move_sheet(MOVE, "Avocet", "inch")))
    assert " in" in in_inch
    assert " mm" not in in_inch


def test_the_plan_on_a_sheet_is_not_mirrored_and_nothing_overlaps() -> None:
    drawn = move_sheet(MOVE, "Avocet", "metric")
    written = [s for s in drawn.shapes if isinstance(s, Text)]
    at = {s.text: s for s in written if s.text in ("Front right", "Rear left")}
    spots = {(round(s.x_mm, 3), round(s.y_mm, 3)) for s in drawn.shapes if isinstance(s, Circle)}
    (left, rear), (right, front) = sorted(spots)
    assert rear > front, "the rear is the upper side of the paper"
    frame = next(s for s in drawn.shapes if isinstance(s, Line) and s.closed)
    xs = [x for x, _ in frame.points]
    middle = (min(xs) + max(xs)) / 2
    assert left < middle < right
    assert abs(at["Front right"].y_mm - front) < 2
    assert abs(at["Rear left"].y_mm - rear) < 2
    # the spot that is acted on has a ring more
    rings = [s for s in drawn.shapes if isinstance(s, Circle) and s.radius_mm > 2]
    assert [(round(r.x_mm, 3), round(r.y_mm, 3)) for r in rings] == [(left, rear)]
    # "you stand here" is below the plan, where the front is
    stand = next(s for s in written if s.text.startswith("You stand here"))
    assert stand.y_mm < min(y for _, y in frame.points)
    body = [s for s in written if not (min(xs) <= s.x_mm and front - 9 < s.y_mm < rear + 9)]
    body.sort(key=lambda s: -s.y_mm)
    for above, below in pairwise(body):
        assert above.y_mm - below.y_mm >= below.size_mm
    for s in drawn.shapes:
        if isinstance(s, Circle):
            assert 0 < s.x_mm - s.radius_mm < s.x_mm + s.radius_mm < WIDE_MM
            assert 0 < s.y_mm - s.radius_mm < s.y_mm + s.radius_mm < HIGH_MM


def test_a_sheet_is_one_printed_page_that_says_the_same() -> None:
    page = sheets(to_pdf(move_sheet(MOVE, "Avocet", "metric")))
    assert len(page) == 1
    assert page[0].texts == texts(move_sheet(MOVE, "Avocet", "metric"))


def test_no_amount_is_lost_in_print() -> None:
    said = {
        "+1⅛ turns": "+1 1/8 turns",
        "−⅜ turn": "-3/8 turn",
        "½ turn, ±0.01 mm": "½ turn, ±0.01 mm",
        "front left–rear right": "front left–rear right",
        "“put right now” ≤ 0.02″": "“put right now” <= 0.02 in",
        "Říp": "Ríp",
        "Ж": "?",
    }
    shapes: list[Any] = [Text(x_mm=5, y_mm=9, text=t) for t in said]
    drawn = Drawing(title="Test", width_mm=100, height_mm=40, shapes=shapes)
    assert sheets(to_pdf(drawn))[0].texts == list(said.values())


# --- templates ------------------------------------------------------------------------------------


def template(**more: Any) -> Drawing:
    core = kind("gib_shim")
    stated = {"slide": "left_right", "wanted_mm": 18, "length_mm": 180, "width_mm": 24, **more}
    how = core.setup_type.model_validate({"apart_mm": 120, "passes": 1, **stated})
    read = readings([("thick", 7.4), ("thin", 5.0)])
    finding = evaluate(core, how, read, MICROMETER, NOTHING)
    drawn = core.drawing(case_of(core, how, found=finding))
    assert drawn is not None
    return drawn


def outline(drawn: Drawing) -> list[tuple[float, float]]:
    return next(s.points for s in drawn.shapes if isinstance(s, Line) and s.closed)


def test_a_template_is_not_mirrored() -> None:
    drawn = template(tab_mm=8, relief_mm=10, oil_holes_mm=[30, 100], oil_hole_mm=4)
    points = outline(drawn)
    left, right = min(x for x, _ in points), max(x for x, _ in points)
    # the notch for the screw is cut into the thick end, which lies left; the tab stands out right
    notch = [p for p in points if left < p[0] < left + 90]
    assert {round(x - left, 6) for x, _ in notch} == {5.0}
    assert right - left == pytest.approx(180 + 8)
    holes = [s for s in drawn.shapes if isinstance(s, Circle)]
    assert [round(h.x_mm - left, 6) for h in holes] == [30.0, 100.0]
    middle = (min(y for _, y in points) + max(y for _, y in points)) / 2
    assert [h.y_mm for h in holes] == pytest.approx([middle, middle])
    assert any("thick end is on the left" in t for t in texts(drawn))


def test_the_bar_is_ruled_from_end_to_end_and_no_further() -> None:
    lines = [s.points for s in scale_bar(5, 20) if isinstance(s, Line)]
    bar, *ticks = lines
    assert (bar[0], bar[1]) == ((5, 20), (5 + BAR_MM, 20))
    assert [t[0][0] for t in ticks] == pytest.approx([5 + 10 * i for i in range(11)])
    tall = [t[1][1] - t[0][1] for t in ticks]
    assert [i for i, h in enumerate(tall) if h == max(tall)] == [0, 5, 10]


def test_a_template_with_two_tabs_folds_where_they_begin() -> None:
    drawn = template(tab_mm=8, relief_mm=0)
    points = outline(drawn)
    left, right = min(x for x, _ in points), max(x for x, _ in points)
    low, high = min(y for _, y in points), max(y for _, y in points)
    assert right - left == pytest.approx(180 + 16)
    # a tab is a third of the width and lies in its middle, at both ends alike
    for end in (left, right):
        ys = sorted(y for x, y in points if x == end)
        assert ys == pytest.approx([low + (high - low) / 3, low + 2 * (high - low) / 3])
    folds = [s.points for s in drawn.shapes if isinstance(s, Line) and s.layer == "mark"]
    assert sorted(f[0][0] for f in folds) == pytest.approx([left + 8, right - 8])
    plain_one = outline(template(tab_mm=0, relief_mm=0))
    assert len(plain_one) == 4
    area = abs(sum(a[0] * b[1] - b[0] * a[1] for a, b in
                   zip(plain_one, [*plain_one[1:], plain_one[0]], strict=True))) / 2  # fmt: skip
    assert area == pytest.approx(180 * 24)


def test_a_template_is_printed_at_full_size_and_long_ones_overlap_to_be_glued() -> None:
    page = sheets(to_pdf(template(tab_mm=8, relief_mm=10)))
    assert len(page) == 1
    assert any(abs(length - BAR_MM) < 0.01 for length in page[0].lengths)
    assert max(page[0].lengths) == pytest.approx(180, abs=0.01)
    long = sheets(to_pdf(template(tab_mm=0, relief_mm=0, length_mm=700)))
    assert len(long) == 3
    # the same edge on neighbouring sheets lies apart by a sheet's room less the overlap
    room = 297 - 2 * MARGIN_MM - OVERLAP_MM
    starts = [min(a[0] for a, b in s.lines if abs(a[0] - b[0]) > 600) for s in long]
    assert [a - b for a, b in pairwise(starts)] == pytest.approx([room, room], abs=0.01)
    assert [t for s in long for t in s.texts if "sheet " in t and " of " in t] == [
        f"Cutting template, 1:1 – sheet {i} of 3" for i in (1, 2, 3)
    ]
    assert starts[0] >= MARGIN_MM
    assert starts[-1] + 700 <= 297 - MARGIN_MM


def test_an_svg_is_upright_and_escapes_what_was_typed() -> None:
    drawn = Drawing(title="a < b & c", width_mm=50, height_mm=40, shapes=[
        Line(points=[(0, 0), (10, 0), (10, 5)], closed=True),
        Circle(x_mm=20, y_mm=30, radius_mm=2), Text(x_mm=1, y_mm=39, text="<b>top</b>"),
    ])  # fmt: skip
    root = ET.fromstring(to_svg(drawn))
    inside = {e.tag.rpartition("}")[2]: e for e in root}
    assert (root.get("width"), root.get("viewBox")) == ("50mm", "0 0 50 40")
    assert inside["title"].text == "a < b & c"
    assert inside["text"].text == "<b>top</b>"
    assert float(inside["text"].get("y", "")) == 1, "what is high stands near the top edge"
    assert float(inside["circle"].get("cy", "")) == 10
    assert inside["path"].get("d") == "M0.000 40.000L10.000 40.000L10.000 35.000Z"


HOSTILE = [
    '"><script>alert(1)</script>',
    "]]> <!-- &amp; &#0; <?xml?>",
    "Avo\ncet\r\n  0\nENDSEC\n  0\nEOF\n",
    "(half open ) \\( \\) %%EOF endstream",
    "a\x00b\x0b\x1b[31m\x7f\x85\u2028c",
    "left\u202eright\u2066\u200b\ufeff",
    "%%c %%u ^J \\P {\\H3x;big} \\U+0041",
    "\u0645\u06cc\u200c\u0646 \u0394 ⌀ ½ ’ ±",
    "x" * 400,
]


@pytest.mark.parametrize("name", HOSTILE)
def test_no_name_breaks_a_file_that_it_is_written_into(name: str) -> None:
    shapes: list[Any] = [
        Line(points=[(0, 0), (50, 0)]),
        Text(x_mm=5, y_mm=5, text=name),
        Text(x_mm=5, y_mm=15, text="after it"),
    ]
    drawn = Drawing(title=name, width_mm=100, height_mm=60, shapes=shapes)
    seen = tidied(name)
    assert "\n" not in seen
    root = ET.fromstring(to_svg(drawn))
    texts = [t.text for t in root.iter("{http://www.w3.org/2000/svg}text")]
    assert texts == [seen, "after it"]
    assert {e.tag.rpartition("}")[2] for e in root.iter()} == {"svg", "title", "path", "text"}
    read = ezdxf.read(io.StringIO(to_dxf(drawn)))
    assert not read.audit().errors
    assert len(read.modelspace()) == 3
    written = [t.dxf.text for t in read.modelspace().query("TEXT")]
    assert written[1] == "after it"
    assert written[0] == seen
    [page] = sheets(to_pdf(drawn))
    assert "after it" in page.texts
    assert len(page.lines) >= 1
