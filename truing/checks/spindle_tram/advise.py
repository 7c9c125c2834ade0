"""What to do about a lean: turn what can be turned, shim what cannot, or leave it."""

from __future__ import annotations

from collections.abc import Sequence

from truing.checks.bases import shim_base
from truing.checks.spindle_tram.evaluate import TramCase, nod_along_beam
from truing.checks.spindle_tram.ridges import beside_the_ridges
from truing.checks.spindle_tram.shimming import shim_bracket
from truing.checks.spindle_tram.split import Split, ask, figure, split, with_travel
from truing.checks.spindle_tram.split import told as split_told
from truing.checks.spindle_tram.turning import turn, twist_end_plate
from truing.contract.finding import Quantity
from truing.contract.move import Advice, LeaveIt, Move
from truing.effects.reach import hollow_mm, over_mm, step_mm
from truing.machine import Gantry, Machine
from truing.measure.words import Words, plain, say, show, span

KNEE = (
    "Shims under the column move knee and head together, and change nothing here. What does: shims "
    "between the column and the head, or the knee’s own gib where “Square travel” finds it out."
)


def advise(case: TramCase) -> Advice:
    """Moves for what is not true, in their turn; measure again after each."""
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
        moves += [shim_bracket(case, machine.bracket, q) for q in nod]
    fixed = (nod and not nods) or (lean and not turns)
    if fixed and machine.knee_lifts:
        remarks.append(plain(KNEE))
    elif fixed and machine.base:
        moves.append(
            shim_base(
                case,
                lean=next(iter(case.of("lean_x")), None),
                nod=next(iter(case.of("nod")), None),
                take_lean=bool(lean) and not turns,
                take_nod=bool(nod) and not nods,
            )
        )
        remarks.append(
            plain("Shims under the base tilt the column’s travel together with the spindle.")
        )
        leave = _leave(case, lean + nod)
    if lean and turns:
        moves += [turn(case, q, "lean_x") for q in lean[:1]]
    if nod and nods:
        moves += [turn(case, q, "nod") for q in nod[:1]]
    moves = case.in_turn(moves)
    if (lean or nod) and not moves:
        remarks.append(
            plain("Nothing is described on this machine that could take this out: see Machine.")
        )
    if len(moves) > 1:
        remarks.append(plain("One at a time: make the first move, then measure again."))
    parts = [found for q in (lean + nod) if (found := split(case, q))]
    told = [
        split_told(
            p,
            head_turns=turns if p.quantity.sort == "lean_x" else nods,
            knee=machine.knee_lifts,
        )
        for p in parts
    ]
    moves = [with_travel(m, [p for p in parts if _takes(m, p)]) for m in moves]
    unknown = [q for q in (lean + nod) if split(case, q) is None]
    shims = any(m.mechanism == "column_base" for m in moves)
    return Advice(
        moves=moves,
        leave=LeaveIt(text=leave) if leave else None,
        remarks=[*told, *remarks, *beside_the_ridges(case)],
        asks=[ask(case, unknown[0])] if shims and unknown else [],
        figures=[
            figure(p, case.tolerances[p.quantity.sort], knee=machine.knee_lifts) for p in parts
        ],
    )


def _takes(move: Move, part: Split) -> bool:
    return any(t.quantity == part.quantity.key for t in move.takes)


def _gantry_nod(case: TramCase, gantry: Gantry) -> list[Move]:
    """A nod that is the same all along goes into the bracket; one that differs, into the plates."""
    line = nod_along_beam(case.finding.places)
    twisted = line is not None and abs(line[1]) > line[2]
    if case.machine.bracket and not twisted:
        worst = max(case.amiss("nod"), key=lambda q: abs(q.estimate.value))
        if line is None:
            return [shim_bracket(case, case.machine.bracket, worst)]
        shared = worst.model_copy(
            update={"estimate": worst.estimate.shifted(line[0] - worst.estimate.value)}
        )
        return [shim_bracket(case, case.machine.bracket, shared)]
    level, twist = (line[0], line[1]) if line else (case.of("nod")[0].estimate.value, 0.0)
    ends = [("left", gantry.left_plate_x_mm), ("right", gantry.right_plate_x_mm)]
    nods = {side: level + twist * x / 1000 for side, x in ends}
    order = sorted(nods, key=lambda side: -abs(nods[side]))
    width = gantry.right_plate_x_mm - gantry.left_plate_x_mm
    return [twist_end_plate(case, gantry, side, nods[side], width) for side in order]


def _leave(case: TramCase, amiss: Sequence[Quantity]) -> Words:
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
        hollow=show(hollow_mm(size_mm_per_m, cutter), 0.001),
        step=show(step_mm(size_mm_per_m, cutter), 0.001),
        depth=span(25.0),
        hole=show(over_mm(size_mm_per_m, 25.0), 0.001),
    )
