"""The ghost of a machine: line work of its ideal form, and how far each part is known to lean."""

from __future__ import annotations

import math

from truing.machine import GANTRY_FORMS, Machine
from truing.machine.ghost.mills import draw_mill
from truing.machine.ghost.routers import draw_router
from truing.machine.ghost.sketch import DRAWN_DEG, FACTORS, Ghost, GhostPart, Sketch

__all__ = ["DRAWN_DEG", "FACTORS", "Ghost", "GhostPart", "ghost"]


def ghost(machine: Machine, leans: dict[str, float | None], *, stale: bool = False) -> Ghost:
    """The ghost of `machine`; `leans` are the latest lean_x and nod in mm/m, None if not known,
    and `stale` when something was touched after they were read."""
    sketch = Sketch(leans, stale)
    if machine.form in GANTRY_FORMS:
        draw_router(sketch, machine)
    else:
        draw_mill(sketch, machine)
    worst = max((abs(v) for v in leans.values() if v is not None), default=0.0)
    return Ghost(
        parts=sketch.parts, factor=_factor(worst), factors=list(FACTORS), worst_mm_per_m=worst
    )


def _factor(worst_mm_per_m: float) -> int:
    if worst_mm_per_m <= 0:
        return FACTORS[-1]
    wanted = math.tan(math.radians(DRAWN_DEG)) * 1000 / worst_mm_per_m
    return min(FACTORS, key=lambda f: abs(math.log(f / wanted)))
