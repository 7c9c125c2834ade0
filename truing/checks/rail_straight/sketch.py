"""A rail beside a straight edge, drawn."""

from __future__ import annotations

from truing.checks.rail_straight.setup import RailStraightSetup
from truing.checks.rails import RailsSeen, bolts_mm, rails_of
from truing.drawing.sketches import Easel, SketchFigure
from truing.machine import Machine
from truing.measure.words import plain

TITLES = {
    "pass": "Along a straight edge",
    "bolts": "Bolt by bolt, along a straight edge",
    "reversal": "Along both sides of a straight edge",
}


def set_up(setup: RailStraightSetup, machine: Machine) -> SketchFigure:
    """The dial rides on the rail's carriage, its tip on the edge."""
    return _height(setup, machine) if setup.plane == "height" else _side(setup, machine)


def _side(setup: RailStraightSetup, machine: Machine) -> SketchFigure:
    seen = RailsSeen(machine)
    long, u = seen.rails.length_mm, seen.unit
    at = 0.3 * long
    # the first rail is the left or the front one: plus is toward the other rail
    out = (-1 if setup.tip == "plus" else 1) * 0.3 * u
    thick = (0.07 if out > 0 else -0.07) * u
    corners = [(0.03 * long, out), (0.97 * long, out), (0.97 * long, out + thick)]
    corners.append((0.03 * long, out + thick))
    seen.easel.line(*(seen.at("first", along, o) for along, o in corners), closed=True)
    seen.carriage("first", at)
    # clear of the edge, so that both can be seen
    beside = -0.36 * u if out > 0 else 0.36 * u
    seen.easel.dial(seen.at("first", at, beside), seen.at("first", at, out))
    seen.along("first", at + 0.12 * long, at + 0.42 * long, beside)
    shows = (
        "The dial rides on the carriage of the first rail, its tip on a straight edge that lies "
        "beside it"
    )
    if setup.way == "bolts":
        for along in bolts_mm(seen.rails):
            seen.easel.bolt(seen.at("first", along), holds=along <= at)
        shows += "; bolts behind it are tight, those ahead are still loose."
    elif setup.way == "reversal":
        seen.easel.line(*(seen.at("first", a, -o) for a, o in corners), closed=True, thin=True)
        shows += "; for the second pass the edge is turned over to the other side, drawn thin."
    else:
        shows += "; the carriage goes from one end to the other."
    return seen.easel.done(plain(TITLES[setup.way]), shows)


def _height(setup: RailStraightSetup, machine: Machine) -> SketchFigure:
    """Seen from beside the rail, its fixed end at the left."""
    rails = rails_of(machine)
    easel = Easel(machine, "side", bare=True)
    half, u = rails.length_mm / 2, max(easel.unit, 0.2 * rails.length_mm)
    easel.pencil((-half, -0.16 * u), (half, -0.16 * u), (half, 0), (-half, 0))
    # an edge on two supports, where it sags least
    edge, tall = 0.95 * half, 0.75 * u
    easel.box(-edge, edge, tall, tall + 0.09 * u)
    for at in (-0.56 * edge, 0.56 * edge):
        easel.line((at - 0.05 * u, 0), (at, tall), (at + 0.05 * u, 0))
    at = -0.75 * edge
    easel.box(at - 0.12 * u, at + 0.12 * u, 0, 0.13 * u)
    easel.dial((at, 0.25 * u), (at, tall))
    easel.moves((at, -0.35 * u), (at + 0.6 * edge, -0.35 * u), by="slide")
    if setup.way == "bolts":
        for along in bolts_mm(rails):
            easel.bolt((along - half, -0.08 * u), holds=along - half <= at)
    shows = (
        "The dial rides on the carriage of the first rail, its tip up against the straight edge "
        "that stands over the rail on two supports."
    )
    if setup.way == "reversal":
        shows += " For the second pass the edge is turned about its length."
        easel.box(-edge, edge, tall + 0.2 * u, tall + 0.29 * u, thin=True)
    return easel.done(plain(TITLES[setup.way] + ", in height"), shows)
