"""From what was felt, read and seen of two patches to lean and nod with their limits."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from pydantic import BaseModel

from truing.checks.cutting import FELT_MM, NAIL
from truing.checks.ridge_reading.setup import (
    FED,
    FINGER,
    LEVEL,
    PLUS_EDGE,
    WIDE,
    Patch,
    RidgeReadingSetup,
    checked,
    stations,
)
from truing.checks.ridge_reading.solve import Leans, Size, Told, alone, fitted, odd_one_out
from truing.contract.case import Case
from truing.contract.finding import Finding, Note, Quantity, quantity, shown
from truing.contract.gather import Gathered, gather
from truing.contract.readings import GradeReading, LengthReading, ObservationReading, Reading
from truing.effects.ridges import Feed, ridge, widest
from truing.measure.estimate import Estimate
from truing.measure.fields import exact
from truing.measure.problem import Problem
from truing.measure.words import Words, join, plain, say, show

SIDES = {"lean_x": ("right", "left"), "nod": ("to the rear", "to the front")}
NAMES = {"lean_x": ("Lean", "side to side"), "nod": ("Nod", "front to back")}
LEAST_LEAN = 1e-4
"""In mm per m: less than that is none."""
MOST_LEAN = 50.0
"""No spindle leans so much: what is bounded by more is bounded by nothing."""


class LeanFound(BaseModel):
    """One lean: its size with its limits (mm/m), and the side that the top leans to."""

    best: float
    low: float
    high: float | None
    """None where nothing that was told bounds it."""
    side: Literal[-1, 0, 1]
    """0 where the marks and edges do not tell, or contradict one another."""


class RidgeReadingFinding(Finding):
    """Leans by the marks that they left."""

    kind: Literal["ridge_reading"] = "ridge_reading"
    lean_x: LeanFound
    nod: LeanFound
    contradicts: Words | None
    """What of it cannot have been cut by one cutter."""


RidgeCase = Case[RidgeReadingSetup, RidgeReadingFinding]


def evaluate(case: RidgeCase) -> RidgeReadingFinding:
    """See `Check.evaluate`."""
    setup = checked(case.setup)
    grades = _grades(case.readings)
    got = None
    if setup.measured and any(isinstance(r, LengthReading) for r in case.readings):
        got = gather(case, stations(setup))
    told = told_of(setup, grades, got)
    if not told and not grades:
        raise Problem(
            "Nothing of a patch has been read yet.",
            expected="Begin with the ridge of the first patch.",
            field="readings",
        )
    signs = {key: _side(key, grades) for key in SIDES}
    found, contradicts = _solved(setup, told)
    sizes = {"lean_x": found.x, "nod": found.y} if found else {}
    leaned = {key: _lean(sizes.get(key), signs[key][0]) for key in SIDES}
    notes = got.notes("The ridges stand, but read them again.") if got else []
    for text in [contradicts, *(s[1] for s in signs.values())]:
        if text is not None:
            notes.append(Note(tone="look", text=text))
    notes.append(Note(tone="weak", text=plain(WEAK)))
    return RidgeReadingFinding(
        quantities=[q for key in SIDES if (q := _quantity(key, leaned[key], got))],
        stations=got.station_means() if got else [],
        notes=notes,
        spreads=got.spreads if got else {},
        s_mm=got.s_mm if got else 0.0,
        step_mm=got.step_mm if got else 0.0,
        zero_mm=got.zero_mm if got else 0.0,
        lines=_lines(setup, leaned, grades),
        lean_x=leaned["lean_x"],
        nod=leaned["nod"],
        contradicts=contradicts,
    )


WEAK = (
    "Ridges are a weaker witness than a swung dial: they are read where the patch was, with all "
    "that gives under the cut. Where both are there, the dial counts."
)


def _grades(readings: Sequence[Reading]) -> dict[str, str]:
    """The latest answer at each station that takes one."""
    return {
        r.station: r.grade
        for r in readings
        if isinstance(r, GradeReading | ObservationReading) and r.grade
    }


def told_of(
    setup: RidgeReadingSetup, grades: dict[str, str], got: Gathered | None = None
) -> list[Told]:
    """Everything that bounds a lean."""
    found: list[Told] = []
    what = "step" if setup.steps else "height"
    for patch in setup.cut:
        key = f"{patch}:size"
        if setup.measured and got is not None and got.has(key):
            # a ridge is as high whichever way the dial counts
            mean = got.means[key]
            big, size = mean.expanded_mm + mean.bound_mm, abs(mean.mean_mm)
            found.append(
                Told(patch, what, max(0.0, size - big), size + big, size, max(big / 2, 1e-9))
            )
        elif not setup.measured and key in grades:
            _, low, high = (NAIL if setup.steps else FINGER)[grades[key]]
            found.append(Told(patch, what, low, high, (low + high) / 2, (high - low) / 4))
        if grades.get(f"{patch}:edge") == LEVEL and not (setup.steps and setup.measured):
            found.append(Told(patch, "step", 0.0, FELT_MM))
        if grades.get(f"{patch}:marks") == "crossed":
            # the edge that comes round behind the middle has passed within what can be seen
            behind = 2 * math.sqrt((setup.flat_mm / 2) ** 2 - setup.beside_mm**2)
            found.append(Told(patch, "marks", 0.0, setup.seen_mm / behind))
    return found


def _solved(setup: RidgeReadingSetup, told: list[Told]) -> tuple[Leans | None, Words | None]:
    if not told:
        return None, None
    found = fitted(setup.flat_mm, setup.steps_mm, told)
    if found is not None:
        return found, None
    odd = odd_one_out(setup.flat_mm, setup.steps_mm, told)
    which = " or ".join(t.named for t in odd) if odd else "more than one of them"
    text = say(
        "No lean leaves such ridges: they contradict one another. The rest would fit without "
        "{which}. Was it the same cutter in both, with {s} from pass to pass?",
        which=which,
        s=join([exact(s) for s in dict.fromkeys(setup.steps_mm)], " and "),
    )
    return alone(setup.flat_mm, setup.steps_mm, told), text


def _side(key: str, grades: dict[str, str]) -> tuple[Literal[-1, 0, 1], Words | None]:
    """(side that the top leans to, what contradicts it): by the high edge of the patch that is fed
    across the lean, and by the marks of the one that is fed along it."""
    across: Patch = "y" if key == "lean_x" else "x"
    along: Patch = "x" if key == "lean_x" else "y"
    edge, marks = grades.get(f"{across}:edge", ""), grades.get(f"{along}:marks", "")
    by_edge = 0 if edge in ("", LEVEL) else 1 if edge == PLUS_EDGE[across] else -1
    by_marks = {"leading": 1, "trailing": -1}.get(marks, 0)
    if by_edge * by_marks < 0:
        plus, minus = SIDES[key]
        return 0, say(
            "The high edge says that the top leans {a}, the marks that it leans {b}. Look again: "
            "at a pass that was fed to the {way}.",
            a=plus if by_edge > 0 else minus,
            b=plus if by_marks > 0 else minus,
            way=FED[along][1],
        )
    told = by_edge or by_marks
    return (1 if told > 0 else -1 if told < 0 else 0), None


def _lean(size: Size | None, side: Literal[-1, 0, 1]) -> LeanFound:
    if size is None:
        return LeanFound(best=0.0, low=0.0, high=None, side=side)
    # a bound that no spindle comes near is none
    high = None if size.high * 1000 > MOST_LEAN else size.high * 1000
    return LeanFound(best=size.best * 1000, low=size.low * 1000, high=high, side=side)


def estimate(found: LeanFound) -> Estimate | None:
    """A lean as an estimate, with the limits of its size; None where nothing bounds it.

    Where its side is not known it may be anything from the one to the other: nothing, give or take
    the most that it can be.
    """
    if found.high is None:
        return None
    high = max(found.high, LEAST_LEAN)
    if found.side == 0:
        return Estimate.within("slope", 0.0, high).between(found.low, high)
    big = max(found.high - found.best, found.best - found.low, LEAST_LEAN)
    return Estimate.within("slope", found.side * found.best, big).between(found.low, high)


def _quantity(key: str, found: LeanFound, got: Gathered | None) -> Quantity | None:
    lean = estimate(found)
    if lean is None:
        return None
    label, axis = NAMES[key]
    read = max((m.expanded_mm for m in got.means.values()), default=0.0) if got else 0.0
    return quantity(
        key,
        label,
        lean,
        _sentence(lean, found, axis, SIDES[key]),
        gain=lean.expanded / read if read else 0.0,
        tolerance_key=key,
    )


def _sentence(lean: Estimate, found: LeanFound, axis: str, sides: tuple[str, str]) -> Words:
    limits = shown(lean)
    if not lean.visible:
        return say(
            "{axis}, by the ridges: no lean that can be told from nothing: {limits}.",
            axis=axis.capitalize(),
            limits=limits,
        )
    if found.side == 0:
        return say(
            "It leans {axis} by {limits}; to which side, edges and marks did not tell.",
            axis=axis,
            limits=limits,
        )
    return say(
        "By the ridges the top leans {side} by {limits}.",
        side=sides[0] if found.side > 0 else sides[1],
        limits=limits,
    )


def _lines(
    setup: RidgeReadingSetup, found: dict[str, LeanFound], grades: dict[str, str]
) -> list[Words]:
    lines: list[Words] = []
    open_ = [NAMES[key][0].lower() for key in SIDES if found[key].high is None]
    if open_:
        lines.append(
            say(
                "Nothing that was read bounds the {which}. The step test does: both patches with "
                "{s} from pass to pass, a dial over one step of each.",
                which=" and the ".join(open_),
                s=exact(round(WIDE * setup.flat_mm, 1)),
            )
        )
        for key in SIDES:
            if found[key].high is None and found[key].low >= LEAST_LEAN:
                lines.append(
                    say(
                        "{what}: at least {low}, by the ridges.",
                        what=NAMES[key][0],
                        low=show(found[key].low, 0.01, "slope"),
                    )
                )
            if found[key].high is None and found[key].side:
                side = SIDES[key][0] if found[key].side > 0 else SIDES[key][1]
                lines.append(say("Its side is known: the top leans {side}.", side=side))
    lines += [w for key in SIDES if (w := _what_fits(key, found[key], grades))]
    hidden = hides(setup, found)
    return [*lines, hidden] if hidden else lines


def _what_fits(key: str, found: LeanFound, grades: dict[str, str]) -> Words | None:
    """How the marks go with a lean that was found."""
    along: Patch = "x" if key == "lean_x" else "y"
    if grades.get(f"{along}:marks") != "crossed" or found.high is None:
        return None
    return say(
        "Crossed marks on the patch fed {fed} bound the {what}.",
        fed=FED[along][0],
        what=NAMES[key][0].lower(),
    )


def hides(setup: RidgeReadingSetup, found: dict[str, LeanFound]) -> Words | None:
    """Which step keeps ridges below what does not matter, for leans as they were found."""
    if any(f.high is None for f in found.values()):
        return None

    def doubt(f: LeanFound) -> tuple[float, float]:
        high = f.high or 0.0
        return (f.low + high) / 2, (high - f.low) / 2

    x, y = doubt(found["lean_x"]), doubt(found["nod"])
    feeds: tuple[Feed, Feed] = ("x", "y")
    steps = {feed: widest(setup.flat_mm, setup.hide_mm, x, y, feed) for feed in feeds}
    feed: Feed = max(feeds, key=lambda f: steps[f])
    wanted = show(setup.hide_mm, setup.hide_mm / 10)
    if steps[feed] <= 0:
        return say(
            "No step keeps ridges below {wanted} for certain: that takes the tram.", wanted=wanted
        )
    if steps[feed] >= setup.flat_mm:
        return say("Ridges stay below {wanted} at any step.", wanted=wanted)
    return say(
        "Fed {fed}, with {s} from pass to pass or less, ridges stay below {wanted}.",
        fed=FED[feed][0],
        s=show(steps[feed], 0.1),
        wanted=wanted,
    )


def foretold(setup: RidgeReadingSetup, lean_x: float, nod: float) -> dict[Patch, float]:
    """What leans (mm/m) make of each patch that was cut: the step, or the height (mm)."""
    made: dict[Patch, float] = {}
    for patch in setup.cut:
        a, b = abs(lean_x) / 1000, abs(nod) / 1000
        r = ridge(setup.flat_mm, setup.step_of(patch), *((a, b) if patch == "x" else (b, a)))
        made[patch] = r.step_mm if setup.steps else r.height_mm
    return made
