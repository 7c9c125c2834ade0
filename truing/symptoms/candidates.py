"""The causes of a symptom that one machine can have, and the checks that tell each."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

from truing.course.kinds import course_kind
from truing.machine import Machine
from truing.machine.mechanisms import mechanisms_of
from truing.machine.subject import THE_MACHINE, Subject
from truing.symptoms.data import Cause, Symptom, causes


class Check(NamedTuple):
    """What of a check is looked at."""

    kind: str
    subject: str
    """As `Subject.text`."""
    felt: bool
    """Whether it is what was felt or seen, beside the figures."""

    @property
    def sitting(self) -> Sitting:
        """What is set up and read for it."""
        return self.kind, self.subject


Sitting = tuple[str, str]
"""A kind, and its subject as `Subject.text`."""


@dataclass(frozen=True)
class Candidate:
    """A cause on one machine, for one part where it has several."""

    key: str
    cause: Cause
    subject: str
    part: str
    weight: float
    checks: dict[Check, float]

    @property
    def title(self) -> str:
        """What it is called, with its part."""
        return f"{self.cause.title}: {self.part}" if self.part else self.cause.title

    @property
    def main(self) -> Check:
        """The check that it is put right by."""
        return next(iter(self.checks))


def subjects(kind: str, machine: Machine) -> list[tuple[str, str]]:
    """What a kind of check is made for on a machine, as `Subject.text` and title; the machine
    itself where there is one sitting in all."""
    return course_kind(kind).subjects_of(machine) or [(THE_MACHINE.text, "")]


def candidates(symptom: Symptom, machine: Machine) -> list[Candidate]:
    """The causes that this machine can have: it has what they are set by, and the check they are
    put right by."""
    here = set(mechanisms_of(machine))
    found = []
    for key, weight in symptom.causes.items():
        cause = causes().causes[key]
        first = next(iter(cause.told_by))
        kind = first.partition(":")[0]
        if cause.mechanisms and not here.intersection(cause.mechanisms):
            continue
        if not course_kind(kind).suits(machine):
            continue
        parts = subjects(kind, machine) if cause.each else [("", "")]
        wanted = [
            (s, t)
            for s, t in parts
            if _key(s) not in cause.but and (not weight.parts or _key(s) in weight.parts)
        ]
        for subject, part in wanted:
            checks = checks_of(cause, machine, subject)
            if checks and next(iter(checks)).kind == kind:
                # the weight is that of the cause, whichever part has it
                share = weight.weight / len(wanted)
                found.append(Candidate(key, cause, subject, part, share, checks))
    return found


def _key(subject: str) -> str:
    return Subject.read(subject).key if subject else ""


def checks_of(cause: Cause, machine: Machine, subject: str) -> dict[Check, float]:
    """The checks that tell a cause on this machine, with how surely."""
    found: dict[Check, float] = {}
    for i, (name, share) in enumerate(cause.told_by.items()):
        kind, _, named = name.partition(":")
        if not course_kind(kind).suits(machine):
            continue
        there = [s for s, _ in subjects(kind, machine)]
        if named:
            about = Subject.part(named).text
        else:
            about = subject if i == 0 and subject else THE_MACHINE.text
        if about in there or (not named and about == THE_MACHINE.text):
            found[Check(kind, about, cause.felt)] = share
    return found
