"""What the workshop, machine and kit screens show."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from django.db.models import QuerySet
from pydantic import BaseModel

from calmsquare.logbook.compute import stored
from calmsquare.logbook.models import Check, Round
from calmsquare.logbook.schemas import LogValue, Outcome, Status
from calmsquare.logbook.state import name_of, round_status, values_of
from calmsquare.workshop.models import (
    Instrument,
    Machine,
    Membership,
    Role,
    ShimStock,
    Workshop,
)
from calmsquare.workshop.scope import Scope
from calmsquare.workshop.services import (
    ShimForm,
    instrument_spec,
    machine_spec,
    tolerances,
)
from truing.check import kind, registry
from truing.course import STAGES, StageKey
from truing.fields import exact, shown_lengths
from truing.ghost import Ghost, ghost
from truing.instruments import INSTRUMENT_TITLES
from truing.instruments import Instrument as InstrumentSpec
from truing.machine import Form, starting_point
from truing.machine import Machine as MachineSpec
from truing.words import Words, plain, show


class CheckStatus(BaseModel):
    """How one kind of check stands on a machine."""

    kind: str
    title: str
    stage: StageKey
    question: str
    minutes: int
    status: Status
    sentence: Words | None
    """What is out, or why it is stale."""
    values: list[LogValue]
    measured_at: datetime | None
    open_check: UUID | None


class StageStatus(BaseModel):
    """A knot of the plumb line: its worst check, or None while no kind of check is built for it."""

    key: StageKey
    title: str
    settles: str
    status: Status | None
    kinds: list[str]


class MachineOut(BaseModel):
    """A machine as the screens show it."""

    id: UUID
    workshop_id: UUID
    name: str
    spec: MachineSpec
    spec_shown: dict[str, Words]
    spec_schema: dict[str, Any]
    ghost: Ghost
    checks: list[CheckStatus]
    stages: list[StageStatus]
    next_step: CheckStatus | None
    next_reason: Words | None
    tolerances: dict[str, dict[str, float]]
    limits_shown: dict[str, dict[str, Words]]
    has_standin: bool
    archived: bool
    can_write: bool


class WorkshopOut(BaseModel):
    """A workshop with its machines."""

    id: UUID
    name: str
    time_zone: str
    is_demo: bool
    role: Literal["owner", "maker", "viewer"]
    machines: list[MachineOut]


class MemberOut(BaseModel):
    """A member."""

    id: int
    name: str
    email: str
    role: Literal["owner", "maker", "viewer"]


class InstrumentOut(BaseModel):
    """An instrument of the kit."""

    id: UUID
    name: str
    type: str
    type_title: str
    spec: InstrumentSpec
    shown: dict[str, Words]
    reads: Words
    """The smallest difference it shows."""


class ShimOut(BaseModel):
    """A thickness in the tin."""

    id: UUID
    thickness_mm: float
    words: Words
    count: int
    material: str


class InstrumentForm(BaseModel):
    """The form for one type of instrument."""

    type: str
    title: str
    form_schema: dict[str, Any]
    shown: dict[str, Words]


class KitOut(BaseModel):
    """Instruments, shim stock, and the forms to add to them."""

    instruments: list[InstrumentOut]
    shims: list[ShimOut]
    forms: list[InstrumentForm]
    shim_schema: dict[str, Any]
    can_write: bool


class StartingPoint(BaseModel):
    """A machine of a form, to be corrected."""

    form: Form
    title: str
    spec: MachineSpec
    spec_shown: dict[str, Words]
    form_schema: dict[str, Any]


FORM_TITLES: dict[Form, str] = {
    "column_mill": "Column mill",
    "micro_mill": "Micro mill",
    "gantry_router": "Gantry router",
}


def _latest(machines: Iterable[Machine]) -> dict[tuple[UUID, str], Round]:
    """The last judged round of each kind on each machine, in one query."""
    rounds = (
        Round.objects.filter(check_run__machine__in=list(machines))
        .exclude(verdict="")
        .order_by("check_run__machine_id", "check_run__kind", "-check_run__opened_at", "-number")
        .distinct("check_run__machine_id", "check_run__kind")
        .select_related("check_run", "move")
    )
    return {(r.check_run.machine_id, r.check_run.kind): r for r in rounds}


def _open(machines: Iterable[Machine]) -> dict[tuple[UUID, str], UUID]:
    checks = Check.objects.filter(machine__in=list(machines), closed_at=None)
    return {(c.machine_id, c.kind): c.pk for c in checks}


def workshop_out(scope: Scope, workshop_id: UUID) -> WorkshopOut:
    """A workshop, whole, in a constant number of queries."""
    workshop = scope.get(Workshop, workshop_id)
    role = scope.role(workshop_id)
    machines: QuerySet[Machine] = scope.all(Machine).filter(workshop_id=workshop_id, archived=False)
    latest, under_way = _latest(machines), _open(machines)
    return WorkshopOut(
        id=workshop.pk,
        name=workshop.name,
        time_zone=workshop.time_zone,
        is_demo=workshop.is_demo,
        role=role.value,
        machines=[_machine(m, latest, under_way, role) for m in machines],
    )


def machine_out(scope: Scope, machine: Machine) -> MachineOut:
    """One machine, whole."""
    return _machine(machine, _latest([machine]), _open([machine]), scope.role(machine.workshop_id))


def _machine(
    machine: Machine,
    latest: dict[tuple[UUID, str], Round],
    under_way: dict[tuple[UUID, str], UUID],
    role: Role,
) -> MachineOut:
    spec = machine_spec(machine)
    checks = [
        _check_status(key, latest.get((machine.pk, key)), under_way.get((machine.pk, key)))
        for key, core in registry().items()
        if core.suits(spec)
    ]
    amiss = [c for c in checks if c.status != "true"]
    next_step = amiss[0] if amiss else None
    return MachineOut(
        id=machine.pk,
        workshop_id=machine.workshop_id,
        name=machine.name,
        spec=spec,
        spec_shown=shown_lengths(spec),
        spec_schema=MachineSpec.model_json_schema(mode="validation"),
        ghost=ghost(spec, _leans(latest.get((machine.pk, "spindle_tram")))),
        checks=checks,
        stages=_stages(checks),
        next_step=next_step,
        next_reason=_reason(next_step) if next_step else None,
        tolerances={c.kind: tolerances(machine, c.kind) for c in checks},
        limits_shown={
            c.kind: {
                key: show(value, value / 10, "slope")
                for key, value in tolerances(machine, c.kind).items()
            }
            for c in checks
        },
        has_standin=machine.truth is not None,
        archived=machine.archived,
        can_write=role != Role.VIEWER,
    )


def _check_status(key: str, latest: Round | None, open_check: UUID | None) -> CheckStatus:
    from truing.guide import guide

    core = kind(key)
    status: Status = "unmeasured"
    sentence = None
    values: list[LogValue] = []
    if latest is not None:
        outcome = stored(latest)
        status = round_status(latest)
        values = values_of(outcome)
        sentence = outcome.judgement.sentence if outcome.judgement else None
        if status == "stale":
            sentence = plain("Something was moved after it was last read: measure it again.")
    return CheckStatus(
        kind=key,
        title=core.title,
        stage=core.stage,
        question=core.question,
        minutes=guide(key).minutes,
        status=status,
        sentence=sentence,
        values=values,
        measured_at=latest.opened_at if latest else None,
        open_check=open_check,
    )


def _reason(step: CheckStatus) -> Words:
    if step.status == "unmeasured":
        return plain("It has not been measured yet, so nobody knows what the cutter leaves.")
    return step.sentence or plain("")


_RANK: dict[Status, int] = {"out": 4, "too_close": 3, "stale": 2, "unmeasured": 1, "true": 0}


def _stages(checks: list[CheckStatus]) -> list[StageStatus]:
    found = []
    for stage in STAGES:
        here = [c for c in checks if c.stage == stage.key]
        worst = max((c.status for c in here), key=_RANK.__getitem__, default=None)
        found.append(
            StageStatus(
                key=stage.key,
                title=stage.title,
                settles=stage.settles,
                status=worst,
                kinds=[c.kind for c in here],
            )
        )
    return found


def _leans(latest: Round | None) -> dict[str, float | None]:
    leans: dict[str, float | None] = {"lean_x": None, "nod": None}
    outcome = stored(latest) if latest else Outcome()
    for key in leans:
        found = [
            q.estimate.value
            for q in (outcome.finding.quantities if outcome.finding else [])
            if q.tolerance_key == key
        ]
        if found:
            leans[key] = max(found, key=abs)
    return leans


# --- members and kit ------------------------------------------------------------------------------


def member_out(member: Membership) -> MemberOut:
    """A member as shown."""
    role: Any = member.role
    return MemberOut(id=member.pk, name=name_of(member.user), email=member.user.email, role=role)


def members(scope: Scope, workshop_id: UUID) -> list[MemberOut]:
    """Everybody in a workshop."""
    scope.role(workshop_id)
    found = scope.all(Membership).filter(workshop_id=workshop_id)
    return [member_out(m) for m in found.select_related("user").order_by("pk")]


def instrument_out(instrument: Instrument) -> InstrumentOut:
    """An instrument as shown."""
    spec = instrument_spec(instrument.spec)
    return InstrumentOut(
        id=instrument.pk,
        name=instrument.name,
        type=spec.type,
        type_title=INSTRUMENT_TITLES[spec.type],
        spec=spec,
        shown=shown_lengths(spec),
        reads=exact(spec.step_mm),
    )


def shim_out(shim: ShimStock) -> ShimOut:
    """A thickness as shown."""
    return ShimOut(
        id=shim.pk,
        thickness_mm=shim.thickness_mm,
        words=show(shim.thickness_mm, 0.001),
        count=shim.count,
        material=shim.material,
    )


def kit(scope: Scope, workshop_id: UUID) -> KitOut:
    """The kit of a workshop."""
    role = scope.role(workshop_id)
    instruments = scope.all(Instrument).filter(workshop_id=workshop_id, archived=False)
    shims = scope.all(ShimStock).filter(workshop_id=workshop_id)
    return KitOut(
        instruments=[instrument_out(i) for i in instruments],
        shims=[shim_out(s) for s in shims],
        forms=[_form(type_key) for type_key in INSTRUMENT_TITLES],
        shim_schema=ShimForm.model_json_schema(mode="validation"),
        can_write=role != Role.VIEWER,
    )


def _form(type_key: str) -> InstrumentForm:
    usual = instrument_spec({"type": type_key})
    return InstrumentForm(
        type=type_key,
        title=INSTRUMENT_TITLES[type_key],
        form_schema=type(usual).model_json_schema(mode="validation"),
        shown=shown_lengths(usual),
    )


def starting_points() -> list[StartingPoint]:
    """One for each form."""
    found = []
    for form, title in FORM_TITLES.items():
        spec = starting_point(form)
        found.append(
            StartingPoint(
                form=form,
                title=title,
                spec=spec,
                spec_shown=shown_lengths(spec),
                form_schema=MachineSpec.model_json_schema(mode="validation"),
            )
        )
    return found
