"""Two schools of tram without a dial: a rod lowered in steps until it scrapes, and two gauges of
which one must go and the other must not.

A spindle leaning by L (mm/m) carries the end of its rod, r from the spindle, round in a plane that
is 2r·L lower on the side its top leans to: there it touches first, and it scrapes all round once it
has been lowered by as much again.
"""

from __future__ import annotations

import math
from itertools import product
from typing import Any

from truing.checks.common import expectation
from truing.checks.spindle_tram.evaluate import SpindleTramFinding, TramCase, sentence_of
from truing.checks.spindle_tram.fit import Lean, PlaceFit
from truing.checks.spindle_tram.setup import SpindleTramSetup, largest_swing_mm, stations
from truing.contract.expected import expected_mean
from truing.contract.finding import Note, Quantity, quantity
from truing.contract.gather import gather
from truing.contract.judgement import Expectation, Judgement
from truing.contract.readings import GradeReading
from truing.machine import Machine
from truing.measure.clock import angle_rad
from truing.measure.estimate import Estimate
from truing.measure.problem import Problem
from truing.measure.verdict import Verdict
from truing.measure.words import Words, plain, say, show, show_estimate, span

HALF_HOUR_RAD = math.radians(15.0)
"""How well a clock position is told."""
OPPOSITE = {"lean_x": ("3", "9"), "nod": ("12", "6")}
SIDE = {"3": "right", "9": "left", "12": "rear", "6": "front"}
NAMES = {"lean_x": "side to side", "nod": "front to back"}


def _grades(case: TramCase) -> dict[str, str]:
    return {r.station: r.grade for r in case.readings if isinstance(r, GradeReading)}


# --- a rod lowered in steps -----------------------------------------------------------------------


def scraped(case: TramCase) -> SpindleTramFinding:
    """How far it leans and where to, from where it touches first and how much further it scrapes
    all round. Problem while one of the two is missing."""
    setup = case.setup
    got = gather(case, stations(setup))
    first = _grades(case).get("first")
    if first is None or not got.has("round"):
        raise Problem(
            "Where it touches first and how much further it scrapes all round are both needed.",
            expected="Read the one that is missing.",
            field="readings",
        )
    swing = 2 * setup.radius_mm
    size, gain = got.combine({"round": 1000 / swing}, "slope")
    if size.value < -setup.drop_mm / swing * 1000:
        raise Problem(
            "It cannot scrape all round before it touches.",
            expected="Enter how much further it was lowered, as plus.",
            field="readings",
        )
    size = size.model_copy(update={"value": max(0.0, size.value)})
    size = size.widened(setup.drop_mm / swing * 1000)
    phi = angle_rad(float(first))
    leans = {
        key: Lean(estimate=_component(size, phi, turn), gain=gain)
        for key, turn in (("lean_x", 0.0), ("nod", math.pi / 2))
    }
    place = PlaceFit(
        at_mm=None,
        lean_x=leans["lean_x"],
        nod=leans["nod"],
        left_mm={},
        dof=0,
        largest_left_ratio=0.0,
    )
    total = say(
        "In all {size}, the top toward {clock} o’clock, where it touched first.",
        size=show_estimate(size.value, size.expanded, "slope"),
        clock=first,
    )
    return SpindleTramFinding(
        quantities=[_lean(setup, key, lean) for key, lean in leans.items()],
        **got.told("The lean stands, but check that the rod is tight."),
        lines=[total],
        places=[place],
        radius_mm=setup.radius_mm,
        total=total,
        total_clock=float(first),
        twist=None,
    )


def _component(size: Estimate, phi: float, turn: float) -> Estimate:
    """One lean of a total that points to φ within half an hour: all that it may be."""
    spread = [phi - HALF_HOUR_RAD, phi, phi + HALF_HOUR_RAD]
    # a lean that is largest within the half hour is so along the axis itself
    spread += [turn + k * math.pi for k in range(-2, 3) if abs(turn + k * math.pi - phi) < 0.26]
    sizes = [max(0.0, size.value - size.expanded), size.value + size.expanded]
    may = [s * math.cos(p - turn) for s, p in product(sizes, spread)]
    low, high = min(may), max(may)
    return Estimate.within("slope", (low + high) / 2, (high - low) / 2)


def _lean(setup: SpindleTramSetup, key: str, lean: Lean) -> Quantity:
    label = {"lean_x": "Lean", "nod": "Nod"}[key]
    return quantity(
        key,
        label,
        lean.estimate,
        sentence_of(setup, lean.estimate, key),
        gain=lean.gain,
        tolerance_key=key,
    )


# --- two gauges -----------------------------------------------------------------------------------


