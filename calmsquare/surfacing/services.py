"""What happens on a bed: its board is described, a plan is made and kept, a board is surfaced, a
program is asked to be checked."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, TypeVar
from uuid import UUID, uuid4

from django.db import transaction
from django.db.models import QuerySet, Sum
from django.http import Http404
from django.utils import timezone
from pydantic import BaseModel
from pydantic import ValidationError as ModelError

from calmsquare.logbook.happenings import pass_gate
from calmsquare.logbook.schemas import GateIn
from calmsquare.problems import Conflict, FieldError, Invalid, field_errors
from calmsquare.surfacing.facts import facts_of, found_of, outdated
from calmsquare.surfacing.models import Program, SurfacingPlan
from calmsquare.surfacing.schemas import BoardIn, DoneIn, KeepPlanIn
from calmsquare.turns import Turns
from calmsquare.workshop.meanwhile import among_others
from calmsquare.workshop.models import Machine, Role, Workshop
from calmsquare.workshop.room import counted, room_for
from calmsquare.workshop.scope import Scope
from calmsquare.workshop.services import describe, machine_spec
from truing.machine import Machine as MachineSpec
from truing.machine.board import Board
from truing.measure.names import tidied
from truing.measure.problem import Problem
from truing.programs.read import MOST_BYTES
from truing.record import dump, load
from truing.surfacing.done import Done
from truing.surfacing.facts import Facts
from truing.surfacing.foreign import Stated, ground_for
from truing.surfacing.plan import Surfacing, make
from truing.surfacing.walls import after
from truing.surfacing.wish import Wish

Form = TypeVar("Form", bound=BaseModel)
MOST_WAITING = 5
"""Programs of one workshop that wait for their check at once."""


PLANNING = Turns("Others plan a surfacing just now. Try again in a few seconds.")


def read_form(form: type[Form], data: dict[str, Any], prefix: str) -> Form:
    """A form as typed; Invalid at its fields."""
    try:
        return form.model_validate(data)
    except ModelError as error:
        raise Invalid(field_errors(error, prefix)) from None


def wished(machine: Machine, data: dict[str, Any]) -> tuple[Wish, Facts, Surfacing]:
    """A plan for a wish as typed; Problem or Invalid at the wish's field."""
    wish = read_form(Wish, data, "wish")
    facts = facts_of(machine, found_of(machine))
    try:
        with PLANNING.one():
            return wish, facts, make(wish, facts)
    except Problem as problem:
        raise problem.at(f"wish.{problem.field}") from None


def preview(scope: Scope, machine_id: UUID, data: dict[str, Any]) -> tuple[Wish, Surfacing]:
    """What a wish comes to; nothing is kept."""
    wish, _, plan = wished(scope.get(Machine, machine_id), data)
    return wish, plan


@transaction.atomic
def keep_plan(scope: Scope, machine_id: UUID, form: KeepPlanIn) -> SurfacingPlan:
    """Keep a plan with its program; the same id again is the same plan."""
    machine = scope.get(Machine, machine_id, need=Role.MAKER, for_update=True)
    there = SurfacingPlan.objects.filter(pk=form.id).first()
    if there is not None:
        if there.machine_id != machine.pk:
            raise Conflict("Another plan has this id.", code="duplicate")
        return there
    wish, _, plan = wished(machine, form.wish)
    if not plan.program:
        raise Invalid(
            [
                FieldError(
                    field="wish",
                    message="The checker would refuse this program; nothing has been kept.",
                    expected="See what it found, and change the plan.",
                )
            ]
        )
    return SurfacingPlan.objects.create(
        id=form.id,
        machine=machine,
        by=scope.user,
        made_at=timezone.now(),
        wish=dump("wish", wish),
        plan=_without_texts(plan),
        program=plan.program,
        air_program=plan.air_program,
        file_name=plan.file_name,
        removed_mm=plan.removed_mm,
    )


def _without_texts(plan: Surfacing) -> dict[str, Any]:
    """A plan as it is kept: its programs have columns of their own."""
    texts = ("program", "air_program")
    return {k: v for k, v in dump("surfacing", plan).items() if k not in texts}


