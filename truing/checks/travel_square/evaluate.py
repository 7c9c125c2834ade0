"""From readings up a square, or along one that lies, to how far two travels are out of square.

Plus is pushed in. A tip that points to σ (+1 to the right or rear) and goes up by the travel shows
m = σ·(travel − edge) for each mm: turned about, with the tip on its other side, the edge leans the
other way and σ with it; a cylinder that is turned under a tip that stays leans the other way alone.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Literal

from truing.checks.common import off_one_line
from truing.checks.travel_square.setup import (
    PLAN,
    SIDES,
    EdgeStation,
    TravelSquareSetup,
    refuse_useless,
    stations,
)
from truing.contract.case import Case
from truing.contract.design import Design
from truing.contract.finding import Finding, Note, Quantity, Taught, quantity, shown
from truing.contract.gather import Gathered, gather
from truing.kit.tooling import Cylinder, Square
from truing.machine import RISERS
from truing.machine.parts import DIRECTIONS
from truing.measure.estimate import Estimate
from truing.measure.problem import Problem
from truing.measure.words import Words, plain, say, show, show_estimate

TABLE_DOUBT_MM_PER_M = 0.1
"""What a table that was not read against its travel may slope by: three hundredths over 300 mm is
what a sound one is good to."""
TABLE_KINDS = ("table_travel", "beam_travel")


class TravelSquareFinding(Finding):
    """How far one travel is out of square to another."""

    kind: Literal["travel_square"] = "travel_square"
    square: Estimate
    """Plus = going up it drifts to the right or rear; in plan, to the right toward the rear."""
    to_table: Estimate | None
    """The same against the table that the square stood on; None in plan."""
    own: Estimate | None
    """How a square's edge leans away from the tip as first set down, or a cylinder to the right or
    rear; in plan, how much less than a right angle blade and stock enclose. None where that is not
    known."""
    at_mm: list[float]
    off_mm: list[float]
    """How far the travel stands off the line it should keep, at places up the square."""


SquareCase = Case[TravelSquareSetup, TravelSquareFinding]


def evaluate(case: SquareCase) -> TravelSquareFinding:
    """See `Check.evaluate`."""
    refuse_useless(case.setup)
    return _in_plan(case) if case.setup.part == PLAN else _upright(case)


# --- slopes of edges ------------------------------------------------------------------------------


def design(poses: Mapping[Any, Sequence[EdgeStation]]) -> Design:
    """A slope and a level of the edge for each position of the square, and of either edge in plan;
    a bow of the ways, which every upright position shows alike, where enough places tell it by
    itself. Problem where one place is all that was read of one."""
    rows: dict[str, dict[str, float]] = {}
    bows: dict[str, dict[str, float]] = {}
    at = [s.at_mm or 0.0 for places in poses.values() for s in places]
    wide = max(at) - min(at)
    for pose, places in poses.items():
        if len({s.at_mm for s in places}) < 2:
            raise Problem(
                "One place tells no slope.",
                expected="Read a second one, far from it.",
                field="readings",
            )
        for s in places:
            rows[s.key] = {f"level {pose}": 1.0, slope_of(pose): (s.at_mm or 0.0) / 1000}
            if not isinstance(pose, tuple):
                bows[s.key] = {"bow": s.points * (2 * (s.at_mm or 0.0) / wide) ** 2}
    return Design(rows, bows)


def slope_of(pose: Any) -> str:
    """What the slope of an edge in a position is called among the unknowns."""
    return f"slope {pose}"


def sums(setup: TravelSquareSetup) -> tuple[dict[str, float], dict[str, float] | None]:
    """(the travel's lean, what the edge's own is) as sums of slopes; None for an own one that is
    not told."""
    if setup.upright is None:
        m1, m2, n1, n2 = (slope_of((p, e)) for e in ("blade", "stock") for p in (1, 2))
        if setup.way != "reversed":
            return {m1: 1.0, n1: 1.0}, None
        return {m1: 0.5, m2: -0.5, n1: 0.5, n2: 0.5}, {m1: -0.5, m2: -0.5, n1: -0.5, n2: 0.5}
    share = 1 / len(setup.poses)
    travel = {slope_of(p): setup.points(p) * share for p in setup.poses}
    first = setup.points(1)
    own = {"reversed": (-0.5, -0.5), "cylinder": (-0.5 * first, 0.5 * first)}.get(setup.way)
    return travel, own and {slope_of(p): w for p, w in zip((1, 2), own, strict=True)}


def common_heights(
    plan: Sequence[EdgeStation], got: Gathered, poses: Sequence[int]
) -> tuple[dict[int, list[EdgeStation]], bool]:
    """(places of each pose over the height that all were read at, whether some fell out). Problem
    when a pose is missing or the heights do not meet."""
    read = {p: [s for s in plan if s.pose == p and got.has(s.key)] for p in poses}
    if any(len(places) < 2 for places in read.values()):
        raise Problem(
            "Each position of the square needs two places or more."
            if len(poses) > 1
            else "One place tells no slope.",
            expected="Read on: low and high, in every position.",
            field="readings",
        )
    low = max(min(s.at_mm or 0.0 for s in places) for places in read.values())
    high = min(max(s.at_mm or 0.0 for s in places) for places in read.values())
    kept = {p: [s for s in places if low <= (s.at_mm or 0.0) <= high] for p, places in read.items()}
    if any(len(places) < 2 for places in kept.values()):
        raise Problem(
            "The two positions of the square were read at heights that do not meet, so that its "
            "own error cannot be taken out.",
            expected="Read the same heights in both.",
            field="readings",
        )
    return kept, any(len(kept[p]) < len(read[p]) for p in poses)


# --- upright --------------------------------------------------------------------------------------


def _upright(case: SquareCase) -> TravelSquareFinding:
    setup = case.setup
    plan = stations(setup)
    got = gather(case, plan)
    kept, dropped = common_heights(plan, got, setup.poses)
    fit = got.fit(design(kept))
    lean, its_own = sums(setup)
    raw, gain = fit.estimate(lean, "slope")
    own = fit.estimate(its_own, "slope")[0] if its_own else None
    against, table = against_travel(case, raw)
    # what is stated as a bound is added last, and to either in full
    square, to_table = corrected(case, against), corrected(case, raw)
    told = got.told("The lean stands, but check the clamp of the dial.", fit=fit)
    if dropped:
        table.append(
            Note(
                tone="info",
                text=plain(
                    "The two positions were read at unlike heights: only the height that both "
                    "share is used."
                ),
            )
        )
    at, off, bow = _path(case, got, kept)
    return TravelSquareFinding(
        **{**told, "notes": [*told["notes"], *table]},
        quantities=[
            _square(case, square, gain),
            _to_table(case, to_table, gain),
            *_own(setup, own),
            *bow,
        ],
        teaches=_taught(setup, own),
        square=square,
        to_table=to_table,
        own=own,
        at_mm=at,
        off_mm=off,
    )


def corrected(case: SquareCase, lean: Estimate) -> Estimate:
    """With what the turn leaves in: a cylinder's taper, a trusted square's own error."""
    setup = case.setup
    piece = reference(case)
    if setup.way == "reversed":
        return lean
    if setup.upright is None:
        stated, over = setup.stated_mm, setup.over_mm
        if piece is not None:
            stated, over = piece.stated_mm, piece.over_mm
        return lean.widened(stated / over * 1000)
    points = setup.points(1)
    if setup.way == "cylinder":
        if setup.low_diameter_mm is not None and setup.high_diameter_mm is not None:
            rise = max(setup.heights_mm) - min(setup.heights_mm)
            grows = (setup.high_diameter_mm - setup.low_diameter_mm) / 2 / rise * 1000
            return lean.shifted(-points * grows).widened(setup.diameter_u_mm / rise * 1000)
        taper, over = setup.taper_mm, setup.over_mm
        if isinstance(piece, Cylinder):
            taper, over = piece.taper_mm, piece.over_mm
        return lean.widened(taper / 2 / over * 1000)
    stated, over = setup.stated_mm, setup.over_mm
    if isinstance(piece, Square) and piece.own:
        return lean + piece.own.times(points)
    if piece is not None:
        assert isinstance(piece, Square | Cylinder)
        stated, over = piece.stated_mm, piece.over_mm
    if isinstance(piece, Cylinder):
        # one that is not turned is as tapered as it may be, too
        stated += piece.taper_mm / 2
    return lean.widened(stated / over * 1000)


def reference(case: Case[Any, Any]) -> Square | Cylinder | None:
    """The piece of the kit that it is read against; None where none is named. Problem when it is
    not there any more, or is no square."""
    setup: TravelSquareSetup = case.setup
    if not setup.square:
        return None
    piece = case.pieces.get(setup.square)
    what, fits = {
        "cylinder": ("cylinder", isinstance(piece, Cylinder)),
        "reversed": ("square", isinstance(piece, Square)),
        "trusted": ("square", isinstance(piece, Square | Cylinder)),
    }[setup.way]
    if not fits:
        raise Problem(
            f"That is no {what} in the kit."
            if piece is not None
            else "It is not in the kit any more.",
            expected=f"Pick a {what}, or “none of the kit”.",
            field="square",
        )
    assert isinstance(piece, Square | Cylinder)
    return piece


def against_travel(case: Case[Any, Any], to_table: Estimate) -> tuple[Estimate, list[Note]]:
    """The lean against the travel that carries the work: less the slope of the table to its own
    travel, or with that in doubt where it is not known."""
    setup: TravelSquareSetup = case.setup
    slope = table_slope(case)
    if slope is not None:
        text = say(
            "The table’s slope to its own travel, {s}, is taken off: the part follows the travel.",
            s=show_estimate(slope.value, slope.expanded, "slope", signed=True),
        )
        return to_table - slope, [Note(tone="info", text=text)]
    assert setup.upright is not None
    was = any(case.latest(k, _slope_key(setup)) for k in TABLE_KINDS)
    text = say(
        "The square stands on the table. How that runs with its own travel {why}: up to {d} of "
        "slope counts as doubt here. Read “{kind}” first, and it is known.",
        why="is stale" if was else "has not been read",
        d=show(TABLE_DOUBT_MM_PER_M, 0.01, "slope"),
        kind="Beam over bed" if setup.upright[0] == "carriage" else "Table and travel",
    )
    return to_table.widened(TABLE_DOUBT_MM_PER_M), [Note(tone="weak", text=text)]


def _slope_key(setup: TravelSquareSetup) -> str:
    assert setup.upright is not None
    return "slope_x" if setup.upright[1] == "left_right" else "slope_y"


def table_slope(case: Case[Any, Any]) -> Estimate | None:
    """The table's slope to its travel, where it is known and nothing was touched since."""
    if case.setup.upright is None:
        return None
    found = (case.elsewhere(k, _slope_key(case.setup)) for k in TABLE_KINDS)
    return next((slope for slope in found if slope is not None), None)


