"""Which instruments of a kit can decide a limit: their U a quarter of it or less."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

from truing.contract.case import Case
from truing.kit.instruments import Instrument
from truing.machine import Machine
from truing.machine.subject import Subject
from truing.measure.problem import Problem
from truing.registry import registry

ASIDE = 1e3
"""So much wider than usual every other limit of the check is taken while one is asked about."""


def deciding(
    machine: Machine,
    kit: Sequence[tuple[str, Instrument]],
    *,
    kind: str,
    subject: str,
    tolerance: str,
    limit: float,
) -> list[str] | None:
    """Names of the (name, instrument) that decide a limit of a check; None where too little of the
    machine is known to say."""
    core = registry()[kind]
    usual = core.tolerances(machine)
    limits = {key: limit if key == tolerance else v * ASIDE for key, v in usual.items()}
    setups = list(_ways(core, machine, subject))
    if not setups:
        return None
    found = []
    for name, instrument in kit:
        for setup in setups:
            if instrument.type not in core.takes(setup):
                continue
            case: Case[Any, Any] = Case(
                setup=setup, instrument=instrument, machine=machine, tolerances=limits
            )
            try:
                told = core.expect(case)
            except Problem:
                continue
            if told is None or 4 * told.expanded <= limit:
                found.append(name)
                break
    return found


def _ways(core: Any, machine: Machine, subject: str) -> Iterator[Any]:
    """A set-up for each way of reading."""
    stated = core.propose(machine, Subject.read(subject)) or core.example(machine)
    if stated is None:
        return
    for way in core.takes_by_way():
        yield stated.model_copy(update={"way": way}) if way else stated
