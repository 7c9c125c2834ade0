"""Where a program stops being fine: each limit of the checker from both of its sides, and only the
fault that is asked for comes or goes with it."""

from __future__ import annotations

from typing import Any

import pytest

from truing.programs import read
from truing.programs.check import check
from truing.programs.cutters import Cutter
from truing.programs.ground import Ground
from truing.programs.report import ProgramFault
from truing.programs.timing import Drives, times

GROUND: dict[str, Any] = {
    "board": (-50, -50, 50, 50),
    "safe_mm": 4.0,
    "floor_mm": -6.0,
    "reach": (-60, -60, 60, 60),
    "most_feed_mm_min": 3000.0,
    "most_rev_per_min": 18000.0,
}
CUTTER: dict[str, Any] = {"diameter_mm": 6.0, "depth_mm": 2.0, "plunges": True}


def program(cuts: str = "G1 X20 F600", wait: str = "G4 P3", start: str = "G0 X4 Y10") -> str:
    return (
        f"G21 G17 G90 G94 G54\nG0 Z5\n{start}\nM3 S8000\n{wait}\nG1 Z-0.5 F300\n{cuts}\n"
        "G0 Z5\nM5\nM30\n"
    )


def faults(text: str, cutter: dict[str, Any] | None = None, **ground: Any) -> list[ProgramFault]:
    given = Ground(**{**GROUND, **ground}, cutter=Cutter(**{**CUTTER, **(cutter or {})}))
    return check(read(text.encode()), given).faults


