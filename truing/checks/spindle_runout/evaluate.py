"""From readings round a bar to where its axis stands off the axis it turns about.

With mark φ of the spindle facing the tip the dial shows R(φ) = c + x·cos φ + y·sin φ + what is out
of round; (x, y) is the bar's centre there, in the spindle's own frame, and TIR = 2·√(x² + y²).
Between two distances it is a line: e(z) = e₀ + t·z. A bar that is seated half round stands off the
other way by its own share, so that the mean of both seats is the spindle's.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Literal

from truing.checks.common import loose_bearings
from truing.checks.spindle_runout.setup import (
    RunoutStation,
    SpindleRunoutSetup,
    off_the_nose,
    stations,
)
from truing.checks.turning import (
    CIRCLE,
    Circle,
    Weights,
    angles_of,
    between,
    blind,
    harmonics,
    rings_of,
    size_of,
    swing_of,
    tir,
    too_small,
)
from truing.contract.case import Case
from truing.contract.design import Fit
from truing.contract.expected import expected_fit, expected_size
from truing.contract.finding import Finding, Note, Quantity, quantity, shown
from truing.contract.gather import Gathered, gather
from truing.measure.estimate import Estimate
from truing.measure.problem import Problem
from truing.measure.words import Words, place, plain, say, show_limits, stated


class SpindleRunoutFinding(Finding):
    """Where a spindle runs to, and how much."""

    kind: Literal["spindle_runout"] = "spindle_runout"
    circles: list[Circle]
    """By distance, of the spindle's own share."""
    bar_tir_mm: float | None
    """What the bar itself runs out by furthest out; None where it was seated once."""


RunoutCase = Case[SpindleRunoutSetup, SpindleRunoutFinding]


def evaluate(case: RunoutCase) -> SpindleRunoutFinding:
    """See `Check.evaluate`."""
    setup = case.setup
    plan = stations(setup)
    got = gather(case, plan)
    if setup.way == "swing":
        return _from_swings(case, plan, got)
    return _from_angles(case, plan, got)


# --- by angles ------------------------------------------------------------------------------------


def _from_angles(
    case: RunoutCase, plan: Sequence[RunoutStation], got: Gathered
) -> SpindleRunoutFinding:
    setup = case.setup
    read = [s for s in plan if got.has(s.key)]
    places = sorted({s.at_mm or 0.0 for s in read})
    if set(setup.turned) - {s.seat for s in read}:
        raise Problem(
            "The second seat of the bar has not been read.",
            expected="Turn the bar half round and read it again at the same marks.",
            field="readings",
        )
    fit = got.fit(rings_of(_rings(read)))
    centres, bars = _weights(setup, read)
    circles = [_circle(z, centres[z], fit, [s for s in read if s.at_mm == z]) for z in places]
    bound = _bar_bound(setup)
    told = [_tir(f"tir@{z:g}", z, size_of(fit, centres[z]), bound, None) for z in places]
    told += _elsewhere(case, fit, centres, bound)
    read_of = got.told("The runout stands, but check the dial’s clamp.", fit=fit)
    read_of["notes"] += [*blind(angles_of(setup.marks, setup.marks_deg)), *loose_bearings(case)]
    bar_tir = None
    if len(setup.turned) > 1:
        bar_tir = 2 * size_of(fit, bars[places[-1]])[0]
    return SpindleRunoutFinding(
        **read_of,
        quantities=told,
        lines=_lines(circles, bar_tir),
        circles=circles,
        bar_tir_mm=bar_tir,
    )


def _bar_bound(setup: SpindleRunoutSetup) -> float:
    return 0.0 if setup.surface == "taper" or len(setup.turned) > 1 else setup.bar_mm


def _rings(read: Sequence[RunoutStation]) -> dict[tuple[float, int], list[RunoutStation]]:
    rings: dict[tuple[float, int], list[RunoutStation]] = {}
    for s in read:
        rings.setdefault((s.at_mm or 0.0, s.seat), []).append(s)
    return rings


