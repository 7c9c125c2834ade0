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

from truing.checks.bed_map.odd import FEW, Odd, odd_ones, scatter_of
from truing.checks.bed_map.questions import origin, refuse_doubtful
from truing.checks.bed_map.setup import LEAST_POINTS, BedMapSetup, stations
from truing.contract.case import Case
from truing.contract.expected import expected_mean
from truing.contract.finding import Finding, Note, Quantity, StationMean, quantity, shown
from truing.contract.gather import gather
from truing.contract.readings import LogReading
from truing.measure.estimate import Estimate, combined
from truing.measure.extremes import peak_to_valley
from truing.measure.problem import Problem
from truing.measure.spread import Spread, t_factor
from truing.measure.words import Measure, Words, plain, say, show, spot
from truing.programs.face import Hole, Patch

Heights = NDArray[np.float64]
HOLE_MM = 0.1
"""What is deeper and no wider than a groove is a hole: no face is cut down to its floor."""
HOLE_MOST_MM = 15.0
"""So far about a single point it may reach."""
TOLD = 5
"""Of what stands off, so many places are told one by one."""
MOST_HOLES = 200
TOLD_BY = 3
"""Degrees of freedom from which on a scatter counts."""
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
    patches: list[Patch] = []
    """Of many points: the lowest and the highest that were read in each cell, but for holes."""
    specks: list[HeightAt]
    """What stands off all around it, each at its furthest; the first few."""
    more_specks: int = 0
    """How many more of them there are."""
    holes: list[Hole] = []
    """Of these those that are deep and narrow, all of them."""


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
        _spread_out(points.x, points.y)
    x, y, z = points.x, points.y, points.z
    plane, shape = _plane(x, y, z), _shape(x, y, z)
    smooth = z * 0 if shape is None else _design(x, y) @ shape
    odd = odd_ones(x, y, z, smooth, points.expanded_mm / 2)
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
    up = z - float(z.min())
    order = [int(np.argmax(z)), int(np.argmin(z))]
    ends = [_at(x[i], y[i], up[i]) for i in order]
    holes = [o for o in odd if o.off_mm < -HOLE_MM][:MOST_HOLES]
    specks = [_at(x[o.at], y[o.at], o.off_mm) for o in odd]
    sound = np.ones(len(x), np.bool_)
    for hole in holes:
        sound[hole.members] = False
    cells, patches = _cells(x, y, up, sound)
    return BedMapFinding(
        quantities=told,
        notes=[*rest["notes"], *_doubts(specks[:TOLD], len(specks) - TOLD)],
        lines=_lines(ends, told),
        count=len(x),
        cells=cells,
        patches=patches,
        highest=ends[0],
        lowest=ends[1],
        specks=specks[:TOLD],
        more_specks=max(0, len(specks) - TOLD),
        holes=[_hole(x, y, up, hole) for hole in holes],
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
        expanded_mm=max(m.all_mm for m in means),
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
    x0, y0 = origin(case.setup, case.machine)
    x, y = np.asarray(log.columns["x"]) + x0, np.asarray(log.columns["y"]) + y0
    _spread_out(x, y)
    refuse_doubtful(x, y, case.setup, case.machine)
    expanded = expected_mean(case.instrument, 1).expanded_mm
    shape = _shape(x, y, z)
    # each point is read once: what they scatter off the face through those around them tells
    s_mm, dof = scatter_of(x, y, z, z * 0 if shape is None else _design(x, y) @ shape)
    seen = t_factor(dof) * s_mm if dof >= TOLD_BY else 0.0
    points = Points(
        x=x,
        y=y,
        z=z,
        expanded_mm=max(expanded, seen),
        bound_mm=case.instrument.wrong_by_mm / 2,
        keys=[],
    )
    text = (
        "± of a single touch rests on the stated repeatability of the probe: each point of a log "
        "is read once."
        if seen <= expanded
        else "± of a single touch is what the points scatter about the face through those around "
        "them: more than the stated repeatability of the probe."
    )
    rest: dict[str, Any] = {
        "stations": [
            StationMean(
                station=log.station, mean_mm=0.0, expanded_mm=0.0, repeats_mm=[], left_mm=0.0
            )
        ],
        "notes": [Note(tone="weak", text=plain(text))],
        "spreads": dict[str, Spread](),
        "s_mm": max(case.instrument.repeatability_mm, s_mm if dof >= TOLD_BY else 0.0),
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
    return _fitted(a, z)[0]


MANY = 5_000
"""Points from which on the normal equations do: of places scaled to 1 they lose no figure that
counts, and take a tenth of the time."""


def _fitted(a: Heights, z: Heights) -> tuple[Heights, float]:
    """Least squares of rows, and the smallest singular value of those rows, as columns scaled to
    their largest."""
    scale = np.abs(a).max(axis=0)
    a = a / np.where(scale > 0, scale, 1.0)
    if len(a) < MANY:
        fit, _, _, singular = np.linalg.lstsq(a, z, rcond=None)
        least = float(singular.min())
    else:
        square = a.T @ a
        least = math.sqrt(max(0.0, float(np.linalg.eigvalsh(square)[0])))
        fit = np.linalg.lstsq(square, a.T @ z, rcond=None)[0]
    return np.asarray(fit / np.where(scale > 0, scale, 1.0)), least


def _design(x: Heights, y: Heights) -> Heights:
    u, v = x - x.mean(), y - y.mean()
    return np.column_stack([np.ones(len(u)), u, v, u * u, v * v, u * v])


def _shape(x: Heights, y: Heights, z: Heights) -> Heights | None:
    """(c, a, b, p, q, s); None where the places cannot tell it: two rows show no bow."""
    if len(x) < BENDS:
        return None
    fit, least = _fitted(_design(x, y), z)
    return None if least < 1e-6 * len(x) else fit


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


def _hole(x: Heights, y: Heights, up: Heights, odd: Odd) -> Hole:
    """Its outline: all that was touched in it, and as far as it may reach beside that."""
    room = min(odd.room_mm, HOLE_MOST_MM)
    px, py = x[odd.members], y[odd.members]
    box = (px.min() - room, py.min() - room, px.max() + room, py.max() + room)
    left, front, right, rear = (float(v) for v in box)
    low = float(up[odd.members].min())
    return Hole.within((left, front, right, rear), low_mm=low, deep_mm=-odd.off_mm)


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


def _doubts(specks: Sequence[HeightAt], more: int) -> list[Note]:
    told = [
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
    if more > 0:
        text = f"{more:,} more such place{'' if more == 1 else 's'}, none of them further off."
        told.append(Note(tone="look", text=plain(text)))
    return told


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


def _cells(
    x: Heights, y: Heights, up: Heights, sound: NDArray[np.bool_]
) -> tuple[list[HeightAt], list[Patch]]:
    """Points; or where there are many the means of those that lie in one cell of a grid, with the
    lowest and the highest of each: between two means may stand a seam."""
    if len(x) <= FEW:
        return [_at(*point) for point in zip(x, y, up, strict=True)], []
    left, front = float(x.min()), float(y.min())
    wide, deep = max(float(np.ptp(x)), 1e-9), max(float(np.ptp(y)), 1e-9)
    # what lies between two points of two cells is as high as either
    room = math.sqrt(wide * deep / len(x))
    across = max(2, round(math.sqrt(FEW * wide / deep)))
    along = max(2, FEW // across)
    x, y, up = x[sound], y[sound], up[sound]
    i = np.minimum((across * (x - left) / wide).astype(int), across - 1)
    j = np.minimum((along * (y - front) / deep).astype(int), along - 1)
    cell = i * along + j
    count = np.bincount(cell, minlength=across * along)
    full = np.flatnonzero(count)
    mean = [
        np.bincount(cell, weights=v, minlength=across * along)[full] / count[full]
        for v in (x, y, up)
    ]
    low, high = np.full(across * along, np.inf), np.full(across * along, -np.inf)
    np.minimum.at(low, cell, up)
    np.maximum.at(high, cell, up)
    a, b = wide / across, deep / along
    patches = [
        Patch.within(
            (
                left + a * (k // along) - room,
                front + b * (k % along) - room,
                left + a * (k // along + 1) + room,
                front + b * (k % along + 1) + room,
            ),
            low_mm=float(low[k]),
            high_mm=float(high[k]),
        )
        for k in map(int, full)
    ]
    return [_at(*point) for point in zip(*mean, strict=True)], patches
