"""What happens in a check: set up, read, settle, move, note."""

from __future__ import annotations

from contextlib import suppress
from datetime import datetime
from typing import Any
from uuid import UUID, uuid4

import numpy as np
from django.contrib.auth.models import User
from django.http import Http404
from django.utils import timezone

from calmsquare.logbook import compute
from calmsquare.logbook.models import Check, Move, Note, Round
from calmsquare.logbook.schemas import MoveIn, NoteIn, SetupIn
from calmsquare.problems import Conflict, FieldError, Invalid, validated
from calmsquare.workshop.models import Instrument, Machine, Role
from calmsquare.workshop.scope import Scope, made_before
from calmsquare.workshop.services import (
    describe,
    instrument_spec,
    machine_spec,
    named_pieces,
    take_from_tin,
    teach_piece,
)
from truing.contract.case import Case
from truing.contract.move import Move as CoreMove
from truing.contract.move import Prediction
from truing.contract.suggest import Suggestion, suggest
from truing.kit.instruments import Instrument as InstrumentSpec
from truing.machine.subject import THE_MACHINE
from truing.measure.problem import Problem
from truing.moves.changes import done, move_made, needle_shift, undone
from truing.record import Outcome, Snapshot, Unreadable, dump, dump_list
from truing.registry import kind, registry
from truing.standin.apply import apply
from truing.standin.truth import Truth

# --- checks and rounds ----------------------------------------------------------------------------


def open_check(
    scope: Scope, machine_id: UUID, *, id: UUID, kind_key: str, subject: str = ""
) -> Check:
    """The check of this kind that is under way on the machine, or a new one; begun with this part
    where nothing has been stated yet. Invalid for a kind or a part that there is not."""
    machine = scope.get(Machine, machine_id, need=Role.MAKER, for_update=True)
    if kind_key not in registry():
        raise Invalid([FieldError(field="kind", message="There is no such check.")])
    if not registry()[kind_key].suits(machine_spec(machine)):
        told = "This machine has nothing to read it on. Correct its description if it has."
        raise Invalid([FieldError(field="kind", message=told)])
    parts = [s for s, _ in registry()[kind_key].course.subjects_of(machine_spec(machine))]
    if subject not in ("", THE_MACHINE.text, *parts):
        raise Invalid([FieldError(field="subject", message="This machine has no such part.")])
    under_way = machine.checks.filter(kind=kind_key, closed_at=None).first()
    if under_way:
        if subject in parts:
            unstated = under_way.rounds.filter(settled_at=None, setup__isnull=True)
            unstated.exclude(subject=subject).update(subject=subject)
        return under_way
    there = made_before(scope, Check, id, machine=machine)
    if there is not None:
        return there
    now = timezone.now()
    check = Check.objects.create(
        id=id, machine=machine, kind=kind_key, opened_at=now, by=scope.user
    )
    about = subject or THE_MACHINE.text
    Round.objects.create(check_run=check, number=1, opened_at=now, by=scope.user, subject=about)
    return check


def open_round(scope: Scope, round_id: UUID) -> tuple[Check, Round]:
    """A round that can still be written to, locked; Conflict when it has been settled."""
    round = scope.get(Round, round_id, need=Role.MAKER, for_update=True)
    check = round.check_run
    if round.settled_at:
        newer = check.rounds.order_by("-number").first()
        more = (
            f" Round {newer.number} is the one in hand."
            if newer and newer.number != round.number
            else ""
        )
        raise Conflict(
            f"Round {round.number} is settled and stays as it was judged.{more} "
            "What you typed is kept on this page.",
            code="round-settled",
        )
    return check, round


