"""Linear plans: what each reading is of each unknown, and what the readings tell of them.

A kind states its rows. Weights, gains, uncertainty, what is left, and which place stands off what
the others agree on follow from them in one way; what is to be expected before the first reading
comes from the very same.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, Field

from truing.measure.estimate import Estimate
from truing.measure.spread import t_factor
from truing.measure.words import Measure

Row = Mapping[str, float]
"""What one reading moves by (mm) for each unit of every unknown."""
TOLD_APART = 1e-6
"""How much of an unknown others may stand for."""
LEAST_SHOWN = 0.1
"""A place that pulls the fit along with it shows too little of its own error to be judged by."""
CLEAR = 1.3
"""How many times the U of a place has to be left before so few degrees of freedom say anything."""
SEEN = 0.05
"""How much of a shape has to be left beside the unknowns for it to be seen at all."""
LEAST_LEFT = 3
"""Degrees of freedom from which on what a fit leaves is scatter; fewer only show a shape."""


class MeanReading(BaseModel):
    """Mean at one station: mm with plus = pushed in, its u and U, and a stated bound beside."""

    mean_mm: float
    u_mm: float
    expanded_mm: float
    bound_mm: float = 0.0
    """What the instrument may be wrong by at this place: it does not average, it adds up."""
    wander_mm: dict[str, float] = Field(default_factory=dict)
    """U of what a zero that wandered moved it by, by loop or instrument: of one sign with that of
    all others that hang on the same, so that it is no scatter of this place."""

    size_mm: float = 0.0
    """What an instrument that reads sizes may be wrong by, at all places alike."""

    @property
    def all_mm(self) -> float:
        """U with what a zero that wandered adds to it, for a place that stands for itself."""
        return math.hypot(self.expanded_mm, *self.wander_mm.values())


def wandered(means: Mapping[str, MeanReading], weights: Mapping[str, float]) -> float:
    """U of a weighted sum by zeros that wandered: each moves all that hangs on it at once."""
    moved: dict[str, float] = {}
    for key, w in weights.items():
        for source, mm in means[key].wander_mm.items():
            moved[source] = moved.get(source, 0.0) + w * mm
    return math.hypot(*moved.values())


def combine(
    means: Mapping[str, MeanReading],
    weights: Mapping[str, float],
    measure: Measure = "length",
    dof: int | None = None,
) -> tuple[Estimate, float]:
    """A weighted sum of means with independent uncertainties, and its gain √C."""
    value = sum(w * means[k].mean_mm for k, w in weights.items())
    moved = wandered(means, weights)
    u = math.hypot(moved / 2, *(w * means[k].u_mm for k, w in weights.items()))
    big = math.hypot(moved, *(w * means[k].expanded_mm for k, w in weights.items()))
    gain = math.sqrt(sum(w * w for w in weights.values()))
    bound = sum(abs(w) * means[k].bound_mm for k, w in weights.items())
    bound += abs(sum(w * means[k].size_mm for k, w in weights.items()))
    found = Estimate(measure=measure, value=value, u=u, expanded=big, dof=dof)
    return found.widened(bound), gain


class Design:
    """Stations and unknowns with what each reading is of each, and how they are solved.

    `rows` has the row of every station; one that does not name an unknown is none of it. `shapes`
    are what else a surface may be, such as bowed: where enough places tell it, it is no scatter.
    """

    def __init__(self, rows: Mapping[str, Row], shapes: Mapping[str, Row] | None = None) -> None:
        self.stations = tuple(rows)
        self.unknowns = tuple(dict.fromkeys(name for row in rows.values() for name in row))
        self.table = np.array([[row.get(n, 0.0) for n in self.unknowns] for row in rows.values()])
        if shapes:
            self._with(shapes)
        self._solve, self._told, self._rank = _solved(self.table)

    def _with(self, shapes: Mapping[str, Row]) -> None:
        names = tuple(dict.fromkeys(name for row in shapes.values() for name in row))
        more = np.array([[shapes[key].get(n, 0.0) for n in names] for key in self.stations])
        # only what the unknowns themselves cannot stand for: their values stay what they were
        own = more - self.table @ (_solved(self.table)[0] @ more)
        seen = np.linalg.norm(own, axis=0) > SEEN * np.linalg.norm(more, axis=0)
        wider = np.column_stack([self.table, own[:, seen]])
        _, told, rank = _solved(wider)
        if len(wider) - rank >= LEAST_LEFT and told[len(self.unknowns) :].all():
            self.unknowns += tuple(n for n, there in zip(names, seen, strict=True) if there)
            self.table = wider

    @property
    def weights(self) -> dict[str, dict[str, float]]:
        """For each unknown that the readings tell apart from all others, the weight of every
        station's mean in it."""
        return {
            name: dict(zip(self.stations, map(float, self._solve[i]), strict=True))
            for i, name in enumerate(self.unknowns)
            if self._told[i]
        }

    def left(
        self, means: Collection[float]
    ) -> tuple[NDArray[np.float64], NDArray[np.float64], int]:
        """(what the fit leaves of each mean, which share of a mean's own error it can show, degrees
        of freedom)."""
        hat = self.table @ self._solve
        values = np.array(list(means))
        shows = np.sqrt(np.clip(1 - np.diag(hat), 0.0, 1.0))
        return values - hat @ values, shows, len(values) - self._rank


