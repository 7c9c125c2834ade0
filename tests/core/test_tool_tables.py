"""Programs that change their tool: each motion is judged by the cutter that it runs with."""

from __future__ import annotations

import math
import random

import numpy as np
import pytest

from tests.core.boards import a_board
from tests.core.faulty import GROUND
from truing.measure.problem import Problem
from truing.programs import read
from truing.programs.check import check
from truing.programs.frames import Frames
from truing.programs.ground import Ground
from truing.programs.motions import LINE
from truing.programs.picture import picture
from truing.programs.report import Report
from truing.surfacing.foreign import Stated, ground_for
from truing.surfacing.stating import tools_of

TABLE = "T1 flat 30 L0 depth 1 rated 12000; T2 V 60 tip 0.2 across 6 length -12.5; T3 drill 5 L8"
TEXT = """G21 G17 G90 G94 G54
G0 Z30
M6 T1
G43
S8000 M3
G4 P4
G0 X-20 Y30
G1 Z-0.5 F1200
X220
G0 Z30
M6 T2
G43
S11000 M3
G4 P4
G0 X20 Y100
G1 Z-0.4 F300
X120
G0 Z30
M6 T3
G43
S2000 M3
G4 P4
G0 X166 Y128
G81 X166 Y128 Z-6 R1 F100
G80
G0 Z30
M5
M30
"""


def judged(text: str = TEXT, table: str = TABLE, **ground: object) -> Report:
    """Told by this table; the usual cutter is 6 mm, flat, and may not plunge."""
    told = tools_of(table)
    program = read(text.encode(), Frames(lengths_mm=told.lengths_mm))
    usual = GROUND.cutter.model_copy(update={"diameter_mm": 6.0, "depth_mm": 0.0})
    return check(
        program,
        GROUND.model_copy(update={"cutter": usual, "tools": told.cutters, **ground}),
    )


def lines_of(report: Report, code: str) -> set[int]:
    return {f.line for f in report.faults if f.code == code}


def test_a_table_makes_a_program_of_three_tools_one_that_can_be_judged() -> None:
    report = judged()
    assert (report.verdict, report.faults) == ("sound", [])
    assert report.tools == [1, 2, 3]
    # what a facer takes off a board 200 wide, a line as wide as it is deep, a hole
    line = 0.4 * (0.2 + 0.4 * math.tan(math.radians(30)))
    parts = (200 * 30 * 0.5, 100 * line, 6 * math.pi * 2.5**2)
    assert report.removed_mm3 == pytest.approx(sum(parts), rel=0.03)
    # which the picture shows, and how wide the line is: of the point alone
    drawn = picture(read(TEXT.encode(), Frames(lengths_mm={1: 0, 2: -12.5, 3: 8})).motions, _all())
    depth = np.array(drawn.depth_mm)
    x, y = np.array(drawn.x_mm), np.array(drawn.y_mm)
    for at, deep in (((100, 30), 0.5), ((166, 128), 6.0), ((100, 75), 0.0)):
        j, i = int(np.argmin(abs(y - at[1]))), int(np.argmin(abs(x - at[0])))
        assert depth[j, i] == pytest.approx(deep, abs=0.01), at
    assert drawn.line
    assert drawn.line.most_mm == pytest.approx(0.2 + 2 * 0.4 * math.tan(math.radians(30)), abs=1e-6)


def _all() -> Ground:
    return GROUND.model_copy(update={"tools": tools_of(TABLE).cutters})


@pytest.mark.parametrize(
    ("old", "new", "code", "lines"),
    [
        # an end mill that cuts to no middle goes down where the drill did
        ("T3 drill 5", "T3 flat 5", "plunge", {24}),
        # the point turns faster than it may, the facer does not
        ("T2 V 60", "T2 rated 10000 V 60", "speed", {14}),
        ("rated 12000", "rated 7000", "speed", {6}),
        # a wide one does not pass a clamp that a narrow one passes
        ("T3 drill 5", "T3 drill 30", "keep_out", {24}),
        # what one takes at once says nothing of the others
        ("depth 1", "depth 0.2", "bite", {9}),
        # of what nobody described it is said for what it is taken
        ("; T3 drill 5 L8", "; T3 L8", "tool", {24}),
        # and a longer one goes deeper than what was measured with another
        ("L8", "L0", None, set()),
    ],
)
def test_each_is_judged_by_what_it_is(
    old: str, new: str, code: str | None, lines: set[int]
) -> None:
    assert old in TABLE
    report = judged(table=TABLE.replace(old, new))
    if code is None:
        assert report.faults == []
    else:
        assert lines_of(report, code) == lines, [(f.code, f.line) for f in report.faults]


