"""How the height of rails is compared, drawn from above."""

from __future__ import annotations

from truing.checks.rail_twist.setup import RailTwistSetup, stations
from truing.checks.rails import RailsSeen
from truing.drawing.sketches import UV, SketchFigure
from truing.machine import Machine
from truing.measure.words import plain

CORNERS = ((-1, -1), (1, -1), (1, 1), (-1, 1))


def set_up(setup: RailTwistSetup, machine: Machine) -> SketchFigure:
    """A bridge over a diagonal or on three feet, or a dial at every place."""
    seen = RailsSeen(machine)
    u = seen.unit
    front_left, front_right, rear_right, rear_left = (
        (sx * setup.apart_mm / 2, sy * setup.length_mm / 2) for sx, sy in CORNERS
    )
    if setup.way == "bridge":
        seen.easel.line(front_left, rear_right)
        seen.easel.line(front_right, rear_left, thin=True)
        for foot in (front_left, rear_right):
            seen.easel.ring(foot, 0.07 * u)
        seen.easel.dial((0.4 * u, -0.5 * u), (0, 0))
        seen.easel.moves(_toward(rear_right, 0.32 * u), _toward(rear_left, 0.32 * u), by="hand")
        how = "rides on it" if setup.sense == "riding" else "stands on the bed under it"
        shows = (
            f"A stiff bridge from the front left to the rear right; the dial at its middle {how}. "
            "Then the same bridge over the other diagonal."
        )
        return seen.easel.done(plain("A bridge over one diagonal, then over the other"), shows)
    if setup.way == "fourth":
        seen.easel.line(front_left, rear_left, rear_right, front_left)
        seen.easel.line(front_left, front_right)
        for foot in (front_left, rear_left, rear_right):
            seen.easel.ring(foot, 0.07 * u)
        base = (front_right[0] - 0.5 * u, front_right[1] + 0.5 * u)
        seen.easel.line(front_left, base)
        seen.easel.dial(base, front_right)
        seen.easel.moves(
            (front_left[0], front_left[1] - 0.9 * u),
            (front_left[0], front_left[1] - 0.1 * u),
            by="hand",
        )
        shows = (
            "A bridge that stands on three corners of the rails, the dial at its fourth, the "
            "front right one; a hand keeps it down on its feet."
        )
        return seen.easel.done(plain("A bridge on three feet"), shows)
    places = [(s.x_mm, s.y_mm) for s in stations(setup)]
    for x, y in places:
        out = 0.5 * u if x > 0 else -0.5 * u
        seen.easel.dial((x + out, y), (x, y))
    seen.easel.moves(_beside(places[0], 0.25 * u), _beside(places[1], 0.25 * u), by="hand")
    many = setup.way == "stations"
    where = f"at {len(places)} places of both rails" if many else "at the four corners"
    shows = f"The height of the rails {where}, from one and the same datum."
    title = "Heights at many places" if many else "Heights of the four corners"
    return seen.easel.done(plain(title), shows)


def _toward(corner: UV, short: float) -> UV:
    """A place short of a corner, on the line from the middle."""
    size = (corner[0] ** 2 + corner[1] ** 2) ** 0.5
    return (corner[0] * (1 - short / size), corner[1] * (1 - short / size))


def _beside(place: UV, inward: float) -> UV:
    return (place[0] + (inward if place[0] < 0 else -inward), place[1])
