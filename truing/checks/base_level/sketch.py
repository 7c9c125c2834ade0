"""Where the level lies and how it is turned, and which foot goes up, drawn."""

from __future__ import annotations

from truing.checks.base_level.setup import BaseLevelSetup, LevelStation, stations
from truing.contract.move import Move
from truing.drawing.sketches import Easel, SketchFigure
from truing.machine import Machine
from truing.measure.words import plain


def set_up(setup: BaseLevelSetup, machine: Machine) -> SketchFigure | None:
    """The level at its first place with its end marked, the other places in thin line; None
    without feet."""
    easel = Easel(machine, "plan")
    if not easel.has("Feet"):
        return None
    feet = easel.middles("Feet")
    # places count from the middle of the feet
    middle = (sum(u for u, _ in feet) / len(feet), sum(v for _, v in feet) / len(feet))
    plan = [s for s in stations(setup) if s.marked == 1]
    long, wide = 0.8 * easel.unit, 0.16 * easel.unit
    for i, station in enumerate(plan):
        u, v, half_u, half_v = _lies(station, middle, long, wide)
        easel.box(u - half_u, u + half_u, v - half_v, v + half_v, thin=i > 0)
    first = plan[0]
    u, v, half_u, half_v = _lies(first, middle, long, wide)
    easel.box(u - half_u / 3, u + half_u / 3, v - half_v / 3, v + half_v / 3)
    if setup.way == "ends":
        # the marked end, as somebody marks it: a cross
        at = (u, v + 0.8 * half_v) if first.lies == "y" else (u + 0.8 * half_u, v)
        for turn in (-1, 1):
            easel.line(
                (at[0] - wide / 2, at[1] - turn * wide / 2),
                (at[0] + wide / 2, at[1] + turn * wide / 2),
            )
        easel.swings((u, v), 0.75 * long, 60, 250)
        shows = (
            "A level on the base, one end marked with a cross; at every place it is read, turned "
            "end for end, and read again. The other places are drawn thin."
        )
        return easel.done(plain("Turned end for end at every place"), shows)
    then = _lies(plan[1], middle, long, wide) if len(plan) > 1 else (u, v + long, 0, 0)
    easel.moves((u + 2 * wide, v), (then[0] - 2 * wide, then[1]), by="hand")
    shows = "A level on the base is carried from place to place, always the same way round."
    return easel.done(plain("Once at every place, never turned"), shows)


def _lies(
    station: LevelStation, middle: tuple[float, float], long: float, wide: float
) -> tuple[float, float, float, float]:
    """Middle of the level, and half of its size either way."""
    half = (wide / 2, long / 2) if station.lies == "y" else (long / 2, wide / 2)
    return middle[0] + station.x_mm, middle[1] + station.y_mm, *half


def turned(move: Move, machine: Machine) -> SketchFigure | None:
    """The foot that is turned most, from where it is seen apart from one that stays."""
    turning = [a for a in move.amounts if a.turns]
    if not turning:
        return None
    most = max(turning, key=lambda a: a.amount_mm)
    easel = Easel(machine, "front")
    # feet one behind the other look like one
    places = sorted({a.x_mm for a in move.amounts})
    _, _, low, high = easel.edges("Feet")
    tall = high - low
    for x in places:
        goes = any(a.turns and a.x_mm == x for a in move.amounts)
        easel.bolt((x, low - 0.4 * tall), holds=not goes)
    out = 2.2 * tall * (1 if most.x_mm >= 0 else -1)
    easel.moves((most.x_mm + out, low - tall), (most.x_mm + out, high + 1.5 * tall), by="hand")
    shows = f"The {most.place} foot is turned until the base goes up there; its lock nut is slack."
    return easel.done(move.title, shows)
