"""Which checks tell the errors that jobs ask for, and what each error is called."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from truing.course import course_kind
from truing.course.kinds import PLAN
from truing.machine import DIRECTIONS, GANTRY_FORMS, RISERS, Machine, Riser
from truing.machine.parts import Direction
from truing.machine.subject import Subject
from truing.measure.words import Measure

ALONG: dict[str, Direction] = {"x": "left_right", "y": "front_back"}
STANDS_IN = {"scale": 0.3}
"""What stands for the limit of a source that no check has one for, by sort: a rolled screw is
usually good to 0.3 mm in a metre."""


@dataclass(frozen=True, slots=True)
class Witness:
    """A kind of check that tells a source, and how."""

    kind: str
    quantity: str
    tolerance: str | None
    """The limit that it is judged by; None where it is only told."""
    subject: str | None = None
    """None for the latest about anything."""


def witnesses(name: str, machine: Machine) -> list[Witness]:
    """What can tell a source on this machine, the check that is made for it first; KeyError for a
    source that there is none of."""
    sort, _, rest = name.partition("_")
    return _TOLD[sort](machine, name, rest)


def _lean(machine: Machine, name: str, axis: str) -> list[Witness]:
    key = "lean_x" if axis == "x" else "nod"
    return [Witness(kind, key, key) for kind in ("spindle_tram", "ridge_reading")]


def _slope(machine: Machine, name: str, axis: str) -> list[Witness]:
    if machine.form in GANTRY_FORMS:
        # a bed that is mapped by its own travel tells it, too
        return [Witness("beam_travel", name, "slope"), Witness("bed_map", name, None)]
    return [Witness("table_travel", name, "slope")]


def _flat(machine: Machine, name: str, rest: str) -> list[Witness]:
    if machine.form in GANTRY_FORMS:
        return [Witness("beam_travel", "flat", "flat"), Witness("bed_map", "flatness", None)]
    return [Witness("table_travel", "flat", "flat")]


def _rise(machine: Machine, name: str, rest: str) -> list[Witness]:
    riser, axis = rest.split("_")
    part = Subject.part(f"{riser}_{ALONG[axis]}").text
    return [Witness("travel_square", "square", "square", part)]


def _square(machine: Machine, name: str, rest: str) -> list[Witness]:
    proof = Witness("test_cut", "square", "square")
    if machine.gantry_drive is not None:
        return [Witness("gantry_square", "square", "square"), proof]
    if any(key == PLAN for key, _ in course_kind("travel_square").subjects_of(machine)):
        return [Witness("travel_square", "square", "square", PLAN), proof]
    return [proof]


def _scale(machine: Machine, name: str, axis: str) -> list[Witness]:
    return [Witness("gantry_square", name, None), Witness("test_cut", name, None)]


def _of_slide(kind: str, quantity: str, tolerance: str) -> Callable[..., list[Witness]]:
    def told(machine: Machine, name: str, axis: str) -> list[Witness]:
        part = Subject.part(ALONG[axis]).text
        if not any(key == part for key, _ in course_kind(kind).subjects_of(machine)):
            return []
        return [Witness(kind, quantity, tolerance, part)]

    return told


def _jaw(machine: Machine, name: str, rest: str) -> list[Witness]:
    sort, _, key = rest.partition("_")
    things = [t.key for t in machine.things if t.sort == sort and key in ("", t.key)]
    return [Witness("face_alignment", "face", "face", Subject.thing(k).text) for k in things[:1]]


def _only(kind: str, quantity: str, tolerance: str) -> Callable[..., list[Witness]]:
    return lambda machine, name, rest: [Witness(kind, quantity, tolerance)]


_TOLD: dict[str, Callable[[Machine, str, str], list[Witness]]] = {
    "lean": _lean,
    "slope": _slope,
    "flat": _flat,
    "rise": _rise,
    "square": _square,
    "scale": _scale,
    "lost": _of_slide("lost_motion", "lost", "both_sides"),
    "play": _of_slide("slide_play", "play", "play"),
    "jaw": _jaw,
    "tir": _only("tool_runout", "tool", "tool"),
    "shake": _only("spindle_play", "radial", "radial"),
    "bed": _only("bed_map", "area", "area"),
}


def called(name: str, machine: Machine) -> tuple[str, Measure]:
    """What a source is called, and what it measures."""
    sort, _, rest = name.partition("_")
    way = DIRECTIONS[ALONG.get(rest[-1:], "left_right")]
    bed = "bed" if machine.form in GANTRY_FORMS else "table"
    if sort == "rise":
        riser: Riser = rest.split("_")[0]  # type: ignore[assignment]
        return f"the {RISERS[riser]}’s travel, {way}", "slope"
    if sort == "jaw":
        sort, _, key = rest.partition("_")
        here = (t.name for t in machine.things if t.sort == sort and key in ("", t.key))
        return next(here, sort), "slope"
    named: dict[str, tuple[str, Measure]] = {
        "lean": ("the spindle’s " + ("lean" if rest == "x" else "nod"), "slope"),
        "slope": (f"the {bed}’s slope, {way}", "slope"),
        "flat": (f"flatness of the {bed} and its travel", "length"),
        "square": ("left–right against front–back", "slope"),
        "scale": (f"the scale of {way}", "slope"),
        "lost": (f"lost motion, {way}", "length"),
        "play": (f"side play of the {way} slide", "length"),
        "tir": ("the tool’s runout", "length"),
        "shake": ("play of the spindle", "length"),
        "bed": ("the bed’s heights", "length"),
    }
    return named[sort]
