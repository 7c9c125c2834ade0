"""What happens to workshops, members, machines and kit."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping, Sequence
from contextlib import suppress
from functools import cached_property, lru_cache
from math import isclose
from typing import Any, TypeVar
from uuid import UUID
from zoneinfo import available_timezones

from django.contrib.auth.models import User
from django.db import transaction
from pydantic import BaseModel, TypeAdapter
from pydantic import ValidationError as ModelError

from calmsquare.problems import Conflict, FieldError, Invalid, field_errors, validated
from calmsquare.workshop.meanwhile import among_others, changed_meanwhile
from calmsquare.workshop.models import (
    Instrument,
    Machine,
    Membership,
    Piece,
    Role,
    ShimStock,
    Workshop,
)
from calmsquare.workshop.schemas import (
    InstrumentChange,
    InstrumentIn,
    MachineChange,
    MachineIn,
    NewMachineIn,
    PieceChange,
    PieceIn,
    ShimChange,
    ShimIn,
    WorkshopChange,
)
from calmsquare.workshop.scope import Scope, made_before
from truing.contract.judgement import Tolerances
from truing.course.guide import guide
from truing.kit.instruments import Instrument as InstrumentSpec
from truing.kit.shims import Shim
from truing.kit.tooling import Piece as PieceSpec
from truing.machine import Machine as MachineSpec
from truing.machine.ghost import Ghost, ghost
from truing.measure.fields import Mm, length, shown_lengths
from truing.measure.problem import Problem
from truing.measure.sizes import parse_size
from truing.measure.words import Measure, Words, show
from truing.record import Unreadable, dump, load
from truing.registry import kind, registry

_INSTRUMENT: TypeAdapter[InstrumentSpec] = TypeAdapter(InstrumentSpec)
_PIECE: TypeAdapter[PieceSpec] = TypeAdapter(PieceSpec)


T = TypeVar("T")
Archivable = TypeVar("Archivable", Machine, Instrument, Piece)


class ShimForm(BaseModel):
    """A thickness of shim stock, as filled in."""

    thickness_mm: Mm = length("Thickness", gt=0, le=10)
    count: int = 1
    material: str = ""
    tolerance_mm: Mm = length("Good to within", 0.003, ge=0, le=0.5)


MOST_WORKSHOPS = 20
"""Of one owner."""
LEAST_LIMIT, MOST_LIMIT = 0.001, 100.0
"""Of what anybody judges by, in the metric unit of its measure."""


def create_workshop(user: User, *, name: str, time_zone: str = "UTC") -> Workshop:
    """A workshop with this person as its owner."""
    if Membership.objects.filter(user=user, role=Role.OWNER).count() >= MOST_WORKSHOPS:
        raise Conflict(f"You own {MOST_WORKSHOPS} workshops, and more are not kept.", code="full")
    workshop = Workshop.objects.create(name=_name(name), time_zone=known_zone(time_zone))
    Membership.objects.create(workshop=workshop, user=user, role=Role.OWNER)
    return workshop


def rename_workshop(scope: Scope, workshop_id: UUID, form: WorkshopChange) -> None:
    """Call a workshop otherwise. Conflict where somebody else has done so meanwhile."""
    workshop = scope.get(Workshop, workshop_id, need=Role.OWNER, for_update=True)
    was, now, new = ({"name": name} for name in (form.was, workshop.name, _name(form.name)))
    workshop.name = among_others(was, now, new)["name"]
    workshop.save(update_fields=["name"])


def known_zone(time_zone: str) -> str:
    """The zone if the system knows it, else UTC."""
    return time_zone if time_zone in available_timezones() else "UTC"


def _name(name: str) -> str:
    if not name.strip():
        raise Invalid([FieldError(field="name", message="Give it a name.")])
    return name.strip()


# --- machines -------------------------------------------------------------------------------------


def machine_spec(machine: Machine) -> MachineSpec:
    """The machine as the core knows it; not to be written to."""
    return described(machine).spec


class Described:
    """A description made out, and how its lengths are shown."""

    def __init__(self, kept: dict[str, Any]) -> None:
        self.spec: MachineSpec = load("machine", kept)
        # machines of one make share a description, each with errors of its own
        self._drawn = lru_cache(maxsize=16)(self._draw)

    def drawn(self, leans: dict[str, float], stale: set[str]) -> Ghost:
        """The machine as line work; drawn anew when its errors are others than before."""
        return self._drawn(tuple(sorted(leans.items())), frozenset(stale))

    def _draw(self, leans: tuple[tuple[str, float], ...], stale: frozenset[str]) -> Ghost:
        return ghost(self.spec, dict(leans), stale=stale)

    @cached_property
    def shown(self) -> dict[str, Words]:
        """Every length of it as text in both systems, by dotted path."""
        return shown_lengths(self.spec)


def described(machine: Machine) -> Described:
    """A machine's description: made out once for each text that stands in the record."""
    known: tuple[Any, Described] | None = getattr(machine, "_core", None)
    if known is None or known[0] is not machine.spec:
        known = (machine.spec, _described(json.dumps(machine.spec, sort_keys=True)))
        machine._core = known  # type: ignore[attr-defined]
    return known[1]


