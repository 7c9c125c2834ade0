"""What leans, slopes and lost lengths do to sides, holes and outlines: the reason to mend them, or
to leave them.

Leans and slopes are in mm per m, lengths in mm; results are sizes in mm, never negative. Source:
docs/geometry.md, “What it does to the part”.
"""

from __future__ import annotations

import math


def over_mm(slope_mm_per_m: float, length_mm: float) -> float:
    """How far something that runs off by a slope is off at the end of a length: a hole over its
    depth, an outline out of square, a part thicker at one end, a shoulder against the jaw."""
    return abs(slope_mm_per_m) / 1000 * length_mm


def hollow_mm(lean_mm_per_m: float, cutter_mm: float) -> float:
    """Depth of the hollow that a flat cutter leaves over its full width when it leans along
    its feed: its rim cuts an ellipse of height lean × radius."""
    return over_mm(lean_mm_per_m, cutter_mm / 2)


def step_mm(lean_mm_per_m: float, stepover_mm: float) -> float:
    """Step between neighbouring passes when the cutter leans across its feed."""
    return over_mm(lean_mm_per_m, stepover_mm)


def wall_weights(depth_mm: float, level_mm: float, flute_mm: float) -> list[tuple[float, float]]:
    """By what (spindle's lean, travel's lean) reach a wall that is cut level by level, as lengths
    in mm: the wall is off by the larger of the two sums.

    Flutes longer than a level cut the wall above again: it then follows the spindle as far as they
    reach, and the travel for the rest. Where the travel leans more than the spindle the last cut
    of each place is its own level's, and the wall follows the travel, with the levels as steps.
    """
    flute, level = min(flute_mm, depth_mm), min(level_mm, depth_mm)
    return [(flute, depth_mm - flute), (level, depth_mm - level)]


def mouth_mm(spindle_mm_per_m: float, travel_mm_per_m: float, depth_mm: float) -> float:
    """How much wider at its mouth a hole comes out of a fluted cutter that is plunged by a travel
    that it does not stand along."""
    return over_mm(spindle_mm_per_m - travel_mm_per_m, depth_mm)


def line_width_mm(height_mm: float, angle_deg: float) -> float:
    """How much wider or narrower a line of a V cutter (included angle) comes out where the work
    lies higher or lower by a height."""
    return 2 * abs(height_mm) * math.tan(math.radians(angle_deg) / 2)
