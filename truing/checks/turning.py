"""Things that turn, read round by a tip that stays: centres, their size, and what few angles miss.

With mark φ facing the tip the dial shows R(φ) = c + x·cos φ + y·sin φ + what is out of round;
(x, y) is the centre there, in the frame of the marks, and TIR = 2·√(x² + y²).
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from functools import lru_cache
from itertools import pairwise
from typing import Annotated, Any, Protocol

import numpy as np
from pydantic import AfterValidator, BaseModel, Field

from truing.contract.design import Design, Fit
from truing.contract.finding import Note
from truing.contract.gather import Gathered
from truing.drawing.figures import (
    AxisFigure,
    AxisPoint,
    PolarFigure,
    PolarTrace,
    magnification,
)
from truing.measure.estimate import Estimate
from truing.measure.fields import Degrees, hint
from truing.measure.problem import Problem
from truing.measure.words import Words, plain, show, show_estimate


class TurnStation(Protocol):
    """A place on a turn."""

    key: str
    angle_rad: float


Weights = dict[str, float]
"""What each station's mean counts for."""
LEAST_FOR_OVAL = 5
"""Angles from which what is out of round can be told apart."""
LEAST_TOLD = 0.3
"""How much of a turn's centre angles have to tell, by the least singular value of its columns."""
LEAST_OVAL = 0.8
"""The same for what is out of round beside it: below that it would take more from the centre than
it adds. Five angles evenly round have twice as much."""
DRAWN_MM = 100.0
"""Radius at which the mean circle of a polar trace is drawn."""
CIRCLE = 2.45
"""Standard deviations that hold 95 % of a vector's scatter."""


class Circle(BaseModel):
    """What was found at one distance: the centre in the spindle's frame, in mm."""

    at_mm: float
    x_mm: float
    y_mm: float
    expanded_mm: float
    """U of either component."""
    oval_mm: float | None
    """Amplitude of what is out of round; None where it cannot be told."""
    angles_rad: list[float]
    off_mm: list[float]
    """Each reading's mean, less the mean of the turn."""


def _all_round(value: list[float]) -> list[float]:
    if value and value[0] != 0:
        raise ValueError("Count the marks from the first one, which is 0.")
    if any(b <= a for a, b in pairwise([*value, 360.0])):
        raise ValueError("The marks go once round: each after the one before it, below 360.")
    if value and _least(_centre(np.radians(value))) < LEAST_TOLD:
        raise ValueError("These do not go round. Mark three or more, over the whole turn.")
    return value


MarksDeg = Annotated[Degrees, AfterValidator(_all_round)]
"""Where marks are that are not evenly round (degrees from the first one); empty: evenly."""


def uneven_marks(**when: Sequence[str]) -> Any:
    """The field for them, asked while other fields have one of these values."""
    return Field(
        default_factory=list,
        max_length=24,
        title="Where the marks are, if uneven",
        json_schema_extra=hint(
            "Degrees from the first one: 0, 75, 150, 260. Empty: evenly round.",
            field="degrees",
            when={k: list(v) for k, v in when.items()},
            advanced=True,
        ),
    )


def angles_of(marks: int, marks_deg: Sequence[float]) -> list[float]:
    """Angles (rad) of so many marks from the first one, the way they are counted: where they are,
    or evenly round."""
    if marks_deg:
        return [math.radians(d) for d in marks_deg]
    return [2 * math.pi * k / marks for k in range(marks)]


def harmonics(angles: Sequence[float]) -> dict[str, np.ndarray]:
    """For mean, x, y and (from five angles) both parts of the oval the weight of each reading.
    Problem where the angles cannot tell the centre."""
    return _solved(tuple(angles))


@lru_cache(maxsize=512)
def _solved(angles: tuple[float, ...]) -> dict[str, np.ndarray]:
    columns = _columns(angles)
    if _least(columns) < LEAST_TOLD:
        raise Problem(
            "These angles do not go round: the centre cannot be told from them.",
            expected="Read three marks or more, spread over the whole turn.",
            field="readings",
        )
    design = np.column_stack(list(columns.values()))
    return dict(zip(columns, np.linalg.pinv(design), strict=True))


