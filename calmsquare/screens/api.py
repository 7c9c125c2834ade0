"""Routes that answer with what a screen shows."""

from __future__ import annotations

from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import File, Form, Router, Status, UploadedFile
from pydantic import BaseModel

from calmsquare.jobs.here import costs, then
from calmsquare.jobs.schemas import JobCost
from calmsquare.logbook import happenings, pictures, readings, services
from calmsquare.logbook.models import Check
from calmsquare.logbook.schemas import (
    AcceptIn,
    BatchIn,
    CheckIn,
    DecisionIn,
    EventIn,
    GateIn,
    LogIn,
    MoveIn,
    NoteIn,
    PhotoIn,
    ReadingIn,
    SetupIn,
    TakenBackIn,
)
from calmsquare.problems import answers
from calmsquare.screens import check, logbook, machine, pieces
from calmsquare.screens.machine_schemas import (
    CourseOut,
    Drawing,
    MachineForms,
    MachineOut,
    MemberOut,
    WorkshopOut,
)
from calmsquare.screens.people import photo_out
from calmsquare.screens.schemas import (
    BatchOut,
    CheckOut,
    FindingOut,
    KindOut,
    LogPage,
    NewsOut,
    PhotoOut,
)
from calmsquare.workshop import services as workshop_services
from calmsquare.workshop.models import Machine
from calmsquare.workshop.schemas import (
    ArchivedIn,
    MachineChange,
    NewMachineIn,
    SpecIn,
    WorkshopChange,
)
from calmsquare.workshop.scope import Scope
from truing.drawing.sketches import SketchFigure

router = Router(tags=["screens"])


def written(answer: BaseModel) -> HttpResponse:
    """What the route would answer with, as JSON at once: the framework makes plain objects of it
    first, which costs as much as a query or two where a screen has many parts."""
    return HttpResponse(answer.model_dump_json(by_alias=True), content_type="application/json")


class NewRound(BaseModel):
    """A round's id, made by the browser."""

    id: UUID


@router.get("/workshops/{uuid:workshop_id}", response=answers(WorkshopOut))
def read_workshop(request: HttpRequest, workshop_id: UUID) -> HttpResponse:
    """Every machine of a workshop with its ghost and what is out."""
    return written(machine.workshop_out(Scope(request.user), workshop_id))


@router.put("/workshops/{uuid:workshop_id}", response=answers(None))
def rename_workshop(request: HttpRequest, workshop_id: UUID, form: WorkshopChange) -> Status[None]:
    """Call it otherwise; owners only."""
    workshop_services.rename_workshop(Scope(request.user), workshop_id, form)
    return Status(204, None)


@router.get("/workshops/{uuid:workshop_id}/members", response=answers(list[MemberOut]))
def read_members(request: HttpRequest, workshop_id: UUID) -> list[MemberOut]:
    """Who belongs to it."""
    return machine.members(Scope(request.user), workshop_id)


@router.get("/course", response=answers(CourseOut))
def read_course(request: HttpRequest) -> CourseOut:
    """The order of the work with every guide, and what can happen in between."""
    return machine.course()


@router.get("/machine-forms", response=answers(MachineForms))
def read_machine_forms(request: HttpRequest) -> MachineForms:
    """Starting points by form, and the schema of the form that corrects them."""
    return machine.machine_forms()


@router.post("/machine-drawing", response=answers(Drawing))
def draw_machine(request: HttpRequest, form: SpecIn) -> Drawing:
    """Draw a machine from its figures while they are typed; nothing is kept."""
    return machine.drawing(form.spec)


@router.post("/workshops/{uuid:workshop_id}/machines", response=answers(MachineOut))
def create_machine(request: HttpRequest, workshop_id: UUID, form: NewMachineIn) -> MachineOut:
    """Add a machine."""
    scope = Scope(request.user)
    saved = workshop_services.save_machine(scope, workshop_id=workshop_id, form=form)
    return machine.machine_out(scope, saved)


@router.get("/machines/{uuid:machine_id}", response=answers(MachineOut))
def read_machine(request: HttpRequest, machine_id: UUID) -> HttpResponse:
    """A machine, what is measured of it, and its description."""
    scope = Scope(request.user)
    return written(
        machine.machine_out(scope, scope.get(Machine, machine_id, related=("workshop",)))
    )


