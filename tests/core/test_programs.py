"""Reading programs: what a machine would do with them, found by other means."""

from __future__ import annotations

import json
import math
import re

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bench import nasty
from bench.nasty import FLAT, POINT
from tests.core.faulty import FAULTS, GOOD, GROUND, checked
from truing.measure.problem import Problem
from truing.programs import read
from truing.programs.check import check
from truing.programs.cite import cited
from truing.programs.cutters import Cutter
from truing.programs.frames import Frames
from truing.programs.ground import MOST_WORK, Ground
from truing.programs.motions import KIND, LINE, X1, Y1, Z0, Z1, Kind, Odd
from truing.programs.picture import picture
from truing.programs.relief import relief
from truing.programs.spans import spans
from truing.programs.sweep import Grid
from truing.programs.timing import Drives, times
from truing.programs.width import _places, line_width


def test_a_good_program_raises_no_alarm_and_is_told_in_figures() -> None:
    report = checked(GOOD)
    assert (report.verdict, report.faults) == ("sound", [])
    assert report.units == "mm"
    assert report.deepest_mm == -0.5
    assert report.deepest_line == 8
    assert report.cutting == [-20, 10, -0.5, 220, 30, 5]
    assert [(level.z_mm, level.length_mm) for level in report.levels] == [(-0.5, 500)]
    assert report.feeds_mm_min == [1200]
    assert report.cutting_mm + report.air_mm == pytest.approx(500 + 5.5)
    # two strokes over the board, from where its rim meets it to where it has left it
    assert report.cutting_mm == pytest.approx(2 * 230, abs=3)
    assert report.removed_mm3 == pytest.approx(200 * 45 * 0.5, rel=0.03)
    still = checked(GOOD.replace("Y30\n", "X220\nX220 Y10\nY30\n"))
    assert still.motions == report.motions
    assert "in the air first" in report.sentence.metric


def test_a_cut_by_the_very_first_motion_is_the_deepest_one_too() -> None:
    report = checked("G21 G90 G94\nG1 X60 Y40 Z-0.5 F800\nG0 Z5\nM30\n")
    assert (report.deepest_mm, report.deepest_line) == (pytest.approx(-0.5), 2)
    nothing = checked("G21 G90 G94\nG0 Z5\nG0 X60 Y40\nM30\n")
    assert (nothing.deepest_mm, nothing.deepest_line) == (None, 0)


def test_the_first_line_that_would_do_harm_is_named_however_far_down_it_is() -> None:
    """All of it too large for the work, which is no line's fault, and a cut with no spindle."""
    said = [f"(note {n})" for n in range(150)]
    text = "\n".join(
        ["G21 G90 G94", *said, "G0 Z5", "G0 X-20 Y10", "G1 Z-0.5 F1200", "X3000 Y2000"]
    )
    report = checked(text)
    assert [f.code for f in report.dangers if f.line == 0] == ["units"]
    assert "the first in line 155" in report.sentence.metric


def test_how_far_a_check_has_come_is_told_and_never_goes_back() -> None:
    told: list[tuple[float, int]] = []
    check(
        read(GOOD.replace("X220", "/X220").encode()),
        GROUND,
        progress=lambda share, line: told.append((share, line)),
    )
    shares = [share for share, _ in told]
    assert len(shares) >= 3
    assert shares == sorted(shares)
    assert 0 < shares[0] < 0.5 < shares[-1] <= 1
    # the line that is looked at, for who has to tell where it broke off
    assert {line for _, line in told} == {0, 4}