@lru_cache(maxsize=512)
def _described(text: str) -> Described:
    return Described(json.loads(text))


def describe(machine: Machine, spec: MachineSpec) -> None:
    """Give a machine another description; not saved yet."""
    machine.spec = dump("machine", spec)


def tolerances(machine: Machine, kind_key: str) -> Tolerances:
    """Limits for one kind of check: usual for its work, as the owner set them, or as a job needs
    them while those hold."""
    job = (machine.job_limits or {}).get("limits", {}).get(kind_key, {})
    own = own_tolerances(machine, kind_key)
    return {key: float(job.get(key, value)) for key, value in own.items()}


def job_of_limits(machine: Machine, kind_key: str) -> str:
    """The job that a kind is judged for now, by its name; empty where no job's limits hold."""
    job = machine.job_limits or {}
    return str(job["name"]) if kind_key in job.get("limits", {}) else ""


def own_tolerances(machine: Machine, kind_key: str) -> Tolerances:
    """Limits whatever job they are for: usual for its work, or as the owner set them."""
    usual = kind(kind_key).tolerances(machine_spec(machine))
    own = machine.tolerances.get(kind_key, {})
    return {key: float(own.get(key, value)) for key, value in usual.items()}


def save_machine(
    scope: Scope,
    *,
    workshop_id: UUID | None = None,
    machine_id: UUID | None = None,
    form: MachineIn,
) -> Machine:
    """A new machine in a workshop, the same again where its id is known there, or changes to one:
    what others have changed since the page was opened stays. Conflict where both changed the
    same."""
    if isinstance(form, MachineChange):
        assert machine_id is not None
        machine = scope.get(Machine, machine_id, need=Role.MAKER, for_update=True)
        form = _among_others(machine, form)
    else:
        assert workshop_id is not None
        scope.require(workshop_id, Role.MAKER)
        machine = Machine(workshop_id=workshop_id)
        id = form.id if isinstance(form, NewMachineIn) else None
        if id is not None:
            there = made_before(scope, Machine, id, workshop_id=workshop_id)
            if there is not None:
                return there
            machine.id = id
    machine.name = _name(form.name)
    describe(machine, validated(MachineSpec, form.spec, "spec"))
    machine.tolerances = _limits(machine, form.tolerances)
    if form.intervals is not None:
        machine.intervals = {**machine.intervals, **_intervals(form.intervals)}
    machine.save()
    return machine