def _path(
    case: SquareCase, got: Gathered, kept: dict[int, list[EdgeStation]]
) -> tuple[list[float], list[float], list[Quantity]]:
    """Where the travel really goes at places that every pose was read at, off the line that is
    square; and how far from straight it is."""
    setup = case.setup
    shared = sorted(set.intersection(*({s.at_mm or 0.0 for s in p} for p in kept.values())))
    by_height = {p: {s.at_mm or 0.0: s.key for s in places} for p, places in kept.items()}
    share = 1 / len(setup.poses)
    seen = [
        sum(setup.points(p) * share * got.means[by_height[p][h]].mean_mm for p in setup.poses)
        for h in shared
    ]
    if len(shared) < 2:
        return [], [], []
    off = [v - seen[0] for v in seen]
    if len(shared) < 3:
        return shared, off, []
    bow = off_one_line(got, shared, seen)
    sentence = say("Going up it is not straight, by {b}: ways or square are bowed.", b=shown(bow))
    told = quantity(
        "bow",
        "Off one line",
        bow,
        sentence if bow.visible else None,
        gain=2**0.5,
        tolerance_key=None,
        signed=False,
    )
    return shared, off, [told]


# --- in plan --------------------------------------------------------------------------------------


def _in_plan(case: SquareCase) -> TravelSquareFinding:
    setup = case.setup
    plan = stations(setup)
    got = gather(case, plan)
    reference(case)
    fit = got.fit(
        design(
            {
                (p, edge): [s for s in plan if s.pose == p and s.edge == edge and got.has(s.key)]
                for p in setup.poses
                for edge in ("blade", "stock")
            }
        )
    )
    lean, its_own = sums(setup)
    square, gain = fit.estimate(lean, "slope")
    own = fit.estimate(its_own, "slope")[0] if its_own else None
    if setup.way != "reversed":
        square = corrected(case, square)
    return TravelSquareFinding(
        **got.told("The skew stands, but check the clamp of the dial.", fit=fit),
        quantities=[_square(case, square, gain), *_own(setup, own)],
        square=square,
        to_table=None,
        own=own,
        at_mm=[],
        off_mm=[],
    )