@pytest.mark.parametrize(("strokes", "finest"), [(10, True), (40_000, True), (400_000, False)])
def test_the_face_is_as_fine_as_the_work_over_it_allows(strokes: int, finest: bool) -> None:
    """The bound on cells looked at: under the cutter's width along its path over the board, however
    far beside it that goes on."""
    text = "G1 X-900 Y40\nX900 Y90\n" * (strokes // 2)
    motions = read(f"G21 G90 G94 F900\nG0 X-900 Y40 Z-1\n{text}".encode()).motions
    cell = GROUND.surface(motions, spans(motions)).cell_mm
    radius = GROUND.cutter.diameter_mm / 2
    looked_at = strokes * 230 * 2 * radius / cell**2
    assert (cell == radius / 12) == finest
    assert looked_at <= MOST_WORK * 1.1
    # no coarser than that asks for
    assert finest or looked_at > 0.5 * MOST_WORK


def test_a_rapid_beside_the_board_is_too_near_within_the_cutters_radius() -> None:
    """One of 30 mm, run along the board's left and its right side."""
    line, code = "G0 Z5\nG0 X{x} Y40\nG0 Z1\nG0 Y90\nG0 Z5", "rapid_low"
    for beside, near in ((14.0, True), (11.0, True), (16.0, False)):
        for x in (-beside, 200 + beside):
            text = f"G21 G90 G94\n{line.format(x=x)}\nM30\n"
            codes = {f.code for f in checked(text).dangers}
            assert (code in codes) == near, (x, codes)


@pytest.mark.parametrize(
    ("said", "units", "deepest"),
    [("G20", "inch", -12.7), ("G21", "mm", -0.5), ("", "not stated", -0.5)],
)
def test_a_program_says_what_it_is_written_in(said: str, units: str, deepest: float) -> None:
    report = checked(GOOD.replace("G21", said))
    assert report.units == units
    assert report.deepest_mm == pytest.approx(deepest)


SMALL = GOOD.replace("X-20", "X-0.8").replace("X220", "X8.7").replace("Y30", "Y1.2")
SMALL = SMALL.replace("Y10", "Y0.4")
SHALLOW, SLOW = ("Z-0.5", "Z-0.02"), ("F1200", "F47")


@pytest.mark.parametrize(
    ("text", "asked"),
    [
        (SMALL.replace(*SHALLOW).replace(*SLOW), True),
        (GOOD.replace(*SHALLOW).replace(*SLOW), False),
        (SMALL.replace(*SLOW), False),
        (SMALL.replace(*SHALLOW), False),
    ],
    ids=["all of it", "of its full size", "deep", "fast"],
)
def test_inches_that_were_stated_as_mm_are_small_shallow_and_slow(text: str, asked: bool) -> None:
    assert ("units" in [f.code for f in checked(text).faults]) == asked


@pytest.mark.parametrize("code", FAULTS)
def test_each_fault_is_found_in_its_line(code: str) -> None:
    old, new = FAULTS[code]
    assert GOOD.count(old) == 1
    text = GOOD.replace(old, new)
    report = checked(text)
    found = [f for f in report.faults if f.code == code]
    assert found, [f.code for f in report.faults]
    line = found[0].line
    if line:
        changed = [
            k
            for k, (a, b) in enumerate(
                zip([*GOOD.splitlines(), *[""] * 9], text.splitlines(), strict=False), 1
            )
            if a != b
        ]
        # what is missing at the end shows in the motion before it
        assert line >= min(changed) - (code == "no_retract")
    # worst first, and only what may be asked leaves it sound
    tones = [{"danger": 0, "wrong": 1, "ask": 2}[f.tone] for f in report.faults]
    assert tones == sorted(tones)
    assert report.verdict != "sound" or set(tones) == {2}


@pytest.mark.parametrize("peck", ["", "Q0", "Q-1"])
@pytest.mark.parametrize("code", ["G83", "G73"])
def test_a_cycle_that_pecks_by_nothing_would_never_end(code: str, peck: str) -> None:
    report = checked(GOOD.replace("Y30\n", f"Y30\n{code} X50 Z-2 R1 {peck}\nG1\n"))
    here = [f.code for f in report.faults if f.line == GOOD.splitlines().index("Y30") + 2]
    assert here == ["cycle"]


@pytest.mark.parametrize(
    "line",
    ["o100 sub", "#1 = 2", "[3]", "]", "= 2", "<depth>", "> 1", "X#1", "X [1+2]"],
)
def test_variables_and_sums_are_not_followed_and_never_taken_for_stray_signs(line: str) -> None:
    report = checked(GOOD.replace("Y30\n", f"{line}\nY30\n"))
    here = [f.code for f in report.faults if f.line == GOOD.splitlines().index("Y30") + 1]
    assert here == ["not_followed"]
    assert report.verdict != "sound"


@pytest.mark.parametrize(
    "code", ["not_followed", "unknown_g", "machine_place", "length", "probed", "compensated"]
)
def test_what_is_not_followed_makes_the_rest_unknown(code: str) -> None:
    old, new = FAULTS[code]
    report = checked(GOOD.replace(old, new))
    assert report.unknown_from > 0
    assert report.verdict in ("incomplete", "faults")
    if report.verdict == "incomplete":
        assert f"line {report.unknown_from}" in report.sentence.metric


def test_a_line_behind_a_slash_is_read_both_ways() -> None:
    report = checked(GOOD.replace("G0 Z5\nM5", "/G0 Z5\nM5"))
    assert [(f.code, f.slashed) for f in report.faults] == [("no_retract", True)]


def ends(text: str) -> list[tuple[float, ...]]:
    at = read(text.encode()).motions.at
    return [tuple(round(float(v), 6) for v in row) for row in at[:, [X1, Y1, Z1]]]


@pytest.mark.parametrize(
    ("written", "plainly"),
    [
        ("g21g90g0z5\nx1y2", "G21\nG90\nG0 Z5\nG0 X1 Y2"),
        ("N10 G21 G0 Z5 *51\nN20 X+1.0Y2.", "G21\nG0 Z5\nG0 X1 Y2"),
        ("G20\nG0 Z.1\nX- 1", "G21\nG0 Z2.54\nG0 X-25.4"),
        ("G21 G0 Z5 (up) X1 ; then\r\nG91 X1\rX1", "G21\nG0 Z5 X1\nX2\nX3"),
    ],
)
def test_ways_of_writing_mean_the_same(written: str, plainly: str) -> None:
    np.testing.assert_equal(ends(written), ends(plainly))


@pytest.mark.parametrize(
    ("said", "left_out"),
    [
        ("G17\nG2 X10 Y0 I5", "J0"),
        ("G17\nG3 X0 Y10 J5", "I0"),
        ("G18\nG2 X10 Z5 I5", "K0"),
        ("G18\nG3 X0 Z15 K5", "I0"),
        ("G19\nG2 Y10 Z5 J5", "K0"),
        ("G19\nG3 Y0 Z15 K5", "J0"),
    ],
)
def test_a_centre_lies_level_with_the_beginning_where_no_word_says_otherwise(
    said: str, left_out: str
) -> None:
    begun = "G21 G90 G94\nG0 X0 Y0 Z5\nF100\n"
    bare, whole = (read(f"{begun}{said}{more}\n".encode()).motions for more in ("", f" {left_out}"))
    assert int(bare.how[-1, KIND]) in (Kind.CW, Kind.CCW)
    np.testing.assert_array_equal(bare.at, whole.at)


@settings(max_examples=60, deadline=None)
@given(
    st.floats(-50, 50),
    st.floats(-50, 50),
    st.floats(1, 40),
    st.floats(0, 6.28),
    st.floats(0.05, 6.2),
    st.booleans(),
    st.sampled_from([17, 18, 19]),
)
def test_an_arc_is_the_same_by_centre_and_by_radius(cx, cy, r, start, angle, ccw, plane) -> None:  # type: ignore[no-untyped-def]
    """Both forms have the length that the geometry says, in every plane."""
    p, q, i, j = {17: "XYIJ", 18: "ZXKI", 19: "YZJK"}[plane]
    end = start + angle if ccw else start - angle
    a = (cx + r * math.cos(start), cy + r * math.sin(start))
    b = (cx + r * math.cos(end), cy + r * math.sin(end))
    head = f"G21 G90 G94 G{plane} F600\nG0 X0 Y0 Z0\nG0 {p}{a[0]:.9f} {q}{a[1]:.9f}\n"
    code = "G3" if ccw else "G2"
    centre = f"{head}{code} {p}{b[0]:.9f} {q}{b[1]:.9f} {i}{cx - a[0]:.9f} {j}{cy - a[1]:.9f}\n"
    sign = -1 if angle > math.pi else 1
    radius = f"{head}{code} {p}{b[0]:.9f} {q}{b[1]:.9f} R{sign * r:.9f}\n"
    for text in (centre, radius):
        motions = read(text.encode()).motions
        length = times(motions, Drives()).length_mm[-1]
        assert length == pytest.approx(r * angle, rel=2e-3, abs=2e-3)
    whole = f"{head}{code} {i}{cx - a[0]:.9f} {j}{cy - a[1]:.9f}\n"
    found = times(read(whole.encode()).motions, Drives()).length_mm[-1]
    assert found == pytest.approx(2 * math.pi * r, rel=1e-4)


@pytest.mark.parametrize("radius", [0.05, 1.0, -1.0, 50.0])
@pytest.mark.parametrize("unit", [1.0, 25.4])
def test_a_radius_may_fall_short_of_its_ends_by_a_hundredth(radius: float, unit: float) -> None:
    """Whatever its size; further off nobody knows how it goes, and by how much is told."""
    for short_mm, told in ((0.009, False), (0.011, True)):
        chord = 2 * (abs(radius) + short_mm) / unit
        text = f"G{21 if unit == 1 else 20} G90 G94 G17 F600\nG0 X0 Y0 Z0\n"
        motions = read(f"{text}G2 X{chord:.8f} R{radius / unit:.8f}\n".encode()).motions
        found = [by for _, what, by in motions.odd if what == Odd.ARC_SMALL]
        assert found == ([pytest.approx(short_mm, abs=1e-5)] if told else [])
        # and ends where it says, if it was followed
        assert (motions.at[-1, X1] == pytest.approx(chord * unit)) is not told


def test_a_drilling_cycle_goes_down_and_up_as_it_says() -> None:
    text = "G21 G90 G17 G94\nG0 Z10\nG0 X0 Y0\n{g}G83 X5 Y6 Z-5 R1 Q2 F100\nX9\nG80\nG0 X0"
    by_initial = read(text.format(g="G98 ").encode()).motions
    cuts = by_initial.at[by_initial.cuts]
    assert cuts[:3, Z1].tolist() == [-1, -3, -5]
    assert cuts[:, X1].tolist() == [5, 5, 5, 9, 9, 9]
    # a peck begins a little over where the last one ended, never below it
    assert (cuts[1:3, Z0] > cuts[:2, Z1]).all()
    over = [m[Z1] for m in by_initial.at if m[X1] == 0]
    assert over[-1] == 10
    to_r = read(text.format(g="G99 ").encode()).motions
    assert to_r.at[-1, Z1] == 1
    turned = read(b"G21 G91 G94 F100\nG0 Z10\nG90 G0 X0 Y0 Z5\nG91 G81 X5 Z-3 R-2 L3\n").motions
    drilled = turned.at[turned.how[:, KIND] == Kind.FEED]
    assert drilled[:, X1].tolist() == [5, 10, 15]
    assert drilled[:, Z1].tolist() == [0, 0, 0]


def test_a_hole_of_a_thousand_pecks_is_followed_to_its_end() -> None:
    head = "G21 G90 G17 G94 F100\nG0 X0 Y0 Z2\n"
    motions = read(f"{head}G83 X5 Y6 Z-49 R1 Q0.05\n".encode()).motions
    cuts = motions.at[motions.cuts]
    assert cuts[:, Z1] == pytest.approx(1 - 0.05 * np.arange(1, 1001))
    assert motions.at[-1, Z1] == 2


def test_inverse_time_and_feed_per_turn_are_feeds() -> None:
    text = b"G21 G90\nG0 Z5\nG0 X0 Y0\nG93 G1 X10 F6\nG95 S1000 M3\nX20 F0.1\nG94 F250\nX30\n"
    motions = read(text).motions
    assert motions.at[motions.cuts][:, 8].tolist() == [60, 100, 250]
    # as long as it is from where it stands, not from nothing
    slant = read(b"G21 G90\nG0 Z5\nG0 X1 Y2\nG93 G1 X4 Y6 Z-7 F10\nG94 F1\n").motions
    assert slant.at[slant.cuts][0, 8] == pytest.approx(10 * 13)


@pytest.mark.parametrize(("word", "wrong"), [("S-1", True), ("S0.5", False), ("S0", False)])
def test_a_speed_below_nothing_is_none(word: str, wrong: bool) -> None:
    program = read(f"G21 G90\nG0 Z5\n{word}\nG0 X1\n".encode())
    assert any(row[1] == 38 for row in program.motions.odd.tolist()) == wrong


def test_a_program_may_have_a_hundred_megabytes_and_no_more() -> None:
    most = 100 * 2**20
    with pytest.raises(Problem, match="more than is read at once"):
        read(b" " * (most + 1))
    # so many spaces are no program, and not too many
    with pytest.raises(Problem, match="no word"):
        read((b" " * 99 + b"\n") * (most // 100))


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "no word"),
        (b"Dear Sir,\nthank you for the cutter, it is sharp.\n" * 30, "no word of a program"),
        ("G21\nG0 Z5\n".encode("utf-16"), "two bytes a letter"),
        (bytes(range(256)) * 40, "no word of a program"),
        (b"G,1 X,2 Y,3 Z4\n" * 60, "reads like no program"),
        # the first sign that cannot be read is told as it looks, where it looks like anything
        (b"G1 X2 ~1 ~2 ~3\n" * 60, "in line 1, column 7: “~”"),
        (b"G1\nX2 \x7f1 \x7f2 \x7f3\n" * 60, "in line 2, column 4: a byte of value 127"),
        (b"G1 X2 \xfc1 \xfc2 \xfc3\n" * 60, "in line 1, column 7: a byte of value 252"),
        (b"(a comment", "no word"),
    ],
)
def test_what_is_no_program_is_said_and_nothing_breaks(data: bytes, says: str) -> None:
    with pytest.raises(Problem, match=says) as refused:
        read(data)
    assert refused.value.field == "file"