def _weights(
    setup: SpindleRunoutSetup, read: Sequence[RunoutStation]
) -> tuple[dict[float, dict[str, Weights]], dict[float, dict[str, Weights]]]:
    """(the spindle's centre, the bar's own) at every distance: what each reading counts for in
    x and y."""
    share = 1 / len(setup.turned)
    centres: dict[float, dict[str, Weights]] = {}
    bars: dict[float, dict[str, Weights]] = {}
    for (z, seat), ring in sorted(_rings(read).items()):
        rows = harmonics([s.angle_rad for s in ring])
        for axis in ("x", "y"):
            weights = centres.setdefault(z, {"x": {}, "y": {}})[axis]
            own = bars.setdefault(z, {"x": {}, "y": {}})[axis]
            for s, w in zip(ring, rows[axis], strict=True):
                weights[s.key] = float(w) * share
                own[s.key] = float(w) * share * (1 if seat == 0 else -1)
    return centres, bars


def promised(case: RunoutCase) -> float:
    """U of the TIR at the nose that is to be expected (mm)."""
    setup, plan = case.setup, stations(case.setup)
    if setup.way == "swing":
        size = expected_size(case, list(plan))
        none = Estimate.within("length", 0.0, size).between(0.0, size)
        bound = setup.bar_mm if setup.surface == "bar" else 0.0
        nose = _nose_by_swings(dict.fromkeys(setup.distances_mm, none), bound)
        return max(size + bound, nose.expanded)
    fit = expected_fit(rings_of(_rings(plan)), case, list(plan))
    told = _elsewhere(case, fit, _weights(setup, plan)[0], _bar_bound(setup))
    return next(q.estimate.expanded for q in told if q.key == "nose")


def _circle(
    z: float, axes: Mapping[str, Weights], fit: Fit, here: Sequence[RunoutStation]
) -> Circle:
    x, y = (fit.combine(axes[a])[0] for a in ("x", "y"))
    first = [s for s in here if s.seat == 0]
    values = [fit.means[s.key].mean_mm for s in first]
    rows, oval = harmonics([s.angle_rad for s in first]), None
    if "oval_c" in rows:
        oval = math.hypot(rows["oval_c"] @ values, rows["oval_s"] @ values)
    middle = sum(values) / len(values)
    return Circle(
        at_mm=z,
        x_mm=x.value,
        y_mm=y.value,
        expanded_mm=size_of(fit, axes)[1],
        oval_mm=oval,
        angles_rad=[s.angle_rad for s in first],
        off_mm=[v - middle for v in values],
    )


def _tir(
    key: str, z: float, size: tuple[float, float], bound: float, tolerance_key: str | None
) -> Quantity:
    estimate = tir(*size, bound)
    sentence = say("It runs out by {tir} TIR {where}.", tir=shown(estimate), where=off_the_nose(z))
    label = "TIR at the nose" if z == 0 else f"TIR at {place(z)} mm"
    return quantity(
        key,
        label,
        estimate,
        sentence if tolerance_key else None,
        gain=2.0,
        tolerance_key=tolerance_key,
        sort="tir",
        at_mm=z,
        signed=False,
    )


def _elsewhere(
    case: RunoutCase, fit: Fit, centres: Mapping[float, Mapping[str, Weights]], bound: float
) -> list[Quantity]:
    """At the nose and wherever tools stick out, along the line through the centres; where only one
    place was read, there."""
    places = sorted(centres)
    if len(places) == 1:
        z = places[0]
        return [_tir("nose", z, size_of(fit, centres[z]), bound, "nose")]
    middle = sum(places) / len(places)
    spread = sum((z - middle) ** 2 for z in places)
    found = []
    for at in (0.0, *case.setup.stick_out_mm):
        share = {z: 1 / len(places) + (at - middle) * (z - middle) / spread for z in places}
        axes = {
            a: {k: w * share[z] for z in places for k, w in centres[z][a].items()}
            for a in ("x", "y")
        }
        # what the bar may run out by at either end adds up along the line
        reach = bound * sum(abs(s) for s in share.values())
        key, limit = ("nose", "nose") if at == 0 else (f"stick_out@{at:g}", "stick_out")
        found.append(_tir(key, at, size_of(fit, axes), reach, limit))
    tilt = {
        a: {k: w * (z - middle) / spread * 1000 for z in places for k, w in centres[z][a].items()}
        for a in ("x", "y")
    }
    size, big = size_of(fit, tilt)
    slope = Estimate.within("slope", size, big).between(size - CIRCLE * big / 2, size + big)
    sentence = say("Its axis leans by {t} as it goes out.", t=shown(slope))
    told = quantity(
        "tilt",
        "Tilt of the axis",
        slope,
        sentence if slope.visible else None,
        gain=1.0,
        tolerance_key=None,
        signed=False,
    )
    return [*found, told]


