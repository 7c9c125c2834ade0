"""What is different once a move has been made, and how it is undone: the machine's description and
the tin, for every mechanism in one way."""

from __future__ import annotations

import copy
import re
from collections import Counter
from collections.abc import Sequence
from typing import Any

from truing.contract.finding import Quantity
from truing.contract.history import MoveMade
from truing.contract.move import Change, Move, PadStack, Take, TinChange
from truing.kit.shims import Shim
from truing.machine import Machine
from truing.measure.lenient import read_back
from truing.measure.problem import Problem

NEAR_MM = 0.5
"""Items of a list that are named by their place are the same within this."""

_STEP = re.compile(r"(?P<field>\w+)(?:\[(?P<names>[^\]]+)\])?")


def done(move: Move, machine: Machine) -> Machine:
    """The machine once this move has been made (a new Machine).

    Problem when what it changes is no longer as the move found it: nothing is written over.
    """
    return _changed(machine, [(c.path, c.before, c.after) for c in move.changes])


def undone(move: Move, machine: Machine) -> Machine:
    """The machine as if this move had not been made. Problem as in `done`."""
    return _changed(machine, [(c.path, c.after, c.before) for c in reversed(move.changes)])


def _changed(machine: Machine, changes: Sequence[tuple[str, Any, Any]]) -> Machine:
    if not changes:
        return machine
    data = copy.deepcopy(machine.model_dump(mode="json"))
    for path, before, after in changes:
        _put(data, path, before, after)
    changed: Machine = read_back(Machine, data)
    return changed


def _put(data: dict[str, Any], path: str, before: Any, after: Any) -> None:
    steps = [m for m in (_STEP.fullmatch(s) for s in _split(path)) if m]
    at: Any = data
    for step in steps[:-1]:
        at = at.get(step["field"]) if at is not None else None
        if step["names"] and at is not None:
            at = _item(at, step["names"])
    if at is None:
        raise _gone(path)
    last = steps[-1]
    if last["names"]:
        items: list[Any] = at[last["field"]]
        there = _item(items, last["names"])
        if not _same(there, before):
            raise _gone(path)
        if there is not None:
            items.remove(there)
        if after is not None:
            items.append(after)
    else:
        if not _same(at.get(last["field"]), before):
            raise _gone(path)
        at[last["field"]] = after


def _split(path: str) -> list[str]:
    """Steps of a path; points inside of brackets are decimals."""
    return re.findall(r"\w+(?:\[[^\]]*\])?", path)


def _item(items: Sequence[dict[str, Any]], names: str) -> dict[str, Any] | None:
    wanted = dict(pair.split("=", 1) for pair in names.split(","))

    def named(item: dict[str, Any]) -> bool:
        return all(
            abs(item[k] - float(v)) < NEAR_MM if isinstance(item[k], float | int) else item[k] == v
            for k, v in wanted.items()
        )

    return next((item for item in items if named(item)), None)


def _same(there: Any, told: Any) -> bool:
    """Whether two JSON values are the same, numbers within what is written of them."""
    if isinstance(there, dict) and isinstance(told, dict):
        keys = {*there, *told} - {"name"}
        return all(_same(there.get(k), told.get(k)) for k in keys)
    if isinstance(there, list) and isinstance(told, list):
        return len(there) == len(told) and all(
            _same(a, b) for a, b in zip(sorted(there), sorted(told), strict=True)
        )
    if isinstance(there, float | int) and isinstance(told, float | int):
        return abs(there - told) < 1e-6
    return bool(there == told)


def _gone(path: str) -> Problem:
    return Problem(
        "The machine's description has been changed there since this was worked out "
        f"({path.replace('_mm', '')}).",
        expected="Look at the description under Machine, then read once more.",
        field="changes",
    )


# --- what builders of moves use -------------------------------------------------------------------


def tin_of(stacks: Sequence[PadStack]) -> list[TinChange]:
    """The pieces that these stacks take out of the tin, or put back into it."""
    moved: Counter[float] = Counter()
    for stack in stacks:
        moved.update(round(t, 6) for t in stack.after_mm)
        moved.subtract(round(t, 6) for t in stack.before_mm)
    return [TinChange(thickness_mm=t, count=n) for t, n in sorted(moved.items()) if n]


def take_of(q: Quantity, amount: float) -> Take:
    """What a move takes off this quantity."""
    return Take(quantity=q.key, sort=q.sort, at_mm=q.at_mm, amount=amount)


def altered(*changes: Change) -> list[Change]:
    """Those that really change something."""
    return [c for c in changes if not _same(c.before, c.after)]


def stock_after(move: Move, stock: Sequence[Shim]) -> list[Shim]:
    """The stock once the move's shims are in the machine; old shims taken out join it."""
    moved = {round(t.thickness_mm, 6): t.count for t in move.tin}
    left = []
    for shim in stock:
        taken = moved.pop(round(shim.thickness_mm, 6), 0)
        left.append(shim.model_copy(update={"count": max(0, shim.count - taken)}))
    left += [Shim(thickness_mm=t, count=-n) for t, n in sorted(moved.items()) if n < 0]
    return left


def move_made(
    move: Move, quantities: Sequence[Quantity], shift: dict[str, float] | None = None
) -> MoveMade:
    """The record of a move for later rounds to learn from: what was to be left of each quantity."""
    values = {q.key: q.estimate.value for q in quantities}
    return MoveMade(
        key=move.key,
        mechanism=move.mechanism,
        about=move.about,
        aimed={
            t.quantity: values[t.quantity] - t.amount for t in move.takes if t.quantity in values
        },
        shift=shift or {},
    )


def needle_shift(move: Move, station: str, change_mm: float) -> dict[str, float]:
    """What a needle that moved by `change_mm` (as shown) at a station while bolts were tightened
    adds to the quantity it tells there; empty where it tells none."""
    target = next((t for t in move.targets if t.station == station), None)
    return {target.quantity: target.per_mm * change_mm} if target else {}