@pytest.mark.parametrize(
    ("line", "at"),
    [
        ("G1 X2 (not closed", "("),
        ("G1 X Y2", "X"),
        ("G1 X2 @ Y3", "@"),
        ("  G1  7 X2", "7"),
        ("G1 X2,5", ","),
    ],
)
def test_what_cannot_be_read_is_found_where_the_editor_shows_it(line: str, at: str) -> None:
    text = f"G21 G90\nG0 Z5\n{line}\nG1 X1 Y1 F100\nM30\n"
    told = [f for f in checked(text).faults if "Column" in f.text.metric]
    assert [f.line for f in told] == [3]
    assert f"Column {line.index(at) + 1}: " in told[0].text.metric
    # behind a slash it spoils nothing that is run without it
    without = read(text.replace(line, f"/{line}").encode()).without
    assert without is not None
    assert without.at[-1, [X1, Y1]].tolist() == [1, 1]
    assert np.isfinite(without.at[-1, Z1])


@pytest.mark.parametrize("word", ["G0 X7", "g0 x7", "gX7", "x7", "(lift) X7", "; X9\nX7"])
def test_stray_signs_are_one_trouble_and_swallow_no_word_behind_them(word: str) -> None:
    program = read(f"G21 G90\nG0 Z5\n{{~!{word}\n".encode())
    assert program.words.value[-1] == 7
    stray = [row[:2] for row in program.words.trouble.tolist() if row[1] <= 3]
    assert stray == [[3, 1]]