# --- in words -------------------------------------------------------------------------------------


def _square(case: SquareCase, square: Estimate, gain: float) -> Quantity:
    setup = case.setup
    size = show_estimate(abs(square.value), square.expanded, "slope")
    if setup.upright is None:
        side = "right" if square.value > 0 else "left"
        told = say(
            "Going to the rear, the front–back travel drifts to the {side}: {size} out of square.",
            side=side,
            size=size,
        )
        nothing = say("The two travels cannot be told from square: {size}.", size=size)
        label = "Out of square in plan"
    else:
        riser, way = setup.upright
        low, high = SIDES[way]
        told = say(
            "Going up, the {what} drifts to the {side}: {size} out of square to the {way} travel.",
            what=RISERS[riser],
            side=high if square.value > 0 else low,
            size=size,
            way=DIRECTIONS[way],
        )
        nothing = say(
            "The {what} cannot be told from square to the {way} travel: {size}.",
            what=RISERS[riser],
            way=DIRECTIONS[way],
            size=size,
        )
        label = f"Out of square, {DIRECTIONS[way]}"
    sentence = told if square.visible else nothing
    return quantity("square", label, square, sentence, gain=gain, tolerance_key="square")


def _to_table(case: SquareCase, lean: Estimate, gain: float) -> Quantity:
    return quantity("to_table", "To the table’s top", lean, None, gain=gain, tolerance_key=None)


