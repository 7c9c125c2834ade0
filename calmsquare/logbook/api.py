"""Routes of checks and the logbook."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import File, Form, Router, UploadedFile
from pydantic import BaseModel

from calmsquare.logbook import happenings, log, pictures, prints, readings, services, state
from calmsquare.logbook.models import Check, Photo
from calmsquare.logbook.schemas import (
    AcceptIn,
    BatchIn,
    CheckIn,
    CheckOut,
    DecisionIn,
    EventIn,
    GateIn,
    KindOut,
    LogPage,
    MoveIn,
    NoteIn,
    PasteIn,
    PhotoIn,
    PhotoOut,
    PreviewIn,
    PreviewOut,
    ReadingIn,
    SetupIn,
    StandinOut,
    TakenBackIn,
)
from calmsquare.problems import answers
from calmsquare.workshop.overview import MachineOut, machine_out
from calmsquare.workshop.scope import Scope
from truing.contract.paste import Pasted
from truing.contract.suggest import Suggestion

router = Router(tags=["logbook"])


class NewRound(BaseModel):
    """A round's id, made by the browser."""

    id: UUID


class SetupTyped(BaseModel):
    """A set-up as far as it is filled in."""

    setup: dict[str, Any]


class StationIn(BaseModel):
    """A station by its key."""

    station: str


@router.get("/kinds", response=answers(list[KindOut]))
def kinds(request: HttpRequest) -> list[KindOut]:
    """Every kind of check, with its set-up form and guide."""
    return state.kinds()


@router.post("/machines/{uuid:machine_id}/checks", response=answers(CheckOut))
def open_check(request: HttpRequest, machine_id: UUID, form: CheckIn) -> CheckOut:
    """Begin a check, or go on with the one under way."""
    scope = Scope(request.user)
    return state.check_out(
        scope, services.open_check(scope, machine_id, id=form.id, kind_key=form.kind)
    )


@router.get("/checks/{uuid:check_id}", response=answers(CheckOut))
def read_check(request: HttpRequest, check_id: UUID) -> CheckOut:
    """A check with all its rounds."""
    scope = Scope(request.user)
    return state.check_out(scope, scope.get(Check, check_id))


@router.post("/checks/{uuid:check_id}/rounds", response=answers(CheckOut))
def another_round(request: HttpRequest, check_id: UUID, form: NewRound) -> CheckOut:
    """Read a settled check once more."""
    scope = Scope(request.user)
    return state.check_out(scope, services.another_round(scope, check_id, id=form.id))


@router.put("/rounds/{uuid:round_id}/setup", response=answers(CheckOut))
def set_up(request: HttpRequest, round_id: UUID, form: SetupIn) -> CheckOut:
    """State how the round is read."""
    scope = Scope(request.user)
    return state.check_out(scope, services.set_up(scope, round_id, form))


@router.post("/rounds/{uuid:round_id}/instruments", response=answers(Suggestion))
def suggest(request: HttpRequest, round_id: UUID, form: SetupTyped) -> Suggestion:
    """The instruments of the kit for a set-up, finest first; says so when none can decide."""
    return services.suggestion(Scope(request.user), round_id, form.setup)


@router.put("/rounds/{uuid:round_id}/readings/{uuid:reading_id}", response=answers(CheckOut))
def put_reading(
    request: HttpRequest, round_id: UUID, reading_id: UUID, form: ReadingIn
) -> CheckOut:
    """Keep a reading; safe to send twice."""
    scope = Scope(request.user)
    return state.check_out(scope, readings.put_reading(scope, round_id, reading_id, form))


@router.post("/rounds/{uuid:round_id}/batch", response=answers(CheckOut))
def put_batch(request: HttpRequest, round_id: UUID, form: BatchIn) -> CheckOut:
    """Keep several readings, all or none; safe to send twice."""
    scope = Scope(request.user)
    return state.check_out(scope, readings.put_batch(scope, round_id, form))


@router.post("/rounds/{uuid:round_id}/paste", response=answers(Pasted))
def paste(request: HttpRequest, round_id: UUID, form: PasteIn) -> Pasted:
    """How a pasted column, file or log would be understood; nothing is kept."""
    return readings.paste(Scope(request.user), round_id, form)


@router.get("/rounds/{uuid:round_id}/drawing/{format}", response=answers(None))
def drawing(request: HttpRequest, round_id: UUID, format: prints.Format) -> HttpResponse:
    """What is to be printed at full size and cut out, as SVG, DXF or PDF."""
    return prints.drawing(Scope(request.user), round_id, format)


@router.get("/rounds/{uuid:round_id}/sheet", response=answers(None))
def sheet(
    request: HttpRequest, round_id: UUID, move: str = "", system: prints.System = "metric"
) -> HttpResponse:
    """A move on one sheet, to be taken to the machine, as PDF."""
    return prints.sheet(Scope(request.user), round_id, move, system)