def test_a_line_of_too_many_words_behind_a_slash_is_left_out_as_a_whole() -> None:
    text = b"G21 G90\nG0 X0 Y0 Z5\n/G1 " + b"X1 Y2 " * 200 + b"\nG1 X1 F100\nM30\n"
    without = read(text).without
    assert without is not None
    assert without.at[-1, [X1, Y1, Z1]].tolist() == [1, 0, 5]


def test_one_endless_line_is_named_and_not_followed() -> None:
    with pytest.raises(Problem, match="Line 3 is 1,200,003 letters long"):
        read(b"G21 G90\r\nG0 Z5\r\nG1 " + b"X1 Y2 " * 200_000 + b"\nM30\n")
    program = read(b"G21 G90\nG0 Z5\nG1 " + b"X1 Y2 " * 1_600 + b"\nM30\n")
    assert [int(v) for v in program.words.trouble[0][:1]] == [3]
    assert int(program.motions.how[-1, LINE]) == 2


@settings(max_examples=60, deadline=None)
@given(st.text("ab\r\n;G1 ", max_size=60), st.sets(st.integers(-1, 70)))
def test_lines_are_cited_as_they_stand(text: str, wanted: set[int]) -> None:
    lines = re.split(r"\r\n|\r|\n", text)
    told = cited(text.encode(), wanted)
    assert set(told) == {n for n in wanted if n > 0}
    for n, line in told.items():
        assert line == (lines[n - 1] if n <= len(lines) else "")
    assert cited(b"G1 X" + b"1" * 200 + b"\nG0", [1, 2]) == {1: "G1 X" + "1" * 76, 2: "G0"}


@settings(max_examples=60, deadline=None)
@given(st.binary(max_size=400))
def test_no_bytes_break_the_reader(data: bytes) -> None:
    """Whatever is in a file: it is read, or refused with a reason."""
    try:
        program = read(data)
    except Problem as refused:
        assert refused.expected
        return
    report = check(program, GROUND)
    assert report.lines >= 1
    assert report.verdict in ("sound", "faults", "incomplete")


@pytest.mark.parametrize(
    "word", ["X1e20", "X2000000", "Y-1000001", "F1000001", "S99999999", "P4000000", "R1234567.5"]
)
@pytest.mark.parametrize("angle", [0.0, 60.0])
def test_a_figure_beyond_any_machine_is_refused_where_it_stands(word: str, angle: float) -> None:
    word = word.replace("1e20", "1" + "0" * 20)
    ground = GROUND.model_copy(
        update={"cutter": Cutter(diameter_mm=6, included_deg=angle, plunges=True)}
    )
    text = GOOD.replace("Y30\n", f"G1 {word} Y30\n")
    report = checked(text, ground)
    line = text.splitlines().index(f"G1 {word} Y30") + 1
    [told] = [f for f in report.faults if f.code == "unreadable"]
    assert (told.line, report.unknown_from) == (line, line)
    assert "Column 4: “" in told.text.metric
    picture(read(text.encode()).motions, ground)