def test_without_a_table_several_tools_are_asked_about() -> None:
    lengths = "T1 0; T2 -12.5; T3 8"
    asked = [f for f in judged(table=lengths).faults if f.code == "tool"]
    assert [f.line for f in asked] == [8, 16, 24]
    assert all(f.tone == "ask" and "6.00 mm" in f.text.metric for f in asked)
    # one tool, whatever its number, is the one that was stated
    one = TEXT.replace("T2", "T1").replace("T3", "T1")
    assert not lines_of(judged(one, table="T1 0"), "tool")


def test_a_tool_for_every_line_is_no_program() -> None:
    turns = "".join(f"T{1 + k % 2} M6\nG43\nG1 X{k % 90} F900\n" for k in range(1500))
    with pytest.raises(Problem, match="changes its tool 1,"):
        judged(f"G21 G90 G94 G54\nG0 Z5\n{turns}M30\n")


def test_tools_are_read_as_they_are_written() -> None:
    said = tools_of(
        "t1 flat 12, corner 0.5; T2 BALL 6 S18000\nT 3 v 30; T4 drill 2.5 l -7; T9 4.25"
    )
    assert said.lengths_mm == {4: -7.0, 9: 4.25}
    assert {k: (c.diameter_mm, c.corner_mm) for k, c in said.cutters.items()} == {
        1: (12.0, 0.5),
        2: (6.0, 3.0),
        3: (6.0, 0.0),
        4: (2.5, 0.0),
    }
    assert said.cutters[2].rated_rev_per_min == 18000
    assert said.cutters[3].included_deg == 30
    assert [k for k, c in said.cutters.items() if c.plunges] == [3, 4]
    assert [k for k, c in said.cutters.items() if c.drill] == [4]


@pytest.mark.parametrize(
    "text",
    [
        "flat 6",
        "T1",
        "T1 six",
        "T1 flat",
        "T1 flat 6 ball 6",
        "T1 flat 6 flat 8",
        "T1 flat 0",
        "T1 flat -6",
        "T1 V 180",
        "T1 flat 6 tip 0.2",
        "T1 depth 2",
        "T1 flat 6; two",
        "T1 flat 6 wide",
    ],
)
def test_what_describes_no_tool_is_refused_with_an_example(text: str) -> None:
    with pytest.raises(ValueError, match="Write such as “T1 flat 6; T2 ball"):
        tools_of(text)


def test_more_tools_than_a_program_has_are_refused() -> None:
    tools_of("; ".join(f"T{n} flat {n}" for n in range(1, 25)))
    with pytest.raises(ValueError, match="25 tools"):
        tools_of("; ".join(f"T{n} flat {n}" for n in range(1, 26)))


def test_lengths_that_were_stated_by_themselves_are_still_read() -> None:
    stated = Stated.model_validate({"lengths": "T1 0; T2 7.5"})
    assert stated.tools == "T1 0; T2 7.5"
    assert ground_for(stated, a_board(random.Random(1))).frames.lengths_mm == {1: 0.0, 2: 7.5}


def test_how_each_motion_runs_is_told_by_its_line() -> None:
    """No stretch is left out or run twice."""
    motions = read(TEXT.encode(), Frames(lengths_mm={1: 0, 2: -12.5, 3: 8})).motions
    parts = _all().stretches(motions)
    assert [part.first for part in parts] == [0, *(part.end for part in parts[:-1])]
    assert parts[-1].end == len(motions.at)
    begins = [int(motions.how[part.first, LINE]) for part in parts]
    # the usual one is what T1 is: they are one stretch
    assert begins == [2, 14, 22]