@transaction.atomic
def change_board(scope: Scope, machine_id: UUID, form: BoardIn) -> Machine:
    """Describe the board, or take it off (None), among what others have changed meanwhile."""
    machine = scope.get(Machine, machine_id, need=Role.MAKER, for_update=True)

    was = read_form(Board, form.was or {}, "was").model_dump(mode="json")
    # a page shows the usual one where there is none yet
    now = (machine_spec(machine).board or Board()).model_dump(mode="json")
    if form.board is None:
        among_others(was, now, {}, Board)
        _put_board(machine, None)
        return machine
    new = read_form(Board, form.board, "board").model_dump(mode="json")
    _put_board(machine, Board.model_validate(among_others(was, now, new, Board)))
    return machine


def _put_board(machine: Machine, board: Board | None) -> None:
    spec = machine_spec(machine)
    try:
        changed = MachineSpec.model_validate({**spec.model_dump(), "board": board})
    except ModelError as error:
        raise Invalid(field_errors(error, "board")) from None
    describe(machine, changed)
    machine.save()


@transaction.atomic
def surfaced(scope: Scope, plan_id: UUID, form: DoneIn) -> SurfacingPlan:
    """The board was surfaced by a plan: its thickness, what is in it, and what rested on it."""
    plan: SurfacingPlan = scope.get(
        SurfacingPlan, plan_id, need=Role.MAKER, related=("machine__workshop",), for_update=True
    )
    if plan.done_at is not None:
        raise Conflict("This plan has been done already.", code="done")
    done = read_form(Done, form.done, "done")
    if not done.marks_gone and not done.where.strip():
        raise Invalid(
            [
                FieldError(
                    field="done.where",
                    message="Say whether the pencil marks are gone everywhere, or where one is "
                    "left: one more pass goes there.",
                )
            ]
        )
    machine = Machine.objects.select_for_update().get(pk=plan.machine_id)
    if outdated(plan, facts_of(machine, found_of(machine)).mark) and not done.note.strip():
        raise Invalid(
            [
                FieldError(
                    field="done.note",
                    message="The board, what is in its way or its map has changed since this was "
                    "planned.",
                    expected="Say in a word why it was run all the same, or when.",
                )
            ]
        )
    board = machine_spec(machine).board
    now = form.at or timezone.now()
    if board is not None and plan.wish.get("work") == "skim":
        off = plan.removed_mm
        if done.thickness_mm is not None:
            off = board.thickness_mm - done.thickness_mm
            if off < 0:
                raise Invalid(
                    [
                        FieldError(
                            field="done.thickness_mm",
                            message=f"It was {board.thickness_mm:g} mm before, and got thicker?",
                            expected="Correct the thickness, here or with the board.",
                        )
                    ]
                )
        try:
            _put_board(machine, after(board, off, _left_by(plan)))
        except ValueError as error:
            raise Invalid([FieldError(field="done.thickness_mm", message=_said(error))]) from None
        plan.removed_mm = off
    said = plan.plan["sentence"]["metric"]
    pass_gate(
        scope,
        machine.pk,
        GateIn(id=uuid4(), gate="surface", said=said, photo_id=form.photo_id, at=now),
    )
    plan.done_at, plan.done = now, dump("done", done)
    plan.save()
    return plan


def _left_by(plan: SurfacingPlan) -> list[list[tuple[float, float]]]:
    """Outlines of what a plan left standing, from mid bed."""
    texts = {"program": "", "air_program": ""}
    made: Surfacing = load("surfacing", {**plan.plan, **texts})
    return [u.outline for u in made.uncut if u.up_mm >= 0]


def _said(error: ValueError) -> str:
    text = str(error)
    return next((e["msg"] for e in error.errors()), text) if isinstance(error, ModelError) else text


# --- programs of others ---------------------------------------------------------------------------


@counted
def program_bytes(workshops: QuerySet[Workshop]) -> dict[UUID, int]:
    """What the programs of workshops weigh."""
    kept = Program.objects.filter(machine__workshop__in=workshops).order_by()
    return dict(kept.values_list("machine__workshop").annotate(n=Sum("size")))


