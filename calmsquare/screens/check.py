"""The check screen's data, put together from the record."""

from __future__ import annotations

from collections.abc import Sequence
from copy import deepcopy
from typing import Any
from uuid import UUID

from calmsquare.jobs.here import costs
from calmsquare.logbook import compute, recorded
from calmsquare.logbook.course import log_of, nothing_moved, zone_of
from calmsquare.logbook.doubt import question_of
from calmsquare.logbook.models import Check, Reading, Round
from calmsquare.logbook.readings import Kept
from calmsquare.logbook.schemas import BatchAnswer
from calmsquare.screens.people import move_out, note_out, photo_out
from calmsquare.screens.schemas import (
    BatchOut,
    Brief,
    CheckOut,
    Dial,
    DrawingOut,
    FindingOut,
    KindOut,
    Measured,
    NewsOut,
    ReadingOut,
    RoundOut,
)
from calmsquare.workshop.models import Piece, Role
from calmsquare.workshop.people import name_of
from calmsquare.workshop.scope import Scope
from calmsquare.workshop.services import (
    instrument_spec,
    job_of_limits,
    machine_spec,
    piece_spec,
    tolerances,
)
from truing.contract.case import Case
from truing.contract.check import Check as CoreCheck
from truing.contract.setup import Station
from truing.course.guide import guide
from truing.course.standing import Standing
from truing.course.step import detour
from truing.kit.instruments import INSTRUMENT_TITLES, needle_at
from truing.kit.instruments import Instrument as InstrumentSpec
from truing.machine.mechanisms import mechanisms_of
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.fields import proposed_lengths, shown_lengths
from truing.measure.words import Words, plain, show
from truing.record import Outcome, Snapshot, Unreadable, load
from truing.registry import kind, registry


def kinds() -> list[KindOut]:
    """Every kind of check that is built."""
    return [_kind(core) for core in registry().values()]


def _kind(core: CoreCheck[Any, Any]) -> KindOut:
    return KindOut(
        key=core.key,
        title=core.course.title,
        question=core.course.question,
        stage=core.course.stage,
        layout=core.layout,
        needs_instrument=core.without() is None,
        cuts=core.cuts,
        takes={way: list(types) for way, types in core.takes_by_way().items()},
        guide=guide(core.key),
    )


def check_out(scope: Scope, check: Check) -> CheckOut:
    """A check with all its rounds and their readings; findings are asked for round by round."""
    core = kind(check.kind)
    machine = check.machine
    rounds = list(
        check.rounds.select_related("move__by", "by", "instrument").prefetch_related(
            "readings__by", "notes__by", "photos__by"
        )
    )
    spec = machine_spec(machine)
    limits = tolerances(machine, check.kind)
    role = scope.role(machine.workshop_id)
    log = log_of(machine)
    found = log.standings(machine, zone_of(machine))
    return CheckOut(
        id=check.pk,
        kind=check.kind,
        machine_id=machine.pk,
        machine_name=machine.name,
        workshop_id=machine.workshop_id,
        can_write=role != Role.VIEWER,
        has_standin=machine.truth is not None,
        powered=core.powered(spec),
        setup_schema=_with_pieces(core.form(spec), machine.workshop_id),
        cost=core.cost(spec, limits),
        letters=spec.letters(),
        cautions=guide(check.kind).cautions_for(mechanisms_of(spec)),
        limits=core.limits(limits),
        limits_for=job_of_limits(machine, check.kind),
        opened_at=check.opened_at,
        closed_at=check.closed_at,
        first_move=nothing_moved(machine),
        detour=detour(check.kind, found),
        goes_by=core.goes_by(spec),
        rounds=[_round_out(core, check, r, found) for r in rounds],
    )


def _with_pieces(schema: dict[str, Any], workshop_id: UUID) -> dict[str, Any]:
    """The form with the pieces of the kit named where it asks for one."""
    asking = {
        name: field["x-form"]["pieces"]
        for name, field in schema["properties"].items()
        if "pieces" in field.get("x-form", {})
    }
    if not asking:
        return schema
    schema = deepcopy(schema)
    kit = Piece.objects.filter(workshop_id=workshop_id, archived=False).order_by("created_at")
    named = [(str(p.pk), p.name, piece_spec(p.spec).type) for p in kit]
    for name, types in asking.items():
        form = schema["properties"][name]["x-form"]
        form["labels"] = {
            **form.get("labels", {}),
            **{id: title for id, title, type_ in named if type_ in types},
        }
        if "sorts" in form:
            # only what goes into the place that another field names
            of_type = {id: type_ for id, _, type_ in named}
            form["only"] = {
                place: [id for id in form["labels"] if of_type.get(id) in sorts]
                for place, sorts in form["sorts"].items()
            }
    return schema


