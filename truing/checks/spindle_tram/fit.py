"""Lean and nod from readings round a circle.

A spindle leaning by (a, b), top to the right and to the rear, sweeps its tip in a plane that is
low where the lean points, so the surface seems closer there: R = c + r·(a·cos φ + b·sin φ).
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from pydantic import BaseModel

from truing.contract.design import MeanReading, wandered
from truing.contract.setup import Station
from truing.measure.estimate import Estimate, combined
from truing.measure.problem import Problem
from truing.measure.spread import t_factor

MOST_GAIN = 4.0
"""√C of a lean in units of reading/radius above which the positions cannot carry it (four round
the clock have 0.71, a half circle of three 1.2, 0/20/40° more than 10)."""

LEAST_SIZE = 1e-6
"""Singular value of the design below which the positions leave something undetermined."""

LEAST_SADDLE = 0.3
"""Singular value below which positions do not show a saddle."""

DEAR = 1.25
"""How much wider a lean may get for a saddle that is taken out."""

LEAST_FIT_DOF = 3
"""Below this a fit's residual says something about the table, not about the readings."""


class Lean(BaseModel):
    """One fitted lean (mm/m) and its gain √C (mm/m per mm of reading)."""

    estimate: Estimate
    gain: float


class PlaceFit(BaseModel):
    """The fit at one place of the spindle: leans that the positions can tell, and what is left."""

    at_mm: float | None
    """The place along the beam; None where it was read at one place only."""
    lean_x: Lean | None
    nod: Lean | None
    left_mm: dict[str, float]
    dof: int
    largest_left_ratio: float
    """Largest residual over what the readings' own U allows there."""


def fit_place(
    stations: Sequence[Station],
    means: dict[str, MeanReading],
    *,
    radius_mm: float,
    radius_u_mm: float,
    dof: int | None,
) -> PlaceFit:
    """Least squares on the station means of one place.

    Problem when the positions cannot tell a lean: one place only, two that are not opposite along
    a main direction, both bolts of a bar read on one side only, or positions too close together.
    """
    read = [s for s in stations if s.key in means]
    tips = sorted({s.tip for s in read})
    x = np.array([s.x_mm for s in read])
    y = np.array([s.y_mm for s in read])
    flat_x, flat_y = _flat(x, radius_mm), _flat(y, radius_mm)
    columns = [np.array([1.0 if s.tip == tip else 0.0 for s in read]) for tip in tips]
    names = []
    for name, column, flat in (("lean_x", x, flat_x), ("nod", y, flat_y)):
        if not flat:
            names.append(name)
            columns.append(column / 1000)
    design = np.column_stack(columns) if read else np.zeros((0, 1))
    if not names or len(read) < design.shape[1]:
        raise _cannot(read, tips)
    u, sizes, vt = np.linalg.svd(design, full_matrices=False)
    if sizes[-1] < LEAST_SIZE:
        raise _cannot(read, tips)
    solve = (vt.T / sizes) @ u.T
    design, solve = _with_saddle(design, solve, x, y, radius_mm)
    values = np.array([means[s.key].mean_mm for s in read])
    fitted = solve @ values
    left = values - design @ fitted
    free = len(read) - design.shape[1]
    # what the fit itself cannot hide, as a share of each station's own uncertainty
    seen = np.sqrt(np.clip(1 - np.diag(design @ solve), 1e-9, None))
    own = np.array([means[s.key].expanded_mm for s in read])
    ratio = float(np.max(np.abs(left) / (own * seen))) if free else 0.0
    s_left = math.sqrt(float(left @ left) / free) if free >= LEAST_FIT_DOF else 0.0
    leans = {
        name: _lean(fitted[i], solve[i], read, means, s_left, free, radius_mm, radius_u_mm, dof)
        for i, name in enumerate(names, start=len(tips))
    }
    return PlaceFit(
        at_mm=read[0].at_mm,
        lean_x=leans.get("lean_x"),
        nod=leans.get("nod"),
        left_mm={s.key: float(v) for s, v in zip(read, left, strict=True)},
        dof=free,
        largest_left_ratio=ratio,
    )


def _with_saddle(
    design: np.ndarray, solve: np.ndarray, x: np.ndarray, y: np.ndarray, radius_mm: float
) -> tuple[np.ndarray, np.ndarray]:
    """The design with the table's saddle and twist in it, where the positions tell them apart from
    the leans at little cost: shape is no scatter, and must not be taken for it."""
    shape = np.column_stack([(x**2 - y**2) / radius_mm**2, 2 * x * y / radius_mm**2])
    whole = np.column_stack([design, shape])
    scaled = whole / np.linalg.norm(whole, axis=0).clip(min=1e-12)
    if len(x) <= whole.shape[1] or np.linalg.svd(scaled)[1][-1] < LEAST_SADDLE:
        return design, solve
    wider = np.linalg.pinv(whole)
    gains = np.linalg.norm(wider[: design.shape[1]], axis=1) / np.linalg.norm(solve, axis=1)
    return (whole, wider) if gains.max() <= DEAR else (design, solve)


def _flat(along: np.ndarray, radius_mm: float) -> bool:
    return len(along) == 0 or float(np.ptp(along)) < 1e-6 * radius_mm


def _lean(
    value: float,
    row: np.ndarray,
    read: Sequence[Station],
    means: dict[str, MeanReading],
    s_left: float,
    free: int,
    radius_mm: float,
    radius_u_mm: float,
    dof: int | None,
) -> Lean:
    gain = float(np.linalg.norm(row))
    if gain * radius_mm / 1000 > MOST_GAIN:
        raise Problem(
            "The positions are too close together to tell the lean.",
            expected="Spread them over at least half of the circle, best over all of it.",
            field="positions",
        )

    floor = t_factor(free) * s_left if s_left else 0.0
    at = dict(zip((s.key for s in read), map(float, row), strict=True))
    moved = wandered(means, at)
    u = math.hypot(moved / 2, *(g * max(means[k].u_mm, s_left) for k, g in at.items()))
    big = math.hypot(moved, *(g * max(means[k].expanded_mm, floor) for k, g in at.items()))
    bound = sum(abs(g) * means[s.key].bound_mm for g, s in zip(row, read, strict=True))
    by_radius = float(value) * radius_u_mm / radius_mm
    estimate = Estimate(
        measure="slope",
        value=float(value),
        u=combined(u, by_radius),
        expanded=combined(big, 2 * by_radius),
        dof=dof,
    )
    return Lean(estimate=estimate.widened(bound), gain=gain)


def _cannot(read: Sequence[Station], tips: Sequence[str]) -> Problem:
    places = {(round(s.x_mm, 3), round(s.y_mm, 3)) for s in read}
    if len(places) < 2:
        return Problem(
            "Only one position has been read, which tells no lean.",
            expected="Read the position opposite to it as well.",
            field="positions",
        )
    if len(tips) > 1 and not any(
        len({(s.x_mm, s.y_mm) for s in read if s.tip == tip}) > 1 for tip in tips
    ):
        return Problem(
            "Each bolt was read on one side only, so the difference of the bolts would be taken "
            "for lean.",
            expected="Turn the bar half round and read at least one bolt on the other side too.",
            field="positions",
        )
    return Problem(
        "Two positions that are not opposite tell neither lean.",
        expected="Read 9 and 3 for the lean, 12 and 6 for the nod, or three or more round the "
        "circle.",
        field="positions",
    )