def _lines(circles: Sequence[Circle], bar_tir: float | None) -> list[Words]:
    lines = []
    furthest = circles[-1]
    if math.hypot(furthest.x_mm, furthest.y_mm) > furthest.expanded_mm:
        turn = math.degrees(math.atan2(furthest.y_mm, furthest.x_mm)) % 360
        at = stated(f"{place(furthest.at_mm)} mm")
        lines.append(
            say(f"At {{at}} its high side lies {turn:.0f}° round from the first mark.", at=at)
        )
    ovals = [c for c in circles if c.oval_mm is not None and c.oval_mm > c.expanded_mm]
    for c in ovals:
        assert c.oval_mm is not None
        lines.append(
            say(
                "At {z} it is out of round, by {o} across: that is the bar or the bore, and no "
                "runout.",
                z=stated(f"{place(c.at_mm)} mm"),
                o=show_limits(2 * (c.oval_mm - c.expanded_mm), 2 * c.oval_mm, "length"),
            )
        )
    if bar_tir is not None:
        lines.append(
            say(
                "The bar’s own share was {b} TIR furthest out; it is not in the figures above.",
                b=show_limits(0.0, bar_tir, "length"),
            )
        )
    return lines


# --- by one swing ---------------------------------------------------------------------------------


def _from_swings(
    case: RunoutCase, plan: Sequence[RunoutStation], got: Gathered
) -> SpindleRunoutFinding:
    """Bounds from magnitudes: where to is not known, so that two may add up or cancel."""
    setup = case.setup
    sizes = {}
    for s in plan:
        if not got.has(s.key):
            continue
        sizes[s.at_mm or 0.0] = swing_of(got, s.key)
    bound = setup.bar_mm if setup.surface == "bar" else 0.0
    told = []
    for z, swing in sizes.items():
        told.append(_bounded(f"tir@{z:g}", z, swing.widened(bound), None))
    places = sorted(sizes)
    if len(places) == 1:
        z = places[0]
        told.append(_bounded("nose", z, sizes[z].widened(bound), "nose"))
    else:
        told.append(_bounded("nose", 0.0, _nose_by_swings(sizes, bound), "nose"))
        for at in setup.stick_out_mm:
            size = between(sizes, places[0], places[-1], at, bound)
            told.append(_bounded(f"stick_out@{at:g}", at, size, "stick_out"))
    text = (
        "One swing tells no direction: two places may lean the same way or against each other, and "
        "what is out of round is in it. Angles by a mark tell."
    )
    read_of = got.told("The runout stands, but check the dial’s clamp.")
    read_of["notes"] += [
        Note(tone="weak", text=plain(text)),
        *too_small(list(sizes.values()), got.step_mm),
        *loose_bearings(case),
    ]
    return SpindleRunoutFinding(
        **read_of,
        quantities=told,
        circles=[],
        bar_tir_mm=None,
    )


def _nose_by_swings(sizes: Mapping[float, Estimate], bound: float) -> Estimate:
    """The swing at the nose by those at other distances, or at the only one that was read."""
    places = sorted(sizes)
    if len(places) == 1:
        return sizes[places[0]].widened(bound)
    return between(sizes, places[0], places[-1], 0.0, bound)


def _bounded(key: str, z: float, estimate: Estimate, tolerance_key: str | None) -> Quantity:
    sentence = say("It runs out by {tir} TIR {where}.", tir=shown(estimate), where=off_the_nose(z))
    return quantity(
        key,
        "TIR at the nose" if z == 0 else f"TIR at {place(z)} mm",
        estimate,
        sentence if tolerance_key else None,
        gain=1.0,
        tolerance_key=tolerance_key,
        sort="tir",
        at_mm=z,
        signed=False,
    )
