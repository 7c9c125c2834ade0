"""What is really the case on a simulated machine."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, Field
from scipy.spatial.transform import Rotation

Vector = NDArray[np.float64]


class Truth(BaseModel):
    """A simulated machine. Angles in mrad about fixed axes; heights in mm.

    `head` and `base` are turns of the spindle's carrier about Y (right-hand rule: a positive turn
    takes the top to +X) and about X (a positive turn takes the top to −Y).
    """

    head_about_x_mrad: float = 0.0
    head_about_y_mrad: float = 0.0
    base_about_x_mrad: float = 0.0
    base_about_y_mrad: float = 0.0
    beam_twist_mrad_per_m: float = 0.0
    """Turn about X that a gantry's beam adds for each metre to the right."""
    saddle_mm: float = 0.0
    """Height of the table at a corner of a 100 mm square about its centre, as a saddle."""
    bow_mm: float = 0.0
    """Height at 100 mm from the centre along X, as a bow."""
    tap_gain: float = 1.0
    """What this machine makes of a tap, on the average."""
    tighten_about_x_mrad: float = 0.0
    tighten_about_y_mrad: float = 0.0
    """What tightening does to it every time."""
    noise_share: float = Field(1.0, ge=0, le=10)
    """Scatter of readings in units of the instrument's stated repeatability."""

    def spindle(self, x_mm: float = 0.0) -> Rotation:
        """Attitude of the spindle with the carriage at x."""
        about_x = self.head_about_x_mrad + self.beam_twist_mrad_per_m * x_mm / 1000
        head = Rotation.from_euler("xy", [about_x / 1000, self.head_about_y_mrad / 1000])
        base = Rotation.from_euler(
            "xy", [self.base_about_x_mrad / 1000, self.base_about_y_mrad / 1000]
        )
        return base * head

    def surface_mm(self, x_mm: float, y_mm: float) -> float:
        """Height of the table's top."""
        return self.saddle_mm * (x_mm**2 - y_mm**2) / 100**2 + self.bow_mm * (x_mm / 100) ** 2

    def axis(self, x_mm: float = 0.0) -> Vector:
        """Unit vector along the spindle, up."""
        return np.asarray(self.spindle(x_mm).apply([0.0, 0.0, 1.0]))