@transaction.atomic
def take_program(
    scope: Scope,
    machine_id: UUID,
    *,
    id: UUID,
    name: str,
    stated: dict[str, Any],
    size: int,
    data: Iterable[bytes],
) -> Program:
    """Take a program in, to be checked by a worker; the same id again is the same program. `data`
    comes in pieces."""
    machine = scope.get(Machine, machine_id, need=Role.MAKER, for_update=True)
    there = Program.objects.filter(pk=id).first()
    if there is not None:
        if there.machine_id != machine.pk:
            raise Conflict("Another program has this id.", code="duplicate")
        return there
    if not size:
        raise Problem("The file is empty.", expected="Choose the program.", field="file")
    if size > MOST_BYTES:
        raise Problem(
            f"{size / 1e6:.0f} MB are more than is read at once.",
            expected="Up to 100 MB: split it where it changes its tool.",
            field="file",
        )
    _refuse_flood(machine)
    form = read_form(Stated, stated, "stated")
    room_for(machine.workshop_id, size)
    program = Program.objects.create(
        id=id,
        machine=machine,
        by=scope.user,
        made_at=timezone.now(),
        name=tidied(name).strip()[:120] or "program",
        size=size,
        stated=dump("stated", form),
        ground=dump("ground", ground_for(form, facts_of(machine, found_of(machine)))),
    )
    program.keep(data)
    _ask(program)
    return program


def light(scope: Scope, program_id: UUID) -> Program:
    """A program; Http404 when it is not theirs to see."""
    found: Program | None = scope.all(Program).filter(pk=program_id).first()
    if found is None:
        raise Http404
    return found


def _waiting(workshop_id: UUID) -> int:
    """How many programs of a workshop wait for their check, or are being checked."""
    found = Program.objects.filter(
        machine__workshop=workshop_id,
        state__in=(Program.State.WAITING, Program.State.RUNNING),
    )
    return found.count()


def _refuse_flood(machine: Machine) -> None:
    """Conflict where as many wait as one workshop may have waiting."""
    if _waiting(machine.workshop_id) >= MOST_WAITING:
        raise Conflict(
            f"{MOST_WAITING} programs wait for their check already. Stop one, or wait a little.",
            code="busy",
        )


def _ask(program: Program) -> None:
    """Hand it to the queue once it is really kept: workshops take turns, the first that one of them
    asks for before the second that another one does."""
    from calmsquare.surfacing.tasks import check_program

    ahead = _waiting(program.machine.workshop_id) - 1
    asked = check_program.configure(priority=-ahead)
    transaction.on_commit(lambda: asked.defer(program_id=str(program.pk)))


@transaction.atomic
def stop_program(scope: Scope, program_id: UUID) -> Program:
    """Stop its check; what waits is stopped at once, what runs as soon as its worker looks."""
    program: Program = scope.get(Program, program_id, need=Role.MAKER, for_update=True)
    if program.state == Program.State.WAITING:
        program.state = Program.State.STOPPED
    program.stop = True
    program.save(update_fields=["state", "stop"])
    return program


@transaction.atomic
def remove_program(scope: Scope, program_id: UUID) -> Machine:
    """Throw a program away with what was found of it; Conflict while its check runs."""
    program: Program = scope.get(
        Program, program_id, need=Role.MAKER, related=("machine__workshop",), for_update=True
    )
    if program.state == Program.State.RUNNING:
        raise Conflict("Its check is running. Stop it first.", code="busy")
    program.delete()
    return program.machine


@transaction.atomic
def check_again(scope: Scope, program_id: UUID) -> Program:
    """Check it again, on the bed as it is now."""
    program: Program = scope.get(
        Program, program_id, need=Role.MAKER, related=("machine__workshop",), for_update=True
    )
    if program.state in (Program.State.WAITING, Program.State.RUNNING):
        return program
    _refuse_flood(program.machine)
    form: Stated = load("stated", program.stated)
    facts = facts_of(program.machine, found_of(program.machine))
    program.ground = dump("ground", ground_for(form, facts))
    program.state, program.share, program.stop = Program.State.WAITING, 0.0, False
    program.tries, program.reason, program.report, program.picture = 0, "", None, None
    program.save()
    _ask(program)
    return program
