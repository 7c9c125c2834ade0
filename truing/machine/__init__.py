"""Machines: their parts, how they fit together, and usual ones to start from."""

from truing.machine.machine import (
    FORM_TITLES,
    GANTRY_FORMS,
    TOLERANCE_MM_PER_M,
    Form,
    Machine,
    Work,
)
from truing.machine.parts import (
    DIRECTIONS,
    Board,
    BoltedBase,
    Bracket,
    Column,
    Direction,
    Feet,
    Foot,
    Gantry,
    GantryDrive,
    Head,
    Lift,
    Pad,
    Rails,
    Slide,
    four_feet,
    four_pads,
)
from truing.machine.starting import starting_point

__all__ = [
    "DIRECTIONS", "FORM_TITLES", "GANTRY_FORMS", "TOLERANCE_MM_PER_M", "Board", "BoltedBase",
    "Bracket", "Column", "Direction", "Feet", "Foot", "Form", "Gantry", "GantryDrive", "Head",
    "Lift", "Machine", "Pad", "Rails", "Slide", "Work", "four_feet", "four_pads", "starting_point",
]  # fmt: skip
