"""Steps that cannot be undone, what must be fresh before them, and acceptance with open items."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Literal

from pydantic import BaseModel

from truing.course.kinds import course_kind, foundation
from truing.course.standing import Standing, Status, Touch
from truing.machine import Machine
from truing.machine.mechanisms import RAILS, Mechanism
from truing.machine.subject import Subject
from truing.measure.words import Words, plain

GateKey = Literal["cast", "surface", "pin", "cut_shim", "old_shims", "machine_face"]


@dataclass(frozen=True)
class _Gate:
    key: GateKey
    title: str
    said: str
    needs: tuple[str, ...]
    """Kinds whose readings the step freezes."""
    touches: tuple[Mechanism, ...]
    keep: str
    """What to keep in the record before it is gone."""
    caution: str
    suits: Callable[[Machine], bool]
    subjects: Mapping[str, str] = field(default_factory=dict)
    """Of a kind in `needs`, the one subject that is enough, as `Subject.text`."""


_GATES: tuple[_Gate, ...] = (
    _Gate(
        "cast",
        "Cast or glue something to the frame",
        "something was cast or glued on",
        ("base_level", "rail_straight", "rail_parallel", "rail_twist"),
        RAILS,
        "A photo of shims and clamps as they stand.",
        "Gloves and fresh air for resin; nothing may be pulled straight while it sets.",
        lambda m: m.rails is not None,
        {"rail_twist": Subject.part("coarse").text},
    ),
    _Gate(
        "surface",
        "Surface the board",
        "the board was surfaced",
        ("gantry_level", "spindle_tram"),
        ("board",),
        "A note of the board's thickness, and where metal lies in it.",
        "Extraction and a mask, eyes and ears; the cutter at or below its rated speed; clear of "
        "screws and rails, first in the air.",
        lambda m: m.board is not None,
    ),
    _Gate(
        "pin",
        "Drill or ream for a pin",
        "a pin hole was drilled",
        ("travel_square", "gantry_square", "spindle_tram"),
        (),
        "A photo of the joint and its marks.",
        "A pin holds what was wrong as well as what was right.",
        lambda m: True,
    ),
    _Gate(
        "cut_shim",
        "Cut a shim to size",
        "a shim was cut",
        ("slide_play", "gib_shim"),
        (),
        "The tracing, and the thickness read off the stock itself.",
        "Shim stock cuts: gloves, and stone its edges.",
        lambda m: bool(m.slides),
    ),
    _Gate(
        "old_shims",
        "Take old shims out",
        "old shims were taken out",
        ("spindle_tram", "travel_square"),
        ("column_base",),
        "A photo of every stack where it lies, with its thickness.",
        "Support the column before its bolts are loosened; lift with help.",
        lambda m: m.base is not None,
    ),
    _Gate(
        "machine_face",
        "Face or bore a part of the machine itself",
        "a part of it was machined",
        ("travel_square", "spindle_tram", "lost_motion"),
        ("table",),
        "A note of what is there before the cut.",
        "What comes off does not go back on: light passes, measured between.",
        lambda m: m.spindle,
    ),
)


class GateItem(BaseModel):
    """A check whose reading the step freezes, and why it is not fit to be frozen."""

    kind: str
    title: str
    status: Status
    text: Words


class Gate(BaseModel):
    """A step that cannot be undone, as it stands for one machine."""

    key: GateKey
    title: str
    keep: str
    caution: str
    fresh: list[str]
    """Titles of the checks that are fresh and true."""
    open: list[GateItem]


class OpenItem(BaseModel):
    """Something that was not true when the machine was accepted."""

    kind: str
    title: str
    status: Status
    text: Words


_STATES: dict[Status, str] = {
    "unmeasured": "Not measured.",
    "stale": "Stale.",
    "out": "Out.",
    "too_close": "Too close to call.",
    "true": "True.",
}


def _text(standing: Standing) -> Words:
    if standing.left:
        return plain(f"Left as it is: {standing.left.reason}")
    return standing.why or plain(_STATES[standing.status])


def gates(machine: Machine, found: Sequence[Standing]) -> list[Gate]:
    """The steps that cannot be undone on this machine. Kinds that are not built hold up nothing."""
    by_kind = {s.kind: s for s in found if s.built}
    out = []
    for gate in _GATES:
        asked = [_about(by_kind[k], gate.subjects.get(k)) for k in gate.needs if k in by_kind]
        if not gate.suits(machine) or not asked:
            continue
        out.append(
            Gate(
                key=gate.key,
                title=gate.title,
                keep=gate.keep,
                caution=gate.caution,
                fresh=[course_kind(s.kind).title for s in asked if s.status == "true"],
                open=[
                    GateItem(
                        kind=s.kind,
                        title=course_kind(s.kind).title,
                        status=s.status,
                        text=_text(s),
                    )
                    for s in asked
                    if s.status != "true"
                ],
            )
        )
    return out


def _about(standing: Standing, subject: str | None) -> Standing:
    """A kind as it stands for the subject that a step asks about, or better for a finer one."""
    mine = next((p for p in standing.parts if p.key == subject), None)
    if mine is None or standing.status == "true":
        return standing
    why = mine.result.sentence if mine.result and mine.status != "true" else standing.why
    return replace(standing, status=mine.status, why=why)


def gate_said(key: str) -> str:
    """What is said once the step has been taken."""
    return next(g for g in _GATES if g.key == key).said


def gate_touches(key: str) -> list[Mechanism]:
    """What the step touches."""
    return list(next(g for g in _GATES if g.key == key).touches)


PROOF = "test_cut"
"""The check that an acceptance hangs on."""


class Proof(BaseModel):
    """How a machine stands with the piece that accepts it."""

    kind: str
    status: Status
    text: Words


_PROOFS: dict[Status, str] = {
    "unmeasured": "No test cut has been read yet; it can be accepted provisionally.",
    "stale": "It wants another test cut, and is accepted provisionally until then.",
    "out": "The test cut did not accept it: it can be taken into use provisionally.",
    "too_close": "The test cut leaves it open: it can be taken into use provisionally.",
    "true": "A test cut accepts it.",
}


def proof(found: Sequence[Standing]) -> Proof | None:
    """What acceptance hangs on, and how that stands; None on a machine that cuts nothing yet."""
    standing = next((s for s in found if s.kind == PROOF and s.built), None)
    if standing is None:
        return None
    said = plain(_PROOFS[standing.status])
    why = standing.why if standing.status == "stale" else None
    return Proof(kind=PROOF, status=standing.status, text=why + " " + said if why else said)


def still_accepted(at: datetime, touches: Iterable[Touch]) -> bool:
    """Whether nothing was touched since that the accepting piece would have to be cut again for."""
    rests = foundation(PROOF)
    return not any(t.at > at and rests.intersection(t.mechanisms) for t in touches)


def open_items(found: Sequence[Standing]) -> list[OpenItem]:
    """What an acceptance has to name: everything that can be read and is not true."""
    return [
        OpenItem(kind=s.kind, title=course_kind(s.kind).title, status=s.status, text=_text(s))
        for s in found
        if s.built and s.status != "true" and (s.matters or s.left is not None)
    ]
