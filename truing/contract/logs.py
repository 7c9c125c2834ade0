"""Logs of many points: lines of figures, as an instrument, a probe or a spreadsheet writes them."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from truing.measure.lengths import Unit, unit_size_mm
from truing.measure.problem import Problem

MOST_POINTS = 200_000
_NAME = re.compile(r"[A-Za-z][\w.]*")
_REPORT = re.compile(r"[\[(](?:[A-Za-z]\w*[:,\s])?([^\])]*)[\])]")
_FIGURE = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
Table = NDArray[np.float64]
REMARKS = "#%"
LEAST_FIGURES = 3
MOST_CHATTER, MOST_LOOKED = 1000, 200_000
"""Lines, and letters, before the first report in brackets."""
_MARKS = (";", "\t", ",", None)
"""What can stand between columns; None for blanks."""


def read_log(text: str, unit: Unit = "mm") -> dict[str, list[float]]:
    """Columns of equal length (mm) by name, in the order in which they stand.

    A first line without figures names the columns; without it they are called a, b, c …. Lines
    that begin with # or % are remarks. Problem, naming the line, when a line has no figures or
    another number of them.

    Where lines are reports in brackets, with a word before the figures or none, only those count,
    whatever else the log has between them.
    """
    text = _reports(text) or text
    first, last = _ends(text)
    if not first:
        raise Problem("There is nothing in it.", expected="Lines of figures.", field="text")
    mark = next((m for m in _MARKS if m is None or m in last), None)
    names = _names(first, mark)
    if names and first == last:
        raise Problem("There are no figures in it.", expected="Lines of figures.", field="text")
    table = _at_once(text, mark, first if names else "")
    if table is None or (names and table.shape[1] != len(names)):
        table = _by_lines(text, mark, len(names), first if names else "")
    if len(table) > MOST_POINTS:
        raise Problem(
            f"{len(table)} points are more than a log can have.",
            expected=f"Thin it out to {MOST_POINTS}.",
            field="text",
        )
    names = names or [chr(ord("a") + i) for i in range(table.shape[1])]
    table = table * unit_size_mm(unit, None)
    return {name: table[:, i].tolist() for i, name in enumerate(names)}


def _lines(text: str) -> Iterator[tuple[int, str]]:
    """Lines that say something, with their numbers."""
    for i, line in enumerate(text.splitlines(), 1):
        bare = line.strip()
        if bare and bare[0] not in REMARKS:
            yield i, bare


def _ends(text: str) -> tuple[str, str]:
    """The first and the last line that say something; empty where none does."""
    first = next(_lines(text), (0, ""))[1]
    back = text.rstrip()
    while back:
        back, _, line = back.rpartition("\n")
        if line.strip() and line.strip()[0] not in REMARKS:
            return first, line.strip()
    return first, first


def _at_once(text: str, mark: str | None, head: str) -> Table | None:
    """All lines as a table, quickly; None where one of them is not as the others."""
    if any(sign in text for sign in REMARKS):
        return None
    try:
        found = np.loadtxt(
            io.StringIO(text.lstrip()),
            delimiter=mark,
            ndmin=2,
            comments=None,
            skiprows=1 if head else 0,
        )
    except ValueError:
        return None
    return found if len(found) and bool(np.isfinite(found).all()) else None


def _reports(text: str) -> str:
    """The figures of each report in brackets, a line each; nothing where there are none."""
    if not any(
        line.lstrip()[:1] in ("[", "(") for line in text[:MOST_LOOKED].splitlines()[:MOST_CHATTER]
    ):
        return ""
    found = []
    for line in text.splitlines():
        report = _REPORT.search(line)
        # what else is in brackets between them (a greeting, a setting) has no three figures
        figures = _FIGURE.findall(report.group(1)) if report else []
        if len(figures) >= LEAST_FIGURES:
            found.append(" ".join(figures))
    return "\n".join(found)


def _names(line: str, mark: str | None) -> list[str]:
    cells = [c.strip().strip('"') for c in line.split(mark)]
    if any(_number(c) is not None for c in cells):
        return []
    if len(set(cells)) < len(cells) or not all(_NAME.match(c) for c in cells):
        raise Problem(
            f"“{line[:60]}” does not name its columns one by one.",
            expected="A name for each column, such as x, z.",
            field="text",
        )
    return cells


def _number(cell: str) -> float | None:
    try:
        return float(cell)
    except ValueError:
        return None


def _by_lines(text: str, mark: str | None, width: int, head: str) -> Table:
    """The same line by line; Problem, which names the line, where one is not as the others."""
    table = []
    for n, (i, line) in enumerate(_lines(text)):
        if n == 0 and head:
            continue
        found = [_number(c) for c in line.split(mark)]
        width = width or len(found)
        if len(found) != width or any(v is None or not np.isfinite(v) for v in found):
            raise Problem(
                f"Line {i}, “{line[:60]}”, is not {width} figure{'s' if width > 1 else ''}.",
                expected="As many figures in each line as there are columns, with a point for "
                "decimals.",
                field="text",
            )
        table.append(found)
    return np.array(table, dtype=float)
