"""What to do about a lean: turn what can be turned, shim what cannot, or leave it."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from truing import effects
from truing.check import History, Quantity, Tolerances
from truing.checks.spindle_tram.evaluate import SpindleTramFinding, nod_along_beam
from truing.checks.spindle_tram.setup import SpindleTramSetup, TramStation, stations
from truing.instruments import Instrument
from truing.machine import Bracket, Gantry, Machine
from truing.moves.move import (
    Advice,
    LeaveIt,
    Mechanism,
    Move,
    PadStack,
    Prediction,
    Shim,
    Target,
)
from truing.moves.pivot import LEAST_LEVER, TAP_SCATTER, Aim, aim, needle_change_mm
from truing.moves.shims import best_stack, plan_pads
from truing.problem import Problem
from truing.quantities import Estimate, combined
from truing.verdict import verdict
from truing.words import Words, plain, say, show, show_estimate, span

ISOLATE = "Isolate the machine before hands go near the cutter or spindle; turn it by hand."
SUPPORT_HEAD = "The head can swing or drop when its bolts are loose: support it."
SUPPORT_COLUMN = "A column is top-heavy: leave one nut on each bolt, support it, lift with help."
SUPPORT_GANTRY = "Support the beam before an end plate is loosened; mind the pinch points."
SHARP = "Shim stock cuts: deburr it, wear gloves."
WHOLE_PAD = "Shim the whole pad round its bolt, never only between bolts: cast iron cracks."


@dataclass(frozen=True)
class Case:
    """Everything the advice looks at."""

    setup: SpindleTramSetup
    finding: SpindleTramFinding
    tolerances: Tolerances
    machine: Machine
    instrument: Instrument
    stock: Sequence[Shim]
    history: History

    def amiss(self, tolerance_key: str) -> list[Quantity]:
        """Quantities of this sort that are not true."""
        return [
            q
            for q in self.finding.quantities
            if q.tolerance_key == tolerance_key
            and verdict(q.estimate, self.tolerances[tolerance_key]) != "true"
        ]

    def of(self, tolerance_key: str) -> list[Quantity]:
        return [q for q in self.finding.quantities if q.tolerance_key == tolerance_key]


def advise(case: Case) -> Advice:
    """Moves for what is not true, upstream first; measure again after each."""
    moves: list[Move] = []
    remarks: list[Words] = []
    leave: Words | None = None
    lean, nod = case.amiss("lean_x"), case.amiss("nod")
    machine = case.machine
    turns = bool(
        (machine.head and machine.head.turns) or (machine.bracket and machine.bracket.turns)
    )
    nods = bool(machine.head and machine.head.nods)
    if nod and not nods and machine.gantry:
        moves += _gantry_nod(case, machine.gantry)
    elif nod and not nods and machine.bracket:
        moves += [_bracket(case, machine.bracket, q) for q in nod]
    if machine.base and ((nod and not nods) or (lean and not turns)):
        moves.append(
            _base(case, take_lean=bool(lean) and not turns, take_nod=bool(nod) and not nods)
        )
        remarks.append(
            plain(
                "Shims under the base tilt the column’s travel together with the spindle. Whether "
                "the travel itself is square to the table is not known yet: if it is, the fault "
                "lies between head and column, and shims would spoil the travel."
            )
        )
        leave = _leave(case, lean + nod)
    if lean and turns:
        moves += [_turn(case, q, "lean_x") for q in lean[:1]]
    if nod and nods:
        moves += [_turn(case, q, "nod") for q in nod[:1]]
    if (lean or nod) and not moves:
        remarks.append(
            plain("Nothing is described on this machine that could take this out: see Machine.")
        )
    if len(moves) > 1:
        remarks.append(plain("One at a time: make the first move, then measure again."))
    return Advice(moves=moves, leave=LeaveIt(text=leave) if leave else None, remarks=remarks)


def _after(now: Estimate, aimed: float, scatter: float) -> Estimate:
    """Prediction: what was aimed at, with the doubt of both readings and of the move itself."""
    changed = now.value - aimed
    big = combined(now.expanded, now.expanded, scatter * changed)
    return Estimate(value=aimed, u=big / 2, expanded=big)


def _prediction(q: Quantity, after: Estimate) -> Prediction:
    return Prediction(
        quantity=q.key,
        after=after,
        label=q.label,
        words=show_estimate(after.value, after.expanded, "slope", signed=True),
    )


# --- turning --------------------------------------------------------------------------------------


def _turn(case: Case, q: Quantity, axis: str) -> Move:
    head = case.machine.head
    bracket = case.machine.bracket
    by_head = head is not None and (head.turns if axis == "lean_x" else head.nods)
    mechanism: Mechanism = "head_pivot" if by_head else "bracket_pivot"
    if head is not None and by_head:
        pivot = head.pivot_x_mm if axis == "lean_x" else head.pivot_y_mm
    else:
        pivot = bracket.pivot_x_mm if bracket else 0.0
    aimed = aim(q.key, q.estimate.value, mechanism, case.history)
    take_off = q.estimate.value - aimed.aim_mm_per_m
    to = {
        ("lean_x", True): "left", ("lean_x", False): "right",
        ("nod", True): "front", ("nod", False): "rear",
    }[(axis, take_off > 0)]  # fmt: skip
    part = "head" if by_head else "spindle bracket"
    targets = _targets(case, axis, pivot, lambda s: take_off)
    steps = [
        plain(f"Support the {part}. Slacken its bolts until it just moves, the pivot bolt last."),
        _tap_step(to, targets),
        plain("Nip the bolts in turn, a little each; read the needle."),
        plain("Tighten in turn; read the needle again, then measure the whole round."),
    ]
    return Move(
        key=f"{mechanism}:{axis}",
        mechanism=mechanism,
        title=plain(f"Turn the {part}: top to the {to}"),
        steps=steps,
        cautions=[ISOLATE, SUPPORT_HEAD],
        targets=targets,
        predicted=[
            _prediction(
                q, _after(q.estimate, aimed.aim_mm_per_m + (aimed.shift_mm_per_m or 0), TAP_SCATTER)
            )
        ],
        corrects_mm_per_m={q.key: take_off},
        notes=_aim_notes(aimed, len(targets) == 0),
    )


def _tap_step(to: str, targets: Sequence[Target]) -> Words:
    if not targets:
        return plain(f"Tap its top to the {to}.")
    best = targets[0]
    return say(
        "Stand the tip at {label} and tap the top to the {to} with a soft mallet until {words}.",
        label=best.label,
        to=to,
        words=best.words,
    )


def _aim_notes(aimed: Aim, no_target: bool) -> list[Words]:
    notes: list[Words] = []
    if aimed.shift_mm_per_m:
        notes.append(
            say(
                "Tightening has moved this machine by {s} on average; the target allows for it.",
                s=show(aimed.shift_mm_per_m, abs(aimed.shift_mm_per_m) / 10, "slope", signed=True),
            )
        )
    if aimed.share_left:
        notes.append(
            plain(
                "Earlier taps "
                + (
                    f"left about {aimed.share_left:.0%} undone: the target goes past zero."
                    if aimed.share_left > 0
                    else f"went about {-aimed.share_left:.0%} too far: the target stops short."
                )
            )
        )
    if no_target:
        notes.append(plain("The tip stands over the pivot and shows nothing there: move the dial."))
    return notes


def _targets(
    case: Case, axis: str, pivot_mm: float, take_off_at: Callable[[TramStation], float]
) -> list[Target]:
    """Needle targets from every station with a lever on the pivot, the best lever first."""
    plan = {s.key: s for s in stations(case.setup)}
    found: list[tuple[float, Target]] = []
    for mean in case.finding.stations:
        station = plan[mean.station]
        along = station.x_mm if axis == "lean_x" else station.y_mm
        lever = abs(along - pivot_mm)
        if lever < LEAST_LEVER * case.setup.radius_mm:
            continue
        change = needle_change_mm(take_off_at(station), along, pivot_mm)
        shown = change * case.setup.sign / case.instrument.true_mm(1.0)
        start = case.setup.sign * mean.repeats_mm[-1] / case.instrument.true_mm(1.0)
        start -= case.finding.zero_mm  # as the dial stands now
        found.append(
            (
                lever,
                Target(
                    station=station.key,
                    label=station.label,
                    from_mm=start,
                    to_mm=start + shown,
                    words=_target_words(case, start, start + shown),
                ),
            )
        )
    return [t for _, t in sorted(found, key=lambda item: -item[0])]


def _target_words(case: Case, start_mm: float, to_mm: float) -> Words:
    what = {
        "swing": "the needle goes from {a} to {b}",
        "trigger": "it touches at {b} instead of {a}",
        "gap": "the gap goes from {a} to {b}",
        "two_bolts": "the gap goes from {a} to {b}",
    }[case.setup.way]
    signed = case.setup.way in ("swing", "trigger")
    read = case.instrument.as_read
    return say(what, a=read(start_mm, signed=signed), b=read(to_mm, signed=signed))


# --- shims ----------------------------------------------------------------------------------------


def _stack_words(before: Sequence[float], after: Sequence[float]) -> Words:
    if not after:
        return plain("take the shims out" if before else "nothing")
    pieces = " + "
    return say(
        "{total} ({pieces})",
        total=show(sum(after), 0.001),
        pieces=Words(
            metric=pieces.join(show(t, 0.001, unit=False).metric for t in after),
            inch=pieces.join(show(t, 0.001, unit=False).inch for t in after),
        ),
    )


def _base(case: Case, *, take_lean: bool, take_nod: bool) -> Move:
    base = case.machine.base
    assert base is not None
    lean = case.of("lean_x")[0] if case.of("lean_x") else None
    nod = case.of("nod")[0] if case.of("nod") else None
    take_x = lean.estimate.value if lean and take_lean else 0.0
    take_y = nod.estimate.value if nod and take_nod else 0.0
    touched = [(q, axis) for q, axis in ((lean, "x"), (nod, "y")) if q]
    title = plain("Shim under the column: " + _raise_words(take_x, take_y))
    steps = [
        plain("Note and photograph the shims that are there."),
        plain("Support the column. Slacken all bolts but one, and lift no more than you need."),
        plain("Put each stack under the whole pad, as drawn."),
        plain("Tighten in turn, crosswise, in three rounds; then measure the whole round again."),
    ]
    common = {
        "key": "column_base",
        "mechanism": "column_base",
        "title": title,
        "steps": steps,
        "cautions": [ISOLATE, SUPPORT_COLUMN, WHOLE_PAD, SHARP],
        "wants_photo": True,
    }
    try:
        plan = plan_pads(
            base.pads,
            case.stock,
            take_x_mm_per_m=take_x,
            take_y_mm_per_m=take_y,
            most_pieces=base.most_pieces,
        )
    except Problem as problem:
        return Move.model_validate(
            {**common, "predicted": [], "corrects_mm_per_m": {}, "needs": plain(str(problem))}
        )
    taken = {"x": plan.slope_x_mm_per_m, "y": plan.slope_y_mm_per_m}
    doubt = _stock_doubt(case, [p.x_mm for p in base.pads], [p.y_mm for p in base.pads])
    predicted = [
        _prediction(q, _widened(_after(q.estimate, q.estimate.value - taken[axis], 0.0), doubt))
        for q, axis in touched
    ]
    same = all(
        sorted(p.shims_mm) == sorted(stack)
        for p, stack in zip(base.pads, plan.stacks_mm, strict=True)
    )
    return Move.model_validate(
        {
            **common,
            "stacks": [
                PadStack(
                    pad=pad.name,
                    x_mm=pad.x_mm,
                    y_mm=pad.y_mm,
                    before_mm=pad.shims_mm,
                    after_mm=stack,
                    words=_stack_words(pad.shims_mm, stack),
                )
                for pad, stack in zip(base.pads, plan.stacks_mm, strict=True)
            ],
            "predicted": predicted,
            "corrects_mm_per_m": {q.key: taken[axis] for q, axis in touched},
            "notes": _shim_notes(case, plan.off_plane_mm, predicted),
            "needs": _no_stock(case, base_span(base.pads)) if same else None,
        }
    )


def base_span(pads: Sequence[object]) -> float:
    """Shorter side of the pads' outline, mm: what a shim's thickness is divided by."""
    xs = [getattr(p, "x_mm", 0.0) for p in pads]
    ys = [getattr(p, "y_mm", 0.0) for p in pads]
    return max(1.0, min(max(xs) - min(xs), max(ys) - min(ys)))


def _no_stock(case: Case, spread_mm: float) -> Words:
    limit = min(case.tolerances.values())
    return say(
        "No shim in the kit makes this better. A thinner one would, about {t}.",
        t=show(limit / 1000 * spread_mm, 0.001),
    )


def _raise_words(take_x: float, take_y: float) -> str:
    sides = []
    if take_x:
        sides.append("right" if take_x > 0 else "left")
    if take_y:
        sides.append("rear" if take_y > 0 else "front")
    return "raise the " + " and the ".join(sides)


def _stock_doubt(case: Case, xs: Sequence[float], ys: Sequence[float]) -> float:
    tolerance = max([s.tolerance_mm for s in case.stock] or [0.0])
    spread = max(1.0, min(max(xs) - min(xs), max(ys) - min(ys)))
    return tolerance * math.sqrt(2) / spread * 1000


def _widened(x: Estimate, by: float) -> Estimate:
    big = combined(x.expanded, by)
    return Estimate(value=x.value, u=big / 2, expanded=big)


def _shim_notes(case: Case, off_plane: float, predicted: Sequence[Prediction]) -> list[Words]:
    notes: list[Words] = []
    if off_plane > max([s.tolerance_mm for s in case.stock] or [0.003]) + 1e-9:
        notes.append(
            say(
                "The stock leaves one pad {d} off the plane of the others: bolting down bends the "
                "base a little.",
                d=show(off_plane, 0.001),
            )
        )
    limits = {q.key: case.tolerances[q.tolerance_key] for q in case.finding.quantities}
    for p in predicted:
        if abs(p.after.value) > limits[p.quantity]:
            notes.append(
                say("The stock in the kit does not reach it: {q} {p}.", q=p.label, p=p.words)
            )
    return notes


def _bracket(case: Case, bracket: Bracket, q: Quantity) -> Move:
    """Slope × screw spacing, behind the upper screws when the top leans to the rear."""
    side = 1 if bracket.side == "front" else -1
    net_there = sum(bracket.top_shims_mm) - sum(bracket.bottom_shims_mm)
    wanted = side * q.estimate.value / 1000 * bracket.spacing_mm + net_there
    there = bracket.top_shims_mm + bracket.bottom_shims_mm
    stack = best_stack(abs(wanted), case.stock, there=there, most_pieces=bracket.most_pieces)
    top, bottom = (stack, []) if wanted > 0 else ([], stack)
    net = sum(top) - sum(bottom)
    taken = side * (net - net_there) / bracket.spacing_mm * 1000
    after = _after(q.estimate, q.estimate.value - taken, 0.0)
    rows = [
        ("upper screws", bracket.spacing_mm / 2, bracket.top_shims_mm, top),
        ("lower screws", -bracket.spacing_mm / 2, bracket.bottom_shims_mm, bottom),
    ]
    where = "upper" if wanted > 0 else "lower"
    predicted = [
        _prediction(q, _widened(after, _stock_doubt(case, [0, bracket.spacing_mm], [0, 1e9])))
    ]
    return Move(
        key="bracket",
        mechanism="bracket",
        title=plain(f"Shim the spindle bracket behind its {where} screws"),
        steps=[
            plain("Support the spindle: it is heavy, and the cable pulls."),
            plain("Slacken the screws of one row; leave the other row nipped."),
            plain("Slide the stack in over the full width, round the screws."),
            plain("Tighten evenly, then measure the whole round again."),
        ],
        cautions=[ISOLATE, "A spindle that hangs on loose screws drops: hold it.", SHARP],
        stacks=[
            PadStack(
                pad=name, x_mm=0, y_mm=y, before_mm=before, after_mm=now,
                words=_stack_words(before, now),
            )
            for name, y, before, now in rows
        ],
        predicted=predicted,
        corrects_mm_per_m={q.key: taken},
        notes=_shim_notes(case, 0.0, predicted),
        wants_photo=bool(there),
        needs=_no_stock(case, bracket.spacing_mm) if abs(taken) < 1e-9 else None,
    )  # fmt: skip


def _gantry_nod(case: Case, gantry: Gantry) -> list[Move]:
    """A nod that is the same all along goes into the bracket; one that differs, into the plates."""
    line = nod_along_beam(case.finding.places)
    twisted = line is not None and abs(line[1]) > line[2]
    if case.machine.bracket and not twisted:
        worst = max(case.amiss("nod"), key=lambda q: abs(q.estimate.value))
        if line is None:
            return [_bracket(case, case.machine.bracket, worst)]
        shared = worst.model_copy(
            update={"estimate": worst.estimate.shifted(line[0] - worst.estimate.value)}
        )
        return [_bracket(case, case.machine.bracket, shared)]
    level, twist = (line[0], line[1]) if line else (case.of("nod")[0].estimate.value, 0.0)
    ends = [("left", gantry.left_plate_x_mm), ("right", gantry.right_plate_x_mm)]
    nods = {side: level + twist * x / 1000 for side, x in ends}
    order = sorted(nods, key=lambda side: -abs(nods[side]))
    width = gantry.right_plate_x_mm - gantry.left_plate_x_mm
    return [_end_plate(case, gantry, side, nods[side], width) for side in order]


def _end_plate(case: Case, gantry: Gantry, side: str, nod: float, width: float) -> Move:
    mechanism: Mechanism = "end_plate_left" if side == "left" else "end_plate_right"

    def weight(x_mm: float) -> float:
        """Share of this plate's twist that arrives at x along a beam held at both ends."""
        from_left = (x_mm - gantry.left_plate_x_mm) / width
        return 1 - from_left if side == "left" else from_left

    aimed = aim(f"plate_{side}", nod, mechanism, case.history)
    take_off = nod - aimed.aim_mm_per_m
    targets = _targets(case, "nod", gantry.fixed_bolt_y_mm, lambda s: take_off * weight(s.place_mm))
    # the arm nearest to this plate sees most of its twist
    targets.sort(key=lambda t: -abs(t.to_mm - t.from_mm))
    to = "front" if take_off > 0 else "rear"
    touched = {q.key: (q, weight(_place(q))) for q in case.of("nod")}
    return Move(
        key=mechanism,
        mechanism=mechanism,
        title=plain(f"Twist the {side} end plate: top to the {to}"),
        steps=[
            plain(f"Support the beam. Slacken the {side} end plate, all but its fixed bolt."),
            _tap_step(to, targets),
            plain("Tighten in turn and read again. Then the other end, then this one once more."),
        ],
        cautions=[ISOLATE, SUPPORT_GANTRY],
        targets=targets,
        predicted=[
            _prediction(q, _after(q.estimate, q.estimate.value - take_off * w, TAP_SCATTER))
            for q, w in touched.values()
        ],
        corrects_mm_per_m={key: take_off * w for key, (_, w) in touched.items()},
        notes=_aim_notes(aimed, not targets),
    )


def _place(q: Quantity) -> float:
    return float(q.key.partition("@")[2] or 0.0)


# --- leaving it -----------------------------------------------------------------------------------


def _leave(case: Case, amiss: Sequence[Quantity]) -> Words:
    size = max((abs(q.estimate.value) for q in amiss), default=0.0)
    return say(
        "Or leave it: {cost} Shims under a column cost some of its stiffness.",
        cost=cost_of_lean(case.machine, size),
    )


def cost_of_lean(machine: Machine, size_mm_per_m: float) -> Words:
    """What a lean of this size does to a part, in figures."""
    cutter = machine.cutter_mm
    return say(
        "a {cutter} cutter leaves a hollow of {hollow} where it leans along the feed, steps of up "
        "to {step} where it leans across; a hole {depth} deep wanders {hole}.",
        cutter=span(cutter),
        hollow=show(effects.hollow_mm(size_mm_per_m, cutter), 0.001),
        step=show(effects.step_mm(size_mm_per_m, cutter), 0.001),
        depth=span(25.0),
        hole=show(effects.hole_lean_mm(size_mm_per_m, 25.0), 0.001),
    )