def set_up(scope: Scope, round_id: UUID, form: SetupIn) -> Check:
    """State how the round is read, before or between its readings."""
    check, round = open_round(scope, round_id)
    if form.version != round.version:
        raise Conflict(
            "Somebody changed this set-up since the page was loaded. Look at theirs, then change "
            "it again if you still want to.",
            code="setup-changed",
        )
    core = kind(check.kind)
    instrument = scope.get(Instrument, form.instrument_id) if form.instrument_id else None
    if instrument is not None and instrument.workshop_id != check.machine.workshop_id:
        raise Http404
    setup = _stated(check, form.setup)
    spec = _usable(core, setup, instrument)
    # refuses positions that could not tell a lean, before a single reading is taken
    _expectable(core, compute.case_of(check, round, (), setup=setup, instrument=spec))
    _readings_fit(core, round, setup, instrument)
    round.setup = dump("setup", setup)
    round.subject = setup.subject.text
    round.instrument = instrument
    if not round.readings.exists():
        round.instrument_spec = dump("instrument", spec)
    round.version += 1
    round.save()
    compute.recompute(check, round)
    return check


def _stated(check: Check, typed: dict[str, Any]) -> Any:
    """A set-up as typed, with what its pieces are called now. Invalid where it cannot be used."""
    setup = validated(kind(check.kind).setup_type, {**typed, "kind": check.kind}, "setup")
    names = named_pieces(check.machine.workshop_id, setup.pieces)
    for field, value in setup:
        picked = value if isinstance(value, list) else [value]
        if any(id in setup.pieces and id not in names for id in picked):
            raise Problem(
                "That piece is not in the kit.",
                expected="Pick another, or add it under Kit.",
                field=f"setup.{field}",
            )
    return setup.named(names)


def _usable(core: Any, setup: Any, instrument: Instrument | None) -> InstrumentSpec:
    """The instrument for this way of reading, named or taken for granted."""
    if instrument is None:
        usual: InstrumentSpec | None = core.without()
        if usual is None:
            raise Problem(
                "No instrument has been chosen.", expected="Pick one.", field="instrument"
            )
        return usual
    if instrument.spec["type"] not in core.takes(setup):
        raise Problem(
            f"{instrument.name} cannot be used for this way of reading.",
            expected="Pick an instrument that suits it, or another way.",
            field="instrument",
        )
    return instrument_spec(instrument.spec)


def suggestion(scope: Scope, round_id: UUID, typed: dict[str, Any]) -> Suggestion:
    """The instruments of the kit for a set-up as typed, finest first."""
    round = scope.get(Round, round_id)
    check = round.check_run
    core = kind(check.kind)
    setup = _stated(check, typed)
    kit = scope.all(Instrument).filter(workshop_id=check.machine.workshop_id, archived=False)
    try:
        found = suggest(
            core,
            lambda spec: compute.case_of(check, round, (), setup=setup, instrument=spec),
            [(str(i.pk), i.name, instrument_spec(i.spec)) for i in kit],
        )
        machine = machine_spec(check.machine)
        found.doubts = core.doubts(setup, machine)
        found.sketch = core.sketch(setup, machine) if core.suits(machine) else None
        return found
    except Problem as problem:
        where = problem.field if problem.field == "instrument" else f"setup.{problem.field}"
        raise problem.at(where) from None


def _expectable(core: Any, case: Case[Any, Any]) -> None:
    try:
        core.expect(case)
    except Problem as problem:
        where = problem.field if problem.field == "instrument" else f"setup.{problem.field}"
        raise problem.at(where) from None


def _readings_fit(core: Any, round: Round, setup: Any, instrument: Instrument | None) -> None:
    readings = list(round.readings.all())
    read = {r.station for r in readings}
    if not read:
        return
    if round.instrument_id != (instrument.pk if instrument else None):
        raise Problem(
            "This round has readings of another instrument.",
            expected="Settle it and read the next round with this one.",
            field="instrument",
        )
    live = compute.core_readings(readings)
    gone = read - {s.key for s in core.stations(setup, live)}
    if gone:
        raise Problem(
            f"There are readings at {', '.join(sorted(gone))} that this set-up has no place for.",
            expected="Keep those places, or settle this round and set up the next.",
            field="setup",
        )