def test_no_sum_of_steps_leaves_the_kilometre_that_is_believed() -> None:
    program = read(b"G21 G90 G94 F100\nG0 X0 Y0 Z5\nG91\n" + b"G1 X900000\n" * 4)
    assert np.nanmax(np.abs(program.motions.at[:, X1])) <= 1e6
    assert [int(o[0]) for o in program.motions.odd if o[1] == Odd.BEYOND] == [5]


SAID = (
    "G0 G1 G2 G3 G17 G18 G19 G20 G21 G28 G53 G80 G81 G83 G90 G91 G93 G95 G10 G92 G54 G55 M3 M5 M6 "
    "G43 X0 X-5 X999999 Y7 Z-3 Z2 I4 J-2 K1 R3 R-2 P900 Q0.1 F0 F300 S0 S9000 L3 T2 H1"
)


@settings(max_examples=40, deadline=None)
@given(
    st.lists(
        st.sampled_from(SAID.split()),
        min_size=4,
        max_size=60,
    ),
    st.sampled_from([0.0, 60.0]),
)
def test_nothing_that_is_no_number_is_told(words: list[str], angle: float) -> None:
    """Whatever a program says: all that is reported and drawn can be sent."""
    ground = GROUND.model_copy(
        update={"cutter": Cutter(diameter_mm=6, included_deg=angle, plunges=True)}
    )
    lines = [" ".join(words[k : k + 4]) for k in range(0, len(words), 4)]
    program = read(("G21 G90 G0 Z5\n" + "\n".join(lines)).encode())
    for told in (check(program, ground), picture(program.motions, ground)):
        json.dumps(told.model_dump(mode="json"), allow_nan=False)


