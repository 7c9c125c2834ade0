"""A program that is sound on its ground, and what can be wrong with it: what stands there, and what
would have to stand there to find each fault."""

from __future__ import annotations

from truing.programs import read
from truing.programs.check import check
from truing.programs.cutters import Cutter
from truing.programs.ground import Ground, Kept
from truing.programs.report import Report

GOOD = """%
(skim: one level)
G21 G17 G90 G94 G54
G0 Z5
S8000 M3
G4 P3
G0 X-20 Y10
G1 Z-0.5 F1200
X220
Y30
X-20
G0 Z5
M5
M30
%
"""
GROUND = Ground(
    board=(0, 0, 200, 150),
    floor_mm=-10,
    safe_mm=5,
    reach=(-30, -30, 230, 180),
    cutter=Cutter(diameter_mm=30, depth_mm=1, rated_rev_per_min=12000),
    most_feed_mm_min=3000,
    kept=[
        Kept(name="the clamp", outline=[(180, 120), (200, 120), (200, 150), (180, 150)], top_mm=20)
    ],
)


def checked(text: str, ground: Ground = GROUND) -> Report:
    return check(read(text.encode()), ground)


FAULTS = {
    "rapid_through": ("G0 X-20 Y10\nG1 Z-0.5 F1200\nX220", "G0 X-20 Y10\nG0 Z-0.5\nX220"),
    "rapid_into": ("G0 X-20 Y10", "G0 X60 Y60\nG0 Z-1\nG0 Z5\nG0 X-20 Y10"),
    "rapid_low": ("G0 X-20 Y10", "G0 Z1\nG0 X-20 Y10\nX100\nX-20"),
    "rapid_blind": ("G0 Z5\nS8000", "G0 X50\nG0 Z5\nS8000"),
    "bite": ("Z-0.5", "Z-5."),
    "plunge": ("X-20 Y10", "X60 Y10"),
    "keep_out": ("Y30\n", "Y30\nX190\nY110\nX220\n"),
    "floor": ("X220\n", "X220\nZ-10.5\nX-20\nG1 Z-0.5\n"),
    "reach": ("X220\n", "X240\n"),
    "spindle_off": ("S8000 M3", "S8000"),
    "spindle_backward": ("S8000 M3", "S8000 M4"),
    "spin_up": ("G4 P3\n", ""),
    "no_feed": (" F1200", ""),
    "feed": ("F1200", "F9000"),
    "speed": ("S8000", "S18000"),
    "arc_radii": ("Y30\n", "G3 X220 Y30 I0 J8\nG1\n"),
    "arc_small": ("Y30\n", "G3 X220 Y30 R4\nG1\n"),
    "arc_centre": ("Y30\n", "G3 X220 Y30\nG1\n"),
    "units": ("G21", "G20"),
    "no_retract": ("G0 Z5\nM5", "M5"),
    "no_stop": ("M5\nM30\n%", "%"),
    "first_motion": ("G0 Z5\nS8000", "G0 X0 Y0 Z5\nS8000"),
    "unreadable": ("Y30\n", "Y3,0\n"),
    "not_followed": ("Y30\n", "Y#101\n"),
    "unknown_g": ("Y30\n", "G68 R30\nY30\n"),
    "unknown_m": ("Y30\n", "M98 P1000\nY30\n"),
    "unknown_word": ("Y30\n", "Y30 A90\n"),
    "new_zero": ("Y30\n", "G10 L2 P1 X5\nY30\n"),
    "machine_place": ("Y30\n", "Y30\nG53 G0 X0\n"),
    "own_zero": ("G0 Z5\nM5", "G53 G0 Z0\nM5"),
    "collision": ("G0 Z5\nM5", "G0 Z19\nG0 X190 Y135\nG0 Z25\nM5"),
    "blind": ("G0 Z5\nS8000", "G91 G0 Z5\nG90\nS8000"),
    "stray": ("Y30\n", "Y30 R2\n"),
    "rounds": ("Y30\n", "G3 I2 P1001\nG1\n"),
    "beyond": ("Y30\n", "G20 Y999999\nG21 Y30\n"),
    "length": ("G0 Z5\nS8000", "G43 H1\nG0 Z5\nS8000"),
    "probed": ("Y30\n", "G38.2 Z-5 F50\nY30\n"),
    "tool_change": ("Y30\n", "Y30\nT2 M6\n"),
    "compensated": ("Y30\n", "G41 D1\nY30\n"),
    "blended": ("G17", "G17 G64"),
    "another_offset": ("Y30\n", "G55\nY30\n"),
    "no_mode": ("G1 Z-0.5 F1200", "G80\nX0 Y0\nG1 Z-0.5 F1200"),
    "twice": ("X220", "X220 X221"),
    "two_of_group": ("G1 Z-0.5", "G0 G1 Z-0.5"),
    "cycle": ("Y30\n", "G83 X50 Z-2 R1 Q0\nG1\n"),
    "inverse": ("Y30\n", "G93\nG1 Y30\n"),
    "value": ("F1200", "F-1200"),
    "distance": ("G90 ", ""),
    "offset": (" G54", ""),
    "feed_mode": (" G94", ""),
    "after_end": ("M30\n", "M30\nG0 X0\n"),
}
