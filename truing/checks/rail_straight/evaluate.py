"""From readings along a rail to its straightness; a reversal takes the edge's own error out.

The dial rides on the rail. With its tip toward plus a rail that stands to plus pushes it in, and
so does an edge that stands out; with the edge turned and the tip the other way only the rail's
sign turns: rail = ±(A − B)/2, edge = (A + B)/2.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from typing import Literal

from pydantic import BaseModel

from truing.checks.rail_straight.setup import RailStraightSetup, stations
from truing.contract.case import Case
from truing.contract.finding import Finding, Note, quantity, shown
from truing.contract.gather import Gathered, gather
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.drawing.figures import Curve, CurveFigure, CurvePoint, magnification
from truing.measure.estimate import Estimate
from truing.measure.lines import LINES, Line, LineKind, line_through, zone
from truing.measure.problem import Problem
from truing.measure.words import Words, plain, say, show, tick


class BoltAt(BaseModel):
    """How far a place along the rail stands off its line; plus is right, rear or up."""

    at_mm: float
    off_mm: float
    station: str
    """Where it was read; the first of the two by a reversal."""


class RailStraightFinding(Finding):
    """How far each bolt stands off the line (mm), and the edge's own error by a reversal."""

    kind: Literal["rail_straight"] = "rail_straight"
    bolts: list[BoltAt]
    """In order along the rail."""
    slope: Estimate
    straightness: Estimate
    edge_mm: list[BoltAt]
    """The reference edge's own error, by a reversal."""
    last_pass: bool
    """False while bolts are still being set and no full pass has followed."""


StraightCase = Case[RailStraightSetup, RailStraightFinding]


def evaluate(case: Case[RailStraightSetup, RailStraightFinding]) -> RailStraightFinding:
    """See `Check.evaluate`."""
    setup, readings = case.setup, case.readings
    plan = stations(setup)
    used, last_pass = _after_setting(setup, readings)
    got = gather(case, plan, readings=used)
    rail, edge, big, bound = _rail(setup, got)
    if len(rail) < 3:
        raise Problem(
            f"{len(rail)} of the bolts have been read, which tells no straightness.",
            expected="Read three or more; all of them is best.",
            field="readings",
        )
    xs = list(rail)
    line = line_through(xs, list(rail.values()), setup.line)
    bolts = [
        BoltAt(at_mm=x, off_mm=v, station=_station(setup, x))
        for x, v in zip(xs, line.left, strict=True)
    ]
    estimate = zone(xs, list(rail.values()), big, setup.line, bound=bound)
    if setup.way != "reversal":
        estimate = estimate.widened(setup.edge_within_mm)
    slope = _slope(setup.line, line, xs, (big, bound), got.dof)
    size = shown(estimate)
    sentence = (
        say("It is straight within {size}.", size=size)
        if estimate.visible
        else say("It cannot be told from straight: {size} from highest to lowest.", size=size)
    )
    return RailStraightFinding(
        quantities=[
            quantity(
                "straight",
                "Straightness",
                estimate,
                sentence,
                gain=math.sqrt(2),
                tolerance_key="straight",
                signed=False,
            ),
            quantity(
                "slope",
                "Slope to the edge",
                slope,
                None,
                gain=1000 / (max(xs) - min(xs)),
                tolerance_key=None,
            ),
        ],
        **got.told(
            "The shape stands, but check the dial’s clamp.",
            left=_left(plan, bolts),
            more=_jumps(case, bolts),
        ),
        lines=_lines(setup, edge, last_pass),
        bolts=bolts,
        slope=slope,
        straightness=estimate,
        edge_mm=[BoltAt(at_mm=x, off_mm=v, station=_station(setup, x)) for x, v in edge.items()],
        last_pass=last_pass,
    )


def _after_setting(
    setup: RailStraightSetup, readings: Sequence[Reading]
) -> tuple[list[Reading], bool]:
    """Bolt by bolt, the first reading of a bolt says what tightening did; a full pass follows."""
    if setup.way != "bolts":
        return list(readings), True
    counts = Counter(r.station for r in readings)
    if not counts or min(counts.get(f"{x:g}", 0) for x in setup.places_mm) < 2:
        return list(readings), False
    seen: Counter[str] = Counter()
    kept = []
    for reading in readings:
        seen[reading.station] += 1
        if seen[reading.station] > 1:
            kept.append(reading)
    return kept, True