def gauged(case: TramCase) -> SpindleTramFinding:
    """What two gauges tell: a lean that is smaller than their difference allows, or that it is not.
    Problem while no two opposite places have been gauged."""
    setup = case.setup
    seen = _grades(case)
    bound = _bound(case)
    pairs = {k: p for k, p in OPPOSITE.items() if all(c in seen for c in p)}
    if not pairs:
        raise Problem(
            "Two opposite places are needed before anything can be said.",
            expected="Gauge on: 3 and 9, 12 and 6.",
            field="readings",
        )
    found = []
    for key, pair in pairs.items():
        if all(seen[c] == "in" for c in pair):
            lean = Estimate.within("slope", 0.0, bound).between(0.0, bound)
            found.append(_lean(setup, key, Lean(estimate=lean, gain=1.0)))
    text = plain(
        "Gauges accept a lean or do not; they do not measure it. A dial tells how much there is."
    )
    return SpindleTramFinding(
        quantities=found,
        stations=[],
        notes=[Note(tone="info", text=text)],
        s_mm=0.0,
        step_mm=case.instrument.step_mm,
        places=[],
        radius_mm=setup.radius_mm,
        total=None,
        total_clock=None,
        twist=None,
        gauged=seen,
    )


def refused(case: TramCase) -> list[tuple[Verdict, Words]]:
    """What the gauges say where they do not accept."""
    seen, setup = case.finding.gauged, case.setup
    bound = _bound(case)
    found: list[tuple[Verdict, Words]] = []
    for key, (one, other) in OPPOSITE.items():
        if one not in seen or other not in seen or seen[one] == seen[other] == "in":
            continue
        low, high = (one, other) if _rank(seen[one]) < _rank(seen[other]) else (other, one)
        if seen[one] == seen[other]:
            text = plain(
                f"{NAMES[key].capitalize()}, the gap is {_gap(seen[one])} on both sides: set the "
                "rod anew, so that the thin gauge goes and the thick one does not."
            )
            found.append(("too_close", text))
            continue
        certain = {seen[low], seen[high]} == {"narrow", "wide"}
        least = 2 * (setup.thick_mm - setup.thin_mm) / (2 * setup.radius_mm) * 1000 - bound
        sure = certain and least > case.tolerances[key]
        verdict: Verdict = "out" if sure else "too_close"
        text = say(
            "The gap is {low} at {lo} o’clock and {high} at {hi}: the top leans to the {side}, by "
            "{least}. How much, a dial tells.",
            low=_gap(seen[low]),
            lo=low,
            high=_gap(seen[high]),
            hi=high,
            side=SIDE[low],
            least=say("more than {b}", b=show(least, bound / 10, "slope"))
            if certain and least > 0
            else "an amount that these gauges do not bound",
        )
        found.append((verdict, text))
    return found


def joined(case: TramCase, judged: Judgement) -> Judgement:
    """The judgement of what was accepted together with what was not."""
    return judged.joined_by(refused(case))


def _rank(grade: str) -> int:
    return ("narrow", "in", "wide").index(grade)


def _gap(grade: str) -> str:
    return {"narrow": "too narrow", "in": "right", "wide": "too wide"}[grade]


def _bound(case: TramCase) -> float:
    """The lean that both gauges leave open (mm/m), with what a hand takes for going or not."""
    setup = case.setup
    doubt = 2 * math.sqrt(2) * case.instrument.repeatability_mm
    return (setup.thick_mm - setup.thin_mm + doubt) / (2 * setup.radius_mm) * 1000


# --- before the first reading ---------------------------------------------------------------------


def would_do(
    setup: SpindleTramSetup, machine: Machine, expanded: float, limit: float, other: Words
) -> Words:
    """What would decide: a longer arm where this table lets it swing, and something else that does
    in any case."""
    arm = math.ceil(setup.radius_mm * expanded / (limit / 4) / 5) * 5
    most = math.floor(largest_swing_mm(setup, machine))
    if arm <= most:
        return say("a swing radius of {arm} would do, or {other}.", arm=span(arm), other=other)
    if most <= 1.1 * setup.radius_mm:
        return say("{other} would do.", other=other)
    left = expanded * setup.radius_mm / most
    return say(
        "{other} would do; the longest swing on this table, {most}, would leave ±{left}.",
        other=other,
        most=span(most),
        left=show(left, left / 10, "slope"),
    )


def expected(case: TramCase, limit: float) -> Expectation:
    """What either school can tell. Problem for gauges that could never accept."""
    setup: Any = case.setup
    swing = 2 * setup.radius_mm
    if setup.way == "scrape":
        mean = expected_mean(case.instrument, setup.passes)
        big = (mean.expanded_mm + setup.drop_mm) / swing * 1000
        steps = say("steps of {q}", q=show(setup.drop_mm * limit / 4 / big, 1e-4))
        helps = would_do(setup, case.machine, big, limit, steps)
        return expectation(big, limit, "slope", helps)
    bound = _bound(case)
    if setup.thick_mm <= setup.thin_mm:
        raise Problem(
            "The gauge that must not go has to be the thicker one.",
            expected="Swap the two, or correct their thickness.",
            field="thick_mm",
        )
    if bound > limit:
        raise Problem(
            f"Gauges that differ by {setup.thick_mm - setup.thin_mm:g} mm accept a lean of up to "
            f"{bound:.2g} mm/m at this radius, and the limit is {limit:.2g} mm/m.",
            expected="Take gauges that are closer to each other, or a rod that reaches further.",
            field="thick_mm",
        )
    text = say(
        "These gauges accept a lean of up to {b}; the limit is {t}. They do not measure it.",
        b=show(bound, bound / 10, "slope"),
        t=show(limit, limit / 10, "slope"),
    )
    return Expectation(expanded=bound, tolerance=limit, enough=True, measure="slope", text=text)