def settle(scope: Scope, round_id: UUID) -> Check:
    """Enter the round in the logbook as it is judged now, and end the check."""
    round = scope.get(Round, round_id, need=Role.MAKER, for_update=True)
    check = round.check_run
    if round.settled_at is None:
        _freeze(round, *compute.recompute(check, round, advising=True))
    if check.closed_at is None:
        check.closed_at = timezone.now()
        check.save(update_fields=["closed_at"])
    return check


def _freeze(round: Round, result: Outcome, case: Case[Any, Any] | None) -> None:
    if result.finding is None or case is None:
        raise Problem(
            result.problem or "There is no finding yet.",
            expected="Read on before settling.",
            field="readings",
        )
    round.settled_at = timezone.now()
    round.snapshot = dump("snapshot", Snapshot.of(case))
    round.save(update_fields=["settled_at", "snapshot"])
    for taught in result.finding.teaches:
        teach_piece(round.check_run.machine.workshop_id, taught.piece, taught.figures)


def another_round(scope: Scope, check_id: UUID, *, id: UUID) -> Check:
    """A further round of a settled check, set up like the last."""
    seen = scope.get(Check, check_id, need=Role.MAKER)
    # locked first, as by who begins one: of a kind one check is under way on a machine
    Machine.objects.select_for_update().get(pk=seen.machine_id)
    check = scope.get(Check, check_id, need=Role.MAKER, for_update=True)
    last = check.rounds.order_by("-number").first()
    assert last is not None
    if last.settled_at is None or last.pk == id:
        return check
    newer = Check.objects.filter(machine=check.machine_id, kind=check.kind, closed_at=None)
    if check.closed_at and newer.exists():
        raise Conflict(
            "A newer check of this kind is under way on this machine. Read on there, or settle it "
            "first.",
            code="under-way",
        )
    _next_round(check, last, id, scope.user, [])
    return check


def _next_round(
    check: Check,
    last: Round,
    id: UUID,
    by: User,
    predicted: list[Prediction],
    move: CoreMove | None = None,
) -> Round:
    if Round.objects.filter(pk=id).exists():
        id = uuid4()
    if check.closed_at:
        check.closed_at = None
        check.save(update_fields=["closed_at"])
    instrument = last.instrument
    setup, subject = last.setup, last.subject
    if setup is not None:
        core = kind(check.kind)
        # a record that nothing makes readable is set up anew rather than refused
        try:
            following = core.following(compute.setup_of(check, last), move)
            setup, subject = dump("setup", following), following.subject.text
        except Unreadable:
            setup = None
    return Round.objects.create(
        id=id,
        check_run=check,
        number=last.number + 1,
        subject=subject,
        setup=setup,
        instrument=instrument,
        instrument_spec=instrument.spec if instrument else last.instrument_spec,
        predicted=dump_list("prediction", predicted),
        opened_at=timezone.now(),
        by=by,
    )


def past(at: datetime) -> datetime:
    """The browser's time, but not later than ours: a wrong clock must not reorder a round."""
    aware = at if timezone.is_aware(at) else timezone.make_aware(at)
    return min(aware, timezone.now())


# --- moves and notes ------------------------------------------------------------------------------


def make_move(scope: Scope, round_id: UUID, form: MoveIn) -> Check:
    """Record what was done after a round, settle it, and open the next with its prediction."""
    seen = scope.get(Round, round_id, need=Role.MAKER)
    # locked first: of two presses the second finds what the first has done, and what is done on
    # another check of the machine, or taken back there, is done before or after
    machine = Machine.objects.select_for_update().get(pk=seen.check_run.machine_id)
    done = scope.all(Move).filter(pk=form.id).first()
    if done is not None:
        return done.round.check_run
    check, round = open_round(scope, round_id)
    check.machine = machine
    if form.key is None and not form.said.strip():
        raise Problem(
            "Nothing is said about what was done.", expected="Say it in a few words.", field="said"
        )
    result, case = compute.recompute(check, round, advising=True)
    move = _advised(round, result, case, form)
    shift = _shift(round, move, form)
    _freeze(round, result, case)
    Move.objects.create(
        id=form.id,
        round=round,
        advised=dump("move", move) if move else None,
        made=_made(result, move, shift),
        said=form.said.strip(),
        needle=[n.model_dump(mode="json") for n in form.needle if n.text.strip()],
        made_at=past(form.made_at),
        truth_before=check.machine.truth,
        by=scope.user,
    )
    if move:
        carry_out(check.machine, check.kind, move)
    _next_round(check, round, form.next_round_id, scope.user, move.predicted if move else [], move)
    return check


