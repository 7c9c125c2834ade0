"""Which instrument of the kit can decide a check, told before the first reading."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from pydantic import BaseModel

from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.judgement import Expectation
from truing.drawing.sketches import SketchFigure
from truing.kit.instruments import Instrument
from truing.measure.problem import Problem
from truing.measure.words import Words, join, plain, say, show


class Choice(BaseModel):
    """An instrument for a set-up: what to expect of it against the limit."""

    id: str
    name: str
    enough: bool
    share: float
    """U to be expected as a share of the limit; a quarter or less decides."""
    words: Words | None
    """U against the limit; None where nothing is measured."""


class Suggestion(BaseModel):
    """The instruments that suit, finest first, and a warning when none can decide every case."""

    choices: list[Choice]
    none: Words | None
    doubts: list[Words] = []
    """What of the set-up does not go with the machine."""
    sketch: SketchFigure | None = None
    """How it is set up, drawn for what is stated."""


def suggest(
    check: Check[Any, Any],
    case: Callable[[Instrument], Case[Any, Any]],
    kit: Sequence[tuple[str, str, Instrument]],
) -> Suggestion:
    """Rank the (id, name, instrument) of a kit for what is stated by U against the limit; `case`
    makes it with one of them.

    Problem, naming the field, when the set-up itself cannot be read with any instrument.
    """
    found: list[tuple[float, int, Expectation | None, Choice]] = []
    unfit: Problem | None = None
    for id, name, instrument in kit:
        stated = case(instrument)
        takes = check.takes(stated.setup)
        if instrument.type not in takes:
            continue
        try:
            told = check.expect(stated)
        except Problem as problem:
            if problem.field != "instrument":
                raise
            # one that cannot be used as described must not hide the others
            unfit = problem
            continue
        share = told.expanded / told.tolerance if told else 0.0
        enough = told.enough if told else True
        choice = Choice(id=id, name=name, enough=enough, share=share, words=_against(told))
        found.append((share, takes.index(instrument.type), told, choice))
    # among those that are equally good, the usual one for this way of reading
    found.sort(key=lambda item: item[:2])
    if not found:
        if unfit is not None:
            raise unfit
        if check.without() is not None:
            return Suggestion(choices=[], none=None)
        raise Problem(
            "There is no instrument for this way of reading in the kit.",
            expected="Add one under Kit, or read it another way.",
            field="instrument",
        )
    _, _, best, first = found[0]
    none = None
    if best is not None and best.expanded > best.tolerance:
        nearest = plain(f"Nothing in the kit can decide this yet; {first.name} comes nearest.")
        none = join([nearest, best.text])
    elif best is not None and not best.enough:
        none = join([_between(first.name, best), best.text])
    return Suggestion(choices=[c for *_, c in found], none=none)


def _between(name: str, best: Expectation) -> Words:
    """What an instrument that is fine enough for most errors leaves open."""
    step = best.tolerance / 20
    return say(
        "{name} can decide this unless the error lies between {least} and {most}.",
        name=name,
        least=show(best.tolerance - best.expanded, step, best.measure),
        most=show(best.tolerance + best.expanded, step, best.measure),
    )


def _against(told: Expectation | None) -> Words | None:
    if told is None:
        return None
    return say(
        "±{u} of {t}",
        u=show(told.expanded, told.expanded / 10, told.measure),
        t=show(told.tolerance, told.tolerance / 10, told.measure),
    )
