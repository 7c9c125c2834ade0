"""Routes of plans, evenings and the calendar."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router

from calmsquare.planning import calendar, hunting, services
from calmsquare.planning.models import Evening
from calmsquare.planning.schemas import (
    CalendarOut,
    EveningIn,
    EveningOut,
    PlanIn,
    PlanOut,
    ResumeIn,
    SearchOut,
    SkipIn,
    SymptomOut,
    TickIn,
)
from calmsquare.problems import answers
from calmsquare.workshop.scope import Scope

router = Router(tags=["planning"])


@router.get("/symptoms", response=answers(list[SymptomOut]))
def read_symptoms(request: HttpRequest) -> list[SymptomOut]:
    """What brings people to a machine, drawn."""
    return hunting.symptoms_out()


@router.get("/machines/{uuid:machine_id}/symptoms", response=answers(list[SymptomOut]))
def read_symptoms_of(request: HttpRequest, machine_id: UUID) -> list[SymptomOut]:
    """What one can come with to this machine."""
    return hunting.symptoms_of(Scope(request.user), machine_id)


@router.get("/machines/{uuid:machine_id}/symptoms/{symptom}", response=answers(SearchOut))
def read_search(
    request: HttpRequest,
    machine_id: UUID,
    symptom: str,
    said: Annotated[list[str], Query()] = [],  # noqa: B006
) -> SearchOut:
    """What can be behind a symptom on this machine, likeliest first, and the check to make next.
    `said` is what was seen without measuring, as sign:answer."""
    return hunting.search_out(Scope(request.user), machine_id, symptom, said)


@router.post("/machines/{uuid:machine_id}/plan", response=answers(PlanOut))
def plan(request: HttpRequest, machine_id: UUID, form: PlanIn) -> PlanOut:
    """What fits into the time there is; nothing is kept."""
    return services.preview(Scope(request.user), machine_id, form)


@router.post("/machines/{uuid:machine_id}/evenings", response=answers(EveningOut))
def start(request: HttpRequest, machine_id: UUID, form: EveningIn) -> EveningOut:
    """Start a plan, or go on with the one under way."""
    scope = Scope(request.user)
    return services.evening_out(scope, services.start(scope, machine_id, form))


@router.get("/evenings/{uuid:evening_id}", response=answers(EveningOut))
def read_evening(request: HttpRequest, evening_id: UUID) -> EveningOut:
    """An evening as it stands now."""
    scope = Scope(request.user)
    return services.evening_out(scope, scope.get(Evening, evening_id))


@router.post("/evenings/{uuid:evening_id}/pause", response=answers(EveningOut))
def pause(request: HttpRequest, evening_id: UUID) -> EveningOut:
    """Stop for tonight."""
    scope = Scope(request.user)
    return services.evening_out(scope, services.pause(scope, evening_id))


@router.post("/evenings/{uuid:evening_id}/resume", response=answers(EveningOut))
def resume(request: HttpRequest, evening_id: UUID, form: ResumeIn) -> EveningOut:
    """Go on another day."""
    scope = Scope(request.user)
    return services.evening_out(scope, services.resume(scope, evening_id, form))


@router.post("/evenings/{uuid:evening_id}/end", response=answers(EveningOut))
def end(request: HttpRequest, evening_id: UUID) -> EveningOut:
    """It is done with."""
    scope = Scope(request.user)
    return services.evening_out(scope, services.end(scope, evening_id))


@router.post("/evenings/{uuid:evening_id}/tick", response=answers(EveningOut))
def tick(request: HttpRequest, evening_id: UUID, form: TickIn) -> EveningOut:
    """Tick something off, or not after all."""
    scope = Scope(request.user)
    return services.evening_out(scope, services.tick(scope, evening_id, form))


@router.post("/evenings/{uuid:evening_id}/skip", response=answers(EveningOut))
def skip(request: HttpRequest, evening_id: UUID, form: SkipIn) -> EveningOut:
    """Leave a check out of tonight, or take it in again."""
    scope = Scope(request.user)
    return services.evening_out(scope, services.skip(scope, evening_id, form))


@router.post("/evenings/{uuid:evening_id}/seen", response=answers(EveningOut))
def seen(request: HttpRequest, evening_id: UUID) -> EveningOut:
    """The changed order has been looked at."""
    scope = Scope(request.user)
    return services.evening_out(scope, services.seen(scope, evening_id))


@router.get("/workshops/{uuid:workshop_id}/calendar", response=answers(CalendarOut))
def read_calendar(request: HttpRequest, workshop_id: UUID) -> CalendarOut:
    """When to look again, and where a calendar can read it."""
    return calendar.calendar_out(Scope(request.user), workshop_id)


@router.post("/workshops/{uuid:workshop_id}/calendar", response=answers(CalendarOut))
def new_calendar_address(request: HttpRequest, workshop_id: UUID) -> CalendarOut:
    """Make an address to subscribe to; an earlier one stops working."""
    return calendar.new_address(Scope(request.user), workshop_id)


@router.get("/calendar/{key}.ics", auth=None, include_in_schema=False)
def feed(request: HttpRequest, key: str) -> HttpResponse:
    """The calendar itself, for programs that have its address and no account."""
    answer = HttpResponse(calendar.feed(key), content_type="text/calendar; charset=utf-8")
    answer["Cache-Control"] = "private, max-age=900"
    answer["Content-Disposition"] = 'inline; filename="calm-square.ics"'
    return answer
