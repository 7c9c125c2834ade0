"""From readings to a finding: leans, what is left over, and how far it carries."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from pydantic import Field

from truing.checks.spindle_tram.fit import Lean, PlaceFit, design, leans_of
from truing.checks.spindle_tram.setup import SpindleTramSetup, stations
from truing.contract.case import Case
from truing.contract.finding import Finding, Note, Quantity, quantity
from truing.contract.gather import gather
from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.measure.estimate import Estimate
from truing.measure.words import Words, plain, say, show, show_estimate, span, stated
from truing.measure.words import place as place_label


class SpindleTramFinding(Finding):
    """Lean and nod of the spindle to the table, at each place along the beam."""

    kind: Literal["spindle_tram"] = "spindle_tram"
    places: list[PlaceFit]
    radius_mm: float
    total: Words | None
    """Size and direction of the whole lean, where it can be told from nothing."""
    total_clock: float | None
    twist: Words | None
    """How the nod changes along the beam: twist of the beam, or of the bed."""
    gauged: dict[str, str] = Field(default_factory=dict)
    """What two gauges showed, by clock position."""


TramCase = Case[SpindleTramSetup, SpindleTramFinding]


def evaluate(case: Case[SpindleTramSetup, SpindleTramFinding]) -> SpindleTramFinding:
    """See `Check.evaluate`."""
    setup, instrument = case.setup, case.instrument
    plan = stations(setup)
    got = gather(case, plan, sign=setup.sign)
    read, means = got.groups, got.means
    by_place: dict[float | None, list[Station]] = {}
    for station in plan:
        if station.key in read:
            by_place.setdefault(station.at_mm, []).append(station)
    fits = {x: got.fit(design(group, setup.radius_mm)) for x, group in by_place.items()}
    places = [leans_of(fit, x, means, setup) for x, fit in fits.items()]
    told = got.told("The leans stand, but check the clamps of the arm.", fit=list(fits.values()))
    if not any(note.wild for note in told["notes"]):
        told["notes"] += [
            note
            for place, fit in zip(places, fits.values(), strict=True)
            if not fit.alone_mm
            for note in _shape(place, instrument)
        ]
    total, clock = _total(places)
    twist = _twist(places)
    return SpindleTramFinding(
        quantities=_quantities(setup, places),
        **told,
        lines=[words for words in (total, twist, _against(setup)) if words],
        places=places,
        radius_mm=setup.radius_mm,
        total=total,
        total_clock=clock,
        twist=twist,
    )


def _against(setup: SpindleTramSetup) -> Words | None:
    if setup.against is None:
        return None
    return plain(
        "Read against the board: its slope under the tip counts as lean. Surfacing it changes what "
        "this is read on, not how the spindle stands."
    )


_NAMES = {
    "lean_x": ("Lean", "Side to side", ("leans right", "leans left")),
    "nod": ("Nod", "Front to back", ("leans to the rear", "leans to the front")),
}


def _quantities(setup: SpindleTramSetup, places: Sequence[PlaceFit]) -> list[Quantity]:
    found = []
    for place in places:
        for key in ("lean_x", "nod"):
            lean: Lean | None = getattr(place, key)
            if lean is None:
                continue
            label, axis, sides = _NAMES[key]
            x = place.at_mm
            at = stated(f" at x {place_label(x)} mm" if x is not None else "")
            found.append(
                quantity(
                    f"{key}@{x:g}" if x is not None else key,
                    plain(label) + at,
                    lean.estimate,
                    _sentence(setup, lean.estimate, axis, sides, at),
                    gain=lean.gain,
                    tolerance_key=key,
                    at_mm=x,
                )
            )
    return found


def sentence_of(setup: SpindleTramSetup, x: Estimate, key: str) -> Words:
    """What a lean or a nod is, in a sentence."""
    _, axis, sides = _NAMES[key]
    return _sentence(setup, x, axis, sides, plain(""))


def _sentence(
    setup: SpindleTramSetup, x: Estimate, axis: str, sides: tuple[str, str], at: Words
) -> Words:
    swing = 2 * setup.radius_mm / 1000
    over = say(
        "{size} over your {swing} swing",
        size=show_estimate(abs(x.value) * swing, x.expanded * swing, "length"),
        swing=span(2 * setup.radius_mm),
    )
    if setup.span_mm:
        wide = setup.span_mm / 1000
        over = say(
            "{over}, {size} over {span}",
            over=over,
            size=show_estimate(abs(x.value) * wide, x.expanded * wide, "length"),
            span=span(setup.span_mm),
        )
    size = show_estimate(abs(x.value), x.expanded, "slope")
    if not x.visible:
        return say(
            "{axis}{at}: no lean that can be told from nothing: {size}, that is {over}.",
            axis=axis,
            at=at,
            size=size,
            over=over,
        )
    return say(
        "The top {side}{at}: {size}, that is {over}.",
        side=sides[0] if x.value > 0 else sides[1],
        at=at,
        size=size,
        over=over,
    )


def _total(places: Sequence[PlaceFit]) -> tuple[Words | None, float | None]:
    if len(places) != 1 or places[0].lean_x is None or places[0].nod is None:
        return None, None
    a, b = places[0].lean_x.estimate, places[0].nod.estimate
    size = math.hypot(a.value, b.value)
    if not size:
        return None, None
    big_u = math.hypot(a.value * a.expanded, b.value * b.expanded) / size
    if size <= big_u:
        return None, None
    hours = round((90 - math.degrees(math.atan2(b.value, a.value))) / 30, 6) % 12 or 12.0
    clock = round(hours * 2) / 2 or 12.0
    words = say(
        "In all {size}, the top toward {clock} o’clock.",
        size=show_estimate(size, big_u, "slope"),
        clock=f"{int(clock)}:30" if clock % 1 else f"{int(clock)}",
    )
    return words, hours


def nod_along_beam(places: Sequence[PlaceFit]) -> tuple[float, float, float] | None:
    """(nod at x = 0 in mm/m, twist in mm/m per m, U of the twist) of a line through the places;
    None with fewer than two."""
    known = [(p.at_mm, p.nod.estimate) for p in places if p.nod is not None and p.at_mm is not None]
    if len(known) < 2:
        return None
    xs = [x / 1000 for x, _ in known]
    mid = sum(xs) / len(xs)
    sxx = sum((x - mid) ** 2 for x in xs)
    twist = sum((x - mid) * e.value for x, (_, e) in zip(xs, known, strict=True)) / sxx
    big_u = math.sqrt(
        sum(((x - mid) / sxx * e.expanded) ** 2 for x, (_, e) in zip(xs, known, strict=True))
    )
    level = sum(e.value for _, e in known) / len(known) - twist * mid
    return level, twist, big_u


def _twist(places: Sequence[PlaceFit]) -> Words | None:
    line = nod_along_beam(places)
    if line is None:
        return None
    _, twist, big_u = line
    if abs(twist) <= big_u:
        return plain("No twist along the beam that can be told from nothing.")
    way = "to the rear" if twist > 0 else "to the front"
    return say(
        "The nod changes along the beam by {size} for each metre, {way} toward the right: "
        "the beam is twisted, or the bed is.",
        size=show_estimate(abs(twist), big_u, "slope"),
        way=way,
    )


def _shape(place: PlaceFit, instrument: Instrument) -> list[Note]:
    both = place.lean_x is not None and place.nod is not None
    if place.dof == 0 and both:
        return [
            Note(
                tone="weak",
                text=plain(
                    "Three positions carry any bow of the table into the lean, and nothing is left "
                    "to show it. A fourth would."
                ),
            )
        ]
    if place.dof >= 1 and place.largest_left_ratio > 1:
        key, size = max(place.left_mm.items(), key=lambda item: abs(item[1]))
        return [
            Note(
                tone="look",
                station=key,
                text=say(
                    "The readings miss one plane by {size}. The table is not flat there, or the "
                    "tip walked.",
                    size=show(abs(size), instrument.step_mm / 2),
                ),
            )
        ]
    return []
