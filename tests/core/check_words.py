"""What a kind of check says: in both systems, in words that a person reads, and one thing in
verdict, sentence and advice."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from typing import Any

from pydantic import BaseModel

from truing.contract.case import Case
from truing.contract.check import Check
from truing.measure.words import Words

Check_ = Check[Any, Any]
Case_ = Case[Any, Any]

SHOWN = re.compile(r"(goes from|stays at|dial shows) .*")
"""What an instrument shows is told as it shows it: a dial in mm stays one for an inch reader."""


def walk(value: Any, at: str = "") -> Iterator[tuple[str, Any]]:
    """Every value inside of a model, with the way to it."""
    yield at, value
    if isinstance(value, BaseModel):
        for name in type(value).model_fields:
            yield from walk(getattr(value, name), f"{at}.{name}")
    elif isinstance(value, dict):
        for key, item in value.items():
            yield from walk(item, f"{at}.{key}")
    elif isinstance(value, list | tuple):
        for i, item in enumerate(value):
            yield from walk(item, f"{at}.{i}")


def finite(value: Any) -> None:
    for at, found in walk(value):
        assert not isinstance(found, float) or math.isfinite(found), at


def said(value: Any) -> None:
    """No words are empty, in either system, and none holds what a person would not read."""
    for at, found in walk(value):
        if isinstance(found, Words):
            for text in (found.metric, found.inch):
                assert text.strip(), at
                for wrong in ("None", "nan", "inf ", "{", "}", "  ", "metric="):
                    assert wrong not in text, (at, text)
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