def _own(setup: TravelSquareSetup, own: Estimate | None) -> list[Quantity]:
    if own is None:
        return []
    what = "cylinder" if setup.way == "cylinder" else "square"
    sentence: Words | None = None
    if own.visible and setup.way == "reversed" and setup.upright is not None:
        sentence = say(
            "The square’s own error: its edge leans {way} the tip by {size}.",
            way="away from" if own.value > 0 else "toward",
            size=show_estimate(abs(own.value), own.expanded, "slope"),
        )
    elif own.visible and setup.upright is not None and setup.way == "cylinder":
        low, high = SIDES[setup.upright[1]]
        sentence = say(
            "The cylinder’s own error: as it stood first it leans to the {side} by {size}.",
            side=high if own.value > 0 else low,
            size=show_estimate(abs(own.value), own.expanded, "slope"),
        )
    elif own.visible:
        sentence = say("The {what}’s own error is {size}.", what=what, size=shown(own))
    return [quantity("own", f"The {what}’s own", own, sentence, gain=1.0, tolerance_key=None)]


def _taught(setup: TravelSquareSetup, own: Estimate | None) -> list[Taught]:
    """What is kept with a square of the kit: how its edge leans, whichever way it stood."""
    if own is None or not setup.square or setup.way != "reversed" or setup.upright is None:
        return []
    figures = {"own_mm_per_m": own.value, "own_expanded_mm_per_m": own.expanded}
    return [Taught(piece=setup.square, figures=figures)]
