"""From the record to what jobs rest on, for many machines in as many queries as for one."""

from __future__ import annotations

import logging
from collections.abc import Mapping, Sequence
from functools import partial
from uuid import UUID

from calmsquare.logbook.course import MachineLog, known, logs_of, zone_of
from calmsquare.problems import Conflict
from calmsquare.workshop.models import Machine
from calmsquare.workshop.services import machine_spec, tolerances
from truing.course.standing import Log
from truing.jobs import Ground, ground
from truing.record import Lesson, Unreadable, load_text

log = logging.getLogger(__name__)


def grounds(
    machines: Sequence[Machine], logs: Mapping[UUID, MachineLog] | None = None
) -> dict[UUID, Ground]:
    """What is known of each machine's errors; `logs` of `logs_of` where somebody has them. A
    machine whose description nothing makes readable is left out; its own screen says so."""
    if logs is None:
        logs = logs_of(machines)
    found = {}
    for machine in machines:
        try:
            found[machine.pk] = _ground(machine, logs[machine.pk])
        except Unreadable:
            log.exception("machine %s", machine.pk)
    return found


def ground_of(machine: Machine) -> Ground:
    """What is known of one machine's errors. Conflict when its description is damaged."""
    found = grounds([machine])
    if machine.pk not in found:
        raise Conflict(f"{machine.name} cannot be read any more. Nothing of it has been changed.")
    return found[machine.pk]


def _ground(machine: Machine, log: MachineLog) -> Ground:
    touched = Log(touches=log.touches)
    found = []
    for result in sorted(log.results, key=lambda r: r.at, reverse=True):
        round = log.latest[result.kind, result.subject]
        if round not in log.lessons:
            continue
        try:
            lesson: Lesson = load_text("lesson", log.lessons[round], result.kind)
        except Unreadable:
            # it counts as not measured, and its own screen says so
            continue
        found.append(known(touched, result, lesson, {}))
    standings = log.standings(machine, zone_of(machine))
    return ground(machine_spec(machine), found, standings, partial(tolerances, machine))
