"""The bed's screen: what is known, what is planned, what is offered."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from pydantic import ValidationError

from calmsquare.logbook.course import log_of, zone_of
from calmsquare.problems import Conflict
from calmsquare.surfacing.facts import Mapped, facts_of, found_of, lean_words, map_of, outdated
from calmsquare.surfacing.models import Program, SurfacingPlan
from calmsquare.surfacing.schemas import (
    BedOut,
    KeepOutOut,
    MapOut,
    ProgramLine,
    ProgramOut,
    SurfacingLine,
    SurfacingOut,
)
from calmsquare.workshop.models import Machine, Role
from calmsquare.workshop.people import name_of
from calmsquare.workshop.scope import Scope
from calmsquare.workshop.services import machine_spec
from truing.checks.bed_map.figure import contour
from truing.course.gates import gates
from truing.drawing.ridges import planned_ridges
from truing.machine import Machine as MachineSpec
from truing.machine.board import KEEP_OUTS, Board
from truing.measure.fields import form_schema, shown_lengths
from truing.measure.words import Words, plain, say, show
from truing.programs.ground import Ground
from truing.programs.report import Report
from truing.record import Unreadable, load, raised
from truing.surfacing.area import board_area
from truing.surfacing.done import Done
from truing.surfacing.facts import Facts
from truing.surfacing.foreign import Stated
from truing.surfacing.life import metal_mm, more_times
from truing.surfacing.plan import Surfacing
from truing.surfacing.wish import Wish

LISTED = 20
CAUTIONS = [
    "Dust of board harms the lungs: extraction and a mask; eyes and ears.",
    "A wide cutter never above its rated speed: a thrown insert goes through a wall.",
    "Nothing metal in the way; clamps and cables clear. First in the air, a hand at the stop.",
    "Never leave it running alone. Calm Square writes a file and sends nothing to a machine.",
]


def bed_out(scope: Scope, machine_id: UUID) -> BedOut:
    """Everything about one bed."""
    machine: Machine = scope.get(Machine, machine_id, related=("workshop",))
    spec = machine_spec(machine)
    known = found_of(machine)
    mapped = map_of(machine, known)
    facts = facts_of(machine, known)
    outline = board_area(facts.board, spec.table_x_mm, spec.table_y_mm)
    wish = _suggested(machine, spec, facts)
    stated = _stated(machine, spec, wish)
    board = spec.board or Board()
    return BedOut(
        machine_id=machine.pk,
        machine=machine.name,
        workshop_id=machine.workshop_id,
        may_change=scope.role(machine.workshop_id) != Role.VIEWER,
        controller=spec.control == "controller",
        table_x_mm=spec.table_x_mm,
        table_y_mm=spec.table_y_mm,
        board=spec.board,
        board_words=_board_words(spec, facts, wish.margin_mm),
        board_outline=[(float(x), float(y)) for x, y in outline.exterior.coords[:-1]],
        keep_outs=[_keep_out(k) for k in board.keep_outs],
        map=_drawn(mapped) if mapped else None,
        lean_words=lean_words(known),
        board_schema=form_schema(Board),
        board_values=board.model_dump(mode="json"),
        board_shown=shown_lengths(board),
        wish_schema=form_schema(Wish),
        wish=wish.model_dump(mode="json"),
        wish_shown=shown_lengths(wish),
        done_schema=form_schema(Done),
        stated_schema=form_schema(Stated),
        stated=stated.model_dump(mode="json"),
        stated_shown=shown_lengths(stated),
        plans=[_line(p, facts.mark) for p in _plans(machine)],
        programs=[_program_line(p) for p in _programs(machine)],
        cautions=CAUTIONS,
        before=_before(machine, spec),
    )


def _before(machine: Machine, spec: MachineSpec) -> list[Words]:
    """What surfacing would freeze and is not fit to be frozen."""
    found = log_of(machine).standings(machine, zone_of(machine))
    gate = next((g for g in gates(spec, found) if g.key == "surface"), None)
    return [say("{title}: {text}", title=i.title, text=i.text) for i in gate.open] if gate else []


def _plans(machine: Machine) -> list[SurfacingPlan]:
    found = SurfacingPlan.objects.filter(machine=machine).select_related("by")
    return list(found.defer("program", "air_program")[:LISTED])


def _programs(machine: Machine) -> list[Program]:
    found = Program.objects.filter(machine=machine).defer("picture", "ground", "stated")
    return list(found[:LISTED])


def _board_words(spec: MachineSpec, facts: Facts, margin_mm: float) -> list[Words]:
    if spec.board is None:
        return [plain("No board is described on this bed.")]
    board = spec.board
    told = [
        say(
            "{t} thick, at least {least}.",
            t=show(board.thickness_mm, 0.01),
            least=show(board.least_mm, 0.1),
        )
    ]
    deep = metal_mm(facts)
    if deep:
        told.append(say("The shallowest metal lies {d} deep.", d=show(min(deep), 0.01)))
    left = more_times(facts, margin_mm)
    if left is not None:
        more, usual = left
        told.append(
            say(
                "Surfaced {n}, {v} at a time: {more} more before it is too thin or meets metal.",
                n=f"{len(facts.taken_mm)} times" if len(facts.taken_mm) > 1 else "once",
                v=show(usual, 0.01),
                more=f"about {more}",
            )
        )
    return told


def _keep_out(k: Any) -> KeepOutOut:
    where = (
        say("{v} under the face", v=show(-k.top_mm, 0.01))
        if k.top_mm < 0
        else say("{v} over the face", v=show(k.top_mm, 0.01))
    )
    return KeepOutOut(
        name=k.name,
        words=say("{what}, {where}", what=KEEP_OUTS[k.what], where=where),
        outline=k.outline,
        may_cut=k.may_cut,
        tall=k.top_mm > 0,
    )


def _drawn(mapped: Mapped) -> MapOut:
    figure = contour(mapped.finding, 0.0)[0]
    return MapOut(
        x_mm=figure.x_mm,
        y_mm=figure.y_mm,
        up_mm=figure.up_mm,
        step_mm=figure.step_mm,
        step_words=figure.step_words,
        most_mm=mapped.finding.highest.up_mm,
        words=mapped.words,
        at=mapped.at,
        fresh=mapped.fresh,
        check_id=mapped.check_id,
    )


def _suggested(machine: Machine, spec: MachineSpec, facts: Facts) -> Wish:
    """The last wish, or one that suits the machine."""
    last = SurfacingPlan.objects.filter(machine=machine).values_list("wish", flat=True).first()
    wish: Wish | None = _kept("wish", last)
    if wish is not None:
        return wish
    x, y = spec.slide("left_right"), spec.slide("front_back")
    reach_x = (x.travel_mm if x else spec.table_x_mm) / 2
    reach_y = (y.travel_mm if y else spec.table_y_mm) / 2
    return Wish(
        heights="map" if facts.map else "range",
        diameter_mm=spec.cutter_mm,
        material=spec.board.material if spec.board else "mdf",
        reach_left_mm=-reach_x,
        reach_right_mm=reach_x,
        reach_front_mm=-reach_y,
        reach_rear_mm=reach_y,
    )


def _stated(machine: Machine, spec: MachineSpec, wish: Wish) -> Stated:
    """What was stated about the last program, or what suits the machine."""
    last = Program.objects.filter(machine=machine).values_list("stated", flat=True).first()
    stated: Stated | None = _kept("stated", last)
    if stated is not None:
        return stated
    left, front, _, _ = board_area(spec.board or Board(), spec.table_x_mm, spec.table_y_mm).bounds
    return Stated(
        x_mm=left,
        y_mm=front,
        **{
            f"reach_{side}_mm": getattr(wish, f"reach_{side}_mm")
            for side in ("left", "right", "front", "rear")
        },
    )


def refuse_outdated(plan: SurfacingPlan) -> None:
    """Conflict, which says why, where the program of a plan is not to be run any more."""
    machine = plan.machine
    why = outdated(plan, facts_of(machine, found_of(machine)).mark)
    if why is not None:
        raise Conflict(why.metric, code="outdated")


def _line(plan: SurfacingPlan, mark: str) -> SurfacingLine:
    words = None
    done: Done | None = _kept("done", plan.done)
    if plan.done_at is not None and done is not None:
        told = ["marks gone everywhere" if done.marks_gone else f"a mark left: {done.where}"]
        if done.ridges:
            told.append("ridges felt")
        words = plain(", ".join(told))
    return SurfacingLine(
        id=plan.pk,
        at=plan.made_at,
        by=name_of(plan.by),
        sentence=_sentence("surfacing", plan.plan),
        file_name=plan.file_name,
        done_at=plan.done_at,
        done_words=words,
        stale=outdated(plan, mark),
    )


def _program_line(program: Program) -> ProgramLine:
    report = program.report
    sentence = _sentence("report", report) if report else plain(_state(program))
    return ProgramLine(
        id=program.pk,
        name=program.name,
        at=program.made_at,
        state=program.state,
        share=program.share,
        sentence=sentence,
    )


def _state(program: Program) -> str:
    told: dict[str, str] = {
        Program.State.WAITING: "Waits for its turn.",
        Program.State.RUNNING: "Is being checked.",
        Program.State.STOPPED: "Its check was stopped.",
        Program.State.FAILED: program.reason or "Its check failed.",
        Program.State.DONE: "Checked.",
    }
    return told[program.state]


def kept_plan_out(plan: SurfacingPlan) -> SurfacingOut:
    """A plan as it was kept."""
    wish: Wish = _whole("wish", plan.wish)
    texts = {"program": plan.program, "air_program": plan.air_program}
    made: Surfacing = _whole("surfacing", {**plan.plan, **texts})
    return SurfacingOut(
        id=plan.pk,
        plan=made,
        wish=wish.model_dump(mode="json"),
        wish_shown=shown_lengths(wish),
        ridges=planned_ridges(wish, made.choice),
        done_at=plan.done_at,
    )


def plan_out(wish: Wish, plan: Surfacing) -> SurfacingOut:
    """A plan that is only looked at."""
    return SurfacingOut(
        id=None,
        plan=plan,
        wish=wish.model_dump(mode="json"),
        wish_shown=shown_lengths(wish),
        ridges=planned_ridges(wish, plan.choice),
    )


def program_out(program: Program) -> ProgramOut:
    """A program, where its check stands, and what it came to."""
    ground: Ground = _whole("ground", program.ground)
    report: Report | None = _whole("report", program.report) if program.report else None
    return ProgramOut(
        id=program.pk,
        machine_id=program.machine_id,
        name=program.name,
        size=program.size,
        at=program.made_at,
        state=program.state,
        share=program.share,
        reason=program.reason or _state(program),
        report=report,
        picture=_whole("picture", program.picture) if program.picture else None,
        board=list(ground.board),
        kept=[k.outline for k in ground.kept],
        shown_lines=report.cited if report else {},
    )


def _kept(shape: str, data: Any) -> Any:
    """What was kept, or None where there is nothing that can be read."""
    try:
        return load(shape, data) if data is not None else None
    except Unreadable:
        return None


def _whole(shape: str, data: Any) -> Any:
    """What was kept. Conflict, which says so, where it cannot be read."""
    try:
        return load(shape, data)
    except Unreadable:
        raise Conflict(UNREADABLE, code="unreadable") from None


def _sentence(shape: str, data: Any) -> Words:
    """The sentence of a plan or a report, without the rest of it."""
    try:
        return Words.model_validate(raised(shape, data)["sentence"])
    except (Unreadable, KeyError, ValidationError):
        return plain(UNREADABLE)


UNREADABLE = (
    "It cannot be read: it was not written by this program, or something damaged it. Nothing has "
    "been changed."
)
