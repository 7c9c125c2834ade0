"""How likely each cause is by what the checks showed, and which check would tell most.

A small Bayesian network, summed out exactly over every set of up to `MOST` causes. Causes are
independent before anything is known; the symptom is there when one of them is, or something that no
check can tell. A check shows a cause with its own share and misses it otherwise, several causes
independently of each other (noisy or); one that shows nothing still comes out amiss as often as
machines do that nobody complains of. Pearl, Probabilistic Reasoning in Intelligent Systems, 1988,
ch. 4.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from itertools import combinations
from typing import get_args

import numpy as np
from numpy.typing import NDArray

from truing.symptoms.data import Odds, Outcome

Vector = NDArray[np.float64]

MOST = 3
"""Causes at a time. A fourth, at the weights there are, is behind fewer than one case in a
hundred."""
FAULTS = 0.6
"""How many causes a machine is expected to have at a time, before it is known that it shows
anything."""
OUTCOMES: tuple[Outcome, ...] = get_args(Outcome)

Seen = tuple[Outcome, float]
"""How a check came out, and how much that counts, from 0 to 1."""


@cache
def _sets(n: int) -> NDArray[np.bool_]:
    rows = [s for size in range(min(MOST, n) + 1) for s in combinations(range(n), size)]
    found = np.zeros((len(rows), n), dtype=bool)
    for i, row in enumerate(rows):
        found[i, list(row)] = True
    found.flags.writeable = False
    return found


@dataclass(frozen=True)
class Network:
    """Causes with their weights, and how surely each check shows each cause: causes × checks."""

    weights: Vector
    elsewhere: float
    shows: NDArray[np.float64]
    odds: Mapping[Outcome, Odds]

    def sets(self) -> NDArray[np.bool_]:
        """Every set of causes that is weighed, as rows; the empty one first."""
        return _sets(len(self.weights))

    def before(self, sets: NDArray[np.bool_]) -> Vector:
        """How likely each set is once the symptom is seen, before any check; sums to 1."""
        total = float(self.weights.sum()) + self.elsewhere
        p = np.minimum(0.9, FAULTS * self.weights / total)
        other = min(0.9, FAULTS * self.elsewhere / total)
        chance = np.where(sets, p, 1 - p).prod(axis=1)
        chance[0] *= other
        return np.asarray(chance / chance.sum())

    def seen(self, sets: NDArray[np.bool_], check: int) -> Vector:
        """How likely a check is to show one of the causes of each set."""
        return np.asarray(1 - np.where(sets, 1 - self.shows[:, check], 1.0).prod(axis=1))

    def likelihood(self, sets: NDArray[np.bool_], check: int) -> NDArray[np.float64]:
        """How likely each outcome of a check is with each set: sets × outcomes."""
        seen = self.seen(sets, check)
        with_ = np.array([self.odds[o].with_ for o in OUTCOMES]) / 100
        without = np.array([self.odds[o].without for o in OUTCOMES]) / 100
        return np.asarray(seen[:, None] * with_ + (1 - seen[:, None]) * without)


@dataclass(frozen=True)
class Weighed:
    """What is known after some checks."""

    sets: NDArray[np.bool_]
    chance: Vector
    """Of each set."""

    @property
    def causes(self) -> Vector:
        """How likely each cause is among those that are there."""
        return np.asarray(self.chance @ self.sets)

    @property
    def none(self) -> float:
        """How likely it is none of them."""
        return float(self.chance[0])


def weigh(
    network: Network,
    came_out: Mapping[int, Sequence[Seen]],
    factors: Sequence[Vector] = (),
) -> Weighed:
    """By what checks showed, and by what signs make each cause times as likely."""
    sets = network.sets()
    chance = network.before(sets)
    for factor in factors:
        # a sign goes by whichever of the causes would give it most
        strongest = np.where(sets, factor, 0.0).max(axis=1)
        chance = chance * np.where(sets.any(axis=1), strongest, 1.0)
    for check, outcomes in came_out.items():
        likely = network.likelihood(sets, check)
        for outcome, counts in outcomes:
            chance = chance * likely[:, OUTCOMES.index(outcome)] ** counts
    return Weighed(sets, np.asarray(chance / chance.sum()))


def settles(network: Network, known: Weighed, checks: Sequence[int]) -> float:
    """How likely one of these checks, which are made together, is to show a cause that is there.

    Of checks that each look for something else, the order of this by the minutes that they take
    finds the cause soonest (Smith, Various optimizers for single-stage production, 1956; Kalagnanam
    and Henrion, A comparison of decision analysis and expert rules for sequential diagnosis, 1988).
    What a check tells in bits is no guide to that: it puts a doubtful trifle before what is almost
    surely the cause, because of the latter little is left to be told.
    """
    missed = np.prod([1 - network.seen(known.sets, c) for c in checks], axis=0)
    return float(known.chance @ (1 - missed))