def _made(result: Outcome, move: CoreMove | None, shift: dict[str, float]) -> dict[str, Any] | None:
    if move is None or result.finding is None:
        return None
    return dump("made", move_made(move, result.finding.quantities, shift))


def _advised(
    round: Round, result: Outcome, case: Case[Any, Any] | None, form: MoveIn
) -> CoreMove | None:
    """The move of the advice that the page shows. Conflict when something that went into that
    advice has changed since: its prediction would be one of another machine."""
    if form.key is None:
        return None
    id, advice = compute.advised(round, case, result) if case else ("", None)
    move = next((m for m in (advice.moves if advice else []) if m.key == form.key), None)
    if move is None or id != form.advice:
        raise Conflict(
            "The advice has changed since the page was loaded. Look at it again.", code="advice"
        )
    if move.needs is not None:
        raise Problem(move.needs.metric, expected="Say what you did instead.", field="key")
    return move


def _shift(round: Round, move: CoreMove | None, form: MoveIn) -> dict[str, float]:
    """What tightening did, where the needle was read nipped and tight at a station."""
    if move is None:
        return {}
    instrument = compute.instrument_of(round)
    shown: dict[tuple[str, str], float] = {}
    for i, needle in enumerate(form.needle):
        if not needle.text.strip():
            continue
        try:
            shown[needle.station, needle.state] = instrument.read(needle.text).mm
        except Problem as problem:
            raise problem.at(f"needle.{i}.text") from None
    found: dict[str, float] = {}
    for (station, state), tight in shown.items():
        nipped = shown.get((station, "nipped"))
        if state == "tight" and nipped is not None:
            found |= needle_shift(move, station, tight - nipped)
    return found


def carry_out(machine: Machine, kind_key: str, move: CoreMove) -> None:
    """The machine's description and the tin follow the move; a stand-in answers it."""
    spec = machine_spec(machine)
    if machine.truth is not None:
        truth = Truth.model_validate(machine.truth)
        after = apply(kind_key, move, truth, spec, np.random.default_rng())
        machine.truth = after.model_dump(mode="json")
    describe(machine, done(move, spec))
    machine.save(update_fields=["spec", "truth"])
    take_from_tin(machine.workshop_id, {t.thickness_mm: t.count for t in move.tin})


def carry_back(machine: Machine, move: CoreMove, truth: dict[str, Any] | None) -> None:
    """As if the move had not been made: its shims in the tin again, and a stand-in at `truth`.

    Where somebody has described the machine otherwise since, their description stands.
    """
    if machine.truth is not None and truth is not None:
        machine.truth = truth
    with suppress(Problem):
        describe(machine, undone(move, machine_spec(machine)))
        take_from_tin(machine.workshop_id, {t.thickness_mm: -t.count for t in move.tin})
    machine.save(update_fields=["spec", "truth"])


def add_note(scope: Scope, round_id: UUID, form: NoteIn) -> Check:
    """A remark beside a round, settled or not."""
    round = scope.get(Round, round_id, need=Role.MAKER)
    if not form.text.strip():
        raise Problem("The note is empty.", expected="Write a few words.", field="text")
    if not scope.all(Note).filter(pk=form.id).exists():
        if Note.objects.filter(pk=form.id).exists():
            raise Conflict("Another note has this id.", code="duplicate")
        Note.objects.create(
            id=form.id,
            round=round,
            text=form.text.strip(),
            written_at=past(form.written_at),
            by=scope.user,
        )
    return round.check_run
