"""Readings copied from a spreadsheet column, a CSV file or the lines of a log, mapped to stations.

Nothing here decides for the person: every line comes back with what was understood of it, so that
it can be looked at before anything is kept.
"""

from __future__ import annotations

import re
from collections.abc import Sequence

from pydantic import BaseModel

from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.measure.lengths import Length, Unit
from truing.measure.problem import Problem
from truing.measure.words import Words

MOST_LINES = 500
_NUMBER = r"[+\-−–]?(?:\d+[.,]\d*|[.,]\d+|\d+)"
_VALUE = re.compile(rf"({_NUMBER})\s*(mm|µm|um|in|thou|tenths|div)?(?![\w.,:/])", re.IGNORECASE)
_QUANTITY = re.compile(rf"{_NUMBER}\s*[^\W\d_]*\.?")
_DECIMAL_COMMA = re.compile(r"\s*[+\-−–]?\d*,\d+\s*[^\d,;\t]*")
_UNIT_IN_HEAD = re.compile(r"[(\[]\s*(mm|µm|um|in|thou|tenths|div)\.?\s*[)\]]", re.IGNORECASE)
_UNITS: dict[str, Unit] = {
    "mm": "mm",
    "µm": "µm",
    "um": "µm",
    "in": "in",
    "thou": "thou",
    "tenths": "tenths",
    "div": "div",
}


class PastedLine(BaseModel):
    """One line as it was understood."""

    line: int
    raw: str
    station: str | None
    label: str
    text: str
    unit: Unit
    words: Words | None
    problem: str
    """Why it cannot be kept; empty when it can."""
    skipped: bool
    """A header or an empty line: nothing to keep, and nothing wrong with it."""


class Pasted(BaseModel):
    """Everything that was pasted, line by line, and what was assumed on the way."""

    lines: list[PastedLine]
    usable: int
    assumed: list[str]
    missing: list[str]
    """Labels of stations that no line was for."""


def read_pasted(
    text: str,
    stations: Sequence[Station],
    counts: dict[str, int],
    instrument: Instrument,
    unit: Unit | None = None,
) -> Pasted:
    """Map lines to the stations that take lengths; `counts` tells how often each has been read.

    A line that names a station (its key, its label, or its coordinate in a first column) goes
    there; the others follow the plan in order. Problem when there is nothing to read in it.
    """
    rows = [(i, raw.strip()) for i, raw in enumerate(text.splitlines(), 1) if raw.strip()]
    if not rows:
        raise Problem(
            "There is nothing in it.", expected="Copy the column or the lines first.", field="text"
        )
    if len(rows) > MOST_LINES:
        raise Problem(
            f"{len(rows)} lines are more than a round can have.",
            expected=f"Paste up to {MOST_LINES} lines.",
            field="text",
        )
    plan = [s for s in stations if s.reads == "length"]
    if not plan:
        raise Problem(
            "No station here takes a length.", expected="Answer them one by one.", field="text"
        )
    comma = _decimal_commas([raw for _, raw in rows])
    splitter = _splitter([raw for _, raw in rows], comma)
    taking = _Order(plan, counts)
    default = unit or instrument.unit
    assumed = ["Commas are taken as decimal commas."] if comma else []
    lines: list[PastedLine] = []
    for i, raw in rows:
        cells = [c.strip().strip('"') for c in splitter.split(raw) if c.strip()] or [raw]
        found = _value(cells, raw, plan, default, instrument)
        if found is None:
            head = _UNIT_IN_HEAD.search(raw)
            if head and not any(line.station for line in lines):
                default = _UNITS[head[1].lower()]
                assumed.append(f"The header says {default}.")
            lines.append(_skipped(i, raw, default, header=not any(x.station for x in lines)))
            continue
        station, length, problem = found
        to = station or (None if problem else taking.next())
        if to is not None:
            taking.took(to)
        elif not problem:
            problem = "There is no station left for it in the plan."
        lines.append(
            PastedLine(
                line=i,
                raw=raw[:120],
                station=to.key if to and not problem else None,
                label=to.label if to else "",
                text=length.text if length else "",
                unit=_unit_of(length, default),
                words=instrument.reading_words(length.mm) if length else None,
                problem=problem,
                skipped=False,
            )
        )
    got = {line.station for line in lines if line.station}
    return Pasted(
        lines=lines,
        usable=sum(line.station is not None for line in lines),
        assumed=assumed,
        missing=[s.label for s in plan if s.key not in got and not counts.get(s.key)],
    )