def _among_others(machine: Machine, form: MachineChange) -> MachineIn:
    """What somebody has typed, with what others have done to the machine since they began."""

    def typed(form: MachineIn, spec: dict[str, Any], prefix: str) -> dict[str, Any]:
        found = validated(MachineSpec, spec, prefix).model_dump(mode="json")
        return {"name": form.name, "spec": found, "intervals": form.intervals or {}}

    now: dict[str, Any] = {
        "name": machine.name,
        "spec": machine_spec(machine).model_dump(mode="json"),
        "intervals": intervals_of(machine, form.was.intervals or {}),
    }
    was = typed(form.was, form.was.spec, "was.spec")
    # what its form does not ask stays as it is
    new = typed(form, {**was["spec"], **form.spec}, "spec")
    if form.intervals is None:
        new["intervals"] = was["intervals"]
    whole = among_others(was, now, new, MachineSpec)
    typed_anew = {k: d for k, d in whole["intervals"].items() if d != now["intervals"].get(k)}
    # a limit is sent where it was typed, and no other
    typed_limits = [(key, name) for key, named in form.tolerances.items() for name in named]
    if any(_limit_moved(machine, form.was, *limit) for limit in typed_limits):
        raise changed_meanwhile(["Limits"])
    return MachineIn(**{**whole, "intervals": typed_anew}, tolerances=form.tolerances)


def _limit_moved(machine: Machine, was: MachineIn, kind_key: str, name: str) -> bool:
    """Whether a limit is another now than the page showed that it is typed on."""
    seen = was.tolerances.get(kind_key, {}).get(name)
    if seen is None or kind_key not in _kinds():
        return False
    stands = own_tolerances(machine, kind_key).get(name)
    try:
        return stands is not None and not isclose(float(seen), stands, rel_tol=1e-6)
    except ValueError:
        # what the page showed is a figure; anything else did not come from one
        raise Invalid(
            [FieldError(field=f"was.tolerances.{kind_key}.{name}", message="That is no figure.")]
        ) from None


def intervals_of(machine: Machine, kinds: Iterable[str]) -> dict[str, int]:
    """Days after which each of these kinds of check falls due again: usual, or as the owner set
    them."""
    known = [key for key in kinds if key in registry()]
    return {key: machine.intervals.get(key, guide(key).recheck_days) for key in known}


def _intervals(intervals: dict[str, int]) -> dict[str, int]:
    errors = [
        FieldError(field=f"intervals.{key}", message="Between 0 (never) and 3650 days.")
        for key, days in intervals.items()
        if key not in _kinds() or not 0 <= days <= 3650
    ]
    if errors:
        raise Invalid(errors)
    return intervals


def archive(scope: Scope, model: type[Archivable], id: UUID, archived: bool) -> Archivable:
    """Put a machine, instrument or piece away, or take it out again. Its record stays whole."""
    record = scope.get(model, id, need=Role.MAKER)
    record.archived = archived
    record.save(update_fields=["archived"])
    return record


def _limits(
    machine: Machine, limits: Mapping[str, Mapping[str, float | str]]
) -> dict[str, dict[str, float]]:
    errors: list[FieldError] = []
    named: dict[str, dict[str, float]] = {}
    for key, own in limits.items():
        known = kind(key).tolerances(machine_spec(machine)) if key in _kinds() else {}
        for name, typed in own.items():
            try:
                if name not in known:
                    raise Problem("This machine has no such limit.", expected="")
                named.setdefault(key, {})[name] = _limit(typed, kind(key).limit_kinds[name][1])
            except Problem as problem:
                errors.append(
                    FieldError(
                        field=f"tolerances.{key}.{name}",
                        message=problem.message,
                        expected=problem.expected,
                    )
                )
    if errors:
        raise Invalid(errors)
    # what is not named stays as it was: usual for the machine, or the owner's own of before
    before: dict[str, dict[str, float]] = machine.tolerances
    return before | {key: {**before.get(key, {}), **new} for key, new in named.items()}