def _round_out(
    core: CoreCheck[Any, Any], check: Check, r: Round, found: Sequence[Standing]
) -> RoundOut:
    setup = _stated(check, r)
    instrument = instrument_spec(r.instrument_spec) if r.instrument_spec else None
    readings = list(r.readings.all())
    suggested, stated_before = (None, False) if setup else _suggested(core, check, r, found)
    told = shown_lengths if stated_before else proposed_lengths
    live = compute.core_readings(readings)
    stations = core.stations(setup, live) if setup else []
    move = getattr(r, "move", None)
    outcome = recorded.stored(r)
    following = compute.following(check, setup, readings, outcome) if setup else None
    expected = None
    if setup and instrument:
        expected = core.expect(compute.case_of(check, r, (), setup=setup, instrument=instrument))
    subjects = dict(core.course.subjects_of(machine_spec(check.machine)))
    return RoundOut(
        id=r.pk,
        number=r.number,
        version=r.version,
        part=subjects.get(r.subject, ""),
        setup=setup,
        setup_shown=shown_lengths(setup) if setup else {},
        suggested=suggested.model_dump(mode="json") if suggested else None,
        suggested_shown=told(suggested) if suggested else {},
        instrument_id=r.instrument_id,
        instrument_name=r.instrument.name if r.instrument else _taken(instrument),
        instrument=instrument,
        dial=_dial(instrument) if instrument else None,
        stations=stations,
        turn=[s.key for s in core.order(setup, live)] if setup else [],
        passes=core.passes(setup) if setup else 0,
        next_station=following.key if following else None,
        expectation=expected,
        readings=_readings_out(readings, r, stations),
        brief=_brief(outcome),
        predicted=recorded.predicted(r),
        move=move_out(move) if move else None,
        notes=[note_out(n) for n in r.notes.all()],
        photos=[photo_out(p) for p in r.photos.all()],
        settled_at=r.settled_at,
        opened_at=r.opened_at,
        core_version=r.core_version,
    )


def _dial(instrument: InstrumentSpec) -> Dial:
    return Dial(
        units=instrument.units,
        needle=instrument.turn_mm is not None,
        can_zero=instrument.can_zero,
        plus_means=instrument.plus_means,
    )


def _brief(outcome: Outcome) -> Brief:
    judgement = outcome.judgement
    limit = judgement.judged[0].tolerance_words if judgement and judgement.judged else None
    return Brief(
        verdict=judgement.verdict if judgement and outcome.ready else None,
        sentence=judgement.sentence if judgement and outcome.ready else None,
        problem=outcome.problem,
        ready=outcome.ready,
        complete=outcome.complete,
        limit=limit,
        values=_values(outcome),
    )


def _values(outcome: Outcome) -> list[Measured]:
    if outcome.finding is None or outcome.judgement is None:
        return []
    limits = {j.quantity: j.tolerance for j in outcome.judgement.judged}
    return [
        Measured(
            key=q.key,
            label=q.label,
            words=q.words,
            value=q.estimate.value,
            expanded=q.estimate.expanded,
            limit=limits[q.key],
        )
        for q in outcome.finding.quantities
        if q.key in limits
    ]


def _readings_out(
    readings: Sequence[Reading], round: Round, stations: Sequence[Station]
) -> list[ReadingOut]:
    tools = _Tools(round)
    answers = {(s.key, g.key): g.label for s in stations for g in s.grades}
    in_order = compute.ordered(readings)
    return [_reading_out(r, live, tools, answers, readings) for r, live in in_order]


class _Tools:
    """The instruments of a round, each made out once."""

    def __init__(self, round: Round) -> None:
        self.own = instrument_spec(round.instrument_spec) if round.instrument_spec else None
        self.others = {key: instrument_spec(spec) for key, spec in round.others.items()}

    def of(self, reading: Reading) -> InstrumentSpec | None:
        return self.others.get(reading.instrument_key, self.own)


def finding_out(scope: Scope, round_id: UUID) -> FindingOut:
    """A round's finding with its figures, and advice where it calls for some."""
    round = scope.get(Round, round_id, related=("check_run__machine__workshop",))
    check = round.check_run
    core = kind(check.kind)
    outcome = recorded.stored(round)
    answer = FindingOut(
        round_id=round.pk,
        finding=outcome.finding,
        judgement=outcome.judgement,
        trends=outcome.trends,
        problem=outcome.problem,
        ready=outcome.ready,
        complete=outcome.complete,
        figures=[],
        advice_id="",
        advice=None,
        drawing=None,
        jobs=[],
    )
    if outcome.finding is None or outcome.judgement is None:
        return answer
    case = _case(check, round).but(found=outcome.finding, judged=outcome.judgement)
    answer.figures = core.figures(case)
    answer.jobs = costs(check.machine, check.kind)
    drawn = core.drawing(case)
    if drawn is not None:
        answer.drawing = DrawingOut(title=drawn.title, shows=drawn.shows, note=drawn.note)
    if round.settled_at is None:
        answer.advice_id, answer.advice = compute.advised(round, case, outcome)
    return answer


