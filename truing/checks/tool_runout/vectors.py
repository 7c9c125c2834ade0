"""From readings at every seat to what each part of the chain adds, as vectors.

At one height every seating shows a vector E in the frame of the spindle (`turning.py`). With the
pieces above a joint turned by ψ it is E(ψ) = e_below + e_above·e^{iψ}; where the marks are on the
tool, its frame turns with it and E(ψ) = e^{iψ} times what is seen. All is linear in the readings:
each vector carries the complex weight of every station, and of every seating, whose scatter it
shares.
"""

from __future__ import annotations

import cmath
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy import special

from truing.checks.tool_runout.setup import Slot, ToolRunoutSetup, ToolStation, Visit
from truing.checks.turning import harmonics, size_of, tir
from truing.contract.design import Fit
from truing.contract.gather import Gathered
from truing.measure.estimate import Estimate
from truing.measure.problem import Problem
from truing.measure.spread import CRIED, LEAST_DOF, STATED_DOF, Spread

LEAST_MM = 1e-6
"""No seat is told to be off by less, however well the others agree."""


@dataclass(frozen=True)
class Vector:
    """A weighted sum of stations, and of seatings."""

    stations: Mapping[str, complex]
    seatings: Mapping[int, complex]

    def times(self, factor: complex) -> Vector:
        """Turned and stretched."""
        return Vector(
            {k: w * factor for k, w in self.stations.items()},
            {k: w * factor for k, w in self.seatings.items()},
        )


def total(vectors: Sequence[Vector]) -> Vector:
    """The sum of vectors."""
    stations: dict[str, complex] = {}
    seatings: dict[int, complex] = {}
    for v in vectors:
        for key, w in v.stations.items():
            stations[key] = stations.get(key, 0) + w
        for number, w in v.seatings.items():
            seatings[number] = seatings.get(number, 0) + w
    return Vector(stations, seatings)


def seen_at(
    setup: ToolRunoutSetup, visit: Visit, plan: Sequence[ToolStation], got: Gathered, at_mm: float
) -> Vector:
    """The vector of one seating at a height, on the line of least squares through those read, in
    the frame of the spindle. Problem where its angles cannot tell one."""
    here = [s for s in plan if s.visit == visit.number and got.has(s.key)]
    heights = sorted({s.at_mm or 0.0 for s in here})
    if at_mm not in heights and len(heights) < 2:
        # one height tells nothing of another
        raise Problem(
            f"{at_mm:g} mm out has not been read yet.",
            expected="Read every height of this seat.",
            field="readings",
        )
    middle = sum(heights) / len(heights)
    spread = sum((z - middle) ** 2 for z in heights)
    weights: dict[str, complex] = {}
    for z in heights:
        share = 1 / len(heights)
        if spread:
            share += (at_mm - middle) * (z - middle) / spread
        ring = [s for s in here if s.at_mm == z]
        rows = harmonics([s.angle_rad for s in ring])
        for s, x, y in zip(ring, rows["x"], rows["y"], strict=True):
            weights[s.key] = complex(x, y) * share
    turned = sum(visit.angles.values()) if setup.marks_on == "above" else 0.0
    return Vector(weights, {visit.number: 1.0}).times(cmath.exp(1j * turned))