def _rail(
    setup: RailStraightSetup, got: Gathered
) -> tuple[dict[float, float], dict[float, float], float, float]:
    """(rail by place, edge by place, U of a rail value, what it may be wrong by beside), mm."""
    rail: dict[float, float] = {}
    edge: dict[float, float] = {}
    big = bound = 0.0
    for x in setup.places_mm:
        key = f"{x:g}"
        if setup.way != "reversal":
            if got.has(key):
                rail[x] = setup.sign * got.means[key].mean_mm
                big = max(big, got.means[key].all_mm)
                bound = max(bound, got.means[key].bound_mm)
            continue
        if not got.has(f"A{key}", f"B{key}"):
            continue
        a, b = got.means[f"A{key}"], got.means[f"B{key}"]
        # sideways pass A has its tip toward plus; upwards pass A has it down, toward minus
        rail[x] = (a.mean_mm - b.mean_mm) / 2 * (1 if setup.plane == "side" else -1)
        edge[x] = (a.mean_mm + b.mean_mm) / 2
        big = max(big, math.hypot(a.all_mm, b.all_mm) / 2)
        bound = max(bound, (a.bound_mm + b.bound_mm) / 2)
    if setup.way == "reversal" and not rail:
        raise Problem(
            "No place has been read in both passes yet.",
            expected="Turn the edge about its long axis and read the same places in pass B.",
            field="readings",
        )
    return rail, edge, big, bound


def _slope(
    kind: LineKind, line: Line, xs: Sequence[float], doubt: tuple[float, float], dof: int | None
) -> Estimate:
    big, bound = doubt
    if kind == "least_squares":
        mid = sum(xs) / len(xs)
        spread = math.sqrt(sum((x - mid) ** 2 for x in xs))
        share = sum(abs(x - mid) for x in xs) / spread**2
    else:
        # it hangs on two of the places alone
        spread = (max(xs) - min(xs)) / math.sqrt(2)
        share = 2 / (max(xs) - min(xs))
    expanded = big / spread * 1000
    found = Estimate.within("slope", line.slope * 1000, expanded)
    return found.model_copy(update={"dof": dof}).widened(bound * share * 1000)


def _station(setup: RailStraightSetup, at_mm: float) -> str:
    return next(s.key for s in stations(setup) if s.at_mm == at_mm)


def _left(plan: Sequence[Station], bolts: Sequence[BoltAt]) -> dict[str, float]:
    off = {b.at_mm: b.off_mm for b in bolts}
    return {s.key: off.get(s.at_mm or 0.0, 0.0) for s in plan}


def _jumps(case: StraightCase, bolts: Sequence[BoltAt]) -> list[Note]:
    """Bolts that moved when later ones were tightened."""
    if case.setup.way != "bolts" or len(bolts) < 3:
        return []
    worst = max(bolts, key=lambda b: abs(b.off_mm))
    if abs(worst.off_mm) < case.tolerances["straight"]:
        return []
    text = say(
        "Bolt {n} stands {d} off the line now: it moved after it was set. Start again from the "
        "fixed end; it gets better each time.",
        n=list(bolts).index(worst) + 1,
        d=show(worst.off_mm, 0.001, signed=True),
    )
    return [Note(tone="look", text=text, station=worst.station)]


def _lines(setup: RailStraightSetup, edge: dict[float, float], last_pass: bool) -> list[Words]:
    lines = [plain(f"Measured from the line {LINES[setup.line]}.")]
    if not last_pass:
        lines.append(
            plain(
                "As the bolts were set. A full pass from the first bolt is still to "
                "come, and only that counts."
            )
        )
    if edge:
        own = line_through(list(edge), list(edge.values()), setup.line)
        lines.append(
            say("The edge itself is straight within {e}.", e=show(own.peak_to_valley, 0.001))
        )
    if setup.plane == "height" and setup.way == "reversal":
        lines.append(
            say(
                "The edge’s sag is in the rail’s figure: up to {s} in the middle.",
                s=show(setup.sag_mm, 0.001),
            )
            if setup.sag_mm
            else plain(
                "The edge’s sag, whatever it is, is in the rail’s figure: support it at "
                "0.22 of its length from each end."
            )
        )
    return lines


def curves(case: StraightCase) -> CurveFigure:
    """The rail against its line, with the owner's limit as a band; the edge where it is known."""
    setup, finding = case.setup, case.finding

    def curve(name: str, places: Sequence[float], values: Sequence[float], thin: bool) -> Curve:
        return Curve(
            name=name,
            reference=thin,
            points=[
                CurvePoint(label=tick(x), at_mm=x, off_mm=v, words=show(v, 0.001, signed=True))
                for x, v in zip(places, values, strict=True)
            ],
        )

    bolts, edge = finding.bolts, finding.edge_mm
    found = [curve("rail", [b.at_mm for b in bolts], [b.off_mm for b in bolts], False)]
    if edge:
        at = [b.at_mm for b in edge]
        line = line_through(at, [b.off_mm for b in edge], setup.line)
        found.append(curve("edge", at, line.left, True))
    span = max(setup.places_mm) - min(setup.places_mm)
    worst = max(abs(p.off_mm) for c in found for p in c.points)
    limit = case.tolerances["straight"]
    return CurveFigure(
        title=plain("The rail against its line, bolt by bolt"),
        curves=found,
        bolts=True,
        up="up" if setup.plane == "height" else "to the right, or to the rear",
        band_mm=limit / 2,
        band_words=show(limit, limit / 10),
        factor=magnification(max(worst, 1e-4), span),
    )