@router.get("/machines/{uuid:machine_id}/sketches/{kind}", response=answers(list[SketchFigure]))
def read_sketches(request: HttpRequest, machine_id: UUID, kind: str) -> list[SketchFigure]:
    """How a kind of check is set up on this machine, in every way of reading."""
    return machine.sketches(Scope(request.user).get(Machine, machine_id), kind)


@router.get("/machines/{uuid:machine_id}/jobs/{kind}", response=answers(list[JobCost]))
def read_costs(request: HttpRequest, machine_id: UUID, kind: str) -> list[JobCost]:
    """What a kind of check comes to on the jobs that lean on it."""
    return costs(Scope(request.user).get(Machine, machine_id, related=("workshop",)), kind)


@router.put("/machines/{uuid:machine_id}", response=answers(MachineOut))
def change_machine(request: HttpRequest, machine_id: UUID, form: MachineChange) -> MachineOut:
    """Correct a machine's description or limits. Settled rounds stay as they were judged."""
    scope = Scope(request.user)
    saved = workshop_services.save_machine(scope, machine_id=machine_id, form=form)
    return machine.machine_out(scope, saved)


@router.put("/machines/{uuid:machine_id}/archived", response=answers(MachineOut))
def archive_machine(request: HttpRequest, machine_id: UUID, form: ArchivedIn) -> MachineOut:
    """Put a machine away with its logbook, or take it out again."""
    scope = Scope(request.user)
    return machine.machine_out(
        scope, workshop_services.archive(scope, Machine, machine_id, form.archived)
    )


@router.get("/kinds", response=answers(list[KindOut]))
def kinds(request: HttpRequest) -> list[KindOut]:
    """Every kind of check, with its set-up form and guide."""
    return check.kinds()


@router.post("/machines/{uuid:machine_id}/checks", response=answers(CheckOut))
def open_check(request: HttpRequest, machine_id: UUID, form: CheckIn) -> CheckOut:
    """Begin a check, or go on with the one under way."""
    scope = Scope(request.user)
    return check.check_out(
        scope,
        services.open_check(
            scope, machine_id, id=form.id, kind_key=form.kind, subject=form.subject
        ),
    )


@router.get("/checks/{uuid:check_id}", response=answers(CheckOut))
def read_check(request: HttpRequest, check_id: UUID) -> HttpResponse:
    """A check with all its rounds."""
    scope = Scope(request.user)
    return written(check.check_out(scope, scope.get(Check, check_id)))


@router.post("/checks/{uuid:check_id}/rounds", response=answers(CheckOut))
def another_round(request: HttpRequest, check_id: UUID, form: NewRound) -> CheckOut:
    """Read a settled check once more."""
    scope = Scope(request.user)
    return check.check_out(scope, services.another_round(scope, check_id, id=form.id))


@router.put("/rounds/{uuid:round_id}/setup", response=answers(CheckOut))
def set_up(request: HttpRequest, round_id: UUID, form: SetupIn) -> CheckOut:
    """State how the round is read."""
    scope = Scope(request.user)
    return check.check_out(scope, services.set_up(scope, round_id, form))


@router.put("/rounds/{uuid:round_id}/readings/{uuid:reading_id}", response=answers(NewsOut))
def put_reading(request: HttpRequest, round_id: UUID, reading_id: UUID, form: ReadingIn) -> NewsOut:
    """Keep a reading; safe to send twice. Answers with what it changed of its round."""
    scope = Scope(request.user)
    return check.news_out(readings.put_reading(scope, round_id, reading_id, form))


@router.put("/rounds/{uuid:round_id}/logs/{uuid:reading_id}", response=answers(NewsOut))
def put_log(request: HttpRequest, round_id: UUID, reading_id: UUID, form: LogIn) -> NewsOut:
    """Keep a log of many points as one reading; safe to send twice."""
    return check.news_out(readings.put_log(Scope(request.user), round_id, reading_id, form))


@router.post("/rounds/{uuid:round_id}/batch", response=answers(BatchOut))
def put_batch(request: HttpRequest, round_id: UUID, form: BatchIn) -> BatchOut:
    """Keep several readings, each by itself; safe to send twice."""
    *_, outcome, told = readings.put_batch(Scope(request.user), round_id, form)
    return check.batch_out(outcome, told)


