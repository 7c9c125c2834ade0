"""Readings that may be meant otherwise: what is asked about each, until its person has answered."""

from __future__ import annotations

from collections.abc import Sequence
from uuid import UUID

from django.db.models import F

from calmsquare.logbook.models import Reading, Round
from calmsquare.workshop.services import instrument_spec
from truing.kit.instruments import Instrument as InstrumentSpec
from truing.kit.instruments.base import Question
from truing.measure.lengths import Length

_SIGNS = ("+", "-", "\N{MINUS SIGN}")


def beside(
    known: Sequence[Reading],
    station: str,
    zeroed_on: UUID | None,
    instrument_key: str,
    *,
    but: UUID | None = None,
) -> list[float]:
    """What was read with the same instrument on the same zero: there before, or else anywhere in
    the round; without the reading that is being corrected (mm, as shown)."""
    replaced = {r.supersedes_id for r in known} | {but}
    alike = [
        r
        for r in known
        if r.shown_mm is not None
        and not r.withdrawn
        and r.pk not in replaced
        and (r.zeroed_on, r.instrument_key) == (zeroed_on, instrument_key)
    ]
    here = [r for r in alike if r.station == station]
    return [r.shown_mm for r in here or alike if r.shown_mm is not None]


def question_of(
    reading: Reading, instrument: InstrumentSpec, known: Sequence[Reading]
) -> Question | None:
    """What is to be asked about a reading as it was typed, beside the others of its round; None
    where it can only be meant as it stands."""
    if reading.shown_mm is None or not reading.text:
        return None
    signed = reading.text.lstrip()[:1] in _SIGNS
    length = Length(mm=reading.shown_mm, text=reading.text, unit=reading.unit, signed=signed)
    question = instrument.question(length)
    if question is None or question.about != "turns":
        return question
    # by what was there when it was typed: what comes later asks nothing of it
    before = [r for r in known if r.read_at < reading.read_at]
    near = beside(
        before,
        reading.station,
        reading.zeroed_on,
        reading.instrument_key,
        but=reading.supersedes_id,
    )
    return instrument.question(length, near)


def unanswered(round: Round) -> tuple[Reading, Question] | None:
    """The first reading of a round that counts, about which nobody has answered what it means."""
    known = list(
        round.readings.filter(reads="length").defer("sent").annotate(meant=F("sent__accepted"))
    )
    # a record of an older version does not say, and was judged as it stands
    if not any(r.meant is False for r in known):
        return None
    replaced = {r.supersedes_id for r in known}
    own = instrument_spec(round.instrument_spec) if round.instrument_spec else None
    others = {key: instrument_spec(spec) for key, spec in round.others.items()}
    for reading in known:
        instrument = others.get(reading.instrument_key, own)
        counts = not reading.withdrawn and reading.pk not in replaced
        if instrument is None or reading.meant is not False or not counts:
            continue
        question = question_of(reading, instrument, known)
        if question is not None:
            return reading, question
    return None