@router.post("/rounds/{uuid:round_id}/preview", response=answers(PreviewOut))
def preview(request: HttpRequest, round_id: UUID, form: PreviewIn) -> PreviewOut:
    """How what is being typed is understood; nothing is kept."""
    return readings.preview(Scope(request.user), round_id, form)


@router.post("/rounds/{uuid:round_id}/settle", response=answers(CheckOut))
def settle(request: HttpRequest, round_id: UUID) -> CheckOut:
    """Enter the round in the logbook and end the check."""
    scope = Scope(request.user)
    return state.check_out(scope, services.settle(scope, round_id))


@router.post("/rounds/{uuid:round_id}/move", response=answers(CheckOut))
def make_move(request: HttpRequest, round_id: UUID, form: MoveIn) -> CheckOut:
    """Record what was done, and open the next round with its prediction."""
    scope = Scope(request.user)
    return state.check_out(scope, services.make_move(scope, round_id, form))


@router.post("/rounds/{uuid:round_id}/notes", response=answers(CheckOut))
def add_note(request: HttpRequest, round_id: UUID, form: NoteIn) -> CheckOut:
    """Write a remark beside a round."""
    scope = Scope(request.user)
    return state.check_out(scope, services.add_note(scope, round_id, form))


@router.post("/rounds/{uuid:round_id}/standin", response=answers(StandinOut))
def ask_standin(request: HttpRequest, round_id: UUID, form: StationIn) -> StandinOut:
    """What a practice machine's simulated indicator shows."""
    return readings.ask_standin(Scope(request.user), round_id, form.station)


@router.get("/workshops/{uuid:workshop_id}/logbook", response=answers(LogPage))
def logbook(
    request: HttpRequest,
    workshop_id: UUID,
    machine: UUID | None = None,
    after: str | None = None,
) -> LogPage:
    """Everything logged in a workshop or about one machine, newest first."""
    return log.logbook(Scope(request.user), workshop_id, machine_id=machine, after=after)


@router.post("/machines/{uuid:machine_id}/events", response=answers(MachineOut))
def log_event(request: HttpRequest, machine_id: UUID, form: EventIn) -> MachineOut:
    """Something happened to the machine."""
    scope = Scope(request.user)
    return machine_out(scope, happenings.log_event(scope, machine_id, form))


@router.post("/machines/{uuid:machine_id}/gates", response=answers(MachineOut))
def pass_gate(request: HttpRequest, machine_id: UUID, form: GateIn) -> MachineOut:
    """A step that cannot be undone was taken."""
    scope = Scope(request.user)
    return machine_out(scope, happenings.pass_gate(scope, machine_id, form))


@router.post("/machines/{uuid:machine_id}/decisions", response=answers(MachineOut))
def decide(request: HttpRequest, machine_id: UUID, form: DecisionIn) -> MachineOut:
    """Leave a check as it is, with the reason."""
    scope = Scope(request.user)
    return machine_out(scope, happenings.decide(scope, machine_id, form))


@router.post("/machines/{uuid:machine_id}/acceptances", response=answers(MachineOut))
def accept(request: HttpRequest, machine_id: UUID, form: AcceptIn) -> MachineOut:
    """Accept the machine for work, naming what is open."""
    scope = Scope(request.user)
    return machine_out(scope, happenings.accept(scope, machine_id, form))


@router.post("/machines/{uuid:machine_id}/photos", response=answers(PhotoOut))
def add_photo(
    request: HttpRequest, machine_id: UUID, form: Form[PhotoIn], photo: File[UploadedFile]
) -> PhotoOut:
    """Keep a photo: made upright and smaller, and without where it was taken."""
    data = photo.read(pictures.MOST_BYTES + 1)
    return state.photo_out(happenings.add_photo(Scope(request.user), machine_id, form, data))


@router.get("/photos/{uuid:photo_id}", include_in_schema=True, response=answers(None))
def read_photo(request: HttpRequest, photo_id: UUID, small: bool = False) -> HttpResponse:
    """The picture itself, as JPEG."""
    photo = Scope(request.user).get(Photo, photo_id, related=("file",))
    answer = HttpResponse(
        bytes(photo.file.small if small else photo.file.large), content_type="image/jpeg"
    )
    answer["Cache-Control"] = "private, max-age=31536000, immutable"
    answer["X-Content-Type-Options"] = "nosniff"
    return answer


@router.put("/records/{record_type}/{uuid:record_id}/taken-back", response=answers(MachineOut))
def take_back(
    request: HttpRequest, record_type: happenings.RecordType, record_id: UUID, form: TakenBackIn
) -> MachineOut:
    """Take a record back that was logged wrongly, or put it back again."""
    scope = Scope(request.user)
    machine = happenings.take_back(scope, record_type, record_id, back=form.taken_back)
    return machine_out(scope, machine)