@pytest.mark.parametrize(
    ("shape", "cutter"),
    [
        ("strokes in thousandths", FLAT),
        ("strokes in the wrong unit", FLAT),
        ("long rapids through the board", FLAT),
        ("wide circles", FLAT),
        ("wide upright circles", POINT),
        ("the spindle on and off", FLAT),
    ],
)
def test_what_a_check_takes_follows_the_number_of_lines(
    shape: str, cutter: Cutter, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Not their length: the limit of the test itself is what ends those that would never end."""
    monkeypatch.setattr(nasty, "LINES", 3000)
    lines, _ = nasty.SHAPES[shape]
    program = read((nasty.HEAD + "\n".join(lines()) + "\n" + nasty.END).encode())
    report = check(program, nasty.ground(cutter))
    picture(program.motions, nasty.ground(cutter))
    assert report.motions >= 1000
    assert report.dangers


def test_a_picture_of_some_of_very_many_shows_what_all_of_them_leave(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """A face gone over again and again, and one stroke that is deeper than all others."""
    rng = np.random.default_rng(4)
    lines = [f"G1 X{x:.1f} Y{y:.1f} Z-0.5" for x, y in rng.uniform(0, 1000, (20_000, 2))]
    lines[1234] = "G1 X500 Y500 Z-0.75\nG2 I20\nG1 Z-0.5"
    motions = read((nasty.HEAD + "\n".join(lines) + "\n" + nasty.END).encode()).motions
    ground = nasty.ground(FLAT)
    whole = picture(motions, ground)
    seen: list[int] = []
    monkeypatch.setattr("truing.programs.picture.MOST_DRAWN", 1e7)
    cut = relief
    monkeypatch.setattr(
        "truing.programs.picture.relief",
        lambda ran, *to: (seen.append(len(ran.at)), cut(ran, *to)),
    )
    some = picture(motions, ground)
    assert seen[0] < len(motions.at) / 2
    assert some.most_mm == pytest.approx(whole.most_mm, abs=1e-3)
    gone = [np.mean(np.array(p.depth_mm) > 0.49) for p in (whole, some)]
    assert gone[1] == pytest.approx(gone[0], abs=0.05)


@pytest.mark.parametrize(
    ("stated", "scale", "meant"),
    [
        ("G20", 1, "millimetre meant, and inch"),
        ("G21", 1000, "thousandths"),
        ("G21", 20, "look at"),
    ],
)
def test_a_wrong_unit_is_named_as_such(stated: str, scale: float, meant: str) -> None:
    text = "\n".join(
        [f"{stated} G17 G90 G94 G54", "G0 Z5000", "S8000 M3", "G4 P3", "G0 X0 Y0", "G1 Z4999 F900"]
        + [f"G1 X{180 * scale} Y{k * scale}\nX0" for k in range(9)]
    )
    [told] = [f for f in checked(text).dangers if f.code == "units"]
    assert meant in told.text.metric
    assert f"{180 * scale * (25.4 if stated == 'G20' else 1) / 200:,.3g} times" in told.text.metric


# --- how wide a point's line is -------------------------------------------------------------------


@pytest.mark.parametrize("tilt", [0.0, 0.002, -0.006])
def test_the_width_of_a_line_follows_the_face_under_it(tilt: float) -> None:
    """Against a cone and a plane, place by place."""
    face = [(x, y, min(tilt * x, tilt * (x - 200))) for x in (0.0, 200.0) for y in (0.0, 150.0)]
    ground = Ground(
        board=(0, 0, 200, 150),
        map=face,
        tir_mm=0.02,
        cutter=Cutter(diameter_mm=6, included_deg=60, tip_mm=0.1, plunges=True),
    )
    text = "G21 G90 G94 F500\nG0 Z5\nG0 X10 Y75\nG1 Z-0.3\nG1 X190\nG0 Z5\n"
    found = line_width(read(text.encode()).motions, ground)
    assert found
    # a cone of 60° at depth d is 2·d·tan 30° across; the cutter touches where the face is higher
    across = []
    for x in np.linspace(10, 190, 500):
        deep = min(tilt * x, tilt * (x - 200)) + 0.3
        across.append(0.12 + 2 * deep * math.tan(math.radians(30)) if deep > 0 else 0.0)
    assert found.most_mm == pytest.approx(max(across), abs=0.015)
    assert found.least_mm == pytest.approx(min(across), abs=0.015)
    assert ("vanishes" in found.words.metric) == (min(across) == 0)


def test_a_long_engraving_is_looked_at_in_places_that_are_not_too_many(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """Ever deeper, stroke by stroke: the end of each is looked at however few places there may
    be."""
    ground = GROUND.model_copy(
        update={"cutter": Cutter(diameter_mm=6, included_deg=90, tip_mm=0.1, plunges=True)}
    )
    strokes = [f"G1 X{190 if k % 2 else 10} Z-{0.01 * (k + 1):.2f}" for k in range(30)]
    text = "\n".join(["G21 G90 G94 F500", "G0 Z5", "G0 X10 Y75", *strokes, "G0 Z5"])
    motions = read(text.encode()).motions
    for most in (50_000, 100, 7):
        monkeypatch.setattr("truing.programs.width.MOST_PLACES", most)
        looked = np.size(_places(motions, max(1, most // len(motions.at)))[0])
        assert 30 <= looked <= max(most, 30)
        found = line_width(motions, ground)
        assert found
        assert found.most_mm == pytest.approx(0.1 + 2 * 0.3, abs=1e-6)


@pytest.mark.parametrize(("lean", "through"), [(0.0, False), (0.04, False), (0.06, True)])
def test_what_a_leaning_cutter_takes_below_its_centre_counts_at_the_floor(
    lean: float, through: bool
) -> None:
    """It cuts to -0.5 over a floor at -0.55."""
    ground = GROUND.model_copy(update={"floor_mm": -0.55, "lean_mm": lean})
    assert ("floor" in {f.code for f in checked(GOOD, ground).dangers}) == through


@pytest.mark.parametrize(("over", "clear"), [(-0.6, False), (0.6, True)])
def test_a_rapid_goes_over_what_stands_there_or_meets_it(over: float, clear: bool) -> None:
    """The clamp is 20 mm high."""
    passing = GOOD.replace("G0 Z5\nM5", f"G0 Z5\nG0 Z{20 + over}\nG0 X190 Y135\nG0 Z25\nM5")
    codes = {f.code for f in checked(passing).dangers}
    assert ("collision" not in codes) == clear


def test_a_lift_out_of_something_in_the_way_is_no_collision_of_its_own() -> None:
    into = GOOD.replace("Y30\nX-20\n", "Y30\nX190 Y110\n")
    assert [f.code for f in checked(into).dangers] == ["keep_out"]


@pytest.mark.parametrize(("included", "tip"), [(60.0, 0.0), (90.0, 0.4), (30.0, 0.2)])
def test_a_point_cuts_a_hole_as_wide_as_its_cone_is_at_that_depth(
    included: float, tip: float
) -> None:
    tool = Cutter(diameter_mm=8, included_deg=included, tip_mm=tip).tool()
    grid = Grid.over((0, 0, 10, 10), 0.05)
    relief(read(b"G21 G90 G94 F100\nG0 Z5\nG0 X5 Y5\nG1 Z-2\nG0 Z5\n").motions, tool, grid)
    across = np.count_nonzero(grid.up[100] < 0) * 0.05
    assert across == pytest.approx(tip + 2 * 2 * math.tan(math.radians(included / 2)), abs=0.11)
    assert grid.up.min() == pytest.approx(-2, abs=0.1)


def test_an_engraved_line_is_in_material_all_along() -> None:
    """A fine point on a large board, as deep as a hair: what it cuts is no wider than a cell of the
    whole board would be."""
    ground = GROUND.model_copy(
        update={
            "board": (-500, -400, 500, 400),
            "reach": None,
            "kept": [],
            "cutter": Cutter(diameter_mm=6, included_deg=60, tip_mm=0.1, plunges=True),
        }
    )
    circle = GOOD.replace("X220\nY30\nX-20\n", "G2 I20\n").replace("Z-0.5", "Z-0.3")
    report = checked(circle, ground)
    assert report.cutting_mm == pytest.approx(40 * math.pi, rel=0.03)
    groove = (0.1 + 0.3 * math.tan(math.radians(30))) * 0.3 * 40 * math.pi
    assert report.removed_mm3 == pytest.approx(groove, rel=0.35)
    lost = checked(circle.replace("Z-0.3", "Z-3."), ground)
    assert lost.removed_mm3 > 20 * report.removed_mm3


SOUND = {
    "up before anything else": ("G0 Z5\nS8000", "G91 G28 Z0\nG90\nS8000"),
    "up to the machine's own zero": ("G0 Z5\nS8000", "G53 G0 Z0\nS8000"),
    "home at the end": ("G0 Z5\nM5", "G91 G28 Z0\nM5"),
    "up, then home at the end": ("G0 Z5\nM5", "G0 Z5\nG28\nM5"),
    "a rapid after the spindle's start": ("G4 P3\n", ""),
    "its own feed mode again": ("Y30\n", "G94\nY30\n"),
    "a place set anew": ("Y30\n", "G92 Y10\nY30\n"),
    "a slot that is deep": ("Z-0.5", "Z-0.9"),
}


@pytest.mark.parametrize("name", SOUND)
def test_what_is_sound_is_not_condemned(name: str) -> None:
    old, new = SOUND[name]
    assert GOOD.count(old) == 1
    report = checked(GOOD.replace(old, new))
    assert report.dangers == []
    assert [f.code for f in report.faults if f.tone == "wrong"] == []


def test_a_cut_at_once_is_harm_and_how_long_a_rapid_takes_is_asked() -> None:
    quick = GROUND.model_copy(update={"rapid_mm_min": 60_000, "accel_mm_s2": 9000, "spin_up_s": 5})
    slow = GROUND.model_copy(update={"rapid_mm_min": 400, "accel_mm_s2": 200})
    text = GOOD.replace("G4 P3\n", "")
    at_once = GOOD.replace("G4 P3\nG0 X-20 Y10\n", "").replace("S8000 M3", "G0 X60 Y60\nS8000 M3")
    far = text.replace("S8000 M3", "G0 X60 Y60\nS8000 M3")
    for program, ground, tone in (
        (text, GROUND, "ask"),
        (text, slow, "ask"),
        (far, GROUND, "ask"),
        (far, slow, None),
        (far, quick, "danger"),
        (at_once, GROUND, "danger"),
    ):
        told = [f.tone for f in checked(program, ground).faults if f.code == "spin_up"]
        assert told == ([tone] if tone else [])


@pytest.mark.parametrize(("deep", "asked"), [(11.0, False), (13.0, True)])
def test_a_slot_twice_as_deep_as_its_cutter_is_wide_is_asked_about(
    deep: float, asked: bool
) -> None:
    ground = GROUND.model_copy(update={"cutter": Cutter(diameter_mm=6), "floor_mm": -30})
    found = checked(GOOD.replace("Z-0.5", f"Z-{deep}"), ground)
    assert [f.tone for f in found.faults if f.code == "slot"] == (["ask"] if asked else [])


def test_distances_that_were_left_on_are_named() -> None:
    told = checked(GOOD.replace("X220\n", "X220\nG91\nX300\n")).dangers
    assert "Distances (G91) are on here" in told[0].text.metric
    blind = checked(GOOD.replace("G0 Z5\nS8000", "G91\nG0 Z5\nS8000"))
    [named] = [f for f in blind.faults if f.code == "blind"]
    assert "G91, line 4" in named.text.metric
    assert "rapid_blind" not in [f.code for f in blind.faults]


@pytest.mark.parametrize(
    ("line", "after", "lost"),
    [
        ("G65 P9010 X50 Y60 Z-4", "", True),
        ("G52 X10 Y10", "G52 X0 Y0", True),
        ("G84 X50 Z-4 R1", "G80", True),
        ("G68 X0 Y0 R30", "G69", True),
        ("G69", "", False),
    ],
)
def test_words_of_a_code_that_is_not_followed_are_no_motion(
    line: str, after: str, lost: bool
) -> None:
    """Where it stands is known again once it is stated, after what holds on has ended."""
    head, end = "G21 G90 G94 F100\nG0 X1 Y2 Z5\nG1 X3\n", "G0 X7 Y8 Z9\n"
    motions = read(f"{head}{line}\n{after}\n{end}".encode()).motions
    assert len(motions.at) == 3
    assert motions.at[-1, [X1, Y1, Z1]].tolist() == [7, 8, 9]
    assert np.isnan(motions.at[-1, Z0]) == lost
    if after and line[:3] in ("G68", "G84", "G52"):
        holds = read(f"{head}{line}\nX6 Y5\n".encode()).motions
        assert np.isnan(holds.at[-1, X1]) or len(holds.at) == 2
    told = [int(o[0]) for o in motions.odd if o[1] == Odd.UNKNOWN_G]
    assert told[:1] == ([4] if lost else [])


def test_what_ends_a_code_takes_no_words_from_a_motion_in_its_line() -> None:
    text = b"G21 G90 G94 F100\nG0 X1 Y2 Z5\nG68 X0 Y0 R30\nG69 G0 X7 Y8 Z9\n"
    assert read(text).motions.at[-1, [X1, Y1, Z1]].tolist() == [7, 8, 9]


@pytest.mark.parametrize(
    ("line", "stray"),
    [
        ("G17\nG2 X5 I1 K1", "K"),
        ("G18\nG2 X5 I1 J1", "J"),
        ("G19\nG3 Y5 J1 I1", "I"),
        ("G17\nG2 X5 Y3 R4 I2", "R"),
        ("G1 X5 I2", "I"),
        ("G0 X5 R2", "R"),
        ("G17\nG2 X4 I2", ""),
        ("G18\nG2 X4 I2 K0", ""),
        ("G17\nG2 X4 R2", ""),
        ("G81 X5 Z-1 R2", ""),
        ("G10 L2 P1 R0", ""),
    ],
)
def test_a_word_that_belongs_to_nothing_is_named(line: str, stray: str) -> None:
    motions = read(f"G21 G90 G94 F100\nG0 X0 Y0 Z0\n{line}\n".encode()).motions
    assert "".join(chr(int(v)) for _, what, v in motions.odd if what == Odd.STRAY) == stray


def test_a_feed_stated_in_another_way_means_nothing_any_more() -> None:
    head = "G21 G90 G94 F100\nG0 X0 Y0 Z0\nS1000 M3\n"
    for said, feed in (("G94 G1 X5", 100), ("G95 G1 X5", 0), ("G95 G1 X5 F0.2", 200)):
        motions = read(f"{head}{said}\n".encode()).motions
        assert motions.at[-1, 8] == feed
    crawls = checked(GOOD.replace(" F1200", "").replace("G4 P3", "G4 P3\nG95 F0.05\nG94"))
    assert "no_feed" in [f.code for f in crawls.faults]


FRAMES = Frames(
    zeros={"machine": (-10.0, -20.0, 60.0), "G55": (100.0, 0.0, -2.0)}, lengths_mm={1: 0.0, 2: 7.5}
)


@pytest.mark.parametrize(
    ("said", "to"),
    [
        ("G55\nG0 X1 Y2 Z3", (101, 2, 1)),
        ("G55\nG0 X1 Y2 Z3\nG54\nG0 X1 Y2 Z3", (1, 2, 3)),
        ("G53 G0 X1 Y2 Z-3", (-9, -18, 57)),
        ("G28 Z9", (5, 6, 60)),
        ("G91 G28 X0 Y0", (-10, -20, 7)),
        ("G92 X0 Y0\nG0 X1 Y2 Z3", (6, 8, 3)),
        ("G92 X0 Y0\nG92.1\nG0 X1 Y2 Z3", (1, 2, 3)),
        ("G10 L2 P1 X15 Y25 Z-50\nG0 X1 Y2 Z3", (6, 7, 13)),
        ("G10 L20 P2 X0 Y0 Z0\nG55\nG0 X1 Y2 Z3", (6, 8, 10)),
        ("T2 M6\nG43 H2\nG0 X1 Y2 Z3", (1, 2, 3)),
        ("T2 M6\nG43 H1\nG0 X1 Y2 Z3", (1, 2, -4.5)),
        ("G92 X0 Y0\nG2 X4 I2\nG90.1\nG3 X0 I2 J0", (5, 6, 7)),
    ],
)
def test_offsets_and_lengths_are_followed_from_what_is_stated(
    said: str, to: tuple[float, ...]
) -> None:
    """The end of the cutter, from the first zero."""
    text = f"G21 G90 G94 G54 F100\nT1 M6\nG43 H1\nG0 X5 Y6 Z7\n{said}\n".encode()
    motions = read(text, FRAMES).motions
    assert motions.at[-1, [X1, Y1, Z1]] == pytest.approx(to)
    assert [o.tolist() for o in motions.odd if o[1] in (Odd.ANOTHER_OFFSET, Odd.LENGTH)] == []


@pytest.mark.parametrize("said", ["G56\nG0 X1 Y2 Z3", "T3 M6\nG43 H3\nG0 Z3", "G53 G0 X1"])
def test_what_nobody_stated_stops_with_its_line(said: str) -> None:
    text = f"G21 G90 G94 G54 F100\nG0 X5 Y6 Z7\nG1 X4\n{said}\n"
    frames = Frames(zeros={"G55": (100.0, 0.0, None)})
    report = check(read(text.encode(), frames), GROUND)
    assert report.unknown_from in (4, 5)
    # where every length is set, none is missing
    motions = read(text.encode(), Frames(lengths_set=True)).motions
    assert ("T3" in said) == bool(np.isfinite(motions.at[-1, Z1]) and motions.at[-1, Z1] == 3)


@pytest.mark.parametrize(("low", "high", "out"), [(-1, 6, False), (-0.4, 6, True), (-1, 4, True)])
def test_what_the_spindle_cannot_reach_up_or_down_is_a_fault(
    low: float, high: float, out: bool
) -> None:
    ground = GROUND.model_copy(update={"low_mm": low, "high_mm": high})
    assert ("reach_z" in [f.code for f in checked(GOOD, ground).dangers]) == out


def test_home_by_way_of_a_place_of_the_work_is_judged_like_any_rapid() -> None:
    ground = GROUND.model_copy(update={"top_mm": 2.0, "safe_mm": 7.0})
    text = GOOD.replace("Z5", "Z7").replace("G0 Z7\nS8000", "G90 G28 Z0\nS8000")
    assert "rapid_into" in [f.code for f in checked(text, ground).dangers]


def test_a_level_of_an_upright_arc_is_where_it_dips_to() -> None:
    text = GOOD.replace("Y30\n", "G18 G2 X210 I-5\nG17 G1 Y30\n").replace("Z-0.5", "Z-0.5")
    dips = checked(text.replace("G18 G2 X210 I-5", "G18 G3 X200 I-10"))
    assert min(level.z_mm for level in dips.levels) == pytest.approx(-10.5)


def test_a_byte_that_ends_a_file_is_no_fault() -> None:
    assert checked(GOOD + chr(26)).faults == []


def test_a_nut_wider_than_the_cutter_keeps_clear_of_tall_things() -> None:
    """The cutter passes the clamp; the nut over it does not."""
    passing = GOOD.replace("Y30\n", "Y30\nX170 F3000\nY104\n")
    narrow = GROUND.model_copy(update={"cutter": Cutter(diameter_mm=20, depth_mm=1)})
    assert [f.code for f in checked(passing, narrow).dangers] == []
    wide = narrow.model_copy(update={"body_mm": 60, "below_mm": 15})
    assert [f.code for f in checked(passing, wide).dangers] == ["keep_out"]
    # one that stands out far enough has it pass over the clamp
    over = narrow.model_copy(update={"body_mm": 60, "below_mm": 21})
    assert [f.code for f in checked(passing, over).dangers] == []