@lru_cache(maxsize=512)
def _columns(angles: tuple[float, ...]) -> dict[str, np.ndarray]:
    """What each reading of a turn is of its mean, its centre and, where the angles tell it, of what
    is out of round."""
    a = np.asarray(angles)
    columns = _centre(a)
    wider = {**columns, "oval_c": np.cos(2 * a), "oval_s": np.sin(2 * a)}
    return wider if len(a) >= LEAST_FOR_OVAL and _least(wider) > LEAST_OVAL else columns


def _centre(angles: np.ndarray) -> dict[str, np.ndarray]:
    return {"c": np.ones(len(angles)), "x": np.cos(angles), "y": np.sin(angles)}


def _least(columns: Mapping[str, np.ndarray]) -> float:
    """How much readings with these columns tell of what they tell least of."""
    design = np.column_stack(list(columns.values()))
    enough = design.shape[0] >= design.shape[1]
    return float(np.linalg.svd(design, compute_uv=False)[-1]) if enough else 0.0


def sees_oval(angles: Sequence[float]) -> bool:
    """Whether a turn that is read at these angles (rad) tells what is out of round."""
    return "oval_c" in _columns(tuple(angles))


def rings_of(rings: Mapping[Any, Sequence[TurnStation]]) -> Design:
    """Turns that were read at angles, each by itself: its mean, its centre and, from five angles,
    what is out of round. Beyond that all that is left is scatter."""
    rows: dict[str, dict[str, float]] = {}
    for name, ring in rings.items():
        columns = _columns(tuple(s.angle_rad for s in ring))
        for i, s in enumerate(ring):
            rows[s.key] = {f"{part} {name}": float(v[i]) for part, v in columns.items()}
    return Design(rows)


def size_of(fit: Fit, axes: Mapping[str, Weights]) -> tuple[float, float]:
    """(length, U) of a vector whose parts are weighted sums of readings."""
    x, y = (fit.combine(axes[a])[0] for a in ("x", "y"))
    return math.hypot(x.value, y.value), _widest(fit, axes, x.expanded, y.expanded)


def _widest(fit: Fit, axes: Mapping[str, Weights], one: float, other: float) -> float:
    """U of a vector the way it is told worst: at marks that are not evenly round its parts go with
    each other, and neither of them has that way's."""
    both = axes["x"].keys() & axes["y"].keys()
    u = {k: fit.means[k].expanded_mm for k in both}
    with_each_other = sum(axes["x"][k] * axes["y"][k] * u[k] ** 2 for k in both)
    apart = math.hypot(one**2 - other**2, 2 * with_each_other)
    return math.sqrt((one**2 + other**2 + apart) / 2)


def tir(size: float, expanded: float, bound: float = 0.0) -> Estimate:
    """Twice the length of a vector whose parts are known to ±U. Noise makes a vector longer than it
    is, most where there is none, so that it comes with limits."""
    found = Estimate.within("length", 2 * size, 2 * expanded)
    low = 2 * (size - CIRCLE * expanded / 2)
    return found.between(low, 2 * (size + expanded)).widened(bound)


def swing_of(got: Gathered, key: str, per_shown: float = 1.0) -> Estimate:
    """Greatest less least of one turn, read at a station, with its limits; `per_shown` is how far
    the surface goes for each unit that is shown. Problem for one that is below nothing."""
    swing, _ = got.combine({key: per_shown})
    if swing.value < -swing.expanded:
        raise Problem(
            "A swing is greatest less least: it cannot be below nothing.",
            expected="Enter how far the needle goes in one turn, as plus.",
            field="readings",
        )
    return swing.between(swing.value - swing.expanded, swing.value + swing.expanded)


