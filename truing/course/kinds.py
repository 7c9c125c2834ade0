"""Every kind of check of the course, built or not: its place, what it rests on, what it moves.

The order is the order of the work: a kind stands below everything that it rests on and that is
set before it. Identity stands here once; the arithmetic of a kind that is built is in `checks/`.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cache

from truing.course.stages import StageKey
from truing.machine import GANTRY_FORMS, RISERS, Machine, Slide
from truing.machine.mechanisms import ALL, RAILS, Mechanism
from truing.machine.parts import DIRECTIONS
from truing.machine.subject import Subject


@dataclass(frozen=True)
class CourseKind:
    """A kind of check in the course."""

    key: str
    title: str
    question: str
    stage: StageKey
    rests_on: tuple[Mechanism, ...]
    """Touch one of these and what was read before it no longer holds."""
    adjusts: tuple[Mechanism, ...]
    """What its own moves touch."""
    suits: Callable[[Machine], bool]
    when_needed: bool = False
    """Read only when another check asks for it; never missing by itself."""
    subjects: Callable[[Machine], list[tuple[str, str]]] | None = None
    """For a check that is made once for each of several subjects: (subject, title), in order."""
    optional_subjects: tuple[str, ...] = ()
    """Those of them that need not be read."""
    apart_from: tuple[Mechanism, ...] = ()
    """What it does not rest on, though something below it does."""
    also_rests: tuple[tuple[str, Mechanism], ...] = ()
    """(subject, mechanism) that only this subject rests on."""

    def subjects_of(self, machine: Machine) -> list[tuple[str, str]]:
        """The subjects on this machine that it is made for, one sitting each, as `Subject.text`
        and title; empty for one in all."""
        return self.subjects(machine) if self.subjects else []


def _spindle(machine: Machine) -> bool:
    return machine.spindle


def _has_gib(machine: Machine) -> bool:
    return any(s.gib != "none" for s in machine.slides)


def _driven(machine: Machine) -> bool:
    return any(s.drive != "lever" for s in machine.slides)


def _has_rails(machine: Machine) -> bool:
    return machine.rails is not None


_PARTS = {direction: Subject.part(direction).text for direction in DIRECTIONS}


def _slides(keep: Callable[[Slide], bool]) -> Callable[[Machine], list[tuple[str, str]]]:
    def parts(machine: Machine) -> list[tuple[str, str]]:
        return [
            (_PARTS[s.direction], machine.slide_title(s.direction))
            for s in machine.slides
            if keep(s)
        ]

    return parts


_GIBBED = _slides(lambda s: s.gib != "none")
_TAPERED = _slides(lambda s: s.gib == "tapered")
_MOVED = _slides(lambda s: s.drive != "lever")
_SCREWED = _slides(lambda s: s.drive in ("screw", "ball_screw"))


def _rail_stages(machine: Machine) -> list[tuple[str, str]]:
    # “Fine: … Out.” would be read as praise
    return [(Subject.part(stage).text, f"{stage} stage") for stage in ("coarse", "fine")]


def _rail_planes(machine: Machine) -> list[tuple[str, str]]:
    planes = (("side", "sideways"), ("height", "up and down"))
    return [(Subject.part(key).text, title) for key, title in planes]


def _things(machine: Machine) -> list[tuple[str, str]]:
    return [(Subject.thing(t.key).text, t.name) for t in machine.things]


def _rises(machine: Machine) -> bool:
    return machine.spindle and bool(machine.lifts)


PLAN = Subject.part("plan").text
"""Left–right against front–back, of the parts that Square travel has."""


def _travels(machine: Machine) -> list[tuple[str, str]]:
    found = [
        (Subject.part(f"{riser}_{way}").text, f"{RISERS[riser]} against {DIRECTIONS[way]}")
        for riser in machine.lifts
        for way in ("left_right", "front_back")
    ]
    if machine.slide("left_right") and machine.slide("front_back"):
        found.append((PLAN, "left–right against front–back"))
    return found


_CARRIES: tuple[Mechanism, ...] = (
    "feet",
    "gibs",
    *RAILS,
    "column_base",
    "column_pivot",
)
_DRIVE: tuple[Mechanism, ...] = ("nut", "end_bearing", "screw_blocks", "drive_settings")
_HEAD: tuple[Mechanism, ...] = (
    "head_pivot",
    "bracket",
    "bracket_pivot",
    "end_plate_left",
    "end_plate_right",
)

KINDS: tuple[CourseKind, ...] = (
    CourseKind(
        "inspection",
        "Inspection",
        "Is it whole, clean and oiled, and how far does it travel?",
        "found",
        (),
        (),
        lambda m: True,
    ),
    CourseKind(
        "base_level",
        "Level and twist",
        "Does the base stand level, or at least without twist?",
        "stand",
        ("feet",),
        ("feet",),
        lambda m: m.feet is not None,
    ),
    CourseKind(
        "slide_play",
        "Slide play",
        "Does anything shake in its slide?",
        "slides",
        ("feet", "gibs"),
        ("gibs",),
        _has_gib,
        subjects=_GIBBED,
    ),
    CourseKind(
        "gib_shim",
        "Shim behind a gib",
        "How thick a shim does the gib need?",
        "slides",
        ("gibs",),
        ("gibs",),
        lambda m: any(s.gib == "tapered" for s in m.slides),
        when_needed=True,
        subjects=_TAPERED,
    ),
    CourseKind(
        "rail_straight",
        "Straight rail",
        "Is the first rail straight?",
        "rails",
        ("feet", "rail_first"),
        ("rail_first",),
        _has_rails,
        subjects=_rail_planes,
        optional_subjects=(Subject.part("height").text,),
        also_rests=((Subject.part("height").text, "rail_packs"),),
    ),
    CourseKind(
        "rail_parallel",
        "Parallel rails",
        "Do the two rails keep their distance?",
        "rails",
        ("feet", "rail_first", "rail_second"),
        ("rail_second",),
        _has_rails,
    ),
    CourseKind(
        "rail_twist",
        "Rails in one plane",
        "Do the rails lie in one plane?",
        "rails",
        ("feet", "rail_packs"),
        ("rail_packs",),
        _has_rails,
        subjects=_rail_stages,
        optional_subjects=(Subject.part("coarse").text,),
    ),
    CourseKind(
        "lost_motion",
        "Lost motion",
        "How far does the handwheel or motor turn before it moves?",
        "drive",
        ("gibs", *_DRIVE),
        ("nut", "end_bearing", "drive_settings"),
        _driven,
        subjects=_MOVED,
    ),
    CourseKind(
        "screw_centre",
        "Centred screw",
        "Does the screw pinch near the ends of its travel?",
        "drive",
        ("gibs", *RAILS, "screw_blocks", "end_bearing"),
        ("screw_blocks", "end_bearing"),
        lambda m: any(s.drive in ("screw", "ball_screw") for s in m.slides),
        when_needed=True,
        subjects=_SCREWED,
    ),
    CourseKind(
        "drive_proof",
        "Proof of the drive",
        "How fast may it move without losing its place?",
        "drive",
        ("gibs", *RAILS, *_DRIVE),
        ("drive_settings",),
        lambda m: m.control == "controller" and _driven(m),
        subjects=_MOVED,
    ),
    CourseKind(
        "column_turn",
        "Column face",
        "Does the column face run with the table?",
        "frame",
        ("feet", "gibs", "column_base", "column_pivot"),
        ("column_pivot",),
        lambda m: m.column is not None and m.column.turns,
    ),
    CourseKind(
        "travel_square",
        "Square travel",
        "Does the head travel square to the table?",
        "frame",
        (*_CARRIES, "lift_home", "table"),
        ("column_base",),
        _rises,
        subjects=_travels,
        optional_subjects=(PLAN,),
        also_rests=tuple(
            (Subject.part(f"quill_{way}").text, "head_pivot")
            for way in ("left_right", "front_back")
        ),
    ),
    CourseKind(
        "gantry_level",
        "Level gantry",
        "Is the gantry as high on the left as on the right?",
        "frame",
        ("feet", "gibs", *RAILS, "lift_home"),
        ("lift_home",),
        lambda m: m.lift is not None,
    ),
    CourseKind(
        "gantry_square",
        "Square gantry",
        "Is the gantry square across the bed?",
        "frame",
        ("feet", "gibs", *RAILS, "drive_home"),
        ("drive_home",),
        lambda m: m.gantry_drive is not None,
    ),
    CourseKind(
        "spindle_tram",
        "Tram",
        "Does the spindle stand square to the table?",
        "tram",
        (*_CARRIES, "lift_home", *_HEAD, "spindle_bearing", "table"),
        (*_HEAD, "column_base"),
        _spindle,
    ),
    CourseKind(
        "table_travel",
        "Table and travel",
        "Does the table top run with its travel?",
        "bed",
        ("feet", "gibs", "table"),
        ("table",),
        lambda m: m.spindle and m.form not in GANTRY_FORMS,
    ),
    CourseKind(
        "beam_travel",
        "Beam over bed",
        "Does the beam run level over the bed, along and across?",
        "bed",
        ("feet", "gibs", *RAILS, "lift_home", "board"),
        (),
        lambda m: m.spindle and m.form in GANTRY_FORMS,
        when_needed=True,
    ),
    CourseKind(
        "bed_map",
        "Bed",
        "Does the work lie on one plane?",
        "bed",
        (*_CARRIES, "lift_home", *_HEAD, "board"),
        ("board",),
        lambda m: m.board is not None,
    ),
    CourseKind(
        "face_alignment",
        "Vice and fence",
        "Does the jaw or fence run with the travel?",
        "holding",
        ("feet", "gibs", *RAILS, "drive_home", "table", "vice"),
        ("vice",),
        _spindle,
        subjects=_things,
    ),
    CourseKind(
        "spindle_play",
        "Spindle play",
        "Does the spindle shake in its bearings?",
        "spindle",
        ("spindle_bearing",),
        ("spindle_bearing",),
        _spindle,
    ),
    CourseKind(
        "spindle_runout",
        "Spindle runout",
        "Does the empty spindle run true?",
        "spindle",
        ("spindle_bearing",),
        ("spindle_bearing",),
        _spindle,
    ),
    CourseKind(
        "tool_runout",
        "Tool runout",
        "Does the tool run true, and if not, what makes it wobble?",
        "tooling",
        ("spindle_bearing", "holder", "collet", "tool"),
        ("holder", "collet", "tool"),
        _spindle,
    ),
    CourseKind(
        "taper_truing",
        "True a taper",
        "How much must come off a holder's taper?",
        "tooling",
        ("spindle_bearing", "holder"),
        ("holder",),
        _spindle,
        when_needed=True,
    ),
    CourseKind(
        "ridge_reading",
        "Ridges",
        "What do the marks of the cutter say?",
        "proof",
        (*_CARRIES, "lift_home", *_HEAD, "spindle_bearing", "board", "table"),
        ("head_pivot", "bracket_pivot"),
        _spindle,
        when_needed=True,
    ),
    CourseKind(
        "test_cut",
        "Test cut",
        "Does a cut in both directions accept it?",
        "proof",
        tuple(m for m in ALL if m != "tool"),
        (),
        _spindle,
        # it is the machine that is accepted, not the cutter that cut the piece
        apart_from=("tool",),
    ),
)

_BY_KEY = {k.key: k for k in KINDS}
_PLACE = {k.key: i for i, k in enumerate(KINDS)}


def course_kind(key: str) -> CourseKind:
    """The kind with this key; KeyError if there is none."""
    return _BY_KEY[key]


def place_of(key: str) -> int:
    """Where the kind stands in the order of the work."""
    return _PLACE[key]


@cache
def foundation(key: str, subject: str = "") -> frozenset[Mechanism]:
    """Everything a kind rests on, also by way of what it rests on: a mechanism that it names (for
    this subject as well, where it is told), what the checks that set that mechanism rest on, and so
    on down to the feet."""
    found = set(_BY_KEY[key].rests_on)
    found |= {m for s, m in _BY_KEY[key].also_rests if s == subject}
    while True:
        below = {
            m
            for other in KINDS[: _PLACE[key]]
            if found.intersection(other.adjusts)
            for m in other.rests_on
        }
        if below <= found:
            return frozenset(found.difference(_BY_KEY[key].apart_from))
        found |= below


@cache
def upstream_of(key: str) -> tuple[str, ...]:
    """Kinds, in order, whose moves touch something that this kind rests on."""
    return tuple(
        k.key
        for k in KINDS[: _PLACE[key]]
        if not k.when_needed and foundation(key).intersection(k.adjusts)
    )


def is_upstream(one: str, other: str) -> bool:
    """Whether `other` leans on what `one` sets."""
    return one in upstream_of(other)


def suiting(machine: Machine, among: Sequence[str] | None = None) -> list[CourseKind]:
    """The kinds this machine has the parts for, in order; only those `among`, when given."""
    return [k for k in KINDS if k.suits(machine) and (among is None or k.key in among)]
