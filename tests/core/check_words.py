"""What a kind of check says: in both systems, in words that a person reads, and one thing in
verdict, sentence and advice."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Iterator
from typing import Any

from pydantic import BaseModel

from truing.contract.case import Case
from truing.contract.check import Check
from truing.measure.words import Words

Check_ = Check[Any, Any]
Case_ = Case[Any, Any]

SHOWN = re.compile(r"(goes from|stays at|dial shows) .*")
"""What an instrument shows is told as it shows it: a dial in mm stays one for an inch reader."""


Steps = tuple[str | int, ...]


def walk(value: Any) -> Iterator[tuple[Steps, Any]]:
    """Every value inside of a model, with the steps to it."""
    open_: list[tuple[Steps, Any]] = [((), value)]
    while open_:
        at, found = open_.pop()
        yield at, found
        if isinstance(found, str | float | int | None):
            continue
        if isinstance(found, BaseModel):
            # as they are set, and what is sent beside it; any other property is not
            sent = {name: getattr(found, name) for name in type(found).model_computed_fields}
            inner: Iterable[tuple[str | int, Any]] = [*found.__dict__.items(), *sent.items()]
        elif isinstance(found, dict):
            inner = found.items()
        elif isinstance(found, list | tuple):
            inner = enumerate(found)
        else:
            continue
        open_ += [((*at, key), item) for key, item in inner]


def finite(value: Any) -> None:
    for at, found in walk(value):
        assert not isinstance(found, float) or math.isfinite(found), at


WRONG = re.compile(r"^\s*$|None|nan|inf |[{}]|  |metric=")
"""What a person would not read."""


def said(value: Any) -> None:
    """No words are empty, in either system, and none holds what a person would not read."""
    for at, found in walk(value):
        if isinstance(found, Words):
            for text in (found.metric, found.inch):
                assert not WRONG.search(text), (at, text)
            assert not re.search(r"\d mm\b", SHOWN.sub("", found.inch)), (at, found.inch)


def check_words(core: Check_, case: Case_) -> None:
    """The sentence tells a figure in the unit of its limit; advice on what is too close to call
    never calls it out."""
    by_key = {q.key: q for q in case.finding.quantities}
    for j in case.judgement.judged:
        for told, limit in (("metric", j.tolerance_words.metric), ("inch", j.tolerance_words.inch)):
            unit = limit.partition(" ")[2]
            sentence = getattr(by_key[j.quantity].sentence, told)
            assert re.search(rf"\d {re.escape(unit)}(?![/\w])", sentence), (sentence, limit)
    unsure = {
        q.tolerance_key: (q.estimate.least + q.estimate.most) / 2
        for q in case.finding.quantities
        if q.tolerance_key and q.estimate.most > 0
    }
    close = core.weigh(case.but(tolerances={**case.tolerances, **unsure}))
    if close.judgement.verdict == "too_close":
        told = (w.metric for _, w in walk(core.advise(close)) if isinstance(w, Words))
        lines = (line.metric for line in close.finding.lines)
        for text in (*told, *lines, close.judgement.sentence.metric):
            for wrong in ("is beyond the limit", "not within its limit", " Out."):
                assert wrong not in text, text