class _Order:
    """The stations in the order of whole passes."""

    def __init__(self, plan: Sequence[Station], counts: dict[str, int]) -> None:
        self.plan = plan
        self.counts = {s.key: counts.get(s.key, 0) for s in plan}
        self.most = max([*self.counts.values(), 0]) + 10

    def next(self) -> Station | None:
        fewest = min(self.counts.values())
        if fewest >= self.most:
            return None
        return next(s for s in self.plan if self.counts[s.key] == fewest)

    def took(self, station: Station) -> None:
        self.counts[station.key] += 1


def _decimal_commas(rows: Sequence[str]) -> bool:
    """Whether commas stand inside of numbers: no point anywhere, and lines such as 0,04."""
    if any(re.search(r"\d\.\d", raw) for raw in rows):
        return False
    return any(_DECIMAL_COMMA.fullmatch(raw) or re.search(r"[\t;].*\d,\d", raw) for raw in rows)


def _splitter(rows: Sequence[str], comma: bool) -> re.Pattern[str]:
    for mark in ("\t", ";"):
        if any(mark in raw for raw in rows):
            return re.compile(re.escape(mark))
    return re.compile(r"$^") if comma else re.compile(",")


def _skipped(i: int, raw: str, unit: Unit, *, header: bool) -> PastedLine:
    problem = "" if header else "There is no number in it."
    return PastedLine(
        line=i,
        raw=raw[:120],
        station=None,
        label="",
        text="",
        unit=unit,
        words=None,
        problem=problem,
        skipped=header,
    )


def _named(cell: str, plan: Sequence[Station]) -> Station | None:
    said = cell.casefold().replace("−", "-")
    for s in plan:
        if said in (s.key.casefold(), s.label.casefold().replace("−", "-")):
            return s
    return None


def _at(cell: str, plan: Sequence[Station]) -> Station | None:
    """The one station at this coordinate, where stations lie along one line."""
    match = re.fullmatch(rf"\s*({_NUMBER})\s*(?:mm)?\s*", cell)
    if not match:
        return None
    x = float(match[1].replace(",", ".").replace("−", "-").replace("–", "-"))
    for axis in ("x_mm", "y_mm"):
        near = [s for s in plan if abs(getattr(s, axis) - x) < 0.5]
        if len(near) == 1:
            return near[0]
    return None


def _value(
    cells: Sequence[str],
    raw: str,
    plan: Sequence[Station],
    unit: Unit,
    instrument: Instrument,
) -> tuple[Station | None, Length | None, str] | None:
    """(station, length, problem) of a line; None when there is no number to be read in it."""
    # a lone figure is a reading, even where a station is called by the same figure
    alone = len(cells) == 1 and _QUANTITY.fullmatch(cells[0]) is not None
    station = None if alone else next((s for c in cells if (s := _named(c, plan))), None)
    rest = [c for c in cells if alone or _named(c, plan) is None]
    # a figure with any word behind it is one too: whether that is a unit is for the parser to say
    numbers = [c for c in rest if _QUANTITY.fullmatch(c)]
    if station is None and len(numbers) > 1:
        station = _at(numbers[0], plan)
    if numbers:
        text = numbers[-1]
    else:
        words = re.split(r"[\s=:]+", raw)
        station = station or next((s for w in words if (s := _named(w, plan))), None)
        found = _VALUE.findall(" ".join(rest) if rest else raw)
        if not found:
            return None
        text = " ".join(part for part in found[-1] if part)
    try:
        return station, instrument.read(text, unit), ""
    except Problem as problem:
        return station, None, str(problem)


def _unit_of(length: Length | None, default: Unit) -> Unit:
    if length is None:
        return default
    return _UNITS.get(length.unit, default)
