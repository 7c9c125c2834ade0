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

from truing.checks.common import peak_to_valley, quantity
from truing.checks.rail_straight.setup import RailStraightSetup, stations
from truing.contract.finding import Finding, Note
from truing.contract.gather import Gathered, gather
from truing.contract.history import History
from truing.contract.readings import Reading
from truing.drawing.figures import Curve, CurveFigure, CurvePoint, magnification
from truing.kit.instruments import Instrument
from truing.measure.estimate import Estimate
from truing.measure.lines import LINES, Line, LineKind, line_through
from truing.measure.problem import Problem
from truing.measure.words import Words, place, plain, say, show, show_estimate


class RailStraightFinding(Finding):
    """How far each bolt stands off the line (mm), and the edge's own error by a reversal."""

    kind: Literal["rail_straight"] = "rail_straight"
    off_mm: dict[str, float]
    """By place along the rail; plus is right, rear or up."""
    slope: Estimate
    straightness: Estimate
    edge_mm: dict[str, float]
    last_pass: bool
    """False while bolts are still being set and no full pass has followed."""


def evaluate(
    setup: RailStraightSetup,
    readings: Sequence[Reading],
    instrument: Instrument,
    history: History,
) -> RailStraightFinding:
    """See `Check.evaluate`."""
    plan = stations(setup)
    used, last_pass = _after_setting(setup, readings)
    got = gather(plan, used, instrument, history)
    rail, edge, u = _rail(setup, got)
    if len(rail) < 3:
        raise Problem(
            f"{len(rail)} of the bolts have been read, which tells no straightness.",
            expected="Read three or more; all of them is best.",
            field="readings",
        )
    xs = [float(k) for k in rail]
    line = line_through(xs, list(rail.values()), setup.line)
    off = dict(zip(rail, line.left, strict=True))
    estimate, floor = peak_to_valley(off, u)
    if setup.way != "reversal" and setup.edge_within_mm:
        big = math.hypot(estimate.expanded, setup.edge_within_mm)
        estimate = Estimate(value=estimate.value, u=big / 2, expanded=big)
    slope = _slope(setup.line, line, xs, u, got.dof)
    size = show_estimate(estimate.value, estimate.expanded, "length")
    sentence = (
        say("It cannot be told from straight: {size} from highest to lowest.", size=size)
        if estimate.value <= floor
        else say("It is straight within {size}.", size=size)
    )
    return RailStraightFinding(
        quantities=[
            quantity(
                "straight",
                "Straightness",
                estimate,
                sentence,
                gain=math.sqrt(2),
                measure="length",
                tolerance_key="straight",
                floor=floor,
                signed=False,
            ),
            quantity(
                "slope",
                "Slope to the edge",
                slope,
                plain(""),
                gain=1000 / (max(xs) - min(xs)),
                measure="slope",
                tolerance_key=None,
            ),
        ],
        stations=got.station_means(_left(setup, got, off)),
        notes=[
            *got.notes("The shape stands, but check the dial’s clamp."),
            *_jumps(setup, readings, off),
        ],
        spread=got.own,
        s_mm=got.s_mm,
        step_mm=instrument.step_mm,
        lines=_lines(setup, edge, last_pass),
        figures=[_figure(setup, off, edge)],
        off_mm=off,
        slope=slope,
        straightness=estimate,
        edge_mm=edge,
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
) -> tuple[dict[str, float], dict[str, float], float]:
    """(rail by place, edge by place, u of a rail value), mm."""
    rail: dict[str, float] = {}
    edge: dict[str, float] = {}
    u = 0.0
    for x in setup.places_mm:
        key = f"{x:g}"
        if setup.way != "reversal":
            if got.has(key):
                rail[key] = setup.sign * got.means[key].mean_mm
                u = max(u, got.means[key].u_mm)
            continue
        if not got.has(f"A{key}", f"B{key}"):
            continue
        a, b = got.means[f"A{key}"], got.means[f"B{key}"]
        # sideways pass A has its tip toward plus; upwards pass A has it down, toward minus
        rail[key] = (a.mean_mm - b.mean_mm) / 2 * (1 if setup.plane == "side" else -1)
        edge[key] = (a.mean_mm + b.mean_mm) / 2
        u = max(u, math.hypot(a.u_mm, b.u_mm) / 2)
    if setup.way == "reversal" and not rail:
        raise Problem(
            "No place has been read in both passes yet.",
            expected="Turn the edge about its long axis and read the same places in pass B.",
            field="readings",
        )
    return rail, edge, u


def _slope(kind: LineKind, line: Line, xs: Sequence[float], u: float, dof: int | None) -> Estimate:
    if kind == "least_squares":
        mid = sum(xs) / len(xs)
        spread = math.sqrt(sum((x - mid) ** 2 for x in xs))
    else:
        # it hangs on two of the places alone
        spread = (max(xs) - min(xs)) / math.sqrt(2)
    su = u / spread * 1000
    return Estimate(value=line.slope * 1000, u=su, expanded=2 * su, dof=dof)


def _left(setup: RailStraightSetup, got: Gathered, off: dict[str, float]) -> dict[str, float]:
    return {k: off.get(k.lstrip("AB"), 0.0) for k in got.means}


def _jumps(
    setup: RailStraightSetup, readings: Sequence[Reading], off: dict[str, float]
) -> list[Note]:
    """Bolts that moved when later ones were tightened."""
    if setup.way != "bolts" or len(off) < 3:
        return []
    worst = max(off, key=lambda k: abs(off[k]))
    if abs(off[worst]) < 0.02:
        return []
    text = say(
        "Bolt {n} stands {d} off the line now: it moved after it was set. Start again from the "
        "fixed end; it gets better each time.",
        n=list(off).index(worst) + 1,
        d=show(off[worst], 0.001, signed=True),
    )
    return [Note(tone="look", text=text, station=worst)]


def _lines(setup: RailStraightSetup, edge: dict[str, float], last_pass: bool) -> list[Words]:
    lines = [plain(f"Measured from the line {LINES[setup.line]}.")]
    if not last_pass:
        lines.append(
            plain(
                "As the bolts were set. A full pass from the first bolt is still to "
                "come, and only that counts."
            )
        )
    if edge:
        own = line_through([float(k) for k in edge], list(edge.values()), setup.line)
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


def _figure(setup: RailStraightSetup, off: dict[str, float], edge: dict[str, float]) -> CurveFigure:
    def curve(name: str, values: dict[str, float], reference: bool) -> Curve:
        return Curve(
            name=name,
            reference=reference,
            points=[
                CurvePoint(
                    label=place(float(k)),
                    at_mm=float(k),
                    off_mm=v,
                    words=show(v, 0.001, signed=True),
                )
                for k, v in values.items()
            ],
        )

    curves = [curve("rail", off, False)]
    if edge:
        line = line_through([float(k) for k in edge], list(edge.values()), setup.line)
        own = dict(zip(edge, line.left, strict=True))
        curves.append(curve("edge", own, True))
    span = max(setup.places_mm) - min(setup.places_mm)
    worst = max(abs(p.off_mm) for c in curves for p in c.points)
    return CurveFigure(
        title=plain("The rail against its line, bolt by bolt"),
        curves=curves,
        bolts=True,
        up="up" if setup.plane == "height" else "to the right, or to the rear",
        band_mm=0.01,
        band_words=show(0.02, 0.001),
        factor=magnification(max(worst, 1e-4), span),
    )
