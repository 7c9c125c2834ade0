"""What a check of several parts shows of them: each part's own figures, and what is about all of
them once."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

from calmsquare.logbook.course import MachineLog
from truing.course.standing import Log, Result, standings
from truing.machine import starting_point
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.words import plain
from truing.record import Summary
from truing.record.shapes import Told

MACHINE = starting_point("column_mill")
NOW = datetime(2026, 3, 1, 19, tzinfo=UTC)
PLAY = "slide_play"


def summary(value: float, verdict: Any = "true") -> Summary:
    play = plain("Play")
    told = {"key": "play", "sort": "play", "label": play, "words": plain(f"{value} mm")}
    return Summary(
        sentence=plain("So."),
        values=[Told(**told, verdict=verdict, value=value, limit=0.02, least=0, most=value)],
    )


def log(**found: Summary) -> MachineLog:
    """Rounds about the whole machine (`all`) or about one slide, an hour after one another."""
    made = MachineLog()
    for hour, (about, read) in enumerate(found.items()):
        subject = THE_MACHINE.text if about == "all" else Subject.part(about).text
        verdict = read.values[0].verdict
        at = NOW + timedelta(hours=hour)
        made.results.append(Result(kind=PLAY, subject=subject, at=at, verdict=verdict))
        made.summaries[PLAY, subject] = read
    return made


def shown(made: MachineLog) -> tuple[list[str], Any]:
    found = standings(MACHINE, Log(results=made.results), built=[PLAY], now=NOW)
    standing = next(s for s in found if s.kind == PLAY)
    told = [f"{v.label.metric} {v.words.metric}" for v in made.values(standing)]
    return told, made.worst(standing)


def test_what_is_about_all_parts_is_shown_once_beside_what_is_about_one() -> None:
    told, worst = shown(log(all=summary(0.004), up_down=summary(0.03, "out")))
    assert told[0] == "Play 0.004 mm"
    [own] = told[1:]
    assert own.startswith("Up–down")
    assert own.endswith("play 0.03 mm")
    assert (worst.words.metric, worst.status) == ("0.03 mm", "out")


def test_each_part_is_shown_by_its_name_in_the_order_of_the_machine() -> None:
    told, worst = shown(log(up_down=summary(0.001), left_right=summary(0.012)))
    assert [t.rpartition(" play ")[2] for t in told] == ["0.012 mm", "0.001 mm"]
    assert told[0].startswith("Left–right")
    assert worst.words.metric == "0.012 mm"


def test_nothing_read_is_nothing_shown() -> None:
    assert shown(log()) == ([], None)
