"""Sizes as they are typed, of every measure that results have."""

from __future__ import annotations

import re

from truing.measure.lengths import normal, parse_length
from truing.measure.problem import Problem
from truing.measure.words import TO_INCH, UNITS, Measure, show

EXAMPLE = 0.05


def parse_size(text: str, measure: Measure) -> float:
    """A size in the metric unit of its measure, typed in that or in the inch one.

    A bare number is metric; numbers are written as `parse_length` takes them, and a length in any
    of its units. Problem when it is no number, or its unit is one of something else.
    """
    if measure == "length":
        return parse_length(text).mm
    number, factor = normal(text), 1.0
    for name, worth in zip(UNITS[measure], (1.0, 1 / TO_INCH[measure]), strict=True):
        # with room in it or none; between the parts of the number room means something
        signs = (re.escape(sign) for sign in normal(name) if sign != " ")
        if unit := re.search(r"\s*" + r"\s*".join(signs) + "$", number):
            number, factor = number[: unit.start()], worth
            break
    try:
        return parse_length(f"{number} mm").mm * factor
    except Problem as problem:
        usual = show(EXAMPLE, EXAMPLE / 10, measure)
        raise Problem(
            f"“{text.strip()[:40]}” is not understood here.",
            expected=f"Such as {usual.metric} or {usual.inch}.",
        ) from problem
