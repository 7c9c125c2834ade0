"""What is kept of a round, read back: outcome, summary, prediction, move."""

from __future__ import annotations

import logging
from collections.abc import Callable
from functools import partial
from typing import Any, Protocol

from calmsquare.logbook.models import Move, Round
from calmsquare.logbook.schemas import LogValue
from truing.contract.move import Prediction
from truing.measure.words import plain
from truing.record import Outcome, Summary, Unreadable, load, load_list, load_text

log = logging.getLogger(__name__)


def stored(round: Round) -> Outcome:
    """What was computed for a round. One that nothing makes readable keeps its verdict and is told
    in words; its readings and snapshot are whole."""
    if round.outcome is None:
        return Outcome(problem="Nothing has been read yet.")
    try:
        found: Outcome = load("outcome", round.outcome, round.check_run.kind)
    except Unreadable:
        log.exception("round %s", round.pk)
        return Outcome(
            problem=f"Judged “{round.verdict}” by core {round.core_version}; "
            "its details cannot be read."
        )
    return found


def predicted(round: Round) -> list[Prediction]:
    """What the move before this round was to lead to."""
    return load_list("prediction", round.predicted, round.check_run.kind)


def move_of(round: Round) -> Move | None:
    """What was done after a round, unless it was taken back."""
    move: Move | None = getattr(round, "move", None)
    return move if move and move.taken_back_at is None else None


class Judged(Protocol):
    """What is told of a round whose own figures cannot be read."""

    @property
    def pk(self) -> Any: ...
    @property
    def verdict(self) -> str: ...
    @property
    def core_version(self) -> str: ...


def summary_of(round: Round) -> Summary:
    """What lists and the course show of a round."""
    return _summary(round, round.summary, partial(load, "summary", kind=round.check_run.kind))


def summary_in(text: str | None, round: Judged, kind: str) -> Summary:
    """As `summary_of`, from the text of its column: of many rounds at once, of which most were
    made out before."""
    return _summary(round, text, partial(load_text, "summary", kind=kind))


def _summary(round: Judged, kept: Any, read: Callable[[Any], Any]) -> Summary:
    if kept is None:
        return Summary(sentence=None, values=[])
    try:
        found: Summary = read(kept)
    except Unreadable:
        log.exception("round %s", round.pk)
        told = f"Judged “{round.verdict}” by core {round.core_version}; "
        return Summary(sentence=plain(f"{told}what it came to cannot be read."), values=[])
    return found


def values_of(summary: Summary) -> list[LogValue]:
    """Each judged quantity with its own verdict."""
    return [LogValue(label=v.label, words=v.words, status=v.verdict) for v in summary.values]
