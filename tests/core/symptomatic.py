"""Machines with hidden faults, what their owners see on the part, and how one of them goes from
check to check as advised.

What is seen is worked out from the truth of the machine alone, by what cutter, slides and work do;
no figure of `truing.symptoms` goes into it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import cache
from typing import Any

import numpy as np

from tests.core.cases import CASES, FINE, STOCK
from tests.core.helpers import case_of
from tests.core.truths import TABLE
from truing.course.guide import guide
from truing.course.kinds import suiting as kinds_of
from truing.course.standing import Log, Result, Standing, standings
from truing.machine import Machine, starting_point
from truing.machine.subject import THE_MACHINE, Subject
from truing.registry import kind, registry
from truing.standin.evening import one_round
from truing.standin.truth import (
    BoardTruth,
    FaceTruth,
    FootTruth,
    GantryTruth,
    PieceTruth,
    RailsTruth,
    SlideTruth,
    SpindleTruth,
    StandTruth,
    ToolingTruth,
    TravelTruth,
    Truth,
)
from truing.symptoms import Search, search, symptom

Rng = np.random.Generator
NOW = datetime(2026, 6, 1, tzinfo=UTC)
ROUTER = "gantry_router"
FORMS = ("column_mill", "micro_mill", "round_column", "knee_mill", ROUTER)


@cache
def machine(form: Any) -> Machine:
    return starting_point(form)


# --- hidden faults --------------------------------------------------------------------------------


@dataclass(frozen=True)
class Fault:
    """Something amiss: the check that is made for it, and what it makes of a sound machine."""

    name: str
    kind: str
    subject: str
    put: Callable[[Truth, Rng, Machine], Truth]


def _sign(rng: Rng) -> float:
    return float(rng.choice([-1.0, 1.0]))


def _some(rng: Rng, low: float, high: float) -> float:
    return _sign(rng) * float(rng.uniform(low, high))


def _with(truth: Truth, name: str, **more: Any) -> Truth:
    part = getattr(truth, name)
    return truth.model_copy(update={name: part.model_copy(update=more)})


def _slide(truth: Truth, way: str, **more: Any) -> Truth:
    slides = {**truth.slides, way: truth.slide(way).model_copy(update=more)}
    return truth.model_copy(update={"slides": slides})


def _lean(truth: Truth, rng: Rng, m: Machine) -> Truth:
    what = "head_about_y_mrad" if rng.random() < 0.5 else "head_about_x_mrad"
    return truth.model_copy(update={what: _some(rng, 0.8, 3.0)})


def _gantry_up(truth: Truth, rng: Rng, m: Machine) -> Truth:
    """One end of the beam too high; the spindle on it leans as much."""
    up = _some(rng, 0.6, 2.0)
    span = truth.gantry.right_x_mm - truth.gantry.left_x_mm
    leant = truth.model_copy(update={"base_about_y_mrad": -up / span * 1000})
    return _with(leant, "gantry", right_up_mm=up)


def _stand(truth: Truth, rng: Rng, m: Machine) -> Truth:
    feet = [f.model_copy(update={"out_mm": 0.0}) for f in truth.stand.feet]
    feet[0] = feet[0].model_copy(update={"out_mm": _some(rng, 0.4, 1.0)})
    return _with(truth, "stand", feet=feet)


def _rail(name: str) -> Callable[[Truth, Rng, Machine], Truth]:
    def put(truth: Truth, rng: Rng, m: Machine) -> Truth:
        n = len(truth.rails.at_mm)
        size = _some(rng, 0.5, 1.0)
        rise = [size * i / (n - 1) for i in range(n)]
        bent = [size / 2 * (1 - (2 * i / (n - 1) - 1) ** 2) for i in range(n)]
        return _with(truth, "rails", **{name: bent if name == "side_mm" else rise})

    return put


def _rise(by: str) -> Callable[[Truth, Rng, Machine], Truth]:
    def put(truth: Truth, rng: Rng, m: Machine) -> Truth:
        return _with(truth, "travel", **{f"{by}_about_y_mrad": _some(rng, 1.0, 3.0)})

    return put


def _tool(truth: Truth, rng: Rng, m: Machine) -> Truth:
    piece = PieceTruth(off_x_mm=_some(rng, 0.03, 0.08))
    return _with(truth, "tooling", pieces={"holder": piece})


def _part(way: str) -> str:
    return Subject.part(way).text


def faults_on(m: Machine) -> list[Fault]:
    """Everything that can be amiss on this machine, one of each."""
    router = m.form == ROUTER
    found = [
        Fault("lean", "spindle_tram", "", _lean),
        Fault(
            "spindle play",
            "spindle_play",
            "",
            lambda t, r, m: _with(t, "turning", play_across_mm=0.06, play_along_mm=0.05),
        ),
        Fault(
            "spindle runout",
            "spindle_runout",
            "",
            lambda t, r, m: _with(t, "turning", off_x_mm=_some(r, 0.03, 0.08)),
        ),
        Fault("tool runout", "tool_runout", "", _tool),
    ]
    for slide in m.slides:
        way = slide.direction
        if slide.drive != "lever":
            found.append(
                Fault(
                    f"lost motion {way}",
                    "lost_motion",
                    _part(way),
                    lambda t, r, m, way=way: _slide(  # type: ignore[misc]
                        t, way, links_mm={"nut": float(r.uniform(0.12, 0.3))}
                    ),
                )
            )
        if slide.gib != "none":
            found.append(
                Fault(
                    f"slide play {way}",
                    "slide_play",
                    _part(way),
                    lambda t, r, m, way=way: _slide(  # type: ignore[misc]
                        t, way, clearance_mm=float(r.uniform(0.07, 0.15))
                    ),
                )
            )
            found.append(
                Fault(
                    f"tight gib {way}",
                    "slide_play",
                    _part(way),
                    lambda t, r, m, way=way: _slide(t, way, clearance_mm=-0.01),  # type: ignore[misc]
                )
            )
        if slide.drive in ("screw", "ball_screw"):
            found.append(
                Fault(
                    f"pinched screw {way}",
                    "screw_centre",
                    _part(way),
                    lambda t, r, m, way=way: _slide(  # type: ignore[misc]
                        t, way, blocks_mm={"0v": _some(r, 0.3, 0.38)}
                    ),
                )
            )
    if m.feet:
        found.append(Fault("twisted stand", "base_level", "", _stand))
    if router:
        found += [
            Fault("gantry not level", "gantry_level", "", _gantry_up),
            Fault(
                "gantry not square",
                "gantry_square",
                "",
                lambda t, r, m: _with(t, "gantry", right_ahead_mm=_some(r, 1.0, 2.5)),
            ),
            Fault(
                "bed", "bed_map", "", lambda t, r, m: _with(t, "board", bow_x_mm=_some(r, 0.4, 1.0))
            ),
            Fault("rails apart", "rail_parallel", "", _rail("second_mm")),
            Fault("rail bent", "rail_straight", _part("side"), _rail("side_mm")),
            Fault("rails twisted", "rail_twist", _part("fine"), _rail("second_up_mm")),
        ]
    else:
        found += [
            Fault(
                "sloping table",
                "table_travel",
                "",
                lambda t, r, m: _with(t, "travel", top_x_mm_per_m=_some(r, 0.6, 1.5)),
            ),
            Fault(
                "travels not square",
                "travel_square",
                _part("plan"),
                lambda t, r, m: _with(t, "travel", plan_mrad=_some(r, 0.8, 2.5)),
            ),
        ]
        for by in m.lifts:
            name = "column" if by == "head" else by
            found.append(
                Fault(
                    f"{by} not upright",
                    "travel_square",
                    _part(f"{by}_left_right"),
                    _rise(name),
                )
            )
    found.append(
        Fault(
            "vice",
            "face_alignment",
            "",
            lambda t, r, m: t.model_copy(
                update={"faces": {**t.faces, "": FaceTruth(angle_rad=_some(r, 1.5e-3, 5e-3))}}
            ),
        )
    )
    return found


def sound(m: Machine, rng: Rng) -> Truth:
    """A machine that nobody complains of: everything a little off, well within limits."""
    small = 0.02
    rails = m.rails
    n = 8
    return Truth(
        head_about_x_mrad=rng.normal(0, small),
        head_about_y_mrad=rng.normal(0, small),
        stand=StandTruth(
            feet=[FootTruth(name=f.name, x_mm=f.x_mm, y_mm=f.y_mm) for f in m.feet.places]
            if m.feet
            else []
        ),
        slides={
            s.direction: SlideTruth(
                travel_mm=s.travel_mm or 300.0,
                clearance_mm=0.008,
                links_mm={"nut": float(rng.uniform(0.0, 0.01))},
            )
            for s in m.slides
        },
        travel=TravelTruth(plan_mrad=rng.normal(0, small), top_x_mm_per_m=rng.normal(0, 0.01)),
        turning=SpindleTruth(play_across_mm=0.001, off_x_mm=0.0005),
        tooling=ToolingTruth(pieces={"tool": PieceTruth(off_x_mm=0.001)}),
        board=BoardTruth(wide_mm=m.table_x_mm, deep_mm=m.table_y_mm),
        gantry=GantryTruth(
            left_x_mm=m.lift.left_x_mm if m.lift else -430.0,
            right_x_mm=m.lift.right_x_mm if m.lift else 430.0,
        ),
        rails=RailsTruth(
            at_mm=[float(v) for v in np.linspace(0, rails.length_mm, n)]
            if rails
            else [0.0, 1000.0],
            **{
                k: [0.0] * (n if rails else 2)
                for k in ("side_mm", "second_mm", "first_up_mm", "second_up_mm")
            },
            apart_mm=rails.apart_mm if rails else 600.0,
        ),
    )


# --- what is seen ---------------------------------------------------------------------------------


def _tilt(t: Truth) -> float:
    """The spindle's lean out of upright, mm in a metre, whichever way."""
    axis = t.axis()
    return float(np.hypot(axis[0], axis[1]) / axis[2]) * 1000


