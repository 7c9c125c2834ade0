"""A rigid-body model of a spindle, an arm and a flat table, for tests only.

Nothing is linearised: attitudes are rotation matrices about axes through stated points, and a
reading is the distance along the plunger from the tip's base to the table.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np


def rotation(axis: str, mrad: float) -> np.ndarray:
    """Right-hand rotation about X or Y."""
    c, s = np.cos(mrad / 1000), np.sin(mrad / 1000)
    if axis == "x":
        return np.array([[1, 0, 0], [0, c, -s], [0, s, c]])
    return np.array([[c, 0, s], [0, 1, 0], [-s, 0, c]])


@dataclass
class Spindle:
    """A point on the spindle line and its attitude; the nose stands `height` over the table."""

    attitude: np.ndarray = field(default_factory=lambda: np.eye(3))
    nose: np.ndarray = field(default_factory=lambda: np.array([0.0, 0.0, 80.0]))

    def leaning(self, right_mm_per_m: float = 0.0, rear_mm_per_m: float = 0.0) -> Spindle:
        """Leaning by so much, its top to the right and to the rear."""
        turn = rotation("x", -rear_mm_per_m) @ rotation("y", right_mm_per_m)
        return Spindle(turn @ self.attitude, self.nose)

    def turned(self, axis: str, mrad: float, pivot: np.ndarray) -> Spindle:
        """Carried round by its head about an axis through `pivot`."""
        turn = rotation(axis, mrad)
        return Spindle(turn @ self.attitude, pivot + turn @ (self.nose - pivot))

    def reading(self, hours: float, radius: float) -> float:
        """What an indicator on the arm shows, plus = pushed in, against an arbitrary zero."""
        phi = np.radians(90 - 30 * hours)
        tip = self.nose + self.attitude @ (radius * np.array([np.cos(phi), np.sin(phi), 0.0]))
        down = self.attitude @ np.array([0.0, 0.0, -1.0])
        return 100.0 - tip[2] / -down[2]

    def touch_height(self, hours: float, radius: float) -> float:
        """Height of the head when the tip just touches the table, coming straight down."""
        phi = np.radians(90 - 30 * hours)
        tip = self.nose + self.attitude @ (radius * np.array([np.cos(phi), np.sin(phi), 0.0]))
        return 300.0 - tip[2]
