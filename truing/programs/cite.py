"""Lines of a program, as text, for whoever reads what was found in them."""
# mypy: disable-error-code="no-untyped-def,no-untyped-call"

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from truing.programs.compiled import compiled

MOST_CITED = 200
MOST_LETTERS = 80


def cited(data: bytes, wanted: Iterable[int]) -> dict[int, str]:
    """These lines (from 1) of a program, the first ones of them; long ones cut."""
    numbers = np.array(sorted({n for n in wanted if n > 0})[:MOST_CITED], np.int64)
    ends = np.zeros((len(numbers), 2), np.int64)
    _find(np.frombuffer(data, np.uint8), numbers, ends)
    found = {}
    for number, (begin, end) in zip(numbers, ends, strict=True):
        text = data[int(begin) : min(int(end), int(begin) + MOST_LETTERS)]
        found[int(number)] = text.decode("ascii", "replace").replace("\ufffd", "?")
    return found


@compiled
def _find(raw, numbers, ends):
    """Where each line begins and ends."""
    i, number, k = 0, 1, 0
    n = len(raw)
    while k < len(numbers) and i < n:
        begin = i
        while i < n and raw[i] != 10 and raw[i] != 13:
            i += 1
        if numbers[k] == number:
            ends[k, 0], ends[k, 1] = begin, i
            k += 1
        if i < n:
            i += 2 if raw[i] == 13 and i + 1 < n and raw[i + 1] == 10 else 1
        number += 1