def _step(t: Truth, m: Machine) -> float:
    """The step where two passes of a leaning cutter meet, by sweeping its circle along both ways
    of the table: the lowest that any tooth has cut at every place of the pass."""
    radius = m.cutter_mm / 2
    turns = np.linspace(0, 2 * np.pi, 721)
    axis = t.axis() / t.axis()[2]
    rim = radius * np.array([np.cos(turns), np.sin(turns)])
    up = -(axis[0] * rim[0] + axis[1] * rim[1])
    worst = 0.0
    for across in rim:
        places = np.linspace(-0.3 * radius, 0.3 * radius, 31)
        cut = [up[np.abs(across - p) < 0.02 * radius].min() for p in places]
        worst = max(worst, abs(cut[0] - cut[-1]))
    return worst


def _slack(t: Truth, *ways: str) -> float:
    return max(
        (
            max(0.0, sum(t.slide(w).links_mm.values()) - t.slide(w).compensated_mm)
            for w in ways
            if w in t.slides
        ),
        default=0.0,
    )


def _shake(t: Truth, *ways: str) -> float:
    return max((t.slide(w).clearance_mm for w in ways if w in t.slides), default=0.0)


def _drop(t: Truth) -> float:
    """How far the cutter sinks or rises from one pass to the next."""
    return max(t.turning.play_along_mm, _slack(t, "up_down"), _shake(t, "up_down") / 2)


