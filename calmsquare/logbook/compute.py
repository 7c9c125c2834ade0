"""From the record to the core and back: what a round's readings come to."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from pydantic import TypeAdapter, ValidationError

from calmsquare.logbook.models import Check, Move, Reading, Round
from calmsquare.logbook.schemas import LogValue, Outcome
from calmsquare.workshop.models import Machine
from calmsquare.workshop.services import instrument_spec, machine_spec, stock_of, tolerances
from truing import VERSION
from truing.contract.check import Tolerances
from truing.contract.history import History, MoveMade, PastRound
from truing.contract.move import Prediction
from truing.contract.readings import GradeReading, LengthReading, ObservationReading
from truing.contract.readings import Reading as CoreReading
from truing.contract.trends import trends
from truing.kit.instruments import Instrument as InstrumentSpec
from truing.kit.shims import Shim
from truing.machine import Machine as MachineSpec
from truing.measure.estimate import Estimate
from truing.measure.problem import Problem
from truing.measure.spread import Spread
from truing.registry import kind

PREDICTIONS: TypeAdapter[list[Prediction]] = TypeAdapter(list[Prediction])


@dataclass
class Context:
    """Everything that judging a round takes, fetched once."""

    machine: MachineSpec
    tolerances: Tolerances
    stock: list[Shim]
    history: History


def stored(round: Round) -> Outcome:
    """What was computed for a round. One stored by a core of another shape keeps its verdict and
    is told in words; its readings and snapshot are whole."""
    if round.outcome is None:
        return Outcome(problem="Nothing has been read yet.")
    try:
        return Outcome.model_validate(round.outcome)
    except ValidationError:
        return Outcome(
            problem=f"Judged “{round.verdict}” by core {round.core_version}; "
            "its details are of an older form."
        )


def move_of(round: Round) -> Move | None:
    """What was done after a round, unless it was taken back."""
    move: Move | None = getattr(round, "move", None)
    return move if move and move.taken_back_at is None else None


def values_of(outcome: Outcome) -> list[LogValue]:
    """Each quantity of a finding with its own verdict."""
    if outcome.finding is None or outcome.judgement is None:
        return []
    verdicts = {j.quantity: j.verdict for j in outcome.judgement.judged}
    return [
        LogValue(label=q.label, words=q.words, status=verdicts[q.key])
        for q in outcome.finding.quantities
        if q.key in verdicts
    ]


def context(check: Check, before: Round, *, advise: bool = True) -> Context:
    """What is known at the time of the round `before`: earlier rounds, machine, and what only
    advice looks at: the tin, and tightening shifts."""
    # another part of the machine has a history of its own
    earlier = check.rounds.filter(number__lt=before.number, part=before.part).select_related("move")
    return Context(
        machine=machine_spec(check.machine),
        tolerances=tolerances(check.machine, check.kind),
        stock=stock_of(check.machine.workshop_id) if advise else [],
        history=history(list(earlier), _shifts(check.machine) if advise else {}),
    )


def history(earlier: list[Round], shifts: dict[str, dict[str, list[float]]]) -> History:
    """Earlier rounds of this check, and the tightening shifts of all checks on the machine."""
    past = []
    spread = Spread()
    for r in earlier:
        # only what later rounds lean on, in the shape that every version has had
        finding = (r.outcome or {}).get("finding")
        if finding is None:
            continue
        move = move_of(r)
        past.append(
            PastRound(
                number=r.number,
                values={
                    q["key"]: Estimate.model_validate(q["estimate"]) for q in finding["quantities"]
                },
                move=MoveMade.model_validate(move.made) if move and move.made else None,
                did=said_of(move) if move else "",
            )
        )
        spread += Spread.model_validate(finding["spread"])
    return History(rounds=past, spread=spread, shifts=shifts)


def said_of(move: Move) -> str:
    """What was done, in words."""
    if move.advised:
        return str(move.advised["title"]["metric"])
    return move.said


def _shifts(machine: Machine) -> dict[str, dict[str, list[float]]]:
    found: dict[str, dict[str, list[float]]] = {}
    made = Move.objects.filter(
        round__check_run__machine=machine, made__isnull=False, taken_back_at=None
    )
    for item in made.order_by("made_at").values_list("made", flat=True):
        move = MoveMade.model_validate(item)
        for quantity, shift in move.tightening_mm_per_m.items():
            found.setdefault(move.mechanism, {}).setdefault(quantity, []).append(shift)
    return found


def ordered(readings: list[Reading]) -> list[tuple[Reading, bool]]:
    """Every reading with whether it counts, in the order in which its place was first read: a
    correction stands where the reading it corrects stood."""
    by_id = {r.pk: r for r in readings}
    replaced = {r.supersedes_id for r in readings if r.supersedes_id}

    def root(reading: Reading) -> Reading:
        while reading.supersedes_id in by_id:
            reading = by_id[reading.supersedes_id]
        return reading

    in_order = sorted(readings, key=lambda r: (root(r).read_at, r.read_at, r.received_at))
    return [(r, r.pk not in replaced and not r.withdrawn) for r in in_order]


def core_readings(readings: list[Reading]) -> list[CoreReading]:
    """The readings that count, as the core takes them; a zero set on a corrected reading follows
    the correction."""
    newest = {r.supersedes_id: r.pk for r in readings if r.supersedes_id}

    def latest(id: UUID | None) -> str | None:
        while id in newest:
            id = newest[id]
        return str(id) if id else None

    return [core_reading(r, latest(r.zeroed_on)) for r, live in ordered(readings) if live]


def core_reading(r: Reading, zeroed_on: str | None) -> CoreReading:
    """One reading as the core takes it."""
    id = str(r.pk)
    if r.reads == "grade":
        return GradeReading(
            id=id, station=r.station, read_at=r.read_at, grade=r.grade, where_mm=r.shown_mm
        )
    if r.reads == "observation":
        return ObservationReading(
            id=id, station=r.station, read_at=r.read_at, grade=r.grade, text=r.note
        )
    assert r.shown_mm is not None
    return LengthReading(
        id=id, station=r.station, read_at=r.read_at, shown_mm=r.shown_mm, zeroed_on=zeroed_on
    )


def setup_of(check: Check, round: Round) -> Any:
    """The round's set-up as the core's model; Problem when none is stated yet."""
    if round.setup is None:
        raise Problem(
            "How this round is read has not been stated.",
            expected="Fill in Set up first.",
            field="setup",
        )
    return kind(check.kind).setup_type.model_validate(round.setup)


def instrument_of(round: Round) -> InstrumentSpec:
    """The instrument as it was when the round was set up."""
    if round.instrument_spec is None:
        usual = kind(round.check_run.kind).without()
        if usual is not None:
            return usual
        raise Problem(
            "No instrument has been chosen.", expected="Pick one under Set up.", field="instrument"
        )
    return instrument_spec(round.instrument_spec)


def outcome(
    check: Check,
    round: Round,
    known: Context,
    readings: list[CoreReading],
    *,
    advise: bool = True,
) -> Outcome:
    """Finding, judgement and advice; the reason instead, while there is none."""
    core = kind(check.kind)
    try:
        setup = setup_of(check, round)
        instrument = instrument_of(round)
        finding = core.evaluate(setup, readings, instrument, known.history)
    except Problem as problem:
        return Outcome(problem=str(problem))
    judgement = core.judge(setup, finding, known.tolerances)
    ready = core.ready(setup, readings)
    advice = None
    if advise and judgement.verdict != "true" and ready:
        advice = core.advise(
            setup, finding, known.tolerances, known.machine, instrument, known.stock, known.history
        )
    return Outcome(
        finding=finding,
        judgement=judgement,
        advice=advice,
        trends=trends(
            finding, known.history, known.tolerances, PREDICTIONS.validate_python(round.predicted)
        ),
        ready=ready,
        complete=core.next_station(setup, readings) is None,
    )


def recompute(check: Check, round: Round, known: Context) -> Outcome:
    """Judge an open round anew and keep the result with it."""
    readings = list(round.readings.select_related("by"))
    result = outcome(check, round, known, core_readings(readings))
    round.outcome = result.model_dump(mode="json")
    # half a reading judges nothing: the machine stands as it did
    round.verdict = result.judgement.verdict if result.judgement and result.ready else ""
    round.core_version = VERSION
    round.save(update_fields=["outcome", "verdict", "core_version"])
    return result