def _solved(table: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.bool_], int]:
    """(weights of every reading in every unknown, which unknowns nothing else stands for, rank)."""
    scale = np.linalg.norm(table, axis=0).clip(min=1e-12)
    solve = np.linalg.pinv(table / scale, rcond=1e-6)
    told = np.diag(solve @ (table / scale)) > 1 - TOLD_APART
    rank = int(np.linalg.matrix_rank(table / scale, tol=1e-6))
    return solve / scale[:, None], told, rank


@dataclass(frozen=True)
class Fit:
    """What the means of a plan's stations say of its unknowns."""

    weights: Mapping[str, Mapping[str, float]]
    """Of the unknowns that are told apart from all others."""
    means: Mapping[str, MeanReading]
    """As certain as what is left of them lets them be."""
    left_mm: Mapping[str, float]
    shows: Mapping[str, float]
    """Which share of a mean's own error stays in what is left of it: less where it pulls the fit
    along."""
    free: int
    dof: int | None
    alone_mm: Mapping[str, float] = field(default_factory=dict)
    """What each place would be off by if it alone made all that is left, where that may be so."""

    @classmethod
    def of(cls, design: Design, means: Mapping[str, MeanReading], dof: int | None = None) -> Fit:
        """Through these means, one for each station of the design."""
        left, shows, free = design.left([means[k].mean_mm for k in design.stations])
        s = math.sqrt(float(left @ left) / free) if free >= LEAST_LEFT else 0.0
        floor = t_factor(free) * s if s else 0.0
        return cls(
            weights=design.weights,
            means={
                k: means[k].model_copy(
                    update={
                        "u_mm": max(means[k].u_mm, s),
                        "expanded_mm": max(means[k].expanded_mm, floor),
                    }
                )
                for k in design.stations
            },
            left_mm=dict(zip(design.stations, map(float, left), strict=True)),
            shows=dict(zip(design.stations, map(float, shows), strict=True)),
            free=free,
            dof=dof,
        )

    def doubting_one(self) -> Fit:
        """The same of places that were read once each: what so few degrees of freedom leave beyond
        noise may all be one reading that slipped, and nothing tells which. A shape of the surface
        looks the same."""
        shown = {k: v for k, v in self.left_mm.items() if self.shows[k] > LEAST_SHOWN}
        if not shown or not 0 < self.free < LEAST_LEFT:
            return self
        far = max(abs(v) / self.shows[k] / self.means[k].all_mm for k, v in shown.items())
        alone = {k: v / self.shows[k] ** 2 for k, v in shown.items()}
        return replace(self, alone_mm=alone) if far > CLEAR else self

    def combine(
        self, weights: Mapping[str, float], measure: Measure = "length"
    ) -> tuple[Estimate, float]:
        """A weighted sum of station means, as certain as what is left of them lets it be, and its
        gain √C."""
        found, gain = combine(self.means, weights, measure, self.dof)
        slips = [abs(weights.get(k, 0.0) * mm) for k, mm in self.alone_mm.items()]
        return found.widened(max(slips, default=0.0)), gain

    def tells(self, *unknowns: str) -> bool:
        """Whether all of these are told apart."""
        return all(name in self.weights for name in unknowns)

    def estimate(
        self, of: str | Mapping[str, float], measure: Measure = "length"
    ) -> tuple[Estimate, float]:
        """An unknown, or a sum of some of them, and its gain √C. KeyError for one that is not
        told."""
        parts = {of: 1.0} if isinstance(of, str) else of
        weights: dict[str, float] = {}
        for name, factor in parts.items():
            for key, w in self.weights[name].items():
                weights[key] = weights.get(key, 0.0) + factor * w
        return self.combine(weights, measure)
