"""What the checks foretold of the piece, beside what it became."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from pydantic import BaseModel

from truing.checks.cutting import NAIL
from truing.checks.test_cut.setup import FED, Feed, TestCutSetup
from truing.contract.case import Case
from truing.contract.finding import shown
from truing.contract.known import Known
from truing.course import course_kind
from truing.effects.ridges import corners, ridge
from truing.machine import Machine
from truing.machine.parts import Direction
from truing.machine.subject import Subject
from truing.measure.estimate import Estimate
from truing.measure.words import Measure, Words, plain, say, show_limits

LEANS_ON = (
    "gantry_square",
    "travel_square",
    "lost_motion",
    "spindle_tram",
    "table_travel",
    "beam_travel",
    "slide_play",
    "spindle_play",
    "rail_parallel",
    "drive_proof",
    "bed_map",
)
"""Those that foretell something, and those that would tell why it came out otherwise."""
SUSPECTS: dict[str, tuple[str, ...]] = {
    "square": ("gantry_square", "rail_parallel", "travel_square", "slide_play"),
    "scale": ("gantry_square", "drive_proof"),
    "lost": ("lost_motion", "slide_play", "drive_proof"),
    "step": ("spindle_tram", "spindle_play", "slide_play"),
    "marks": ("spindle_tram", "spindle_play"),
    "thick": ("table_travel", "beam_travel", "bed_map"),
}
"""What would tell why, the likeliest first."""


class Side(BaseModel):
    """One side of a comparison: between what it lies, signed, and in words."""

    low: float
    high: float
    words: Words


class Compared(BaseModel):
    """One thing that the checks foretold, and what the piece says of it."""

    key: str
    title: str
    measure: Measure
    foretold: Side
    found: Side
    agrees: bool
    by: str
    """The check that foretold it."""
    ask: list[str]
    """Where they disagree: kinds that would tell why, not measured or no longer valid."""


def between(estimate: Estimate) -> Side:
    """An estimate as limits; one that is a size as limits of the size."""
    if estimate.limits:
        return Side(low=estimate.limits.low, high=estimate.limits.high, words=shown(estimate))
    low, high = estimate.value - estimate.expanded, estimate.value + estimate.expanded
    return Side(low=low, high=high, words=shown(estimate, signed=True))


def compared(
    case: Case[TestCutSetup, Any],
    errors: dict[str, Estimate],
    grades: dict[str, str],
) -> list[Compared]:
    """Everything that was both foretold and read; what was not is not there."""
    found = []
    for key, title, measure, foretold, side in _pairs(case, errors, grades):
        estimate, kind = foretold
        agrees = estimate.low <= side.high and side.low <= estimate.high
        group = key.partition("_")[0]
        found.append(
            Compared(
                key=key,
                title=title,
                measure=measure,
                foretold=estimate,
                found=side,
                agrees=agrees,
                by=course_kind(kind).title,
                ask=[] if agrees else unmeasured(case, group, but=kind),
            )
        )
    return found


Pair = tuple[str, str, Measure, tuple[Side, str], Side]


def _pairs(
    case: Case[TestCutSetup, Any], errors: dict[str, Estimate], grades: dict[str, str]
) -> Iterator[Pair]:
    fresh = [k for k in case.known if k.fresh]
    skew = _skew(fresh)
    if skew and "square" in errors:
        yield "square", "Skew", "slope", skew, between(errors["square"])
    for axis, way in _AXES.items():
        lost = _lost(fresh, way)
        if lost and f"lost_{axis}" in errors:
            title = f"Lost motion, {FED[axis]}"
            size = errors[f"lost_{axis}"]
            yield f"lost_{axis}", title, "length", lost, between(size)
        scale = _of(fresh, "gantry_square", f"scale_{axis}")
        if scale and f"scale_{axis}" in errors:
            title, error = f"Scale, {FED[axis]}", errors[f"scale_{axis}"]
            yield f"scale_{axis}", title, "slope", (between(scale), "gantry_square"), between(error)
    leans = _leans(fresh)
    if leans:
        yield from _face(case.setup, leans, grades)
    for axis in _AXES:
        slope = _of(fresh, "table_travel", f"slope_{axis}") or _of(
            fresh, "beam_travel", f"slope_{axis}"
        )
        if slope and f"thick_{axis}" in errors:
            by = "table_travel" if _of(fresh, "table_travel", f"slope_{axis}") else "beam_travel"
            # where the top rises toward the cutter, less of the piece is left
            told = between(slope.times(-1.0))
            title = f"Thickness, {FED[axis]}"
            yield f"thick_{axis}", title, "slope", (told, by), between(errors[f"thick_{axis}"])


_AXES: dict[Feed, Direction] = {"x": "left_right", "y": "front_back"}


def _of(known: list[Known], kind: str, quantity: str, subject: str = "") -> Estimate | None:
    return next(
        (
            k.values[quantity]
            for k in known
            if k.kind == kind and quantity in k.values and subject in ("", k.subject)
        ),
        None,
    )


def _skew(fresh: list[Known]) -> tuple[Side, str] | None:
    gantry = _of(fresh, "gantry_square", "square")
    if gantry:
        return between(gantry), "gantry_square"
    travel = _of(fresh, "travel_square", "square", Subject.part("plan").text)
    return (between(travel), "travel_square") if travel else None


def _lost(fresh: list[Known], way: Direction) -> tuple[Side, str] | None:
    mean = _of(fresh, "lost_motion", "mean", Subject.part(way).text)
    return (between(mean), "lost_motion") if mean else None


def _leans(fresh: list[Known]) -> tuple[list[Estimate], list[Estimate]] | None:
    """Every lean and every nod along a beam; None unless both were read."""
    tram = next((k for k in fresh if k.kind == "spindle_tram"), None)
    if tram is None:
        return None
    both = [
        [e for key, e in tram.values.items() if key.partition("@")[0] == sort]
        for sort in ("lean_x", "nod")
    ]
    return (both[0], both[1]) if all(both) else None


def _face(
    setup: TestCutSetup, leans: tuple[list[Estimate], list[Estimate]], grades: dict[str, str]
) -> Iterator[Pair]:
    for feed, fed in FED.items():
        along, across = leans if feed == "x" else leans[::-1]
        grade = grades.get(f"step_{feed}")
        if setup.face and grade in NAIL:
            steps = [
                ridge(setup.face_mm, setup.stepover_mm, a / 1000, b / 1000).step_mm
                for one in along
                for other in across
                for a in corners((one.value, one.expanded))
                for b in corners((other.value, other.expanded))
            ]
            _, low, high = NAIL[grade]
            told = _limits(min(steps), max(steps))
            yield (
                f"step_{feed}",
                f"Step, fed {fed}",
                "length",
                (told, "spindle_tram"),
                Side(low=low, high=high, words=plain(NAIL[grade][0])),
            )
        marks = grades.get(f"marks_{feed}")
        if setup.face and marks in ("crossed", "one_way"):
            # what the trailing edge comes round off by, in the middle of a pass
            least = min(e.least for e in along) * setup.face_mm / 1000
            most = max(e.most for e in along) * setup.face_mm / 1000
            crossed = marks == "crossed"
            found = Side(
                low=0.0 if crossed else setup.seen_mm / 3,
                high=3 * setup.seen_mm if crossed else 1.0,
                words=plain("crossed" if crossed else "one way"),
            )
            limits = _limits(least, most)
            words = say("the trailing edge passes {d} off", d=limits.words)
            told = limits.model_copy(update={"words": words})
            yield f"marks_{feed}", f"Marks, fed {fed}", "length", (told, "spindle_tram"), found


def _limits(low: float, high: float) -> Side:
    high = max(high, 1e-5)
    return Side(low=low, high=high, words=show_limits(low, high, "length"))


def unmeasured(
    case: Case[TestCutSetup, Any], group: str, *, but: str = "", most: int = 2
) -> list[str]:
    """Kinds of this machine that would tell why, and that nobody measured or whose result no
    longer holds."""
    fresh = {k.kind for k in case.known if k.fresh}
    suits: Machine = case.machine
    return [
        kind
        for kind in SUSPECTS[group]
        if kind != but and kind not in fresh and course_kind(kind).suits(suits)
    ][:most]


def told(item: Compared) -> Words:
    """What came out otherwise than was foretold, as a sentence."""
    return say(
        "{title}: {found}, where “{by}” foretold {told}.",
        title=item.title,
        found=item.found.words,
        by=item.by,
        told=item.foretold.words,
    )