def _case(check: Check, round: Round) -> Case[Any, Any]:
    """The case as it stands; for a settled round, with the limits it was judged by."""
    rows = list(round.readings.all())
    live, without = compute.core_readings(rows), compute.left_out(rows)
    if round.snapshot is None:
        return compute.case_of(check, round, live, without=without, advising=True)
    snapshot: Snapshot = load("snapshot", round.snapshot, check.kind)
    return snapshot.case(live).but(left_out=without)


def news_out(kept: Kept) -> NewsOut:
    """What one reading changed: small, however large its round is."""
    core, round = kind(kept.check.kind), kept.round
    setup = compute.setup_of(kept.check, round)
    live = compute.core_readings(kept.readings)
    now = core.stations(setup, live) if core.grows else list(kept.before)
    was = {s.key: s for s in kept.before}
    following = compute.following(kept.check, setup, kept.readings, kept.outcome)
    in_order = compute.ordered(kept.readings)
    place = next(i for i, (r, _) in enumerate(in_order) if r.pk == kept.reading.pk)
    about = {kept.reading.pk, kept.reading.supersedes_id}
    tools = _Tools(round)
    answers = {(s.key, g.key): g.label for s in now for g in s.grades}
    order = [s.key for s in now]
    return NewsOut(
        check_id=kept.check.pk,
        round_id=round.pk,
        readings=[
            _reading_out(r, live, tools, answers, kept.readings)
            for r, live in in_order
            if r.pk in about
        ],
        after=in_order[place - 1][0].pk if place else None,
        stations=[s for s in now if was.get(s.key) != s],
        order=order if order != list(was) else None,
        turn=[s.key for s in core.order(setup, live)] if order != list(was) else None,
        next_station=following.key if following else None,
        brief=_brief(kept.outcome),
    )


def batch_out(outcome: Outcome, answers: list[BatchAnswer]) -> BatchOut:
    """What became of a batch."""
    return BatchOut(answers=answers, brief=_brief(outcome))


def _taken(instrument: InstrumentSpec | None) -> str:
    return INSTRUMENT_TITLES[instrument.type] if instrument else ""


def _stated(check: Check, r: Round) -> Any:
    """The round's set-up; None when none is stated, or when nothing makes it readable."""
    if not r.setup:
        return None
    try:
        return load("setup", r.setup, check.kind)
    except Unreadable:
        return None


def _suggested(
    core: CoreCheck[Any, Any], check: Check, r: Round, found: Sequence[Standing]
) -> tuple[Any, bool]:
    """The set-up of the last time, or a usual one: for the part that was asked for, else for the
    one that calls for attention. And whether somebody stated it."""
    standing = next((s for s in found if s.kind == check.kind), None)
    parts = standing.parts if standing else []
    wanted = next((p.key for p in parts if p.needed and p.status != "true"), "")
    wanted = wanted or (parts[0].key if parts else THE_MACHINE.text)
    if any(p.key == r.subject for p in parts):
        wanted = r.subject
    rounds = Round.objects.filter(
        check_run__machine=check.machine, check_run__kind=check.kind, setup__isnull=False
    ).order_by("-opened_at")
    # a chain of pieces is begun with what was put together last
    last = rounds.filter(subject=wanted).first() if parts else rounds.first()
    setup = _stated(check, last) if last else None
    if setup is None:
        return core.propose(machine_spec(check.machine), Subject.read(wanted)), False
    return setup, True


def _reading_out(
    reading: Reading,
    live: bool,
    tools: _Tools,
    answers: dict[tuple[str, str], str],
    all_of_them: Sequence[Reading],
) -> ReadingOut:
    # only what was read as a length shows one
    shown, instrument = reading.shown_mm, tools.of(reading)
    question = None
    if instrument and shown is not None and live and not reading.sent.get("accepted", True):
        question = question_of(reading, instrument, all_of_them)
    return ReadingOut(
        id=reading.pk,
        station=reading.station,
        reads=reading.reads,
        text=reading.text,
        unit=reading.unit,
        shown_mm=shown,
        x_mm=reading.x_mm,
        y_mm=reading.y_mm,
        grade=reading.grade,
        note=reading.note,
        words=_reading_words(reading, instrument, answers),
        needle=needle_at(instrument, shown) if instrument and shown is not None else None,
        question=question,
        zeroed_on=reading.zeroed_on,
        supersedes=reading.supersedes_id,
        live=live,
        read_at=reading.read_at,
        by=name_of(reading.by),
    )


def _reading_words(
    reading: Reading, instrument: InstrumentSpec | None, answers: dict[tuple[str, str], str]
) -> Words:
    where = f", at {reading.text}" if reading.x_mm is not None and reading.text else ""
    if reading.reads == "log":
        return plain(reading.text)
    if reading.reads != "length":
        said = answers.get((reading.station, reading.grade), reading.grade)
        return plain(f"{said}{where}{': ' + reading.note if reading.note else ''}")
    assert reading.shown_mm is not None
    if instrument is None:
        return show(reading.shown_mm, 0.001)
    return instrument.reading_words(reading.shown_mm)