STEP = "G1 X14 F600\nG1 Z-1\nG1 X30\nG1 Z-1.5\nG1 X4\n"
LIMITS: dict[str, tuple[str, dict[str, Any], dict[str, Any]]] = {
    # what is asked for, and what is fine and what is not: a program's parts, the ground's, C_ the
    # cutter's
    "half as deep again as the cutter takes": (
        "bite", {"cuts": "G1 Z-3.5 X4"}, {"cuts": "G1 Z-3.6 X4"},
    ),
    "three times as deep as is usual, and a mm": (
        "bite",
        {"cuts": STEP + "G1 Y30 Z-2.45", "C_depth_mm": 0.0},
        {"cuts": STEP + "G1 Z-4.1", "C_depth_mm": 0.0},
    ),
    "down a ramp": (
        "plunge",
        {"cuts": "G1 X24 Z-1.52 F300", "C_plunges": False, "start": "G0 X4 Y-70"},
        {"cuts": "G1 Y10 F300\nG1 X24 Z-1.6", "C_plunges": False, "start": "G0 X4 Y-70"},
    ),
    "a floor": ("floor", {"cuts": "G1 Z-1.5", "floor_mm": -1.501},
                {"cuts": "G1 Z-1.5", "floor_mm": -1.497}),
    "a sideways rapid below a safe height": (
        "rapid_low", {"start": "G0 X4 Y10\nG0 Z3.999\nG0 X5"},
        {"start": "G0 X4 Y10\nG0 Z3.997\nG0 X5"},
    ),
    "low, but beside the board": (
        "rapid_low", {"start": "G0 X54 Y10\nG0 Z2\nG0 Y5\nG0 Z5"},
        {"start": "G0 X52 Y10\nG0 Z2\nG0 Y5\nG0 Z5"},
    ),
    "no time to come up to speed": ("spin_up", {"wait": "G4 P2"}, {"wait": "G4 P1.99"}),
    "a stop for who switches by hand": (
        "no_pause", {"wait": "M0", "by_hand": True}, {"wait": "G4 P9", "by_hand": True},
    ),
    "a speed at all": ("spindle_off", {"wait": "S1 G4 P3"}, {"wait": "S0 G4 P3"}),
    "the right way round": ("spindle_backward", {"wait": "M3 G4 P3"}, {"wait": "M4 G4 P3"}),
    "a feed at all": ("no_feed", {}, {"wait": "G4 P3\nG1 X5"}),
    "what drives are good for": (
        "feed", {"cuts": "G1 X20 F3000"}, {"cuts": "G1 X20 F3001"},
    ),
    "what the spindle is good for": (
        "speed", {"wait": "S18000 G4 P3"}, {"wait": "S18010 G4 P3"},
    ),
    "what the cutter is good for": (
        "speed", {"C_rated_rev_per_min": 8000.0}, {"C_rated_rev_per_min": 7990.0},
    ),
    "as far as it reaches to the right": (
        "reach", {"cuts": "G1 X60.005"}, {"cuts": "G1 X60.02"},
    ),
    "as far as it reaches to the front": (
        "reach", {"cuts": "G1 Y-60.005"}, {"cuts": "G1 Y-60.02"},
    ),
    "larger than any work on it": (
        "units", {"cuts": "G1 X300"}, {"cuts": "G1 X310"},
    ),
    "up at the end": ("no_retract", {"cuts": "G1 X20\nG0 Z9"}, {"safe_mm": 5.01}),
    "a cut that is one": (
        "spin_up", {"wait": "G4 P0.1", "cuts": "G0 Z5", "start": "G0 X4 Y-53.6"},
        {"wait": "G4 P0.1", "cuts": "G0 Z5", "start": "G0 X4 Y-52.4"},
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", LIMITS)
def test_each_limit_has_two_sides(name: str) -> None:
    code, fine, wrong = LIMITS[name]
    found = []
    for given in (fine, wrong):
        parts = {k: v for k, v in given.items() if k in ("cuts", "wait", "start")}
        cutter = {k[2:]: v for k, v in given.items() if k.startswith("C_")}
        rest = {k: v for k, v in given.items() if k not in parts and not k.startswith("C_")}
        text = program(**parts)
        found.append([f.code for f in faults(text, cutter, **rest)])
    assert code not in found[0]
    assert code in found[1]


@pytest.mark.parametrize(("size", "depth", "feed", "asked"), [
    (8.0, 0.19, 110, True),
    (8.6, 0.19, 110, False),
    (8.0, 0.21, 110, False),
    (8.0, 0.19, 125, False),
])  # fmt: skip
def test_small_shallow_and_slow_it_may_be_inches(
    size: float, depth: float, feed: float, asked: bool
) -> None:
    cuts = f"G1 X{4 + size} F{feed}"
    text = program(cuts).replace("G1 Z-0.5 F300", f"G1 Z-{depth} F{feed}")
    assert ("units" in {f.code for f in faults(text)}) == asked


def test_a_rapid_begins_and_ends_at_rest() -> None:
    """However fast the feed before and behind it is, and in whichever order they come."""
    drives = Drives(rapid_mm_min=(6000, 6000, 6000), accel_mm_s2=(200, 200, 200))
    whole = times(read(b"G21 G90 G94\nG0 Z5\nG0 X0 Y0\nG1 X300 F6000\n").motions, drives)
    for first, second, third in (("G1", "G0", "G1"), ("G0", "G1", "G0"), ("G1", "G1", "G0")):
        text = f"G21 G90 G94 F6000\nG0 Z5\nG0 X0 Y0\n{first} X100\n{second} X200\n{third} X300\n"
        found = times(read(text.encode()).motions, drives)
        stops = (first != second) + (second != third)
        # each stop on the way costs what it takes to brake from 100 mm/s and to come back to it
        assert found.seconds[-3:].sum() == pytest.approx(
            whole.seconds[-1] + stops * 100 / 200, rel=1e-6
        )


def test_cycles_come_down_at_a_rapid_where_nothing_stands_yet_and_cut_from_there() -> None:
    """A peck goes back into its own hole at a rapid; a plain rapid into the hole is a fault."""
    hole = "G98 G83 X10 Y10 Z-1.8 R1 Q0.6 F120\nG80"
    assert "rapid_into" not in {f.code for f in faults(program(f"G0 Z5\n{hole}"))}
    plain = "G0 Z5\nG0 X30 Y30\nG0 Z-1.8"
    assert "rapid_into" in {f.code for f in faults(program(plain))}
    # sideways inside of a cycle is a rapid like any other
    low = "G0 Z0.5\nG99 G81 X10 Y10 Z-1 R-0.2 F120\nX30 Y10\nG80"
    assert "rapid_through" in {f.code for f in faults(program(low))}
