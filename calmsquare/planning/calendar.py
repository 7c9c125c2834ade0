"""When to look again, as a list and as an iCalendar file."""

from __future__ import annotations

import secrets
from datetime import UTC, datetime, timedelta
from uuid import UUID

from django.http import Http404
from icalendar import Calendar, Event

from calmsquare.logbook.course import logs_of, zone_of
from calmsquare.planning.schemas import CalendarEntry, CalendarOut
from calmsquare.workshop.models import Machine, Role, Workshop
from calmsquare.workshop.scope import Scope
from truing.course import course_kind
from truing.course.guide import guide
from truing.measure.names import tidied


def entries(workshop: Workshop) -> list[CalendarEntry]:
    """Every check that falls due by its interval, or went stale by an event, by date."""
    machines = list(
        Machine.objects.filter(workshop=workshop, archived=False).select_related("workshop")
    )
    logs = logs_of(machines)
    found = []
    for machine in machines:
        zone = zone_of(machine)
        for s in logs[machine.pk].standings(machine, zone):
            if not (s.built and s.matters):
                continue
            if s.status == "stale" and s.touch and s.why:
                day, reason = s.touch.at.astimezone(zone).date(), s.why.metric
            elif s.due:
                day, reason = s.due, "Nothing is known to have moved; it is time to look again."
            else:
                continue
            found.append(
                CalendarEntry(
                    machine_id=machine.pk,
                    machine=machine.name,
                    kind=s.kind,
                    title=course_kind(s.kind).title,
                    day=day,
                    reason=reason,
                )
            )
    return sorted(found, key=lambda e: (e.day, e.machine, e.kind))


def calendar_out(scope: Scope, workshop_id: UUID) -> CalendarOut:
    """The dates of a workshop, and the address of its calendar if it has one."""
    workshop = scope.get(Workshop, workshop_id)
    role = scope.role(workshop_id)
    shown = workshop.calendar_key and role != Role.VIEWER
    return CalendarOut(
        path=f"/api/v1/calendar/{workshop.calendar_key}.ics" if shown else None,
        entries=entries(workshop),
    )


def new_address(scope: Scope, workshop_id: UUID) -> CalendarOut:
    """An address that cannot be guessed; an earlier one stops working."""
    workshop = scope.get(Workshop, workshop_id, need=Role.MAKER)
    workshop.calendar_key = secrets.token_urlsafe(32)
    workshop.save(update_fields=["calendar_key"])
    return calendar_out(scope, workshop_id)


def feed(key: str) -> bytes:
    """The iCalendar file behind an address; Http404 when nobody made it."""
    workshop = Workshop.objects.filter(calendar_key=key).first() if key else None
    if workshop is None:
        raise Http404
    calendar = Calendar()
    calendar.add("prodid", "-//Calm Square//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", f"{tidied(workshop.name)}: look again")
    for entry in entries(workshop):
        event = Event()
        event.add("uid", f"{entry.machine_id}-{entry.kind}@calm-square")
        event.add("dtstamp", datetime.now(UTC))
        event.add("dtstart", entry.day)
        event.add("dtend", entry.day + timedelta(days=1))
        event.add("summary", f"{tidied(entry.machine)}: {entry.title.lower()}")
        event.add("description", f"{entry.reason} About {guide(entry.kind).minutes} minutes.")
        event.add("transp", "TRANSPARENT")
        calendar.add_component(event)
    return bytes(calendar.to_ical())
