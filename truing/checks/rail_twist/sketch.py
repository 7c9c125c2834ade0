"""How the height of rails is compared, drawn from above."""

from __future__ import annotations

from truing.checks.rail_twist.setup import RailTwistSetup, stations
from truing.checks.rails import RailsSeen
from truing.drawing.sketches import UV, SketchFigure
from truing.machine import Machine
from truing.measure.words import plain

CORNERS = ((-1, -1), (1, -1), (1, 1), (-1, 1))


def set_up(setup: RailTwistSetup, machine: Machine) -> SketchFigure:
    """A bridge over a diagonal or on three feet, a level across, or a dial at every place."""
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
    if setup.way == "level":
        return _levelled(seen)
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


def _levelled(seen: RailsSeen) -> SketchFigure:
    """A bar across both rails near their fixed end, the level on it, and where both go then."""
    u, long = seen.unit, seen.rails.length_mm

    def across(share: float, along_mm: float) -> UV:
        one, two = seen.at("first", along_mm), seen.at("second", along_mm)
        return (one[0] + share * (two[0] - one[0]), one[1] + share * (two[1] - one[1]))

    def laid(low: float, high: float, at_mm: float, wide: float, thin: bool = False) -> None:
        corners = [(low, -wide), (high, -wide), (high, wide), (low, wide)]
        seen.easel.line(*(across(s, at_mm + w) for s, w in corners), closed=True, thin=thin)

    near, far = 0.12 * long, 0.88 * long
    laid(-0.08, 1.08, near, 0.14 * u)
    laid(-0.08, 1.08, far, 0.14 * u, thin=True)
    laid(0.2, 0.8, near, 0.08 * u)
    # the marked end, as somebody marks it: a cross
    for turn in (-0.07 * u, 0.07 * u):
        seen.easel.line(across(0.72, near - turn), across(0.77, near + turn))
    start, end = (seen.at("second", at, 0.45 * u) for at in (near + 0.2 * u, far - 0.2 * u))
    seen.easel.moves(start, end, by="hand")
    shows = (
        "A straight bar across both rails near their fixed end, a level on it with one end marked "
        "by a cross. Both are carried to the far end without being turned."
    )
    return seen.easel.done(plain("A level across, at one end and at the other"), shows)


def _toward(corner: UV, short: float) -> UV:
    """A place short of a corner, on the line from the middle."""
    size = (corner[0] ** 2 + corner[1] ** 2) ** 0.5
    return (corner[0] * (1 - short / size), corner[1] * (1 - short / size))


def _beside(place: UV, inward: float) -> UV:
    return (place[0] + (inward if place[0] < 0 else -inward), place[1])
