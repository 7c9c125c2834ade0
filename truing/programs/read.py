"""A program as it was read: its motions, and what could not be read or followed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from truing.measure.problem import Problem
from truing.programs.follow import MOST_MOTIONS, follow
from truing.programs.frames import Frames
from truing.programs.motions import Motions
from truing.programs.tokens import DELETED, Words, longest_line, words_of

MOST_BYTES = 100 * 1024 * 1024
MOST_LINES = 3_000_000
"""Remarks and empty ones with them."""
MOST_LENGTH = 10_000
"""Of a line: pictures in remarks go by a hundred letters to each."""


@dataclass(frozen=True)
class Program:
    """Both ways to read it: `motions` with what stands behind a slash, `without` leaving that out;
    None where nothing stands behind one."""

    words: Words
    motions: Motions
    without: Motions | None

    @property
    def units(self) -> Literal["mm", "inch", "not stated"]:
        """In what it says first that it is written."""
        g = self.words.value[self.words.letter == ord("G")]
        said = g[(g == 20) | (g == 21)]
        if not len(said):
            return "not stated"
        return "inch" if said[0] == 20 else "mm"


def read(data: bytes, frames: Frames | None = None) -> Program:
    """Follow a program from its first byte to its end, with what is stated of zeros and tools.

    Problem when it is no program at all: empty, too large, or in an encoding of two bytes.
    """
    if len(data) > MOST_BYTES:
        raise Problem(
            f"{len(data) / 1e6:.0f} MB are more than is read at once.",
            expected="Up to 100 MB: split it where it changes its tool.",
            field="file",
        )
    if data[:2] in (b"\xff\xfe", b"\xfe\xff") or data[:400].count(0) > len(data[:400]) // 4:
        raise Problem(
            "It is text of two bytes a letter, which no controller reads.",
            expected="Save it again as plain text (ASCII or UTF-8).",
            field="file",
        )
    data = data.removeprefix(b"\xef\xbb\xbf")
    _refuse_endless(data)
    words = words_of(data)
    if not len(words.letter):
        raise Problem(
            "There is no word of a program in it.",
            expected="A file with lines such as “G1 X10 F600”.",
            field="file",
        )
    if len(words.line) > MOST_MOTIONS * 3 // 2:
        raise _too_many(len(words.line))
    if len(words.trouble) > max(20, len(words.line) // 2):
        line, column, _, byte = (int(v) for v in words.trouble[0])
        raise Problem(
            f"Most of it reads like no program, first in line {line}, column {column}: "
            f"{shown_byte(byte)}.",
            expected="A file of RS-274 code: a letter and a number for each word.",
            field="file",
        )
    motions = follow(words, deleted=False, frames=frames)
    slashed = bool((words.mark & DELETED).any())
    return Program(words, motions, follow(words, deleted=True, frames=frames) if slashed else None)


def _refuse_endless(data: bytes) -> None:
    """Problem for what no controller reads: millions of empty lines, or one that never ends."""
    lines = max(data.count(b"\n"), data.count(b"\r"))
    if lines > MOST_LINES:
        raise Problem(
            f"{lines:,} lines are more than are read at once.",
            expected=f"Up to {MOST_LINES:,}: split it where it changes its tool.",
            field="file",
        )
    number, longest = longest_line(data)
    if longest > MOST_LENGTH:
        raise Problem(
            f"Line {number:,} is {longest:,} letters long.",
            expected=f"Lines of up to {MOST_LENGTH:,} letters: one block to each.",
            field="file",
        )


def _too_many(count: int) -> Problem:
    return Problem(
        f"{count:,} motions are more than are read at once.",
        expected="Up to 1,000,000: split it where it changes its tool.",
        field="file",
    )


def shown_byte(byte: int) -> str:
    """A byte as people would see it."""
    return f"“{chr(byte)}”" if 32 < byte < 127 else f"a byte of value {byte}"
