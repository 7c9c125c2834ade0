"""Lean and nod from readings round a circle.

A spindle leaning by (a, b), top to the right and to the rear, sweeps its tip in a plane that is
low where the lean points, so the surface seems closer there: R = c + r·(a·cos φ + b·sin φ).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from pydantic import BaseModel

from truing.checks.spindle_tram.setup import SpindleTramSetup
from truing.contract.design import Design, Fit, MeanReading
from truing.contract.setup import Station
from truing.measure.estimate import Estimate, combined
from truing.measure.problem import Problem

MOST_GAIN = 4.0
"""√C of a lean in units of reading/radius above which the positions cannot carry it (four round
the clock have 0.71, a half circle of three 1.2, 0/20/40° more than 10)."""

LEAST_SADDLE = 0.3
"""Singular value below which positions do not show a saddle."""

DEAR = 1.25
"""How much wider a lean may get for a saddle that is taken out."""

LEAST_SHOWS = 3e-5
"""A place that pulls the fit along altogether shows nothing of its own error."""

LEANS = ("lean_x", "nod")


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


def design(read: Sequence[Station], radius_mm: float) -> Design:
    """What the readings at one place are of both leans, and of a level for each tip.

    Problem when the positions cannot tell a lean: one place only, two that are not opposite along
    a main direction, both bolts of a bar read on one side only, or positions too close together.
    """
    found = _shaped(read, radius_mm)
    told = [name for name in LEANS if name in found.weights]
    if not told or any(name not in found.weights for name in found.unknowns):
        raise _cannot(read, sorted({s.tip for s in read}))
    for name in told:
        if _gain(found, name) * radius_mm / 1000 > MOST_GAIN:
            raise Problem(
                "The positions are too close together to tell the lean.",
                expected="Spread them over at least half of the circle, best over all of it.",
                field="positions",
            )
    return found


def leans_of(
    fit: Fit, at_mm: float | None, means: Mapping[str, MeanReading], setup: SpindleTramSetup
) -> PlaceFit:
    """What a fit says of one place of the spindle; `means` are those that went into it."""
    leans = {name: _lean(fit, name, setup) for name in LEANS if fit.tells(name)}
    # what the fit itself cannot hide, as a share of each station's own uncertainty
    ratios = [
        abs(v) / (means[k].expanded_mm * max(fit.shows[k], LEAST_SHOWS))
        for k, v in fit.left_mm.items()
    ]
    return PlaceFit(
        at_mm=at_mm,
        lean_x=leans.get("lean_x"),
        nod=leans.get("nod"),
        left_mm=dict(fit.left_mm),
        dof=fit.free,
        largest_left_ratio=max(ratios) if fit.free else 0.0,
    )


def _shaped(read: Sequence[Station], radius_mm: float) -> Design:
    """Leans, and a level for each tip; with the table's saddle and twist where the positions tell
    them apart from the leans at little cost: shape is no scatter, and must not be taken for it."""
    flat = {
        "lean_x": np.ptp([s.x_mm for s in read] or [0.0]) < 1e-6 * radius_mm,
        "nod": np.ptp([s.y_mm for s in read] or [0.0]) < 1e-6 * radius_mm,
    }
    rows: dict[str, dict[str, float]] = {}
    shapes: dict[str, dict[str, float]] = {}
    for s in read:
        leans = {"lean_x": s.x_mm / 1000, "nod": s.y_mm / 1000}
        x, y = s.x_mm / radius_mm, s.y_mm / radius_mm
        rows[s.key] = {f"level {s.tip}": 1.0} | {n: v for n, v in leans.items() if not flat[n]}
        shapes[s.key] = {"saddle": x**2 - y**2, "twist": 2 * x * y}
    bare = Design(rows)
    if len(read) <= len(bare.unknowns) + 2:
        return bare
    whole = Design({key: row | shapes[key] for key, row in rows.items()})
    scaled = whole.table / np.linalg.norm(whole.table, axis=0).clip(min=1e-12)
    if np.linalg.svd(scaled, compute_uv=False)[-1] < LEAST_SADDLE:
        return bare
    wider = [_gain(whole, n) / _gain(bare, n) for n in bare.unknowns if n in bare.weights]
    return whole if max(wider) <= DEAR else bare


def _gain(design: Design, name: str) -> float:
    return float(np.linalg.norm(list(design.weights[name].values())))


def _lean(fit: Fit, name: str, setup: SpindleTramSetup) -> Lean:
    lean, gain = fit.estimate(name, "slope")
    by_radius = lean.value * setup.radius_u_mm / setup.radius_mm
    # what adds up stays apart from what does not
    bound = sum(abs(w) * fit.means[k].bound_mm for k, w in fit.weights[name].items())
    return Lean(
        estimate=lean.model_copy(
            update={
                "u": combined(lean.u, by_radius),
                "expanded": combined(lean.expanded - bound, 2 * by_radius) + bound,
            }
        ),
        gain=gain,
    )


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
