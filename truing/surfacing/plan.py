"""From a map, a board and a wish to a plan, and to the program that does it, read back by the
checker before anybody is offered it.

Heights are over the board's lowest place; places from mid bed; both in mm. The program's Z is zero
at the stated place, with the plate on it.
"""

from __future__ import annotations

from typing import Literal

import shapely
from pydantic import BaseModel
from shapely.geometry import Polygon

from truing.measure.problem import Problem
from truing.measure.words import Words, show
from truing.programs import read
from truing.programs.check import check
from truing.programs.report import Report
from truing.surfacing.choose import StepChoice, choose
from truing.surfacing.facts import Facts
from truing.surfacing.handwheel import HandLine, by_hand
from truing.surfacing.life import more_times
from truing.surfacing.passes import Uncut, all_passes, left_uncut, path_over
from truing.surfacing.relief import Relief
from truing.surfacing.speeds import Speeds, speeds
from truing.surfacing.told import file_name, heading, notes, sentence
from truing.surfacing.wish import Wish
from truing.surfacing.write import write


class PlannedLevel(BaseModel):
    """One level: its height as the program has it, and the passes over it from mid bed."""

    z_mm: float
    words: Words
    passes: list[list[tuple[float, float]]]
    length_mm: float


class Surfacing(BaseModel):
    """What it comes to, and the program."""

    sentence: Words
    notes: list[Words]
    work: list[tuple[float, float]]
    """Outline of what is cut, from mid bed."""
    origin: tuple[float, float]
    levels: list[PlannedLevel]
    choice: StepChoice
    speeds: Speeds
    uncut: list[Uncut]
    removed_mm: float
    """Taken off the highest place."""
    left_mm: float
    """Of the board where it is cut deepest."""
    more_times: int | None
    """How often it can be skimmed after this; None where nothing bounds it."""
    saved_mm: float
    """Length that the map saved."""
    seconds: float
    program: str
    """Empty where the checker would refuse it."""
    air_program: str
    file_name: str
    report: Report
    by_hand: list[HandLine]
    mark: str = ""
    """`Facts.mark` of the bed that it was made for; "" for one of before there were any."""


def make(wish: Wish, facts: Facts) -> Surfacing:
    """A plan for a wish. Problem, with its field, where it cannot be done."""
    ground = Relief(wish, facts)
    area = ground.area
    picked = choose(wish, facts.lean_x, facts.lean_y, _longer(area.work))
    if wish.stepover_mm > wish.flat_mm:
        raise Problem(
            f"A step of {wish.stepover_mm:g} mm leaves a strip beside a cutter that is flat for "
            f"{wish.flat_mm:g} mm.",
            expected=f"Step by {wish.flat_mm:g} mm or less.",
            field="stepover_mm",
        )
    fast = speeds(
        wish.material,
        wish.diameter_mm,
        wish.teeth,
        rated_rev=wish.rated_rev,
        spindle_rev=wish.spindle_rev,
        chip_mm=wish.chip_mm,
        most_feed_mm_min=wish.feed_mm_min or facts.proven_feed_mm_min,
    )
    zs = ground.levels()
    deepest = zs[-1] + ground.zero_mm
    ground.refuse_too_thin(deepest)
    _refuse_endless(wish, area.work, picked.stepover_mm, len(zs))
    passes, saved = all_passes(wish, area, ground, zs, picked)
    path = path_over(wish, area, ground, zs, passes, fast)
    says = heading(wish, facts, picked, zs, ground)
    origin = area.origin(wish)
    program, air = (
        write(
            path.moves,
            says=[*says, *extra],
            units=wish.units,
            origin=origin,
            rev_per_min=fast.rev_per_min,
            safe_mm=ground.safe_mm,
            by_hand=wish.by_hand,
            spin_up_s=wish.spin_up_s,
            raise_mm=up,
        )
        for up, extra in ((0.0, []), (wish.air_mm, [f"AIR RUN: raised by {wish.air_mm:g} mm"]))
    )
    report = check(read(program.encode("ascii")), ground.for_checker(fast))
    left = facts.board.thickness_mm - (ground.high_mm - deepest)
    stays = left_uncut(wish, facts, ground, passes[-1], deepest)
    removed = ground.high_mm - deepest
    # a seat takes nothing off a face
    more = more_times(facts, wish.margin_mm, removed) if wish.skims else None
    return Surfacing(
        sentence=sentence(wish, report, removed, zs),
        notes=notes(wish, facts, area, ground, picked, deepest),
        work=[(float(x), float(y)) for x, y in area.work.exterior.coords[:-1]],
        origin=origin,
        levels=[
            PlannedLevel(
                z_mm=z,
                words=show(z, 0.01, signed=False),
                passes=[list(q) for q in p],
                length_mm=sum(shapely.LineString(q).length for q in p),
            )
            for z, p in zip(zs, passes, strict=True)
        ],
        choice=picked,
        speeds=fast,
        uncut=stays,
        removed_mm=removed,
        left_mm=left,
        more_times=more[0] if more else None,
        saved_mm=saved,
        seconds=report.seconds,
        program="" if report.faults else program,
        air_program="" if report.faults else air,
        file_name=file_name(facts, wish),
        report=report,
        mark=facts.mark,
        by_hand=by_hand(
            list(zip(zs, passes, strict=True)), origin, picked.along if wish.skims else "x"
        ),
    )


MOST_PASSES = 2_500
"""Over all levels: a day's work, and what is worked out in a second."""


def _refuse_endless(wish: Wish, work: Polygon, step_mm: float, levels: int) -> None:
    """Problem for more passes than anybody cuts, before one of them is made."""
    left, front, right, rear = work.bounds
    sides = (right - left, rear - front)
    # lines go beside one another over all of it, rings from both sides to the middle
    lines = wish.skims and wish.pattern == "raster"
    across = max(sides) if lines else min(sides) / 2
    wide = step_mm if wish.skims else min(step_mm, 0.8 * wish.flat_mm)
    passes = levels * across / max(wide, 1e-9)
    if passes > MOST_PASSES:
        raise Problem(
            f"With steps of {step_mm:g} mm that would be {passes:,.0f} passes.",
            expected=f"Up to {MOST_PASSES:,}: take a wider cutter or step, or deeper passes.",
            field="diameter_mm" if levels < MOST_LEVELS else "depth_mm",
        )


MOST_LEVELS = 100
"""Of more than that it is the passes that are shallow, rather than the cutter that is narrow."""


def _longer(work: Polygon) -> Literal["x", "y"]:
    left, front, right, rear = work.bounds
    return "x" if right - left >= rear - front else "y"
