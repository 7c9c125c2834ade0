"""A symptom on one machine, weighed: what is likely, what could be made next, what is found."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from functools import cached_property

import numpy as np

from truing.course.guide import guide
from truing.course.kinds import is_upstream
from truing.course.standing import Standing
from truing.machine import Machine
from truing.symptoms.candidates import Candidate, Check, Sitting, candidates
from truing.symptoms.data import Symptom, causes
from truing.symptoms.evidence import Record
from truing.symptoms.weigh import Network, Seen, Vector, Weighed, settles, weigh

FOUND = 0.75
"""How likely a cause has to be, with a check that is out, to be called found."""
HARDLY = 0.05
"""A cause that is less likely than this is not looked for."""


class Bench:
    """A symptom on a machine: its network, what is known, and what could be made next."""

    def __init__(
        self,
        symptom: Symptom,
        machine: Machine,
        found: Sequence[Standing],
        said: Mapping[str, str],
    ) -> None:
        self.symptom, self.machine = symptom, machine
        self.record = Record(found)
        self.here = candidates(symptom, machine)
        self.checks = sorted({c for i in self.here for c in i.checks})
        self.factors = [self._factor(key, answer) for key, answer in said.items()]

    def _factor(self, key: str, answer: str) -> Vector:
        factors = self.symptom.signs[key].answers[answer].factors
        return np.array([factors.get(i.key, 1.0) for i in self.here])

    @cached_property
    def network(self) -> Network:
        """Causes and checks of this machine with their weights."""
        shows = np.array([[i.checks.get(c, 0.0) for c in self.checks] for i in self.here])
        return Network(
            weights=np.array([i.weight for i in self.here]),
            elsewhere=self.symptom.elsewhere,
            shows=shows.reshape(len(self.here), len(self.checks)),
            odds=causes().verdicts,
        )

    @cached_property
    def seen(self) -> dict[int, list[Seen]]:
        """How the checks came out, by their place among them."""
        outcomes = {i: self.record.came_out(c) for i, c in enumerate(self.checks)}
        return {i: outcome for i, outcome in outcomes.items() if outcome}

    def weighed(self, cleared: Collection[Sitting] = ()) -> Weighed:
        """What is known, and would be if these came out true as well."""
        true: list[Seen] = [("true", 1.0)]
        more = {i: true for i, c in enumerate(self.checks) if c.sitting in cleared}
        return weigh(self.network, {**self.seen, **more}, self.factors)

    def best(self, known: Weighed, made: Collection[Sitting], again: bool) -> Sitting | None:
        """The check that is likeliest to show the cause for the minutes it takes, of those that are
        not read, or were read and left it open (`again`); None where none is about anything that is
        still likely."""
        worth = {}
        for sitting in dict.fromkeys(c.sitting for c in self.checks):
            looks = self.looks(sitting)
            if sitting in made or not self.record.can(sitting):
                continue
            # of what was read, only what is open is worth reading again
            if self.record.close(sitting) is not again or self.record.read(sitting) is not again:
                continue
            about = known.causes[(self.network.shows[:, looks] > 0).any(axis=1)]
            if about.max(initial=0.0) >= HARDLY:
                worth[sitting] = settles(self.network, known, looks) / guide(sitting[0]).minutes
        return max(worth, key=lambda c: worth[c], default=None)

    def looks(self, sitting: Sitting) -> list[int]:
        """Where a sitting stands among the checks."""
        return [i for i, c in enumerate(self.checks) if c.sitting == sitting]

    def rival(self, known: Weighed, culprit: Candidate) -> Sitting | None:
        """The check to be made before a cause is named: of another cause that would put the same
        check out, and that the check of the first rests on. None when there is none left."""
        for chance, other in zip(known.causes, self.here, strict=True):
            shared = [c for c in culprit.checks if c in other.checks and self.amiss(c)]
            above = self._above(other, culprit)
            main = other.main.sitting
            open_ = self.record.can(main) and not self.record.read(main)
            if shared and above and open_ and chance >= HARDLY:
                return main
        return None

    def found(self, known: Weighed) -> Candidate | None:
        """The cause that is likely enough and has a check that is out."""
        chances = known.causes
        for n in np.argsort(-chances):
            instance = self.here[n]
            out = [c for c in instance.checks if self.amiss(c)]
            if chances[n] >= FOUND and out:
                return self._below(instance, out)
        return None

    def _below(self, instance: Candidate, out: Sequence[Check]) -> Candidate:
        """What is to be put right first: another cause that puts the same check out, is out by its
        own, and that the check rests on; else this one."""
        for other in self.here:
            shared = any(c in other.checks for c in out)
            if shared and self.amiss(other.main) and self._above(other, instance):
                return other
        return instance

    def _above(self, other: Candidate, instance: Candidate) -> bool:
        return is_upstream(other.main.kind, instance.main.kind)

    def amiss(self, check: Check) -> bool:
        """Whether a check is out by what of it is looked at."""
        return self.record.out(check)