@dataclass(frozen=True)
class Known:
    """Vectors as values: what the readings give, and how far seats scatter."""

    read: Fit
    seats: Spread
    seat_sd_mm: float
    """Of either part of a seat's place, as stated."""
    prior: Spread

    @property
    def pooled(self) -> Spread:
        """This round's scatter of seats and that of earlier ones."""
        return self.seats + self.prior

    def value(self, v: Vector) -> complex:
        """In mm."""
        means = self.read.means
        return sum((w * means[k].mean_mm for k, w in v.stations.items()), 0j)

    def expanded(self, v: Vector) -> float:
        """U of either part (mm): what the readings leave open, and what a seat does. A scatter of
        seats that was seen has that of the readings in it."""
        across = {k: w.real for k, w in v.stations.items()}
        beside = {k: w.imag for k, w in v.stations.items()}
        _, read = size_of(self.read, {"x": across, "y": beside})
        k, s = self.pooled.k_s(self.seat_sd_mm)
        seat = k * s * math.sqrt(sum(abs(w) ** 2 for w in v.seatings.values()))
        return max(read, seat) if self.pooled.dof >= LEAST_DOF else math.hypot(read, seat)

    def tir(self, v: Vector, bound: float = 0.0) -> Estimate:
        """Twice its length, with limits."""
        return tir(abs(self.value(v)), self.expanded(v), bound)


@dataclass(frozen=True)
class Block:
    """Pieces that are only ever turned together, from the spindle outward."""

    slots: tuple[str, ...]
    joint: Slot | None
    """Where it is turned; None for what stays with the spindle."""


def blocks(setup: ToolRunoutSetup) -> list[Block]:
    """The chain cut at every joint that is turned."""
    found: list[Block] = []
    slots: list[str] = ["spindle"]
    joint: Slot | None = None
    for slot in setup.slots:
        if slot in setup.joints:
            found.append(Block(tuple(slots), joint))
            slots, joint = [], slot
        slots.append(slot)
    return [*found, Block(tuple(slots), joint)]


def design(setup: ToolRunoutSetup, visits: Sequence[Visit]) -> np.ndarray:
    """(seatings, blocks) complex: how far each block is turned in each seating."""
    cuts = blocks(setup)
    rows = []
    for visit in visits:
        turned, row = 0.0, []
        for block in cuts:
            turned += visit.angles.get(block.joint, 0.0) if block.joint else 0.0
            row.append(cmath.exp(1j * turned))
        rows.append(row)
    return np.array(rows)


def solved(matrix: np.ndarray, seen: Sequence[Vector]) -> list[Vector]:
    """By least squares over the seatings, each of which counts alike: seats scatter as vectors."""
    inverse = np.linalg.pinv(matrix)
    return [total([v.times(complex(w)) for v, w in zip(seen, row, strict=True)]) for row in inverse]


def scatter(matrix: np.ndarray, values: Sequence[complex]) -> Spread:
    """What the seatings leave of the fit, either part counting for itself."""
    left = np.asarray(values) - matrix @ (np.linalg.pinv(matrix) @ np.asarray(values))
    dof = 2 * (len(values) - matrix.shape[1])
    return Spread(ss_mm2=float(np.sum(np.abs(left) ** 2)), dof=dof) if dof > 0 else Spread()


def bad_seat(
    matrix: np.ndarray, values: Sequence[complex], seat_sd_mm: float
) -> tuple[int, float] | None:
    """(which, by how much in mm) the seating that stands off what all the others say, if there is
    one; None where too few are left without it."""
    e = np.asarray(values)
    worst: tuple[float, int, float] | None = None
    for i in range(len(e)):
        rest = [j for j in range(len(e)) if j != i]
        others = matrix[rest]
        if len(rest) <= matrix.shape[1] or np.linalg.matrix_rank(others) < matrix.shape[1]:
            continue
        inverse = np.linalg.pinv(others)
        off = abs(e[i] - matrix[i] @ (inverse @ e[rest]))
        left = scatter(others, list(e[rest]))
        lever = float(np.sum(np.abs(matrix[i] @ inverse) ** 2))
        # what is stated counts as four degrees of freedom, as with single readings
        far = math.sqrt(2 * float(special.fdtri(2, left.dof + STATED_DOF, 1 - CRIED / len(e))))
        s = left.with_stated(seat_sd_mm)
        times = off / max(far * s * math.sqrt(1 + lever), LEAST_MM)
        if times > 1 and (worst is None or times > worst[0]):
            worst = (times, i, float(off))
    return (worst[1], worst[2]) if worst else None
