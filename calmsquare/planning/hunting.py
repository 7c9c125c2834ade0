"""The search for what is behind a symptom, on one machine as it stands."""

from __future__ import annotations

from uuid import UUID

from calmsquare.logbook.course import log_of, zone_of
from calmsquare.planning.schemas import SearchOut, SymptomOut
from calmsquare.problems import FieldError, Invalid
from calmsquare.workshop.models import Machine, Role
from calmsquare.workshop.scope import Scope
from calmsquare.workshop.services import machine_spec
from truing.course.step import detour
from truing.symptoms import Symptom, drawn, search, suiting, symptom, symptoms


def symptom_named(key: str, field: str = "symptom") -> Symptom:
    """The symptom with this key; Invalid where there is none."""
    try:
        return symptom(key)
    except KeyError:
        raise Invalid([FieldError(field=field, message="Say what brings you here.")]) from None


def symptoms_out(found: list[Symptom] | None = None) -> list[SymptomOut]:
    """Symptoms as they are offered; all of them where none are given."""
    return [
        SymptomOut(key=s.key, title=s.title, sees=s.sees, drawing=drawn(s.key))
        for s in (symptoms() if found is None else found)
    ]


def symptoms_of(scope: Scope, machine_id: UUID) -> list[SymptomOut]:
    """What one can come with to this machine."""
    return symptoms_out(suiting(machine_spec(scope.get(Machine, machine_id))))


def search_out(scope: Scope, machine_id: UUID, key: str, said: list[str]) -> SearchOut:
    """The search on a machine as it stands, with what was seen as sign:answer. Invalid for a
    symptom, a sign or an answer that there is not."""
    machine = scope.get(Machine, machine_id, related=("workshop",))
    sought = symptom_named(key)
    pairs = {sign: answer for sign, _, answer in (text.partition(":") for text in said)}
    for sign, answer in pairs.items():
        if sign not in sought.signs or answer not in sought.signs[sign].answers:
            message = f"“{sign}:{answer}” is no answer to what is asked of it."
            raise Invalid([FieldError(field="said", message=message)])
    log = log_of(machine)
    found = log.standings(machine, zone_of(machine))
    told = search(sought, machine_spec(machine), found, pairs)
    around = {a.kind: detour(a.kind, found) for a in told.rest}
    return SearchOut(
        machine_id=machine.pk,
        machine_name=machine.name,
        workshop_id=machine.workshop_id,
        can_write=scope.role(machine.workshop_id) != Role.VIEWER,
        search=told,
        drawing=drawn(sought.key),
        open_checks=log.open_checks,
        detours={kind: words for kind, words in around.items() if words},
    )
