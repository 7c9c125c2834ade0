"""From heights over a bed to its plane, its shape, and what a cut at one depth sees of it.

z = c + a·x + b·y is the best plane by itself; z = c + a·x + b·y + p·x² + q·y² + s·x·y, about the
points' own centre, tells how it bends. What a program at one depth meets is highest less lowest of
the heights themselves, tilt and all.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from truing.checks.bed_map.setup import LEAST_POINTS, BedMapSetup, stations
from truing.contract.case import Case
from truing.contract.finding import Finding, Note, Quantity, StationMean, quantity, shown
from truing.contract.gather import expected_mean, gather
from truing.contract.readings import LogReading
from truing.measure.estimate import Estimate, combined
from truing.measure.extremes import peak_to_valley
from truing.measure.problem import Problem
from truing.measure.spread import Spread
from truing.measure.words import Measure, Words, plain, say, show, spot

Heights = NDArray[np.float64]
SPECK = 6.0
"""Times what the rest scatters off the shape: a chip, a screw head, a hole."""
BENDS = 6
"""Points from which a shape can be told."""


class HeightAt(BaseModel):
    """A place and how high it stands over the lowest one (mm)."""

    x_mm: float
    y_mm: float
    up_mm: float


class BedMapFinding(Finding):
    """The height of a bed over its area."""

    kind: Literal["bed_map"] = "bed_map"
    count: int
    """Points that were read."""
    cells: list[HeightAt]
    """Means of points that lie together, for drawing; of few points each."""
    highest: HeightAt
    lowest: HeightAt
    specks: list[HeightAt]
    """Points that stand off all those around."""


@dataclass(frozen=True)
class Points:
    """What was read: places and heights (mm), U of each, and a bound."""

    x: Heights
    y: Heights
    z: Heights
    expanded_mm: float
    bound_mm: float
    keys: list[str]


BedCase = Case[BedMapSetup, BedMapFinding]


def evaluate(case: BedCase) -> BedMapFinding:
    """See `Check.evaluate`."""
    if case.setup.way == "log":
        points, rest = _logged(case)
    else:
        points, rest = _touched(case)
    x, y, z = points.x, points.y, points.z
    _spread_out(x, y)
    plane, shape = _plane(x, y, z), _shape(x, y, z)
    specks = _specks(x, y, z, shape, points.expanded_mm)
    big, bound = points.expanded_mm, points.bound_mm
    whole = peak_to_valley(z, big, bound=bound)
    off = z - plane @ np.vstack([np.ones(len(x)), x - x.mean(), y - y.mean()])
    told = [_area(whole)]
    for key, i, v, (low, high) in (
        ("slope_x", 1, x, ("left", "right")),
        ("slope_y", 2, y, ("front", "rear")),
    ):
        told.append(_slope(key, float(plane[i]), v, big, low, high))
    told.append(_aside("flatness", "Off its own best plane", peak_to_valley(off, big, bound=bound)))
    if shape is not None:
        told += _bends(shape, x, y, big)
    lowest = float(z.min())
    order = [int(np.argmax(z)), int(np.argmin(z))]
    ends = [_at(x[i], y[i], z[i] - lowest) for i in order]
    return BedMapFinding(
        quantities=told,
        notes=[*rest["notes"], *_doubts(specks)],
        lines=_lines(ends, told),
        count=len(x),
        cells=_cells(x, y, z - lowest),
        highest=ends[0],
        lowest=ends[1],
        specks=specks,
        **{k: v for k, v in rest.items() if k != "notes"},
    )


# --- what was read --------------------------------------------------------------------------------


def _touched(case: BedCase) -> tuple[Points, dict[str, Any]]:
    plan = stations(case.setup)
    got = gather(case, plan, sign=case.setup.sign)
    read = [s for s in plan if got.has(s.key)]
    means = [got.means[s.key] for s in read]
    points = Points(
        x=np.array([s.x_mm for s in read]),
        y=np.array([s.y_mm for s in read]),
        z=np.array([m.mean_mm for m in means]),
        expanded_mm=max(m.expanded_mm for m in means),
        bound_mm=max(m.bound_mm for m in means),
        keys=[s.key for s in read],
    )
    rest = {
        "stations": got.station_means(),
        "notes": got.notes("The map stands, but check the clamps."),
        "spreads": got.spreads,
        "s_mm": got.s_mm,
        "step_mm": got.step_mm,
        "zero_mm": got.zero_mm,
    }
    return points, rest


def _logged(case: BedCase) -> tuple[Points, dict[str, Any]]:
    logs = [r for r in case.readings if isinstance(r, LogReading)]
    if not logs:
        raise Problem(
            "Nothing has been read yet.", expected="Paste the log or open its file.", field="text"
        )
    log = logs[-1]
    z = case.setup.sign * np.asarray(log.columns["z"])
    mean = expected_mean(case.instrument, 1)
    points = Points(
        x=np.asarray(log.columns["x"]),
        y=np.asarray(log.columns["y"]),
        z=z,
        expanded_mm=mean.expanded_mm,
        bound_mm=case.instrument.error_mm / 2,
        keys=[],
    )
    text = (
        "± of a single touch rests on the stated repeatability of the probe: each point of a log "
        "is read once."
    )
    rest: dict[str, Any] = {
        "stations": [
            StationMean(
                station=log.station, mean_mm=0.0, expanded_mm=0.0, repeats_mm=[], left_mm=0.0
            )
        ],
        "notes": [Note(tone="weak", text=plain(text))],
        "spreads": dict[str, Spread](),
        "s_mm": case.instrument.repeatability_mm,
        "step_mm": case.instrument.step_mm,
    }
    return points, rest


def _spread_out(x: Heights, y: Heights) -> None:
    """Problem where the points cannot tell a plane."""
    if len(x) < LEAST_POINTS:
        raise Problem(
            f"{len(x)} points tell no plane that could be doubted.",
            expected=f"Read {LEAST_POINTS} places or more, the corners first.",
            field="readings",
        )
    # how far they spread along and across their own long way, squared
    across, along = np.linalg.eigvalsh(np.cov(x, y))
    if across < 1e-6 * max(along, 1e-18):
        raise Problem(
            "All points lie on one line: they tell nothing across it.",
            expected="Read places beside that line as well.",
            field="readings",
        )


# --- its plane and its shape ----------------------------------------------------------------------


def _plane(x: Heights, y: Heights, z: Heights) -> Heights:
    """(height at the points' centre, slope along X, slope along Y), in mm per mm."""
    a = np.column_stack([np.ones(len(x)), x - x.mean(), y - y.mean()])
    return np.asarray(np.linalg.lstsq(a, z, rcond=None)[0])


def _design(x: Heights, y: Heights) -> Heights:
    u, v = x - x.mean(), y - y.mean()
    return np.column_stack([np.ones(len(u)), u, v, u * u, v * v, u * v])


def _shape(x: Heights, y: Heights, z: Heights) -> Heights | None:
    """(c, a, b, p, q, s); None where the places cannot tell it: two rows show no bow."""
    if len(x) < BENDS:
        return None
    a = _design(x, y)
    scale = np.abs(a).max(axis=0)
    fit, _, _, singular = np.linalg.lstsq(a / scale, z, rcond=None)
    return None if singular.min() < 1e-6 * len(x) else np.asarray(fit / scale)


def _bends(shape: Heights, x: Heights, y: Heights, big: float) -> list[Quantity]:
    """Bow along each way, over the area that was read, and twist."""
    wide, deep = float(np.ptp(x)), float(np.ptp(y))
    a = _design(x, y)
    doubt = np.sqrt(np.diag(np.linalg.pinv(a.T @ a)))
    found = []
    for key, label, i, span in (
        ("bow_x", "Bow, left to right", 3, wide),
        ("bow_y", "Bow, front to rear", 4, deep),
    ):
        # the middle over the line through both ends: −p·(span/2)²
        size = (span / 2) ** 2
        found.append(_aside(key, label, _within(-shape[i] * size, doubt[i] * size * big)))
    corner = wide * deep / 4
    label = "Twist, a corner over the other three’s plane"
    twist = _within(shape[5] * corner * 4, doubt[5] * corner * 4 * big)
    return [*found, _aside("twist", label, twist)]


def _within(value: float, expanded: float, measure: Measure = "length") -> Estimate:
    return Estimate.within(measure, float(value), float(expanded))


def _specks(
    x: Heights, y: Heights, z: Heights, shape: Heights | None, expanded_mm: float
) -> list[HeightAt]:
    """Points that stand off the shape by far more than all others, highest or deepest first; a few
    at the most, since many are no specks but the bed."""
    if shape is None or len(x) < 2 * BENDS:
        return []
    left = z - _design(x, y) @ shape
    middle = float(np.median(left))
    usual = max(1.4826 * float(np.median(np.abs(left - middle))), expanded_mm / 2)
    far = np.flatnonzero(np.abs(left - middle) > SPECK * usual)
    if len(far) > max(1, len(x) // 50):
        return []
    far = far[np.argsort(-np.abs(left[far] - middle))][:5]
    return [
        HeightAt(x_mm=float(x[i]), y_mm=float(y[i]), up_mm=float(left[i] - middle)) for i in far
    ]


def _at(x: float, y: float, up: float) -> HeightAt:
    return HeightAt(x_mm=float(x), y_mm=float(y), up_mm=float(up))


# --- words ----------------------------------------------------------------------------------------


def _area(whole: Estimate) -> Quantity:
    return quantity(
        "area",
        "Highest less lowest",
        whole,
        say("Over the area its height varies by {v}.", v=shown(whole)),
        gain=math.sqrt(2),
        tolerance_key="area",
        signed=False,
    )


def _slope(key: str, slope: float, at: Heights, big: float, low: str, high: str) -> Quantity:
    gain = 1 / math.sqrt(float(((at - at.mean()) ** 2).sum()))
    estimate = _within(slope * 1000, gain * big * 1000, "slope")
    side = high if slope > 0 else low
    said = None
    if estimate.visible:
        over = float(np.ptp(at))
        said = say(
            "Its {side} is high, by {v} over the {span} read.",
            side=side,
            v=show(abs(slope) * over, combined(gain * big * over, 1e-4)),
            span=show(over, 1),
        )
    return quantity(
        key,
        f"Rises to the {high}",
        estimate,
        said,
        gain=gain * 1000,
        tolerance_key=None,
    )


def _aside(key: str, label: str, estimate: Estimate) -> Quantity:
    signed = estimate.limits is None
    return quantity(key, label, estimate, None, gain=1.0, tolerance_key=None, signed=signed)


def _doubts(specks: Sequence[HeightAt]) -> list[Note]:
    return [
        Note(
            tone="look",
            text=say(
                "At {at} it stands {way} by {v} from all around it: a chip, a screw head or "
                "a hole? Nothing has been dropped.",
                at=lies(s),
                way="up" if s.up_mm > 0 else "down",
                v=show(abs(s.up_mm), 0.01),
            ),
        )
        for s in specks
    ]


def _lines(ends: Sequence[HeightAt], told: Sequence[Quantity]) -> list[Words]:
    high, low = ends
    lines = [
        say(
            "Highest at {high}, lowest at {low} from mid bed.",
            high=lies(high),
            low=lies(low),
        )
    ]
    return lines + [q.sentence for q in told if q.sentence and q.tolerance_key is None]


def lies(at: HeightAt) -> Words:
    """Where a point lies, to the millimetre."""
    return spot(round(at.x_mm), round(at.y_mm))


def _cells(x: Heights, y: Heights, up: Heights, most: int = 600) -> list[HeightAt]:
    """Points, or where there are many the means of those that lie in one cell of a fine grid."""
    if len(x) <= most:
        return [_at(*point) for point in zip(x, y, up, strict=True)]
    wide, deep = max(float(np.ptp(x)), 1e-9), max(float(np.ptp(y)), 1e-9)
    across = max(2, round(math.sqrt(most * wide / deep)))
    along = max(2, most // across)
    i = np.minimum((across * (x - x.min()) / wide).astype(int), across - 1)
    j = np.minimum((along * (y - y.min()) / deep).astype(int), along - 1)
    cell = i * along + j
    count = np.bincount(cell, minlength=across * along)
    full = count > 0
    mean = [
        np.bincount(cell, weights=v, minlength=across * along)[full] / count[full]
        for v in (x, y, up)
    ]
    return [_at(*point) for point in zip(*mean, strict=True)]