def _limit(typed: float | str, measure: Measure) -> float:
    """A limit in its metric unit; Problem where nobody can mean it."""
    value = parse_size(typed, measure) if isinstance(typed, str) else typed
    if not LEAST_LIMIT <= value <= MOST_LIMIT:
        low, high = (show(limit, limit / 10, measure) for limit in (LEAST_LIMIT, MOST_LIMIT))
        raise Problem(f"A limit between {low.metric} and {high.metric}.", expected="")
    return value


def _kinds() -> list[str]:
    return list(registry())


# --- kit ------------------------------------------------------------------------------------------


def instrument_spec(data: Any) -> InstrumentSpec:
    """An instrument that is kept, as the core knows it."""
    found: InstrumentSpec = load("instrument", data)
    return found


def piece_spec(data: Any) -> PieceSpec:
    """A piece of the kit that is kept, as the core knows it."""
    found: PieceSpec = load("piece", data)
    return found


def pieces_of(workshop_id: UUID, ids: Sequence[str]) -> dict[str, PieceSpec]:
    """These pieces of a workshop's kit, by id; none for one that is not there."""
    return {str(p.pk): piece_spec(p.spec) for p in _pieces(workshop_id, ids)}


def named_pieces(workshop_id: UUID, ids: Sequence[str]) -> dict[str, str]:
    """What these pieces are called, by id."""
    return {str(p.pk): p.name for p in _pieces(workshop_id, ids)}


def _pieces(workshop_id: UUID, ids: Sequence[str]) -> list[Piece]:
    keys = []
    for id in ids:
        with suppress(ValueError):
            keys.append(UUID(id))
    return list(Piece.objects.filter(workshop_id=workshop_id, pk__in=keys)) if keys else []


def teach_piece(workshop_id: UUID, id: str, figures: dict[str, float]) -> None:
    """Keep with a piece of the kit what was found of it."""
    piece = Piece.objects.select_for_update().filter(workshop_id=workshop_id, pk=id).first()
    if piece is None:
        return
    piece.spec = dump("piece", piece_spec(piece.spec).model_copy(update=figures))
    piece.save(update_fields=["spec"])


def _of_type(adapter: TypeAdapter[T], data: Any) -> T:
    try:
        return adapter.validate_python(data)
    except ModelError as error:
        errors = field_errors(error)
        # the union puts the type in front of the field
        for e in errors:
            head, _, rest = e.field.partition(".")
            e.field = f"spec.{rest or head}"
        raise Invalid(errors) from None


def _described_anew(
    kept: Instrument | Piece, form: InstrumentIn | PieceIn, known: TypeAdapter[Any]
) -> tuple[str, BaseModel]:
    """(name, description) of kit as typed; of changes, among what others have changed since."""
    if not isinstance(form, InstrumentChange | PieceChange):
        return _name(form.name), _of_type(known, form.spec)
    was = _of_type(known, form.was.spec).model_dump(mode="json")
    same = was["type"] == form.spec.get("type", was["type"])
    # what its form does not ask stays as it is
    new = _of_type(known, {**was, **form.spec} if same else form.spec)
    try:
        now = load(type(kept).__name__.lower(), kept.spec).model_dump(mode="json")
    except Unreadable:
        # what nothing makes readable is described anew
        now = was
    found = among_others(
        {"name": form.was.name, "spec": was},
        {"name": kept.name, "spec": now},
        {"name": form.name, "spec": new.model_dump(mode="json")},
        type(new),
    )
    return _name(found["name"]), _of_type(known, found["spec"])


def save_instrument(
    scope: Scope,
    form: InstrumentIn,
    *,
    workshop_id: UUID | None = None,
    instrument_id: UUID | None = None,
) -> Instrument:
    """A new instrument, or changes to one. Rounds keep the one they were read with."""
    if instrument_id:
        instrument = scope.get(Instrument, instrument_id, need=Role.MAKER, for_update=True)
    else:
        assert workshop_id is not None
        scope.require(workshop_id, Role.MAKER)
        instrument = Instrument(workshop_id=workshop_id)
    instrument.name, spec = _described_anew(instrument, form, _INSTRUMENT)
    instrument.spec = dump("instrument", spec)
    instrument.save()
    return instrument