def _swing(t: Truth) -> float:
    """How far the tool's edge goes in and out over a turn."""
    off = np.array([t.turning.off_x_mm, t.turning.off_y_mm])
    for piece in t.tooling.pieces.values():
        off = off + np.array([piece.off_x_mm, piece.off_y_mm])
    return 2 * float(np.hypot(*off))


def _slanting(t: Truth, m: Machine, deep: float) -> float:
    """How far a tool goes sideways on its way down, or cuts a wall aslant."""
    ways = [t.rising("column" if by == "head" else by) for by in m.lifts]
    aside = [float(np.hypot(w[0], w[1]) / w[2]) for w in ways]
    return deep * max([*aside, _tilt(t) / 1000])


def _uneven(t: Truth, m: Machine) -> float:
    """How much the depth of a cut varies over four fifths of the table."""
    wide, deep = 0.4 * m.table_x_mm, 0.4 * m.table_y_mm
    at = [(x, y) for x in (-wide, 0.0, wide) for y in (-deep, 0.0, deep)]
    if m.form == ROUTER:
        beam = t.gantry.right_x_mm - t.gantry.left_x_mm
        tilt = (t.gantry.right_up_mm - t.gantry.left_up_mm) / beam
        r = t.rails
        along = (r.at_mm[0] + r.at_mm[-1]) / 2
        up = [
            t.board.up_mm(x, y)
            - tilt * x
            - np.interp(y + along, r.at_mm, r.second_up_mm) * (x / r.apart_mm + 0.5)
            for x, y in at
        ]
    else:
        up = [
            t.travel.top_x_mm_per_m * x / 1000 + t.travel.top_y_mm_per_m * y / 1000 for x, y in at
        ]
    up = [u + t.stand.surface_mm(x, y) for u, (x, y) in zip(up, at, strict=True)]
    # a base that only stands aslant carries everything with it
    plane = np.array([[x, y, 1.0] for x, y in at])
    feet = np.array([t.stand.surface_mm(x, y) for x, y in at])
    level = plane @ np.linalg.lstsq(plane, feet, rcond=None)[0]
    return float(np.ptp(np.array(up) - level))