@router.get("/rounds/{uuid:round_id}/finding", response=answers(FindingOut))
def read_finding(request: HttpRequest, round_id: UUID) -> HttpResponse:
    """What a round's readings come to: finding, verdict, figures, and what to do about it."""
    return written(check.finding_out(Scope(request.user), round_id))


@router.post("/rounds/{uuid:round_id}/settle", response=answers(CheckOut))
def settle(request: HttpRequest, round_id: UUID) -> CheckOut:
    """Enter the round in the logbook and end the check."""
    scope = Scope(request.user)
    return check.check_out(scope, services.settle(scope, round_id))


@router.post("/rounds/{uuid:round_id}/move", response=answers(CheckOut))
def make_move(request: HttpRequest, round_id: UUID, form: MoveIn) -> CheckOut:
    """Record what was done, and open the next round with its prediction."""
    scope = Scope(request.user)
    return check.check_out(scope, services.make_move(scope, round_id, form))


@router.post("/rounds/{uuid:round_id}/notes", response=answers(CheckOut))
def add_note(request: HttpRequest, round_id: UUID, form: NoteIn) -> CheckOut:
    """Write a remark beside a round."""
    scope = Scope(request.user)
    return check.check_out(scope, services.add_note(scope, round_id, form))


@router.get("/workshops/{uuid:workshop_id}/logbook", response=answers(LogPage))
def read_logbook(
    request: HttpRequest,
    workshop_id: UUID,
    machine: UUID | None = None,
    after: str | None = None,
) -> LogPage:
    """Everything logged in a workshop or about one machine, newest first."""
    return logbook.logbook(Scope(request.user), workshop_id, machine_id=machine, after=after)


@router.post("/machines/{uuid:machine_id}/events", response=answers(MachineOut))
def log_event(request: HttpRequest, machine_id: UUID, form: EventIn) -> MachineOut:
    """Something happened to the machine."""
    scope = Scope(request.user)
    return machine.machine_out(scope, happenings.log_event(scope, machine_id, form))


@router.post("/machines/{uuid:machine_id}/gates", response=answers(MachineOut))
def pass_gate(request: HttpRequest, machine_id: UUID, form: GateIn) -> MachineOut:
    """A step that cannot be undone was taken."""
    scope = Scope(request.user)
    return machine.machine_out(scope, happenings.pass_gate(scope, machine_id, form))


@router.post("/machines/{uuid:machine_id}/decisions", response=answers(MachineOut))
def decide(request: HttpRequest, machine_id: UUID, form: DecisionIn) -> MachineOut:
    """Leave a check as it is, with the reason."""
    scope = Scope(request.user)
    return machine.machine_out(scope, happenings.decide(scope, machine_id, form))


@router.post("/machines/{uuid:machine_id}/acceptances", response=answers(MachineOut))
def accept(request: HttpRequest, machine_id: UUID, form: AcceptIn) -> MachineOut:
    """Accept the machine for work, naming what is open."""
    scope = Scope(request.user)
    return machine.machine_out(scope, happenings.accept(scope, machine_id, form, then))


@router.post("/machines/{uuid:machine_id}/photos", response=answers(PhotoOut))
def add_photo(
    request: HttpRequest, machine_id: UUID, form: Form[PhotoIn], photo: File[UploadedFile]
) -> PhotoOut:
    """Keep a photo: made upright and smaller, and without where it was taken."""
    data = photo.read(pictures.MOST_BYTES + 1)
    return photo_out(happenings.add_photo(Scope(request.user), machine_id, form, data))


@router.put("/records/{record_type}/{uuid:record_id}/taken-back", response=answers(MachineOut))
def take_back(
    request: HttpRequest, record_type: happenings.RecordType, record_id: UUID, form: TakenBackIn
) -> MachineOut:
    """Take a record back that was logged wrongly, or put it back again."""
    scope = Scope(request.user)
    about = happenings.take_back(scope, record_type, record_id, back=form.taken_back)
    return machine.machine_out(scope, about)


@router.get("/pieces/{uuid:piece_id}/record", response=answers(list[pieces.PieceRound]))
def piece_record(request: HttpRequest, piece_id: UUID) -> list[pieces.PieceRound]:
    """Every round that a piece of the kit took part in."""
    return pieces.record(Scope(request.user), piece_id)