def save_piece(
    scope: Scope,
    form: PieceIn,
    *,
    workshop_id: UUID | None = None,
    piece_id: UUID | None = None,
) -> Piece:
    """A new piece of the kit, or changes to one."""
    if piece_id:
        piece = scope.get(Piece, piece_id, need=Role.MAKER, for_update=True)
    else:
        assert workshop_id is not None
        scope.require(workshop_id, Role.MAKER)
        piece = Piece(workshop_id=workshop_id)
    piece.name, spec = _described_anew(piece, form, _PIECE)
    piece.spec = dump("piece", spec)
    piece.save()
    return piece


MOST_TINS = 200
"""Thicknesses in a tin: seven times what is sold."""


def _shim(form: ShimIn, prefix: str = "") -> ShimForm:
    """A thickness as typed; Invalid where it cannot be."""
    parsed = validated(ShimForm, form.model_dump(include=set(ShimForm.model_fields)), prefix)
    parsed.material = parsed.material.strip()
    if not 0 <= parsed.count <= 200:
        raise Invalid([FieldError(field="count", message="Between 0 and 200 pieces.")])
    return parsed


def save_shim(
    scope: Scope,
    form: ShimIn,
    *,
    workshop_id: UUID | None = None,
    shim_id: UUID | None = None,
) -> ShimStock:
    """A thickness in the tin, or changes to one. Adding one that is there adds to its count."""
    parsed = _shim(form)
    if shim_id:
        shim = scope.get(ShimStock, shim_id, need=Role.MAKER, for_update=True)
        if isinstance(form, ShimChange):
            now = {name: getattr(shim, name) for name in ShimForm.model_fields}
            was = _shim(form.was, "was").model_dump()
            parsed = ShimForm(**among_others(was, now, parsed.model_dump(), ShimForm))
    else:
        assert workshop_id is not None
        scope.require(workshop_id, Role.MAKER)
        # one tin, one hand in it: what two add at once is counted one after the other
        Workshop.objects.select_for_update().get(pk=workshop_id)
        there = ShimStock.objects.filter(
            workshop_id=workshop_id,
            thickness_mm__range=(parsed.thickness_mm - 1e-6, parsed.thickness_mm + 1e-6),
            material=parsed.material,
        ).first()
        if there is None and ShimStock.objects.filter(workshop_id=workshop_id).count() >= MOST_TINS:
            raise Conflict(
                f"The tin holds {MOST_TINS} thicknesses, and no more. Change one that is used up.",
                code="full",
            )
        shim = there or ShimStock(workshop_id=workshop_id, count=0)
        parsed.count += shim.count
    for name in ShimForm.model_fields:
        setattr(shim, name, getattr(parsed, name))
    shim.save()
    return shim


def stock_of(workshop_id: UUID) -> list[Shim]:
    """The tin as the core knows it."""
    return [
        Shim(thickness_mm=s.thickness_mm, count=s.count, tolerance_mm=s.tolerance_mm)
        for s in ShimStock.objects.filter(workshop_id=workshop_id)
    ]


@transaction.atomic
def take_from_tin(workshop_id: UUID, moved: dict[float, int]) -> None:
    """Take pieces (thickness mm -> count) out of the tin, or put them back when negative."""
    if moved:
        Workshop.objects.select_for_update().get(pk=workshop_id)
    for thickness, count in moved.items():
        shims = ShimStock.objects.select_for_update().filter(
            workshop_id=workshop_id, thickness_mm__range=(thickness - 1e-6, thickness + 1e-6)
        )
        left = count
        for shim in shims:
            taken = min(left, shim.count) if left > 0 else left
            shim.count -= taken
            shim.save(update_fields=["count"])
            left -= taken
        if left < 0:
            ShimStock.objects.create(
                workshop_id=workshop_id, thickness_mm=thickness, count=-left, material="taken out"
            )
