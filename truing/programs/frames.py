"""What somebody stated of a machine's zeros and tools, so that offsets and lengths can be followed.

All from the program's own zero: that of the first offset it uses, with the tool that Z was zeroed
with.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

OFFSETS = ("G54", "G55", "G56", "G57", "G58", "G59", "G59.1", "G59.2", "G59.3")
MACHINE = "machine"
Place = tuple[float | None, float | None, float | None]


class Frames(BaseModel):
    """Where other zeros lie (mm), `machine` the machine's own; None for an axis that nobody
    stated."""

    model_config = ConfigDict(frozen=True)

    zeros: dict[str, Place] = {}
    """By the name of their offset, or `machine`."""
    lengths_mm: dict[int, float] = {}
    """By tool: how much longer it stands out than the one that Z was zeroed with."""
    lengths_set: bool = False
    """Every length stands in the controller, and is right: G43 changes nothing."""

    def places(self) -> NDArray[np.float64]:
        """(10, 3): the machine's own zero, then those of G54 to G59.3; NaN where not stated."""
        found = np.full((10, 3), np.nan)
        for k, name in enumerate((MACHINE, *OFFSETS)):
            place = self.zeros.get(name, (None, None, None))
            found[k] = [np.nan if v is None else v for v in place]
        return found

    def table(self) -> NDArray[np.float64]:
        """(n, 2): tool and length."""
        rows = sorted(self.lengths_mm.items())
        return np.array(rows, float).reshape(-1, 2)
