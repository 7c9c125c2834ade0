"""Logs of many points: lines of figures, as an instrument, a probe or a spreadsheet writes them."""

from __future__ import annotations

import re
from typing import Any

import numpy as np

from truing.measure.lengths import Unit, unit_size_mm
from truing.measure.problem import Problem

MOST_POINTS = 200_000
_NAME = re.compile(r"[A-Za-z][\w.]*")
_REPORT = re.compile(r"[\[(](?:[A-Za-z]\w*[:,\s])?([^\])]*)[\])]")
_FIGURE = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
LEAST_FIGURES = 3
MOST_CHATTER = 1000
"""Lines before the first report in brackets."""
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
    lines = [
        (i, line.strip())
        for i, line in enumerate(text.splitlines(), 1)
        if line.strip() and line.lstrip()[0] not in "#%"
    ]
    if not lines:
        raise Problem("There is nothing in it.", expected="Lines of figures.", field="text")
    mark = next((m for m in _MARKS if m is None or m in lines[-1][1]), None)
    names = _names(lines[0][1], mark)
    rows = lines[1:] if names else lines
    if not rows:
        raise Problem("There are no figures in it.", expected="Lines of figures.", field="text")
    if len(rows) > MOST_POINTS:
        raise Problem(
            f"{len(rows)} points are more than a log can have.",
            expected=f"Thin it out to {MOST_POINTS}.",
            field="text",
        )
    width = len(rows[0][1].split(mark))
    names = names or [chr(ord("a") + i) for i in range(width)]
    table = _table(rows, mark, len(names)) * unit_size_mm(unit, None)
    return {name: table[:, i].tolist() for i, name in enumerate(names)}


def _reports(text: str) -> str:
    """The figures of each report in brackets, a line each; nothing where there are none."""
    if not any(line.lstrip()[:1] in ("[", "(") for line in text.splitlines()[:MOST_CHATTER]):
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


def _table(rows: list[tuple[int, str]], mark: str | None, width: int) -> Any:
    joined = (mark or " ").join(line for _, line in rows)
    try:
        cells = np.array(joined.split(mark), dtype=float)
        if len(cells) == len(rows) * width and bool(np.isfinite(cells).all()):
            return cells.reshape(len(rows), width)
    except ValueError:
        pass
    # something is wrong: find the line
    for i, line in rows:
        found = [_number(c) for c in line.split(mark)]
        if len(found) != width or any(v is None or not np.isfinite(v) for v in found):
            raise Problem(
                f"Line {i}, “{line[:60]}”, is not {width} figure{'s' if width > 1 else ''}.",
                expected="As many figures in each line as there are columns, with a point for "
                "decimals.",
                field="text",
            )
    raise AssertionError("unreachable: every line has its figures")
