"""What is told of a plan, on the screen and at the head of its program."""

from __future__ import annotations

import math

import shapely

from truing.measure.words import Words, plain, say, show, show_most, span
from truing.programs.report import Report
from truing.surfacing.area import Area
from truing.surfacing.choose import StepChoice
from truing.surfacing.facts import Facts
from truing.surfacing.relief import Relief
from truing.surfacing.seat import corner_words
from truing.surfacing.wish import Wish


def sentence(wish: Wish, report: Report, removed: float, zs: list[float]) -> Words:
    """What it comes to."""
    minutes = max(1, math.ceil(report.seconds / 60))
    what = "Takes {v} off the highest place" if wish.skims else "Cuts a seat {v} deep"
    return say(
        what + " in {n}, about {t} min.",
        v=show(removed, 0.01),
        n=f"{len(zs)} pass" + ("" if len(zs) == 1 else "es"),
        t=str(minutes),
    )


def notes(
    wish: Wish, facts: Facts, area: Area, ground: Relief, picked: StepChoice, deepest: float
) -> list[Words]:
    """What to know of it."""
    told = [picked.words] if wish.skims else []
    if wish.work == "seat":
        corners = corner_words(wish)
        if corners:
            told.append(corners)
    for k in area.binding(deepest, wish):
        told.append(
            say(
                "{name} is in the way: the board is not cut around it.",
                name=k.name[:1].upper() + k.name[1:],
            )
        )
    if ground.walls:
        most = max(top - ground.face_at(k.outline) for k, top in ground.walls)
        told.append(
            say(
                "A wall of an earlier surfacing stands up to {h} over the face: it is cut down "
                "first. Zero Z on the face, not on the wall.",
                h=show_most(most, 0.01),
            )
        )
    proud = [s for s in facts.specks if s[2] > 0] if ground.mapped else []
    if proud:
        x, y, up = max(proud, key=lambda s: s[2])
        told.append(
            say(
                "At X {x} Y {y} the map stands {up} over all around it: a chip, or a screw head? "
                "The plan begins over it. Look there, and map it again if it can be wiped away.",
                x=span(x),
                y=span(y),
                up=show(up, 0.01),
            )
        )
    lean = ground.lean_mm
    if lean >= 0.005:
        told.append(
            say(
                "A leaning cutter cuts up to {v} below the depth that is set; that is counted in.",
                v=show(lean, 0.001),
            )
        )
    if ground.zero_doubt_mm >= 0.005:
        told.append(
            say(
                "About the place where Z is zeroed the map is uneven by {v}: the last level goes "
                "that much lower. Zero on a smoother place to save it.",
                v=show(ground.zero_doubt_mm, 0.01),
            )
        )
    if ground.mapped and not shapely.MultiPoint(
        [(x, y) for x, y, _ in facts.map]
    ).convex_hull.buffer(wish.radius_mm).covers(area.work):
        told.append(
            plain(
                "The map does not reach to the edges: there the cutter goes down as over the "
                "highest place near it."
            )
        )
    return told


def heading(
    wish: Wish, facts: Facts, picked: StepChoice, zs: list[float], ground: Relief
) -> list[str]:
    """Remarks at the head of its program."""
    zero = (
        "the highest place"
        if wish.zero == "highest"
        else (f"X {wish.zero_x_mm:g} Y {wish.zero_y_mm:g} from mid bed")
    )
    plate = f", a plate of {wish.plate_mm:g} mm on it" if wish.plate_mm else ""
    origin = {
        "corner": "front left corner of the work",
        "middle": "middle of the work",
        "bed": "mid bed",
    }[wish.origin]
    return [
        f"{facts.machine}: {'board skimmed' if wish.skims else 'seat for a panel'} {facts.day}",
        f"X0 Y0: {origin}",
        f"Z0: {zero}{plate}",
        f"Cutter: {wish.diameter_mm:g} mm, {wish.teeth} teeth",
        f"{len(zs)} levels, deepest Z {zs[-1]:.3f} mm, steps of {picked.stepover_mm:.2f} mm",
        "Run it in the air first. Clear of clamps and metal. Hand at the stop.",
    ]


def file_name(facts: Facts, wish: Wish) -> str:
    """What its program is called."""
    name = "".join(c if c.isascii() and c.isalnum() else "-" for c in facts.machine.lower())
    return f"{name.strip('-')}-{'board' if wish.skims else 'seat'}-{facts.day or 'plan'}.nc"
