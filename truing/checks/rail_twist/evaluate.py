"""From a bridge over the diagonals, or from heights, to how far the rails are out of one plane.

w is the mean height of diagonal B (front right, rear left) less that of diagonal A. The fourth
corner of a bridge on three feet reads 2w. A level across the rails leans otherwise at either end:
w is half of what it differs by over the distance across.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Literal

from truing.checks.rail_twist.setup import CORNERS, DIAGONALS, RailTwistSetup, stations
from truing.contract.case import Case
from truing.contract.finding import Finding, Note, Quantity, quantity, shown
from truing.contract.gather import Gathered, gather
from truing.contract.history import History
from truing.drawing.figures import WarpFigure, WarpPoint, magnification
from truing.kit.instruments import Instrument
from truing.machine import Pad
from truing.measure.estimate import Estimate
from truing.measure.extremes import peak_to_valley
from truing.measure.problem import Problem
from truing.measure.words import Words, plain, say, show, show_estimate
from truing.moves.flatness import off_plane


class RailTwistFinding(Finding):
    """Twist w of the corners (mm), or the least zone of many heights; heights by place."""

    kind: Literal["rail_twist"] = "rail_twist"
    twist: Estimate
    """w for corners and bridges; highest less lowest off the best plane for many places."""
    heights_mm: dict[str, float]
    """Off the best plane, by corner or station; plus is high."""
    low: Literal["A", "B", ""]
    """The diagonal that lies low."""


_TWIST: Mapping[str, Mapping[str, float]] = {
    "bridge": {"B": 1.0, "A": -1.0},
    "fourth": {"fourth": 0.5},
    "corners": {
        "front right": 0.5,
        "rear left": 0.5,
        "front left": -0.5,
        "rear right": -0.5,
    },
}


def weights(setup: RailTwistSetup, instrument: Instrument) -> Mapping[str, float]:
    """What w is of the readings of each station, many places apart."""
    if setup.way == "level":
        # plus is up at the second rail: the front right corner, or the rear left one
        share = setup.apart_mm / instrument.level_base_mm / 2
        return {"fixed": share, "far": -share}
    return _TWIST[setup.way]


def evaluate(case: Case[RailTwistSetup, RailTwistFinding]) -> RailTwistFinding:
    """See `Check.evaluate`."""
    setup = case.setup
    got = gather(case, stations(setup), sign=setup.sign)
    if setup.way == "stations":
        return _many(setup, got)
    of = weights(setup, case.instrument)
    if not got.has(*of):
        labels = {s.key: s.label.metric for s in got.plan}
        missing = ", ".join(labels[k] for k in of if not got.has(k))
        raise Problem(
            f"Not read yet: {missing}.",
            expected="All of them are needed to tell a twist.",
            field="readings",
        )
    w, gain = got.combine(of)
    low: Literal["A", "B", ""] = "" if not w.visible else "A" if w.value > 0 else "B"
    heights = {c: (w.value / 2 if c in DIAGONALS["B"] else -w.value / 2) for c in CORNERS}
    return RailTwistFinding(
        quantities=[_twist_quantity(setup, w, gain, low)],
        **got.told("Read the first place again.", more=_wrong_diagonal(w, case.history)),
        lines=_lines(setup, w),
        twist=w,
        heights_mm=heights,
        low=low,
    )


def _twist_quantity(
    setup: RailTwistSetup, w: Estimate, gain: float, low: Literal["A", "B", ""]
) -> Quantity:
    size = show_estimate(abs(w.value), w.expanded, "length")
    if low:
        one, other = DIAGONALS[low]
        sentence = say("The diagonal {a}–{b} lies {size} low.", a=one, b=other, size=size)
    else:
        sentence = say("No twist that can be told from nothing: {size}.", size=size)
    return quantity(
        "twist",
        f"Twist, {setup.stage}",
        w,
        sentence,
        gain=gain,
        tolerance_key=setup.stage,
    )


def _lines(setup: RailTwistSetup, w: Estimate) -> list[Words]:
    over = setup.length_mm * setup.apart_mm / 1e6
    same = "Whatever level and bar are off by drops out: they lay the same way round at both ends."
    return [
        say(
            "That is a twist of {t}: a bridge of the rails’ width leans by {l} more at one end "
            "than at the other.",
            t=show_estimate(2 * abs(w.value) / over, 2 * w.expanded / over, "twist"),
            l=show(2 * abs(w.value) / setup.apart_mm * 1000, 0.001, "slope"),
        ),
        *([plain(same)] if setup.way == "level" else []),
    ]


def grown_from(w: Estimate, history: History) -> Estimate | None:
    """What it was before it grew by just what the shims should have taken off; None where it did
    nothing of the sort."""
    if not history.rounds:
        return None
    last = history.rounds[-1]
    before = last.values.get("twist")
    if before is None or last.move is None or "twist" not in last.move.aimed:
        return None
    meant = before.value - last.move.aimed["twist"]
    if abs(meant) < before.expanded:
        return None
    wrong = before.value + meant
    doubt = math.hypot(before.expanded, w.expanded) + 0.35 * abs(meant)
    if abs(w.value - wrong) > doubt or abs(w.value) <= abs(before.value):
        return None
    return before


def _wrong_diagonal(w: Estimate, history: History) -> list[Note]:
    before = grown_from(w, history)
    if before is None:
        return []
    text = say(
        "It has grown from {a} to {b}, by just what the shims should have taken off: they lie "
        "under the wrong diagonal. Look where they lie; there is a move for either.",
        a=show(abs(before.value), 0.001),
        b=show(abs(w.value), 0.001),
    )
    return [Note(tone="look", text=text)]


def _many(setup: RailTwistSetup, got: Gathered) -> RailTwistFinding:
    plan = [s for s in stations(setup) if s.key in got.means]
    if len({s.which for s in plan}) < 2 or len(plan) < 4:
        raise Problem(
            "Places on one rail only lie on one line, which tells nothing of a plane.",
            expected="Read two or more places on each rail.",
            field="readings",
        )
    pads = [Pad(name=s.key, x_mm=s.x_mm, y_mm=s.y_mm) for s in plan]
    left, _ = off_plane(pads, [got.means[s.key].mean_mm for s in plan])
    heights = {s.key: v for s, v in zip(plan, left, strict=True)}
    means = got.means.values()
    zone = peak_to_valley(left, max(m.all_mm for m in means), bound=max(m.bound_mm for m in means))
    size = shown(zone)
    sentence = (
        say("They cannot be told from one plane: {size} from highest to lowest.", size=size)
        if not zone.visible
        else say("The rails lie in one plane within {size}.", size=size)
    )
    return RailTwistFinding(
        quantities=[
            quantity(
                "twist",
                f"Out of plane, {setup.stage}",
                zone,
                sentence,
                gain=math.sqrt(2),
                tolerance_key=setup.stage,
                signed=False,
            )
        ],
        **got.told("The shape stands.", left=heights),
        lines=[plain("Measured from the plane that keeps the worst place as near as it can be.")],
        twist=zone,
        heights_mm=heights,
        low="",
    )


def warp(setup: RailTwistSetup, finding: RailTwistFinding) -> WarpFigure:
    """The rails as a warped plane: by their corners, or by every place that was read."""
    heights, size = finding.heights_mm, max(setup.length_mm, setup.apart_mm)
    if setup.way == "stations":
        plan = [s for s in stations(setup) if s.key in heights]
        ends = {which: [s for s in plan if s.which == which] for which in ("first", "second")}
        order = [*ends["first"], *reversed(ends["second"])]
        return _figure([(s.label, s.x_mm, s.y_mm, heights[s.key]) for s in order], size)
    x, y = setup.apart_mm / 2, setup.length_mm / 2
    at = {
        "front left": (-x, -y),
        "front right": (x, -y),
        "rear right": (x, y),
        "rear left": (-x, y),
    }
    return _figure([(c, *at[c], heights[c]) for c in at], size)


def _figure(
    points: Sequence[tuple[Words | str, float, float, float]], size_mm: float
) -> WarpFigure:
    return WarpFigure(
        title=plain("The rails as a warped plane"),
        points=[
            WarpPoint(label=n, x_mm=x, y_mm=y, z_mm=z, words=show(z, 0.001, signed=True))
            for n, x, y, z in points
        ],
        factor=magnification(max(1e-5, *(abs(p[3]) for p in points)), size_mm),
    )
