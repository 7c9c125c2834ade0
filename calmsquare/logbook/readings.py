"""What happens to a reading: previewed, kept, corrected, or asked of the stand-in."""

from __future__ import annotations

from uuid import UUID

import numpy as np
from django.utils import timezone

from calmsquare.logbook import compute
from calmsquare.logbook.models import Check, Reading, Round
from calmsquare.logbook.schemas import PreviewIn, PreviewOut, ReadingIn, StandinOut
from calmsquare.logbook.services import open_round, past
from calmsquare.problems import Conflict
from calmsquare.workshop.scope import Scope
from truing.check import LengthReading, kind
from truing.instruments import Instrument as InstrumentSpec
from truing.instruments import dial_reading, needle_at
from truing.problem import Problem
from truing.quantities import Length
from truing.standin.read import read as standin_read
from truing.standin.truth import Truth
from truing.words import say


def _understand(instrument: InstrumentSpec, form: ReadingIn | PreviewIn) -> Length:
    try:
        if form.dial is not None:
            return dial_reading(instrument, form.dial)
        return instrument.read(form.text, form.unit)
    except Problem as problem:
        raise problem.at("text") from None


def put_reading(scope: Scope, round_id: UUID, reading_id: UUID, form: ReadingIn) -> Check:
    """Keep a reading. Sent again with the same id and content it does nothing; with other content
    it is refused."""
    sent = form.model_dump(mode="json")
    there = Reading.objects.filter(pk=reading_id).first()
    if there is not None:
        mine = scope.all(Reading).filter(pk=reading_id, round_id=round_id).exists()
        if mine and there.sent == sent:
            return there.round.check_run
        raise Conflict(
            "Another reading has this id. Reload the page and enter it again.", code="reading-id"
        )
    check, round = open_round(scope, round_id)
    setup = compute.setup_of(check, round)
    instrument = compute.instrument_of(round)
    if form.station not in {s.key for s in kind(check.kind).stations(setup)}:
        raise Problem(
            f"{form.station} is not in the plan of this round.",
            expected="Pick a station of the plan.",
            field="station",
        )
    old = _superseded(round, form)
    if form.withdrawn and old:
        length = Length(mm=old.shown_mm, text=old.text, unit=old.unit, signed=True)
    else:
        length = _understand(instrument, form)
    if form.zeroed_on and not round.readings.filter(pk=form.zeroed_on).exists():
        raise Problem(
            "The dial was zeroed on a reading that is not in this round.",
            expected="Clear the zero, or enter that reading first.",
            field="zeroed_on",
        )
    Reading.objects.create(
        id=reading_id,
        round=round,
        station=form.station,
        sent=sent,
        text=length.text,
        unit=length.unit,
        shown_mm=length.mm,
        zeroed_on=form.zeroed_on,
        supersedes=old,
        withdrawn=form.withdrawn,
        read_at=past(form.read_at),
        by=scope.user,
    )
    compute.recompute(check, round, compute.context(check, round))
    return check


def _superseded(round: Round, form: ReadingIn) -> Reading | None:
    if form.supersedes is None:
        return None
    old = round.readings.filter(pk=form.supersedes).first()
    if old is None:
        raise Problem(
            "The reading to be corrected is not in this round.",
            expected="Reload the page and correct it there.",
            field="supersedes",
        )
    if hasattr(old, "superseded_by"):
        raise Conflict(
            "That reading has been corrected already. Reload to see it.", code="corrected"
        )
    return old


def preview(scope: Scope, round_id: UUID, form: PreviewIn) -> PreviewOut:
    """How a reading would be understood and what it would lead to; nothing is kept."""
    round = scope.get(Round, round_id, related=("check_run__machine",))
    check = round.check_run
    instrument = compute.instrument_of(round)
    length = _understand(instrument, form)
    known = compute.context(check, round, advise=False)
    readings = compute.core_readings(list(round.readings.all()))
    readings.append(
        LengthReading(
            id="preview",
            station=form.station,
            shown_mm=length.mm,
            read_at=timezone.now(),
            zeroed_on=str(form.zeroed_on) if form.zeroed_on else None,
        )
    )
    result = compute.outcome(check, round, known, readings, advise=False)
    words = instrument.reading_words(length.mm)
    return PreviewOut(
        shown_mm=length.mm,
        text=length.text,
        words=words,
        spoken=say(
            "{sign} {size}",
            sign="minus" if length.mm < 0 else "plus",
            size=instrument.reading_words(abs(length.mm), signed=False),
        ),
        needle=needle_at(instrument, length.mm),
        question=instrument.question(length),
        sentence=result.judgement.sentence if result.judgement else None,
        verdict=result.judgement.verdict if result.judgement else None,
    )


def ask_standin(scope: Scope, round_id: UUID, station: str) -> StandinOut:
    """What the simulated indicator of a practice machine shows at a station."""
    round = scope.get(Round, round_id)
    check = round.check_run
    if check.machine.truth is None:
        raise Problem(
            "This machine is a real one.", expected="Read its indicator.", field="station"
        )
    setup = compute.setup_of(check, round)
    instrument = compute.instrument_of(round)
    shown = standin_read(
        Truth.model_validate(check.machine.truth),
        setup,
        station,
        instrument,
        np.random.default_rng(),
    )
    unit = instrument.unit
    size = instrument.read(f"1 {unit}").mm
    return StandinOut(text=f"{shown / size:+.5g}", unit=unit)
