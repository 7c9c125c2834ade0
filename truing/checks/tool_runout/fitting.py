"""Whether the pieces of a chain go together, and what is known of them."""

from __future__ import annotations

import re
from typing import Any

from truing.contract.case import Case
from truing.contract.finding import Note
from truing.kit.tooling import CONDITIONS, Collet, Cutter, Holder, Nut, Pin
from truing.measure.problem import Problem
from truing.measure.words import capital, plain, show

EASE_MM = 0.02
"""A shank may be larger than the bore by as much as it springs open."""


def whole_chain(case: Case[Any, Any]) -> None:
    """Problem, naming the field, for pieces that do not go together as they stand in the chain, or
    would not when they are put in."""
    setup = case.setup
    _goes(case, {slot: setup.piece(slot) for slot in setup.slots}, setup.swapped, "")
    for key in setup.candidates[1:]:
        now = {slot: setup.piece(slot) for slot in setup.slots}
        _goes(case, {**now, setup.swapped: key}, setup.swapped, "compared")
    if setup.cuts_at_mm and len(setup.heights_mm) < 2 and setup.cuts_at_mm not in setup.heights_mm:
        raise Problem(
            "From one height nothing is told of another.",
            expected="Read it where it is to be judged, or at two heights.",
            field="cuts_at_mm",
        )


def _goes(case: Case[Any, Any], chain: dict[str, str], swapped: str, field: str) -> None:
    there = {slot: case.pieces.get(key) for slot, key in chain.items() if key}
    holder, collet, nut, tool = (there.get(s) for s in ("holder", "collet", "nut", "tool"))
    names = case.setup.names

    def named(slot: str) -> str:
        return str(names.get(chain[slot], f"the {slot}"))

    def at(slot: str) -> str:
        return field if field and slot == swapped else slot

    wanted = {"holder": Holder, "collet": Collet, "nut": Nut, "tool": (Pin, Cutter)}
    for slot, piece in there.items():
        if piece is not None and not isinstance(piece, wanted[slot]):  # type: ignore[arg-type]
            raise Problem(
                f"{capital(named(slot))} is no {slot}.",
                expected=f"Pick what goes in place of the {slot}.",
                field=at(slot),
            )
    if isinstance(holder, Holder) and isinstance(collet, Collet):
        _series(holder.series, collet.series, named("holder"), named("collet"), at("collet"))
    if isinstance(nut, Nut) and isinstance(collet, Collet):
        _series(nut.series, collet.series, named("nut"), named("collet"), at("nut"))
    if isinstance(collet, Collet) and isinstance(tool, Pin | Cutter):
        shank, size = tool.shank_mm, collet.size_mm
        if not size - collet.closes_mm - 1e-9 <= shank <= size + EASE_MM:
            raise Problem(
                f"{capital(named('tool'))} has a shank of {show(shank, 0.01).metric}; "
                f"{named('collet')} holds {show(size - collet.closes_mm, 0.01).metric} to "
                f"{show(size, 0.01).metric}.",
                expected="Take a collet of its size: one that is strained runs out, and lets go.",
                field=at("tool") if swapped == "tool" and field else at("collet"),
            )


def _series(takes: str, series: str, one: str, other: str, field: str) -> None:
    if takes and series and _plain(takes) != _plain(series):
        raise Problem(
            f"{capital(one)} takes {takes}, and {other} is {series}.",
            expected="Pick pieces of one series.",
            field=field,
        )


def _plain(series: str) -> str:
    return re.sub(r"[\W_]", "", series).casefold()


def pin_bound_mm(case: Case[Any, Any]) -> float:
    """What the pin itself may run out by (TIR, mm): doubt about all the rest. None of it where the
    tool itself is read."""
    setup = case.setup
    if setup.what == "tool":
        return 0.0
    pin = case.pieces.get(setup.tool)
    return pin.stated_mm if isinstance(pin, Pin) else float(setup.pin_mm)


def looked_at(case: Case[Any, Any]) -> list[Note]:
    """What is known of the pieces that makes their readings doubtful."""
    found = []
    for key in case.setup.pieces:
        piece, name = case.pieces.get(key), capital(case.setup.names.get(key, "a piece"))
        if getattr(piece, "retired", False):
            text = f"{name} was retired from work."
            found.append(Note(tone="look", text=plain(text)))
        condition = getattr(piece, "condition", "")
        if condition in ("rust", "bruise", "fretting", "worn"):
            text = f"{name} was seen with {CONDITIONS[condition]}: its seat may not repeat."
            if condition == "worn":
                text = f"{name} was seen to be worn: its seat may not repeat."
            found.append(Note(tone="weak", text=plain(text)))
    return found
