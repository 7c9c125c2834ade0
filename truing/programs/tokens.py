"""From bytes to words: a letter and a number each, line by line.

RS-274 as machines write it: any case, with or without spaces, several words a line, comments in
both styles, block delete. Compiled, since a file may have a million lines.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from truing.programs.compiled import compiled

DELETED, NOT_FOLLOWED, MALFORMED = 1, 2, 4
"""What a block can be: behind a slash; with variables or subroutines; with an error in it."""

NO_NUMBER, STRAY, UNCLOSED, BARE_NUMBER, TOO_LONG, TOO_LARGE = 1, 2, 3, 4, 5, 6
MOST_VALUE = 1e6
"""Of any word but a line's number: a kilometre, a million turns a minute, days of waiting."""
MOST_DIGITS = 300
"""More cannot be told as a number."""
MOST_WORDS = 60
"""Words of a line that is still a line."""
MOST_TROUBLES = 500


class Words(NamedTuple):
    """The words of a program.

    `letter` (n,) upper case as bytes, `value` (n,); `start` (blocks + 1,) where each block's words
    begin, `line` (blocks,) its line from 1, `mark` (blocks,) bits as above. `trouble` (k, 4): line,
    column from 1, what is wrong, the byte that was read.
    """

    letter: NDArray[np.uint8]
    value: NDArray[np.float64]
    start: NDArray[np.int32]
    line: NDArray[np.int32]
    mark: NDArray[np.uint8]
    trouble: NDArray[np.int64]
    lines: int


def words_of(data: bytes) -> Words:
    """Every word of a program; what cannot be read is in `trouble`, and the rest goes on."""
    raw = np.frombuffer(data, dtype=np.uint8)
    none = np.empty(0, np.uint8)
    count, blocks, _, _ = _scan(
        raw,
        False,
        none,
        np.empty(0, np.float64),
        np.empty(0, np.int32),
        np.empty(0, np.int32),
        none,
        np.empty((0, 4), np.int64),
    )
    letter, value = np.empty(count, np.uint8), np.empty(count, np.float64)
    start, line = np.zeros(blocks + 1, np.int32), np.empty(blocks, np.int32)
    mark, trouble = np.zeros(blocks, np.uint8), np.empty((MOST_TROUBLES, 4), np.int64)
    _, _, lines, wrong = _scan(raw, True, letter, value, start, line, mark, trouble)
    start[blocks] = count
    return Words(letter, value, start, line, mark, trouble[:wrong], lines)


def longest_line(data: bytes) -> tuple[int, int]:
    """(number from 1, letters) of the longest line."""
    number, length = _longest(np.frombuffer(data, np.uint8))
    return int(number), int(length)


@compiled
def _longest(raw):  # type: ignore[no-untyped-def]
    number, begin, found, most = 1, 0, 1, 0
    for i in range(len(raw) + 1):
        ends = i == len(raw) or raw[i] == 10 or raw[i] == 13
        if not ends:
            continue
        if i - begin > most:
            found, most = number, i - begin
        if i < len(raw) and not (raw[i] == 10 and i > 0 and raw[i - 1] == 13):
            number += 1
        begin = i + 1
    return found, most


@compiled
def _tell(trouble, row, line, column, what, byte):  # type: ignore[no-untyped-def]
    trouble[row, 0], trouble[row, 1], trouble[row, 2], trouble[row, 3] = line, column, what, byte


