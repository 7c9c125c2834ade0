"""A column on its foot: what shims under it do."""

from __future__ import annotations

import numpy as np

from truing.contract.move import Move
from truing.standin.hands import Hands
from truing.standin.truth import Truth


def shimmed(move: Move, truth: Truth, hands: Hands) -> Truth:
    """A stiff base settles on the mean plane of what was added under it."""
    points = np.array([[s.x_mm, s.y_mm, 1.0] for s in move.stacks])
    added = np.array(
        [
            sum(s.after_mm)
            - sum(s.before_mm)
            + (hands.stack_mm(len(s.after_mm)) if s.after_mm else 0.0)
            for s in move.stacks
        ]
    )
    slope_x, slope_y, _ = np.linalg.lstsq(points, added, rcond=None)[0] * 1000
    # raising the right pads turns the column's top to −X; raising the rear ones, to −Y
    return truth.model_copy(
        update={
            "base_about_y_mrad": truth.base_about_y_mrad - float(slope_x),
            "base_about_x_mrad": truth.base_about_x_mrad + float(slope_y),
        }
    )