def too_small(swings: Sequence[Estimate], step_mm: float) -> list[Note]:
    """That a swing is less than the dial can show."""
    if all(s.value >= step_mm for s in swings):
        return []
    text = "A swing of less than the dial can show counts as anything up to that."
    return [Note(tone="weak", text=plain(text))]


def between(
    sizes: Mapping[float, Estimate], near: float, far: float, at: float, bound: float
) -> Estimate:
    """All that the swing may be elsewhere, from two magnitudes of unknown direction."""
    a, b = (far - at) / (far - near), (at - near) / (far - near)
    one, other = sizes[near], sizes[far]
    least = max(
        0.0,
        abs(a) * one.least - abs(b) * other.most,
        abs(b) * other.least - abs(a) * one.most,
    )
    most = abs(a) * one.most + abs(b) * other.most
    found = Estimate.within("length", (least + most) / 2, (most - least) / 2)
    return found.between(least, most).widened(bound * (abs(a) + abs(b)))


def blind(angles: Sequence[float]) -> list[Note]:
    """What a turn that is read at these angles (rad) cannot see."""
    if sees_oval(angles):
        return []
    text = {
        3: "Three angles take all that is out of round for runout. Six do not.",
        4: "Four angles take a three-lobed pin for runout, and see half of an oval. Six do not.",
    }.get(len(angles), "Angles as uneven as these take part of an oval for runout.")
    return [Note(tone="weak", text=plain(text))]


def polar_figure(title: Words, circles: Sequence[Circle]) -> list[PolarFigure]:
    """Each turn as it was read, with its circle; none where nothing was read at angles."""
    if not circles:
        return []
    worst = max(abs(v) for c in circles for v in c.off_mm) or 1e-4
    traces = [
        PolarTrace(
            name=f"{c.at_mm:g} mm",
            angles_rad=c.angles_rad,
            off_mm=c.off_mm,
            x_mm=c.x_mm,
            y_mm=c.y_mm,
            words=show(2 * math.hypot(c.x_mm, c.y_mm), c.expanded_mm or 1e-4),
        )
        for c in circles
    ]
    factor = magnification(worst, DRAWN_MM, share=0.3)
    return [PolarFigure(title=title, traces=traces, radius_mm=DRAWN_MM, factor=factor)]


def axis_figure(
    title: Words, circles: Sequence[Circle], upto_mm: Sequence[float]
) -> list[AxisFigure]:
    """The axis through centres at two or more distances, seen square to where it goes furthest,
    from the nose to the furthest of these places; none where one distance was read."""
    if len(circles) < 2:
        return []
    places = np.array([c.at_mm for c in circles])
    centres = np.array([complex(c.x_mm, c.y_mm) for c in circles])
    big = max(c.expanded_mm for c in circles)
    middle = float(places.mean())
    spread = float(((places - middle) ** 2).sum())
    far = max([*upto_mm, *map(float, places)])

    def on_line(z: float) -> tuple[complex, float]:
        share = 1 / len(places) + (z - middle) * (places - middle) / spread
        return complex(share @ centres), big * math.sqrt(float((share**2).sum()))

    end, _ = on_line(far)
    toward = end / abs(end) if end else 1.0
    points = []
    for z in sorted({0.0, far, *upto_mm, *map(float, places)}):
        centre, u = on_line(z)
        read = z in places
        if read:
            centre = complex(centres[list(places).index(z)])
        off = (centre * complex(toward).conjugate()).real
        line = (on_line(z)[0] * complex(toward).conjugate()).real
        points.append(
            AxisPoint(
                label=f"{z:g} mm" if z else "face",
                at_mm=z,
                off_mm=off,
                low_mm=line - u,
                high_mm=line + u,
                words=show_estimate(2 * abs(on_line(z)[0]), 2 * u, "length"),
                read=read,
            )
        )
    worst = max(max(abs(p.low_mm), abs(p.high_mm)) for p in points) or 1e-4
    return [AxisFigure(title=title, points=points, factor=magnification(worst, far or 1.0, 0.25))]
