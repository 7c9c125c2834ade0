"""What is different once a move has been made: the shims in the machine, and those in the tin."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from truing.contract.finding import Quantity
from truing.contract.history import MoveMade
from truing.contract.move import Move
from truing.kit.shims import Shim
from truing.machine import Machine, Pad, Rails


def machine_after(move: Move, machine: Machine) -> Machine:
    """The machine with what the move changed of its description: shims, and what a controller was
    told (a new Machine)."""
    if move.key == "compensate" and move.entries:
        return _compensating(machine, move.part, move.entries[0].value_mm)
    if not move.stacks:
        return machine
    if machine.rails is not None and move.mechanism == "rail_packs":
        rails = machine.rails.model_copy(update={"packs": _packs(machine.rails, move)})
        return machine.model_copy(update={"rails": rails})
    stacks = {s.pad: s.after_mm for s in move.stacks}
    if machine.base and move.mechanism == "column_base":
        pads = [
            p.model_copy(update={"shims_mm": stacks.get(p.name, p.shims_mm)})
            for p in machine.base.pads
        ]
        return machine.model_copy(update={"base": machine.base.model_copy(update={"pads": pads})})
    if machine.bracket and move.mechanism == "bracket":
        bracket = machine.bracket.model_copy(
            update={
                "top_shims_mm": stacks["upper screws"],
                "bottom_shims_mm": stacks["lower screws"],
            }
        )
        return machine.model_copy(update={"bracket": bracket})
    return machine


def _compensating(machine: Machine, direction: str, value_mm: float) -> Machine:
    slides = [
        s.model_copy(update={"compensation_mm": value_mm}) if s.direction == direction else s
        for s in machine.slides
    ]
    return machine.model_copy(update={"slides": slides})


def _packs(rails: Rails, move: Move) -> list[Pad]:
    """What lies under the rails: as before where the move says nothing."""
    moved = {(round(s.x_mm), round(s.y_mm)) for s in move.stacks}
    kept = [p for p in rails.packs if (round(p.x_mm), round(p.y_mm)) not in moved]
    put = [
        Pad(name=s.pad, x_mm=s.x_mm, y_mm=s.y_mm, shims_mm=s.after_mm)
        for s in move.stacks
        if s.after_mm
    ]
    return kept + put


def undoing(move: Move) -> Move:
    """The move that puts every stack back to what lay there before."""
    stacks = [
        s.model_copy(update={"before_mm": s.after_mm, "after_mm": s.before_mm}) for s in move.stacks
    ]
    entries = [
        e.model_copy(update={"value_mm": e.before_mm, "before_mm": e.value_mm})
        for e in move.entries
    ]
    return move.model_copy(update={"stacks": stacks, "entries": entries})


def pieces_moved(move: Move) -> Counter[float]:
    """Pieces by thickness (mm) that the move takes out of the tin; negative goes back into it."""
    moved: Counter[float] = Counter()
    for stack in move.stacks:
        moved.update(round(t, 6) for t in stack.after_mm)
        moved.subtract(round(t, 6) for t in stack.before_mm)
    return Counter({t: n for t, n in moved.items() if n})


def stock_after(move: Move, stock: Sequence[Shim]) -> list[Shim]:
    """The stock once the move's shims are in the machine; old shims taken out join it."""
    moved = pieces_moved(move)
    left = []
    for shim in stock:
        taken = moved.pop(round(shim.thickness_mm, 6), 0)
        left.append(shim.model_copy(update={"count": max(0, shim.count - taken)}))
    left += [Shim(thickness_mm=t, count=-n) for t, n in sorted(moved.items()) if n < 0]
    return left


def move_made(
    move: Move, quantities: Sequence[Quantity], tightening_mm_per_m: dict[str, float] | None = None
) -> MoveMade:
    """The record of a move for later rounds to learn from: what was to be left of each quantity."""
    values = {q.key: q.estimate.value for q in quantities}
    return MoveMade(
        key=move.key,
        mechanism=move.mechanism,
        aimed={key: values[key] - taken for key, taken in move.takes_off.items() if key in values},
        tightening_mm_per_m=tightening_mm_per_m or {},
    )
