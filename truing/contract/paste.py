"""Readings copied from a spreadsheet column, a CSV file or the lines of a log, mapped to stations.

Nothing here decides for the person: every line comes back with what was understood of it, so that
it can be looked at before anything is kept.
"""

from __future__ import annotations

import csv
import re
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import groupby

from pydantic import BaseModel

from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.measure.lengths import Unit, normal, parse_length
from truing.measure.problem import Problem
from truing.measure.words import InBoth, Words

MOST_LINES = 500
LONGEST_LINE = 2000
_STARTS = re.compile(r"[+-]?[ ]?(?:\d|[.,]\d)")
_FIGURE = re.compile(r"[+-]?(?:\d[\d.,]*|[.,]\d[\d.,]*)(?:e[+-]?\d{1,2})?")
_CLOCK = re.compile(r"\d{1,2}:\d\d(?::\d\d)?(?:[.,]\d+)?|\d{4}-\d\d-\d\d\S*")
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
    label: InBoth
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
    missing: list[Words]
    """Labels of stations that no line was for."""


def read_pasted(
    text: str,
    stations: Sequence[Station],
    counts: dict[str, int],
    instrument: Instrument,
    unit: Unit | None = None,
    order: Sequence[Station] = (),
) -> Pasted:
    """Map figures to the stations that take lengths; `counts` tells how often each has been read.

    A line that names a station (its key, its label, or its coordinate in a first column) goes
    there, with as many passes as it has figures; a line with a figure for every station is a whole
    pass, lines with one for every mark of a turn are turn after turn; the others follow the plan,
    in its `order` where that is another than pass after pass. Problem when there is nothing to
    read in it, or when it can be read in two ways.
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
    if too_long := next((i for i, raw in rows if len(raw) > LONGEST_LINE), None):
        raise Problem(
            f"Line {too_long} is longer than {LONGEST_LINE} characters.",
            expected="Paste one reading a line.",
            field="text",
        )
    plan = [s for s in stations if s.reads == "length"]
    if not plan:
        raise Problem(
            "No station here takes a length.", expected="Answer them one by one.", field="text"
        )
    table, assumed = _table([raw for _, raw in rows], plan)
    placed = _placed(table, plan)
    turn = _turn(plan)
    back = _comes_back(plan, order)
    # rows of a turn each, or as many as there are places: whoever read them did not come back
    once = back and turn > 0 and all(n in (0, turn) for n in map(_figures, table))
    once = once or (back and not any(counts.values()) and sum(map(_figures, table)) == len(plan))
    taking = _Order(plan, counts, () if once else order)
    turns = {turn, turn + 1} if back else {turn}
    default = unit or instrument.unit
    lines: list[PastedLine] = []
    for (i, raw), cells in zip(rows, table, strict=True):
        line = _Line(cells, raw, plan, placed)
        if not line.figures:
            head = _UNIT_IN_HEAD.search(raw)
            header = not any(line.station for line in lines)
            if head and header:
                default = _UNITS[head[1].lower()]
                assumed.append(f"The header says {default}.")
            lines.append(_skipped(i, raw, default, header=header))
            continue
        for station, figure in line.spread(len(table) == 1 or len(line.figures) in turns):
            lines.append(_kept(i, raw, station, figure, taking, instrument, default))
    got = {line.station for line in lines if line.station}
    return Pasted(
        lines=lines,
        usable=sum(line.station is not None for line in lines),
        assumed=assumed,
        missing=[s.label for s in plan if s.key not in got and not counts.get(s.key)],
    )


def _kept(
    i: int,
    raw: str,
    to: Station | None,
    figure: str | Problem,
    taking: _Order,
    instrument: Instrument,
    unit: Unit,
) -> PastedLine:
    """A figure as it was understood; the plan goes on only past one that can be kept."""
    length, problem = None, ""
    try:
        if isinstance(figure, Problem):
            raise figure
        length = instrument.read(figure, unit)
    except Problem as wrong:
        problem = str(wrong)
    else:
        to = to or taking.next()
        problem = "" if to else "There is no station left for it in the plan."
    if to is not None and not problem:
        taking.took(to)
    return PastedLine(
        line=i,
        raw=raw[:120],
        station=to.key if to and not problem else None,
        label=to.label if to else "",
        text=length.text if length else "",
        unit=_UNITS.get(length.unit, unit) if length else unit,
        words=instrument.reading_words(length.mm) if length else None,
        problem=problem,
        skipped=False,
    )


class _Order:
    """The stations in the order of whole passes."""

    def __init__(
        self, plan: Sequence[Station], counts: dict[str, int], order: Sequence[Station]
    ) -> None:
        self.plan, self.order = plan, order
        self.counts = {s.key: counts.get(s.key, 0) for s in plan}
        self.most = max([*self.counts.values(), 0]) + 10

    def next(self) -> Station | None:
        left = Counter(self.counts)
        for station in self.order:
            if station.reads == "length" and left[station.key] == 0:
                return station
            left[station.key] -= 1
        fewest = min(self.counts.values())
        if fewest >= self.most:
            return None
        return next(s for s in self.plan if self.counts[s.key] == fewest)

    def took(self, station: Station) -> None:
        self.counts[station.key] += 1


def _figures(cells: Sequence[str]) -> int:
    return sum(1 for cell in cells if _figure(cell))


def _comes_back(plan: Sequence[Station], order: Sequence[Station]) -> bool:
    """Whether some places are read once more at the end, as a plan of one pass does."""
    times = Counter(s.key for s in order if s.reads == "length")
    return len({times[s.key] for s in plan}) > 1


def _turn(plan: Sequence[Station]) -> int:
    """How many marks a turn has, where the plan is turns of that many; 0 where it is not."""
    sizes = {len(list(some)) for _, some in groupby(plan, key=lambda s: s.group)}
    return sizes.pop() if len(sizes) == 1 and all(s.group for s in plan) else 0


def _table(rows: Sequence[str], plan: Sequence[Station]) -> tuple[list[list[str]], list[str]]:
    """The rows cut into cells, and what was assumed in doing so. Problem when commas can be both
    decimal commas and separators."""
    assumed: list[str] = []
    mark = next((m for m in "\t;" if any(m in raw for raw in rows)), None)
    if mark is None and any("," in raw for raw in rows):
        figured = [raw for raw in rows if re.search(r"\d", raw)]
        pieces = [c for raw in figured for c in _spaced(raw)]
        decimal = all(c[-1] != "," and _figure(_as_decimal(c)) for c in pieces)
        listed = _cells(rows, ",")
        named = [(_named(c[0], plan) or _at(c[0], plan)) if len(c) > 1 else None for c in listed]
        places = {s.key for s in named if s}
        # nobody writes 05 for a 5: such a tail is one of a decimal; two figures in it are no cell
        tails = [c for cells in listed for c in cells[1:]]
        columns = len(places) == len(rows) and not any(
            re.match(r"0\d", c) or re.search(r"\d\s+\D?\d", c) for c in tails
        )
        if decimal and columns:
            raw = next(r for r in rows if "," in r)
            raise Problem(
                f"“{raw[:40]}” could be {raw.replace(',', '.')[:40]}, or "
                f"{' and '.join(c.strip() for c in raw.split(',')[:2])[:40]}.",
                expected="Write decimals with a point, or put semicolons between the columns.",
                field="text",
            )
        if decimal:
            assumed.append("Commas are taken as decimal commas.")
        else:
            mark = ","
    elif any(re.search(r"\d,\d", raw) for raw in rows):
        assumed.append("Commas are taken as decimal commas.")
    table = _cells(rows, mark) if mark else [_spaced(raw) for raw in rows]
    if assumed and any("," in c and _figure(c) for cells in table for c in cells):
        # where one comma is a decimal one, 1,000 is one as well
        table = [[_as_decimal(c) for c in cells] for cells in table]
    if _counting(table, plan):
        assumed.append("The first column counts the lines.")
        table = [cells[1:] for cells in table]
    return table, assumed


def _as_decimal(cell: str) -> str:
    """The cell with a comma that could group thousands as a point."""
    return re.sub(r"^(\D?\d{1,3}),(\d{3})\b", r"\1.\2", cell)


def _cells(rows: Sequence[str], mark: str) -> list[list[str]]:
    # line by line: a quote that stays open must not swallow the lines that follow
    read = (next(csv.reader([raw], delimiter=mark, skipinitialspace=True)) for raw in rows)
    return [[c.strip() for c in cells if c.strip()] for cells in read]


def _spaced(raw: str) -> list[str]:
    """A row of bare figures with spaces between; anything else is one cell."""
    raw = raw[1:-1] if len(raw) > 1 and raw[0] == raw[-1] == '"' else raw
    words = normal(raw).split(" ")
    plain = "/" not in raw and all(_FIGURE.fullmatch(w) for w in words)
    return raw.split() if plain and len(words) > 1 else [raw]


def _counting(table: Sequence[Sequence[str]], plan: Sequence[Station]) -> bool:
    """Whether the first of two columns is 0, 1, 2 … or 1, 2, 3 …, and no places of the plan."""
    firsts = [cells[0] for cells in table if len(cells) == 2]
    if len(firsts) < 2 or len(firsts) < len(table) - 1 or any(_at(f, plan) for f in firsts[1:]):
        return False
    return firsts in ([str(i + n) for i in range(len(firsts))] for n in (0, 1))


def _placed(table: Sequence[Sequence[str]], plan: Sequence[Station]) -> bool:
    """Whether every line begins with a place of its own."""
    rows = [cells for cells in table if any(_figure(c) for c in cells)]
    at = [_at(cells[0], plan) if sum(map(_figure, cells)) > 1 else None for cells in rows]
    places = {s.key for s in at if s}
    # one line with a figure for each place is a pass
    pair = len(rows) > 1 or all(len(cells) == 2 < len(plan) for cells in rows)
    return bool(rows) and len(places) == len(rows) and pair


def _figure(cell: str) -> bool:
    """Whether the cell is one length, with or without a unit."""
    try:
        parse_length(cell, division_mm=1.0, turn_mm=1.0)
    except Problem:
        return False
    return True


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
        labels = [t.casefold().replace("−", "-") for t in (s.label.metric, s.label.inch)]
        bare = [t.removesuffix(" mm").removesuffix(" in") for t in labels]
        if said in (s.key.casefold(), *labels, *bare):
            return s
    return None


def _at(cell: str, plan: Sequence[Station]) -> Station | None:
    """The one station at this coordinate, where stations lie along one line."""
    if not _figure(cell):
        return None
    x = parse_length(cell, division_mm=1.0, turn_mm=1.0).mm
    for axis in ("x_mm", "y_mm"):
        # half a millimetre for places turned from inches; at zero a small reading is no place
        near = [s for s in plan if abs(getattr(s, axis) - x) < (0.5 if abs(x) > 10 else 1e-6)]
        if len(near) == 1:
            return near[0]
    return None


@dataclass
class _Line:
    """What stands in one line: which station it names, and the figures beside that."""

    station: Station | None
    figures: list[str]
    plan: Sequence[Station]

    def __init__(
        self, cells: Sequence[str], raw: str, plan: Sequence[Station], placed: bool
    ) -> None:
        self.plan = plan
        # a lone figure is a reading, even where a station is called by the same figure
        alone = len(cells) == 1 and _STARTS.match(normal(cells[0])) is not None
        name = None if alone else next((c for c in cells if _named(c, plan)), None)
        self.station = _named(name, plan) if name is not None else None
        rest = list(cells)
        if name is not None:
            rest.remove(name)
        # a figure with any word behind it is one too: whether that is a unit the parser says
        self.figures = [
            c for c in rest if (_STARTS.match(normal(c)) and not _CLOCK.match(c)) or _figure(c)
        ]
        if not self.figures or (alone and not _figure(cells[0]) and _CLOCK.match(cells[0])):
            self.station, self.figures = self._logged(" ".join(rest) or raw)
        elif self.station is None and placed:
            self.station, self.figures = _at(self.figures[0], plan), self.figures[1:]

    def _logged(self, raw: str) -> tuple[Station | None, list[str]]:
        """The station and figures of a line of a log, such as 12:03 station=P2 value=0.01 mm."""
        words = [w for w in re.split(r"[\s=:]+(?!\d\d\b)", raw) if w]
        named = next((w for w in words if _named(w, self.plan)), None)
        if named is not None:
            words.remove(named)
        figures = []
        for word, following in zip(words, [*words[1:], ""], strict=True):
            if _FIGURE.fullmatch(normal(word)):
                unit = following.strip(".,;").lower()
                figures.append(f"{word} {unit}" if unit in _UNITS else word)
            elif _FIGURE.match(normal(word)) and not _CLOCK.match(word) and _figure(word):
                figures.append(word)
        return self.station or (_named(named, self.plan) if named else None), figures

    def spread(self, only: bool) -> Iterator[tuple[Station | None, str | Problem]]:
        """Each figure with the station that it goes to, if the line says so; `only` line or not."""
        several = len(self.figures) > 1
        if self.station is not None or not several:
            yield from ((self.station, f) for f in self.figures)
        elif len(self.figures) == len(self.plan):
            yield from zip(self.plan, self.figures, strict=True)
        elif only and len(self.figures) > 2:
            yield from ((None, f) for f in self.figures)
        else:
            yield (
                None,
                Problem(
                    f"{len(self.figures)} figures stand in this line, and none is said to be the "
                    "reading.",
                    expected="Paste one reading a line, or the station's name before it.",
                ),
            )