def _lozenge(t: Truth, m: Machine) -> float:
    """How far an outline of 100 mm is out of square."""
    if m.form == ROUTER:
        span = t.gantry.right_x_mm - t.gantry.left_x_mm
        off = abs(t.gantry.right_ahead_mm / span)
        r = t.rails
        off = max(
            off, abs(np.ptp(r.second_mm)) / r.at_mm[-1], abs(np.ptp(r.side_mm)) * 2 / r.at_mm[-1]
        )
    else:
        off = abs(t.travel.plan_mrad) / 1000
    return 100 * max(off, abs(float(np.tan(t.face("").angle_rad))))


def _heavy(t: Truth, m: Machine) -> bool:
    tight = any(s.clearance_mm < -0.006 or s.tight_at_mm is not None for s in t.slides.values())
    pinched = any(abs(v) > 0.25 for s in t.slides.values() for v in s.blocks_mm.values())
    r = t.rails
    squeezed = m.form == ROUTER and max(np.ptp(r.second_mm), np.ptp(r.second_up_mm)) > 0.3
    return bool(tight or pinched or squeezed)


PLAN = ("left_right", "front_back")
EVERY = (*PLAN, "up_down")
SHOWS: dict[str, Callable[[Truth, Machine], bool]] = {
    "ridges": lambda t, m: max(_step(t, m), _drop(t)) > 0.015,
    "engraving": lambda t, m: (
        max(_uneven(t, m), _slack(t, "up_down"), _shake(t, "up_down")) > 0.06 or _swing(t) > 0.08
    ),
    "one_sided": lambda t, m: m.cutter_mm * _tilt(t) / 1000 > 0.02,
    "thickness": lambda t, m: _uneven(t, m) > 0.1,
    "holes": lambda t, m: (
        max(_slack(t, *PLAN), _slanting(t, m, 30), _shake(t, *PLAN)) > 0.05 or _swing(t) > 0.06
    ),
    "walls": lambda t, m: _slanting(t, m, 25) > 0.02,
    "out_of_square": lambda t, m: max(_lozenge(t, m), _slack(t, *PLAN)) > 0.1,
    "slots": lambda t, m: (
        max(_swing(t), t.turning.play_across_mm, _slack(t, *PLAN), _shake(t, *PLAN)) > 0.05
    ),
    "slack": lambda t, m: _slack(t, *EVERY) > 0.1,
    "reversal": lambda t, m: max(_slack(t, *PLAN), _shake(t, *PLAN)) > 0.05,
    "stalls": _heavy,
    "chatter": lambda t, m: max(_shake(t, *EVERY), t.turning.play_across_mm) > 0.05,
}


