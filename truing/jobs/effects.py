"""What an error of the geometry does to the part: the reason to mend it, or to leave it."""

from __future__ import annotations


def hollow_mm(lean_mm_per_m: float, cutter_mm: float) -> float:
    """Depth of the hollow that a flat cutter leaves over its full width when it leans along
    its feed: its rim cuts an ellipse of height lean × radius."""
    return abs(lean_mm_per_m) / 1000 * cutter_mm / 2


def step_mm(lean_mm_per_m: float, stepover_mm: float) -> float:
    """Step between neighbouring passes when the cutter leans across its feed."""
    return abs(lean_mm_per_m) / 1000 * stepover_mm


def hole_lean_mm(lean_mm_per_m: float, depth_mm: float) -> float:
    """How far a hole wanders over its depth when the quill leans."""
    return abs(lean_mm_per_m) / 1000 * depth_mm
