"""What is different once a move has been made: the shims in the machine, and those in the tin."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from truing.check import MoveMade, Quantity
from truing.machine import Machine
from truing.moves.move import Move, Shim


def machine_after(move: Move, machine: Machine) -> Machine:
    """The machine with the shims that the move put in (a new Machine)."""
    if not move.stacks:
        return machine
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


def undoing(move: Move) -> Move:
    """The move that puts every stack back to what lay there before."""
    stacks = [
        s.model_copy(update={"before_mm": s.after_mm, "after_mm": s.before_mm}) for s in move.stacks
    ]
    return move.model_copy(update={"stacks": stacks})


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
        aimed_mm_per_m={
            key: values[key] - taken
            for key, taken in move.corrects_mm_per_m.items()
            if key in values
        },
        tightening_mm_per_m=tightening_mm_per_m or {},
    )