@compiled
def _scan(raw, fill, letter, value, start, line, mark, trouble):  # type: ignore[no-untyped-def]
    n = len(raw)
    i = 0
    count = blocks = wrong = 0
    number = 1
    while i < n:
        # one line: from i to its end
        begin, first, flags = i, count, 0
        seen = False
        while i < n:
            c = int(raw[i])
            if c in (10, 13):
                break
            if c in (32, 9, 26):  # 26: how old systems end a file
                i += 1
                continue
            if c == 59:  # ; to the end of the line
                while i < n and raw[i] != 10 and raw[i] != 13:
                    i += 1
                break
            if c == 40:  # ( … )
                at = i
                while i < n and raw[i] != 41 and raw[i] != 10 and raw[i] != 13:
                    i += 1
                if i < n and raw[i] == 41:
                    i += 1
                else:
                    flags |= MALFORMED
                    if fill and wrong < MOST_TROUBLES:
                        _tell(trouble, wrong, number, at - begin + 1, UNCLOSED, 40)
                        wrong += 1
                continue
            if c == 37 and not seen:  # % alone
                i += 1
                continue
            if c == 47 and not seen:  # / block delete
                flags |= DELETED
                seen = True
                i += 1
                continue
            seen = True
            if c == 42:  # * and a checksum
                while i < n and raw[i] != 10 and raw[i] != 13:
                    i += 1
                break
            upper = c - 32 if 97 <= c <= 122 else c
            if upper == 79 or c in (35, 91, 93, 61, 60, 62):  # O # [ ] = < >
                flags |= NOT_FOLLOWED
                while i < n and raw[i] != 10 and raw[i] != 13:
                    i += 1
                break
            if not 65 <= upper <= 90:
                flags |= MALFORMED
                what = BARE_NUMBER if 48 <= c <= 57 or c in (43, 45, 46) else STRAY
                if fill and wrong < MOST_TROUBLES:
                    _tell(trouble, wrong, number, i - begin + 1, what, c)
                    wrong += 1
                # one report for one run of it
                i += 1
                while (
                    i < n
                    and raw[i] > 32
                    and not (65 <= raw[i] <= 90 or 97 <= raw[i] <= 122 or raw[i] in (40, 59))
                ):
                    i += 1
                continue
            at = i
            i += 1
            while i < n and raw[i] in (32, 9):
                i += 1
            if i < n and (raw[i] == 35 or raw[i] == 91):  # X#1, X[…]
                flags |= NOT_FOLLOWED
                while i < n and raw[i] != 10 and raw[i] != 13:
                    i += 1
                break
            sign = 1.0
            if i < n and raw[i] in (43, 45):
                sign = -1.0 if raw[i] == 45 else 1.0
                i += 1
                while i < n and raw[i] in (32, 9):
                    i += 1
            whole, digits, scale = 0.0, 0, 1.0
            while i < n and 48 <= raw[i] <= 57:
                whole = whole * 10.0 + (raw[i] - 48)
                digits += 1
                i += 1
            if i < n and raw[i] == 46:
                i += 1
                while i < n and 48 <= raw[i] <= 57:
                    whole = whole * 10.0 + (raw[i] - 48)
                    scale *= 10.0
                    digits += 1
                    i += 1
            if digits == 0 or digits > MOST_DIGITS:
                flags |= MALFORMED
                if fill and wrong < MOST_TROUBLES:
                    _tell(trouble, wrong, number, at - begin + 1, NO_NUMBER, upper)
                    wrong += 1
                continue
            if upper == 78 and count == first:  # N numbers a line and says nothing
                continue
            if whole / scale > MOST_VALUE:
                flags |= MALFORMED
                if fill and wrong < MOST_TROUBLES:
                    _tell(trouble, wrong, number, at - begin + 1, TOO_LARGE, upper)
                    wrong += 1
                continue
            if count - first >= MOST_WORDS:
                if not flags & MALFORMED and fill and wrong < MOST_TROUBLES:
                    _tell(trouble, wrong, number, at - begin + 1, TOO_LONG, upper)
                    wrong += 1
                flags |= MALFORMED
                continue
            if fill:
                letter[count] = upper
                value[count] = sign * whole / scale
            count += 1
        if count > first or flags & (NOT_FOLLOWED | MALFORMED):
            if fill:
                start[blocks] = first
                line[blocks] = number
                mark[blocks] = flags
            blocks += 1
        if i < n:
            i += 2 if raw[i] == 13 and i + 1 < n and raw[i + 1] == 10 else 1
            number += 1
    return count, blocks, number - (1 if n and raw[n - 1] in (10, 13) else 0), wrong
