"""From readings of a chain of pieces to what runs out, and what makes it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np

from truing.checks.common import loose_bearings
from truing.checks.tool_runout.before import since_before
from truing.checks.tool_runout.finding import Link, Seat, ToolRunoutFinding, Tried
from truing.checks.tool_runout.fitting import looked_at, pin_bound_mm, whole_chain
from truing.checks.tool_runout.magnitudes import apart, pair
from truing.checks.tool_runout.setup import ToolRunoutSetup, ToolStation, Visit, stations, visits
from truing.checks.tool_runout.vectors import (
    Block,
    Known,
    Vector,
    bad_seat,
    blocks,
    design,
    scatter,
    seen_at,
    solved,
    total,
)
from truing.checks.tool_runout.words import cut_lines, index_lines
from truing.checks.turning import (
    Circle,
    angles_of,
    between,
    blind,
    harmonics,
    rings_of,
    swing_of,
    too_small,
)
from truing.contract.case import Case
from truing.contract.design import Fit
from truing.contract.finding import Note, Quantity, Taught, quantity, shown
from truing.contract.gather import Gathered, gather
from truing.measure.estimate import Estimate
from truing.measure.problem import Problem
from truing.measure.spread import Spread
from truing.measure.words import Words, capital, plain, say, show, stated

ToolCase = Case[ToolRunoutSetup, ToolRunoutFinding]
SEAT = "seat"
"""Under which the scatter of seats is kept, beside that of instruments."""
ONE_SWING = (
    "One swing tells no direction, and what is out of round is in it. Angles by a mark tell what "
    "adds what."
)


def evaluate(case: ToolCase) -> ToolRunoutFinding:
    """See `Check.evaluate`."""
    whole_chain(case)
    setup = case.setup
    plan = stations(setup)
    got = gather(case, plan)
    fit = None
    if setup.reads == "swing":
        told = _by_swings(case, got)
    else:
        rings: dict[tuple[int, float], list[ToolStation]] = {}
        for s in plan:
            if got.has(s.key):
                rings.setdefault((s.visit, s.at_mm or 0.0), []).append(s)
        fit = got.fit(rings_of(rings))
        told = _by_angles(case, plan, got, fit)
    read = got.told("The runout stands, but check the dial’s clamp.", fit=fit)
    tir = next(q.estimate for q in told.quantities if q.key == "tool")
    update = {
        **read,
        "notes": [*read["notes"], *told.notes, *loose_bearings(case), *looked_at(case)],
        "lines": [*told.lines, *cut_lines(case, tir), *since_before(case, told.quantities)],
        "spreads": {**got.spreads, **told.spreads},
        "teaches": [*told.teaches, *_together(case, tir)],
    }
    return told.model_copy(update=update)


def _bare(quantities: list[Quantity], **more: Any) -> ToolRunoutFinding:
    """A finding without what all of them have."""
    notes = more.pop("notes", [])
    return ToolRunoutFinding(
        quantities=quantities, stations=[], notes=notes, s_mm=0.0, step_mm=0.0, **more
    )


def _together(case: ToolCase, tir: Estimate) -> list[Taught]:
    """What all ran out by, kept with each piece of the chain that turns."""
    figures = {"tir_mm": tir.value, "tir_expanded_mm": tir.most - tir.value}
    kept = [k for k in case.setup.made_of if hasattr(case.pieces.get(k), "tir_mm")]
    return [Taught(piece=k, figures=figures) for k in kept]


def judged(estimate: Estimate, gain: float) -> Quantity:
    """What is judged: the end of the chain where the tool cuts."""
    sentence = say("It runs out by {tir} TIR where the tool cuts.", tir=shown(estimate))
    return quantity(
        "tool",
        "TIR where the tool cuts",
        estimate,
        sentence,
        gain=gain,
        tolerance_key="tool",
        signed=False,
    )


def aside(key: str, label: str | Words, estimate: Estimate, **more: Any) -> Quantity:
    """What is only told; a text is what pieces are called, and stays as it is."""
    told = label if isinstance(label, Words) else plain(label)
    return quantity(key, told, estimate, None, gain=2.0, tolerance_key=None, signed=False, **more)


# --- by angles ------------------------------------------------------------------------------------


def _by_angles(
    case: ToolCase, plan: Sequence[ToolStation], got: Gathered, fit: Fit
) -> ToolRunoutFinding:
    setup = case.setup
    made = [v for v in visits(setup) if any(s.visit == v.number and got.has(s.key) for s in plan)]
    seen = [seen_at(setup, v, plan, got, setup.judged_at_mm) for v in made]
    prior = case.history.spread(SEAT, case.way)
    known = Known(fit, Spread(), setup.seat_mm / 4, prior)
    notes = blind(angles_of(setup.marks, setup.marks_deg))
    circles = _circles(setup, made[0], plan, fit)
    if setup.way == "index":
        found = _indexed(case, made, seen, known)
    elif setup.way == "swap":
        found = _swapped(case, made, seen, known)
    else:
        # one seating is what it is: how it would come back another time is not asked
        only = Vector(seen[0].stations, {})
        tool = judged(known.tir(only, pin_bound_mm(case)), _gain(only))
        found = _bare([tool, *_heights(case, made[0], plan, got, fit)])
    return found.model_copy(update={"notes": [*notes, *found.notes], "circles": circles})


def _gain(v: Vector) -> float:
    """√C of twice its length."""
    return 2 * math.sqrt(sum(abs(w) ** 2 for w in v.stations.values()) / 2)


def _heights(
    case: ToolCase, visit: Visit, plan: Sequence[ToolStation], got: Gathered, fit: Fit
) -> list[Quantity]:
    setup, bound, found = case.setup, pin_bound_mm(case), []
    for z in sorted(setup.heights_mm):
        here = [s for s in plan if s.at_mm == z]
        if not any(got.has(s.key) for s in here if s.visit == visit.number):
            continue
        v = Vector(seen_at(setup, visit, here, got, z).stations, {})
        estimate = Known(fit, Spread(), 0.0, Spread()).tir(v, bound)
        found.append(aside(f"tir@{z:g}", stated(f"TIR at {z:g} mm"), estimate, sort="tir", at_mm=z))
    return found


def _circles(
    setup: ToolRunoutSetup, visit: Visit, plan: Sequence[ToolStation], fit: Fit
) -> list[Circle]:
    found = []
    for z in sorted(setup.heights_mm):
        here = [s for s in plan if s.visit == visit.number and s.at_mm == z and s.key in fit.means]
        if not here:
            continue
        rows = harmonics([s.angle_rad for s in here])
        values = np.array([fit.means[s.key].mean_mm for s in here])
        oval = None
        if "oval_c" in rows:
            oval = math.hypot(float(rows["oval_c"] @ values), float(rows["oval_s"] @ values))
        big = max(
            fit.combine({s.key: float(w) for s, w in zip(here, rows[a], strict=True)})[0].expanded
            for a in "xy"
        )
        found.append(
            Circle(
                at_mm=z,
                x_mm=float(rows["x"] @ values),
                y_mm=float(rows["y"] @ values),
                expanded_mm=big,
                oval_mm=oval,
                angles_rad=[s.angle_rad for s in here],
                off_mm=[float(v) for v in values - values.mean()],
            )
        )
    return found


def _titled(setup: ToolRunoutSetup, block: Block) -> str:
    names = ["the spindle" if s == "spindle" else setup.title(s) for s in block.slots]  # type: ignore[arg-type]
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)


def _indexed(
    case: ToolCase, made: Sequence[Visit], seen: Sequence[Vector], known: Known
) -> ToolRunoutFinding:
    setup = case.setup
    matrix = design(setup, made)
    if np.linalg.matrix_rank(matrix, tol=0.1) < matrix.shape[1]:
        missing = [setup.title(j) for j in setup.joints if all(j not in v.angles for v in made)]
        raise Problem(
            f"{capital(' and '.join(missing) or 'It')} has not been read in a second seat yet.",
            expected="Turn it in its seat and read again: one seat splits nothing.",
            field="readings",
        )
    values = [known.value(v) for v in seen]
    own = scatter(matrix, values)
    known = Known(known.read, own, known.seat_sd_mm, known.prior)
    parts = solved(matrix, seen)
    cuts = blocks(setup)
    # a pin is read in place of the tool: once it is known, it is no part of what is judged
    counted = len(parts) - 1 if setup.what == "pin" and "tool" in setup.joints else len(parts)
    bound = pin_bound_mm(case) if counted == len(parts) else 0.0
    whole = total(parts[:counted])
    links = []
    for i, (block, part) in enumerate(zip(cuts, parts, strict=True)):
        at = known.value(part)
        rest = total([p for j, p in enumerate(parts[:counted]) if j != i])
        links.append(
            Link(
                slots=[str(s) for s in block.slots],
                joint=block.joint or "",
                title=_titled(setup, block),
                x_mm=at.real,
                y_mm=at.imag,
                expanded_mm=known.expanded(part),
                tir=known.tir(part),
                without=known.tir(rest, bound if i < counted else 0.0),
            )
        )
    tir = known.tir(whole, bound)
    seats = [_best_seat(setup, cuts, parts[:counted], known, bound, j) for j in setup.joints]
    told = [judged(tir, _gain(whole))]
    for link in links:
        key = "+".join(link.slots)
        told.append(aside(f"adds:{key}", f"{capital(link.title)} adds", link.tir, sort="adds"))
    found = [s for s in seats if s is not None]
    for seat in found:
        label = f"{capital(seat.title)} in its best seat"
        told.append(aside(f"best:{seat.joint}", label, seat.tir, sort="best"))
    notes = []
    odd = bad_seat(matrix, values, known.seat_sd_mm)
    if odd is not None:
        notes.append(_dirty(made[odd[0]], odd[1], setup))
    teaches = [
        Taught(
            piece=key,
            figures={"own_tir_mm": k.tir.value, "own_expanded_mm": k.tir.most - k.tir.value},
        )
        for k in links
        if len(k.slots) == 1
        and k.slots[0] != "spindle"
        and hasattr(case.pieces.get(key := setup.piece(k.slots[0])), "own_tir_mm")  # type: ignore[arg-type]
    ]
    return _bare(
        told,
        notes=notes,
        links=links,
        seats=found,
        lines=index_lines(case, tir, links),
        spreads={SEAT: own} if own.dof else {},
        teaches=teaches,
    )


def _dirty(visit: Visit, off_mm: float, setup: ToolRunoutSetup) -> Note:
    label = visit.label or "This seat"
    text = say(
        "{label} stands off what the other seats say by {off}: dirt, or a bruise. Wipe it, seat it "
        "again and read that seat anew.",
        label=capital(label),
        off=show(off_mm, 0.001),
    )
    station = next(s.key for s in stations(setup) if s.visit == visit.number)
    return Note(tone="look", wild=True, text=text, station=station)


def _best_seat(
    setup: ToolRunoutSetup,
    cuts: Sequence[Block],
    parts: Sequence[Vector],
    known: Known,
    bound: float,
    joint: str,
) -> Seat | None:
    """The seat of one joint that leaves least, all others at their marks: what is below it and what
    is above it set against each other."""
    at = next(i for i, b in enumerate(cuts) if b.joint == joint)
    if at >= len(parts):
        return None
    below, above = total(parts[:at]), total(parts[at:])
    b, a = known.value(below), known.value(above)
    if setup.fits == "any" and abs(a) > 0 and abs(b) > 0:
        turn = float(np.angle(-b) - np.angle(a)) % (2 * math.pi)
    else:
        there = [2 * math.pi * k / setup.seats for k in range(setup.seats)]
        turn = min(there, key=lambda t: abs(b + a * np.exp(1j * t)))
    left = total([below, above.times(complex(np.exp(1j * turn)))])
    end = known.value(left)
    return Seat(
        joint=joint,
        title=setup.title(joint),  # type: ignore[arg-type]
        degrees=float(np.degrees(turn)) % 360,
        tir=known.tir(left, bound),
        per_degree_mm=2 * abs(a) * math.pi / 180,
        turned=[end.real, end.imag],
    )


def _swapped(
    case: ToolCase, made: Sequence[Visit], seen: Sequence[Vector], known: Known
) -> ToolRunoutFinding:
    setup = case.setup
    keys = [k for k in setup.candidates if any(v.candidate == k for v in made)]
    if len(keys) < 2 or keys[0] != setup.candidates[0]:
        raise Problem(
            "Only one of them has been read so far.",
            expected="Put in the next one and read it at the same height.",
            field="readings",
        )
    matrix = np.array([[float(v.candidate == k) for k in keys] for v in made], dtype=complex)
    own = scatter(matrix, [known.value(v) for v in seen])
    known = Known(known.read, own, known.seat_sd_mm, known.prior)
    parts = dict(zip(keys, solved(matrix, seen), strict=True))
    bound = pin_bound_mm(case)
    first = parts[keys[0]]
    # the pin is in all of them, and no doubt about which is better
    alone = {k: known.tir(v) for k, v in parts.items()}
    tried = [
        (
            k,
            known.tir(v, bound),
            None if k == keys[0] else known.tir(total([v, first.times(-1)])),
            None if k == keys[0] else alone[keys[0]] - alone[k],
        )
        for k, v in parts.items()
    ]
    found = _tried(case, tried, _gain(first), {SEAT: own} if own.dof else {})
    odd = bad_seat(matrix, [known.value(v) for v in seen], known.seat_sd_mm)
    dirty = [_dirty(made[odd[0]], odd[1], setup)] if odd else []
    return found.model_copy(update={"notes": [*found.notes, *dirty]})


def _tried(
    case: ToolCase,
    tried: Sequence[tuple[str, Estimate, Estimate | None, Estimate | None]],
    gain: float,
    spreads: dict[str, Spread],
) -> ToolRunoutFinding:
    """The finding of a swap, the pieces ranked."""
    setup = case.setup
    ranked = [
        Tried(
            piece=key,
            name=setup.names.get(key, setup.title(setup.swapped)),
            tir=tir,
            against=against,
            less=less,
        )
        for key, tir, against, less in tried
    ]
    told = [judged(ranked[0].tir, gain)]
    for t in ranked:
        key = t.piece or "now"
        label = f"{capital(t.name)} in"
        # every piece is held against the limit: what else lies in the tin goes in one day
        said = say("{what} it runs out by {tir}.", what=f"With {t.name} in", tir=shown(t.tir))
        limit = {"tolerance_key": "tool", "sentence": said} if t is not ranked[0] else {}
        alone = aside(f"with:{key}", label, t.tir, sort="with")
        told.append(alone.model_copy(update=limit))
        if t.against is not None:
            label = f"{capital(t.name)} against {ranked[0].name}"
            told.append(aside(f"against:{key}", label, t.against, sort="against"))
    teaches = [
        Taught(
            piece=t.piece,
            figures={"tir_mm": t.tir.value, "tir_expanded_mm": t.tir.most - t.tir.value},
        )
        for t in ranked[1:]
        if hasattr(case.pieces.get(t.piece), "tir_mm")
    ]
    told_apart = any(t.less is not None and t.less.visible for t in ranked)
    alike = [t.name for t in ranked[1:] if t.less is None or not t.less.visible]
    text = (
        "A swap tells what one adds against the other, with all else in it. What it adds alone "
        "shows when it is turned in its seat."
    )
    return _bare(
        told,
        notes=[Note(tone="info", text=plain(text))],
        lines=[_alike(ranked[0].name, alike)] if alike else [],
        tried=sorted(ranked, key=lambda t: t.tir.value) if told_apart else ranked,
        spreads=spreads,
        teaches=teaches,
    )


def _alike(first: str, names: Sequence[str]) -> Words:
    return plain(
        f"{capital(' and '.join(names))} cannot be told from {first}: neither is the better one."
    )


# --- by swings ------------------------------------------------------------------------------------


def _by_swings(case: ToolCase, got: Gathered) -> ToolRunoutFinding:
    """Sizes without directions: bounds."""
    setup = case.setup
    bound = pin_bound_mm(case)
    seen: dict[int, Estimate] = {}
    for visit in visits(setup):
        sizes = {}
        for z in setup.heights_mm:
            key = f"{visit.number}:{z:g}"
            if got.has(key):
                sizes[z] = swing_of(got, key)
        if sizes:
            swing = _at(sizes, setup.judged_at_mm)
            seen[visit.number] = swing if setup.way == "plain" else _reseated(swing, setup)
    small = too_small(list(seen.values()), got.step_mm)
    notes = [Note(tone="weak", text=plain(ONE_SWING)), *small]
    made = [v for v in visits(setup) if v.number in seen]
    if setup.way == "swap":
        keys = list(dict.fromkeys(v.candidate for v in made))
        if len(keys) < 2:
            raise Problem(
                "Only one of them has been read so far.",
                expected="Put in the next one and read it at the same height.",
                field="readings",
            )
        mean = {k: _mean([seen[v.number] for v in made if v.candidate == k]) for k in keys}
        tried = [
            (
                k,
                e.widened(bound),
                None if k == keys[0] else apart(mean[keys[0]], e),
                None if k == keys[0] else mean[keys[0]] - e,
            )
            for k, e in mean.items()
        ]
        found = _tried(case, tried, 1.0, {})
        return found.model_copy(update={"notes": [*notes, *found.notes]})
    told = [judged(seen[made[0].number].widened(bound), 1.0)]
    lines = []
    if setup.way == "index":
        joint = setup.joints[0]
        angles = [v.angles.get(joint, 0.0) for v in made]
        if len(set(angles)) < 3:
            raise Problem(
                "Fewer than three seats have been read.",
                expected="Turn it on and read the next seat: two swings split nothing.",
                field="readings",
            )
        more, less = pair(angles, [seen[v.number] for v in made])
        told += [
            aside("larger", "The larger of the two parts", more),
            aside("smaller", "The smaller of the two parts", less),
        ]
        best = min(made, key=lambda v: seen[v.number].value)
        lines.append(
            say(
                "What is below and what is above {joint} add {more} and {less} TIR; which is which "
                "swings cannot tell. Of the seats read it runs out least with {best}: {tir}.",
                joint=setup.title(joint),
                more=shown(more),
                less=shown(less),
                best=best.label,
                tir=shown(seen[best.number]),
            )
        )
    return _bare(told, notes=notes, lines=lines)


def _reseated(swing: Estimate, setup: ToolRunoutSetup) -> Estimate:
    """With what another seat of the same would make of it."""
    big = math.hypot(swing.expanded, setup.seat_mm)
    more = big - swing.expanded
    seen = Estimate.within("length", swing.value, big)
    return seen.between(swing.least - more, swing.most + more)


def _at(sizes: dict[float, Estimate], at_mm: float) -> Estimate:
    places = sorted(sizes)
    if at_mm in sizes:
        return sizes[at_mm]
    if len(places) == 1:
        raise Problem(
            "From one height nothing is told of another.",
            expected="Read it where it is to be judged, or at two heights.",
            field="cuts_at_mm",
        )
    return between(sizes, places[0], places[-1], at_mm, 0.0)


def _mean(found: Sequence[Estimate]) -> Estimate:
    """Of several seats, each with its own size: between the least and the most of them."""
    low, high = min(e.least for e in found), max(e.most for e in found)
    value = sum(e.value for e in found) / len(found)
    return Estimate.within("length", value, max(high - value, value - low)).between(low, high)
