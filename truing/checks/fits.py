"""Whether what is stated fits the machine: places that lie beyond a table, a travel or a rail are
told while they are typed, with what would fit. They are doubts, not refusals: a machine may be
described too small."""

from __future__ import annotations

from collections.abc import Sequence

from truing.machine import Machine
from truing.machine.parts import DIRECTIONS, Direction
from truing.measure.words import Words, say, span

SLACK = 1.02
"""What a description is rounded by."""
SIZES: dict[Direction, str] = {"left_right": "table_x_mm", "front_back": "table_y_mm"}


def on_the_table(
    machine: Machine, direction: Direction, places_mm: Sequence[float], *, called: str = "table"
) -> list[Words]:
    """For places counted from mid table, this way."""
    size = float(getattr(machine, SIZES[direction]))
    most = max((abs(p) for p in places_mm), default=0.0)
    if most <= SLACK * size / 2:
        return []
    return [
        say(
            "Places {way} go out to {most} from the middle, and the {called} is {size} long that "
            "way: up to {fits} either side fits.",
            way=DIRECTIONS[direction],
            most=span(most),
            called=called,
            size=span(size),
            fits=span(size / 2),
        )
    ]


def in_the_travel(
    machine: Machine, direction: Direction, places_mm: Sequence[float]
) -> list[Words]:
    """For places that a slide is brought to, counted from mid travel."""
    slide = machine.slide(direction)
    most = max((abs(p) for p in places_mm), default=0.0)
    if slide is None or most <= SLACK * slide.travel_mm / 2:
        return []
    return [
        say(
            "Places go out to {most} from mid travel, and this slide travels {travel}: up to "
            "{fits} either side can be reached.",
            most=span(most),
            travel=span(slide.travel_mm),
            fits=span(slide.travel_mm / 2),
        )
    ]


def reachable(
    machine: Machine, direction: Direction, places_mm: Sequence[float], *, called: str = "table"
) -> list[Words]:
    """For places counted from mid table that a slide is brought to: what ends first is told."""
    slide = machine.slide(direction)
    if slide is not None and slide.travel_mm < getattr(machine, SIZES[direction]):
        return in_the_travel(machine, direction, places_mm)
    return on_the_table(machine, direction, places_mm, called=called)


def within_travel(
    machine: Machine, direction: Direction, length_mm: float, what: str
) -> list[Words]:
    """For a length that a slide has to run along."""
    slide = machine.slide(direction)
    if slide is None or length_mm <= SLACK * slide.travel_mm:
        return []
    return [
        say(
            "{what} is {length} long, and the slide that goes {way} travels {travel}.",
            what=what,
            length=span(length_mm),
            way=DIRECTIONS[direction],
            travel=span(slide.travel_mm),
        )
    ]


def along_the_rails(machine: Machine, places_mm: Sequence[float]) -> list[Words]:
    """For places counted from the fixed end of a rail."""
    rails = machine.rails
    if rails is None or not places_mm:
        return []
    if min(places_mm) >= 0 and max(places_mm) <= SLACK * rails.length_mm:
        return []
    return [
        say(
            "Places run from {low} to {high}, and the rails from {start} to {end}.",
            low=span(min(places_mm)),
            high=span(max(places_mm)),
            start=span(0.0),
            end=span(rails.length_mm),
        )
    ]


def corners_on_the_rails(machine: Machine, length_mm: float, apart_mm: float) -> list[Words]:
    """For a rectangle whose corners lie on both rails."""
    rails, found = machine.rails, []
    if rails is None:
        return []
    if length_mm > SLACK * rails.length_mm:
        found.append(
            say(
                "The corners are said to be {length} apart along the rails, which are {end} long.",
                length=span(length_mm),
                end=span(rails.length_mm),
            )
        )
    if not 0.8 * rails.apart_mm <= apart_mm <= 1.2 * rails.apart_mm:
        found.append(
            say(
                "The corners are said to be {across} apart across, and the rails are described "
                "{apart} apart: a corner lies on its rail.",
                across=span(apart_mm),
                apart=span(rails.apart_mm),
            )
        )
    return found


def nearer_than_travel(machine: Machine, direction: Direction, apart_mm: float) -> list[Words]:
    """For end blocks, which a slide runs between."""
    slide = machine.slide(direction)
    if slide is None or apart_mm * SLACK >= slide.travel_mm:
        return []
    return [
        say(
            "The end blocks are said to be {apart} apart, and the slide between them travels "
            "{travel}: they are further apart than that.",
            apart=span(apart_mm),
            travel=span(slide.travel_mm),
        )
    ]


def on_the_base(
    machine: Machine, across_x_mm: Sequence[float], along_y_mm: Sequence[float]
) -> list[Words]:
    """For a level that is laid on what stands on the feet, counted from their middle."""
    if machine.feet is None:
        return []
    found: list[Words] = []
    for name, places, half_mm, at in (
        ("across", across_x_mm, machine.table_x_mm / 2, [f.x_mm for f in machine.feet.places]),
        ("lengthwise", along_y_mm, machine.table_y_mm / 2, [f.y_mm for f in machine.feet.places]),
    ):
        most = max((abs(p) for p in places), default=0.0)
        reach = max(half_mm, (max(at) - min(at)) / 2)
        if most > SLACK * reach:
            found.append(
                say(
                    "The places {name} go out to {most} from the middle; the machine ends at "
                    "{reach}.",
                    name=name,
                    most=span(most),
                    reach=span(reach),
                )
            )
    return found
