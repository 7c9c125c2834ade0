"""The ghost of a machine: line work of its ideal form, and how far each part is known to lean."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping

from truing.machine import GANTRY_FORMS, Machine
from truing.machine.ghost.mills import draw_mill
from truing.machine.ghost.routers import draw_router
from truing.machine.ghost.sketch import DRAWN_DEG, FACTORS, Ghost, GhostPart, Sketch

__all__ = ["DRAWN_DEG", "FACTORS", "Ghost", "GhostPart", "ghost"]


def ghost(machine: Machine, leans: Mapping[str, float], *, stale: Collection[str] = ()) -> Ghost:
    """The ghost of `machine`; `leans` are its latest errors that are known, in mm/m (lean_x, nod),
    and `stale` names those after whose reading something was touched."""
    sketch = Sketch(leans, stale)
    if machine.form in GANTRY_FORMS:
        draw_router(sketch, machine)
    else:
        draw_mill(sketch, machine)
    worst = max(map(abs, leans.values()), default=0.0)
    return Ghost(
        parts=sketch.parts, factor=_factor(worst), factors=list(FACTORS), worst_mm_per_m=worst
    )


def _factor(worst_mm_per_m: float) -> int:
    if worst_mm_per_m <= 0:
        return FACTORS[-1]
    wanted = math.tan(math.radians(DRAWN_DEG)) * 1000 / worst_mm_per_m
    return min(FACTORS, key=lambda f: abs(math.log(f / wanted)))
