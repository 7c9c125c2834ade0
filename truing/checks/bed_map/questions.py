"""What a log may have been meant to be: another zero, another unit. Asked before anything is
concluded from it, since a plan from a log in the wrong frame cuts as deep as the map is wrong."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from truing.checks.bed_map.setup import BedMapSetup
from truing.machine import Machine
from truing.measure.problem import Problem
from truing.measure.words import MM_PER_INCH

Places = NDArray[np.float64]
OFF_MM = 10.0
"""So far beside a bed a probe may still have touched something."""
SLIVER = 0.1
"""Of a bed's size: who maps less maps no bed."""
FITS = (0.4, 1.1)
"""Of a bed's size, in the other unit: then it was meant in that."""
ANSWER = (
    "Correct where its zero lies under Set up, or send the log again in its own unit; or say under "
    "Set up that it is right as it stands."
)


def origin(setup: BedMapSetup, machine: Machine) -> tuple[float, float]:
    """Where the log's X0 Y0 lies, from mid bed (mm)."""
    if setup.log_zero == "corner":
        return -machine.table_x_mm / 2, -machine.table_y_mm / 2
    return (setup.zero_x_mm, setup.zero_y_mm) if setup.log_zero == "stated" else (0.0, 0.0)


def refuse_doubtful(x: Places, y: Places, setup: BedMapSetup, machine: Machine) -> None:
    """Problem, which asks, where points (mm, from mid bed) do not look like those of this bed;
    nothing where somebody has said that they are."""
    asked = None if setup.log_is_right else _asked(x, y, machine)
    if asked:
        raise Problem(f"{asked} Nothing is concluded from it yet.", expected=ANSWER, field="text")


def _asked(x: Places, y: Places, machine: Machine) -> str | None:
    size = np.array([machine.table_x_mm, machine.table_y_mm])
    span = np.array([np.ptp(x), np.ptp(y)])
    off = max(float(np.abs(x).max()) - size[0] / 2, float(np.abs(y).max()) - size[1] / 2)
    told = f"{span[0]:.0f} by {span[1]:.0f} mm of a bed of {size[0]:.0f} by {size[1]:.0f} mm"
    for factor, unit in ((MM_PER_INCH, "inches"), (1 / MM_PER_INCH, "millimetres")):
        share = span * factor / size
        far = off > OFF_MM if factor < 1 else share.max() > 5 * (span / size).max()
        if far and share.min() > FITS[0] and share.max() < FITS[1]:
            return f"The log spans {told}: it would fit in {unit}. Was it written in {unit}?"
    if off > OFF_MM:
        return (
            f"Points of the log lie up to {off:.0f} mm off the bed: is its X0 Y0 where it is "
            "stated to be?"
        )
    if (span / size).min() < SLIVER:
        return f"The log spans no more than {told}: is its unit right, and its zero?"
    one_side = [float(v.min()) >= -OFF_MM or float(v.max()) <= OFF_MM for v in (x, y)]
    if all(one_side):
        return (
            "All points of the log lie in one quarter of the bed: is its X0 Y0 at a corner, and "
            "not where it is stated to be?"
        )
    return None
