"""What can happen to a machine between measurements, and what each happening touches."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from truing.machine import Machine
from truing.machine.mechanisms import ALL, RAILS, Mechanism, mechanisms_of, title

EventKey = Literal[
    "moved",
    "crash",
    "replaced",
    "tilted",
    "squared",
    "raised",
    "cutter",
    "season",
    "hours",
    "other",
    "note",
    "gate",
]


class Press(BaseModel):
    """A button that logs a happening at once."""

    text: str
    hours: float | None = None


class EventKind(BaseModel):
    """A kind of happening, as offered."""

    key: EventKey
    title: str
    said: str
    """What is said of it afterwards, without a capital."""
    hint: str
    touches: list[Mechanism]
    asks: Literal["", "parts", "hours", "angle"]
    """What has to be told with it: which parts, how many hours, or how many degrees."""
    calls_for: list[str] = []
    """Kinds of check that it asks for anew, whatever they rest on."""
    first: bool = False
    """What it asks for anew comes before anything else."""
    presses: list[Press] = []
    """For what happens so often that one press has to do."""


_SET_BY_HAND: list[Mechanism] = [
    "head_pivot",
    "bracket",
    "bracket_pivot",
    "end_plate_left",
    "end_plate_right",
    "column_pivot",
    "column_base",
    "lift_home",
    "drive_home",
    "vice",
    "spindle_bearing",
    "holder",
    "collet",
    "tool",
]

EVENTS: tuple[EventKind, ...] = (
    EventKind(
        key="moved",
        title="It was moved",
        said="it was moved",
        hint="To another place, or lifted. Everything that rests on the stand is stale.",
        touches=["feet"],
        asks="",
        presses=[Press(text="Moved")],
    ),
    EventKind(
        key="crash",
        title="It crashed",
        said="it crashed",
        hint="Cutter or head ran into something. All that could be knocked is stale.",
        touches=_SET_BY_HAND,
        asks="",
        calls_for=["inspection"],
        presses=[Press(text="Knocked")],
    ),
    EventKind(
        key="replaced",
        title="A part was replaced or taken apart",
        said="a part was replaced",
        hint="What rests on that part is stale.",
        touches=[],
        asks="parts",
    ),
    EventKind(
        key="tilted",
        title="The head was tilted on purpose",
        said="the head was tilted",
        hint="For a job. Nothing asks for the tram until it is back to square.",
        touches=["head_pivot"],
        asks="angle",
        presses=[Press(text="Head tilted")],
    ),
    EventKind(
        key="squared",
        title="The head is back to square",
        said="the head was brought back to square",
        hint="By eye or by its scale. The tram is asked for first.",
        touches=["head_pivot"],
        asks="",
        calls_for=["spindle_tram"],
        first=True,
        presses=[Press(text="Head back to square")],
    ),
    EventKind(
        key="raised",
        title="The head was raised",
        said="the head was raised on its round column",
        hint="A round bar holds no direction: what was read before is stale.",
        touches=["column_pivot"],
        asks="",
        presses=[Press(text="Head raised")],
    ),
    EventKind(
        key="cutter",
        title="The cutter was changed",
        said="the cutter was changed",
        hint="How true the tool runs is to be read again; the rest stays as it is.",
        touches=["tool"],
        asks="",
        presses=[Press(text="Cutter changed")],
    ),
    EventKind(
        key="season",
        title="The season changed",
        said="the season changed",
        hint="Wood, concrete and long frames move with heat and damp.",
        touches=["feet", *RAILS, "board"],
        asks="",
    ),
    EventKind(
        key="hours",
        title="Hours run",
        said="it has run",
        hint="Counts towards looking again after so many hours.",
        touches=[],
        asks="hours",
        presses=[Press(text=f"Ran {h} h", hours=h) for h in (1, 2, 4)],
    ),
    EventKind(
        key="other",
        title="Something else",
        said="something happened",
        hint="Say what, and which parts it may have moved.",
        touches=[],
        asks="parts",
    ),
    EventKind(
        key="note",
        title="A note",
        said="noted",
        hint="Touches nothing.",
        touches=[],
        asks="",
    ),
)

_BY_KEY = {e.key: e for e in EVENTS}


class PartChoice(BaseModel):
    """A mechanism that this machine has, for choosing what was touched."""

    key: Mechanism
    title: str


def parts_of(machine: Machine) -> list[PartChoice]:
    """The mechanisms of a machine by name."""
    return [PartChoice(key=m, title=title(m)) for m in mechanisms_of(machine)]


def events_for(machine: Machine, *, tilted: bool) -> list[EventKind]:
    """What can happen to this machine now."""
    there = {
        "tilted": machine.head is not None and not tilted,
        "cutter": machine.spindle,
        "squared": tilted,
        "raised": machine.column is not None and machine.column.shape == "round",
    }
    return [e for e in EVENTS if there.get(e.key, True)]


def event_kind(key: str) -> EventKind:
    """The kind of happening with this key; KeyError if there is none."""
    return _BY_KEY[key]  # type: ignore[index]


def event_said(key: str, said: str, named: list[Mechanism], degrees: float | None = None) -> str:
    """What is said of a happening afterwards, without a capital."""
    text = said.strip()
    if key == "tilted" and degrees is not None:
        return f"the head was tilted by {degrees:g}°"
    if key == "replaced" and named:
        return f"parts were replaced or taken apart ({', '.join(title(m).lower() for m in named)})"
    if key == "other" and text:
        return f"“{text}” was logged"
    return event_kind(key).said


def touched_by(key: str, named: list[Mechanism]) -> list[Mechanism]:
    """What a happening touches: what it always does, and the parts named with it."""
    always = set(_BY_KEY[key].touches) if key in _BY_KEY else set()
    return [m for m in ALL if m in always or m in named]
