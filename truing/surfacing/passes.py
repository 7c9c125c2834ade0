"""Passes over each level of a plan, the way of the cutter through them, and what they leave."""

from __future__ import annotations

import shapely
from pydantic import BaseModel

from truing.measure.problem import Problem
from truing.measure.words import Words, say, show, span
from truing.surfacing.area import Area, uncut
from truing.surfacing.choose import StepChoice
from truing.surfacing.facts import Facts
from truing.surfacing.lines import Pass, raster, rings, trimmed
from truing.surfacing.path import Path
from truing.surfacing.relief import Relief
from truing.surfacing.seat import pocket_rings
from truing.surfacing.speeds import Speeds
from truing.surfacing.walls import walls_of
from truing.surfacing.wish import Wish


class Uncut(BaseModel):
    """Something that stays: a wall that work would rock on."""

    outline: list[tuple[float, float]]
    words: Words
    up_mm: float = 0.0
    """How far it stands over the new face, at the most; minus for a hole in it."""


def all_passes(
    wish: Wish, area: Area, ground: Relief, zs: list[float], picked: StepChoice
) -> tuple[list[list[Pass]], float]:
    """Passes of each level, and the length that the map saved."""
    found: list[list[Pass]] = []
    saved = 0.0
    for z in zs:
        level = z + ground.zero_mm
        allowed = area.allowed(level, wish)
        if wish.work == "seat":
            passes = pocket_rings(area.work, wish, min(picked.stepover_mm, wish.flat_mm * 0.8))
            if not allowed.buffer(1e-6).covers(shapely.MultiLineString(passes)):
                raise Problem(
                    "Something in the board, or the end of the travel, is in the way of the seat.",
                    expected="Move the seat, or take out what is there.",
                    field="x_mm",
                )
        elif wish.pattern == "raster":
            passes = raster(
                area.work,
                allowed,
                picked.along,
                picked.stepover_mm,
                wish.radius_mm,
                wish.flat_mm,
                wish.both_ways,
            )
        else:
            passes = rings(
                area.work,
                allowed,
                picked.stepover_mm,
                wish.radius_mm,
                wish.flat_mm,
                wish.pattern == "rings_out",
            )
        whole = sum(shapely.LineString(p).length for p in passes)
        passes = trimmed(passes, ground.needed(z))
        saved += whole - sum(shapely.LineString(p).length for p in passes)
        found.append(passes)
    if not found[-1]:
        raise Problem(
            "Nothing can be cut: what is in the way, or the end of the travel, leaves no room.",
            expected="Look at the reach and at what must not be cut.",
            field="reach_left_mm",
        )
    return found, saved


def path_over(
    wish: Wish,
    area: Area,
    ground: Relief,
    zs: list[float],
    passes: list[list[Pass]],
    fast: Speeds,
) -> Path:
    """The way through the passes of all levels, one after the other."""
    path = Path(
        safe_mm=ground.safe_mm,
        feed_mm_min=fast.feed_mm_min,
        ramp_deg=wish.ramp_deg,
        link_mm=1.6 * wish.diameter_mm,
    )
    above = ground.first_mm - ground.zero_mm
    if ground.mapped and area.work is not area.board:
        above = max(above, ground.face.highest_mm - ground.zero_mm)
    for z, found in zip(zs, passes, strict=True):
        allowed = area.allowed(z + ground.zero_mm, wish)
        path.level(found, z, above, area.board, allowed, wish.radius_mm)
    return path


def left_uncut(
    wish: Wish, facts: Facts, ground: Relief, passes: list[Pass], deepest: float
) -> list[Uncut]:
    """What stays standing, with its height over the new face, and the holes that stay in it."""
    if wish.work == "seat":
        return []
    left = uncut(ground.area.work, passes, wish.flat_mm)
    removed = ground.high_mm - deepest
    found = []
    for part in getattr(left, "geoms", [left]):
        if part.is_empty:
            continue
        x, y = part.representative_point().coords[0]
        # what an earlier surfacing left there stands on it still
        walls = [k.top_mm for k in walls_of(facts.board, part)]
        rise = removed + max(walls, default=0.0)
        found.append(
            Uncut(
                outline=[(float(a), float(b)) for a, b in part.exterior.coords[:-1]],
                up_mm=rise,
                words=say(
                    "{area} about X {x} Y {y} stays, up to {h} high.",
                    area=Words(
                        metric=f"{part.area / 100:.1f} cm²", inch=f"{part.area / 25.4**2:.2f} in²"
                    ),
                    x=span(x),
                    y=span(y),
                    h=show(rise, 0.01),
                ),
            )
        )
    for hole in ground.holes:
        if hole.low_mm >= deepest:
            continue
        left_mm, front, right, rear = hole.box
        found.append(
            Uncut(
                outline=[(left_mm, front), (right, front), (right, rear), (left_mm, rear)],
                up_mm=hole.low_mm - deepest,
                words=say(
                    "A hole about X {x} Y {y} stays, {d} deep in the new face.",
                    x=span((left_mm + right) / 2),
                    y=span((front + rear) / 2),
                    d=show(deepest - hole.low_mm, 0.01),
                ),
            )
        )
    return found