# --- going from check to check --------------------------------------------------------------------


def _stated(key: str, m: Machine) -> tuple[dict[str, Any], Any]:
    """How such a check is usually set up on this machine, and with what."""
    cases = [c for c in CASES if c.kind == key]
    mine = next((c for c in cases if c.form == m.form), cases[0] if cases else None)
    return (mine.stated, mine.instrument) if mine else ({}, FINE)


def sit(key: str, subject: str, m: Machine, truth: Truth, rng: Rng) -> Result:
    """One sitting of a check: set up as proposed, read once round, judged by the usual limits."""
    core = kind(key)
    about = Subject.read(subject) if subject else THE_MACHINE
    stated, instrument = _stated(key, m)
    proposed = core.propose(m, about)
    # what is proposed fits the machine; only where nothing is, what the other tests state
    filled = {**stated, **(proposed.model_dump() if proposed else {})}
    for name in ("radius_mm", "radius_u_mm", "pin_mm", "bar_mm"):
        if name in stated:
            filled[name] = stated[name]
    setup = core.setup_type.model_validate(filled)
    case = case_of(core, setup, dial=instrument, machine=m, stock=STOCK, known=[TABLE])
    case = core.weigh(case.but(readings=one_round(core, setup, truth, instrument, rng)))
    judged = case.judgement
    asked = [j.way_out.passes for j in judged.judged if j.way_out and j.way_out.passes]
    if judged.verdict == "too_close" and asked:
        again = one_round(core, setup, truth, instrument, rng, passes=max(asked))
        case = core.weigh(case.but(readings=again))
    times = [
        abs(q.estimate.value) / case.tolerances[q.tolerance_key]
        for q in case.finding.quantities
        if q.tolerance_key in case.tolerances
    ]
    return Result(
        kind=key,
        subject=setup.subject.text if subject and hasattr(setup, "subject") else subject,
        at=NOW,
        verdict=case.judgement.verdict,
        times_limit=max(times, default=None),
    )


def stand(m: Machine, results: Iterable[Result]) -> list[Standing]:
    return standings(m, Log(results=list(results)), built=list(registry()), now=NOW)


@dataclass(frozen=True)
class Hunt:
    """How a search ended, by which checks, and after how many minutes of the guides' time."""

    end: Search
    minutes: int
    made: list[tuple[str, str]]


def hunt(key: str, m: Machine, truth: Truth, rng: Rng) -> Hunt:
    """From check to check as the search asks, until it asks for none."""
    results: list[Result] = []
    minutes = 0
    for _ in range(40):
        now = search(symptom(key), m, stand(m, results))
        if now.next is None or now.next.again:
            return Hunt(now, minutes, [(r.kind, r.subject) for r in results])
        ask = now.next
        results.append(sit(ask.kind, ask.subject, m, truth, rng))
        minutes += ask.minutes
    raise AssertionError("the search goes on without end")


def in_order(m: Machine, fault: Fault) -> int:
    """Minutes until the check of this fault has been read, going down the course."""
    minutes = 0
    for k in kinds_of(m):
        if k.key == "gib_shim" or (k.when_needed and k.key != fault.kind):
            continue
        parts = [
            s for s, _ in k.subjects_of(m) if s not in k.optional_subjects or s == fault.subject
        ]
        for part in parts or [""]:
            minutes += guide(k.key).minutes
            if k.key == fault.kind and fault.subject in ("", part):
                return minutes
    raise AssertionError(f"{fault.name}: the course has no such check")
