"""What to do about a tool that runs out: its best seat, another piece, or where to look next."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from truing.checks.common import ISOLATE, prediction
from truing.checks.tool_runout.finding import Seat, Tried, end_of
from truing.checks.tool_runout.fitting import pin_bound_mm
from truing.checks.tool_runout.setup import Joint, Slot, ToolRunoutSetup
from truing.contract.case import Case
from truing.contract.move import Advice, Amount, Ask, Move, Take
from truing.machine.mechanisms import Mechanism
from truing.measure.estimate import Estimate, combined
from truing.measure.words import Words, plain, say, show

STILL_SHARP = "Cutters cut when they are still: use a ground pin, or tape over the edges."
MECHANISMS: Mapping[Slot, Mechanism] = {
    "holder": "holder",
    "collet": "collet",
    "nut": "collet",
    "tool": "tool",
}
TURNED: Mapping[Joint, str] = {
    "holder": "the holder: turn it in the spindle, or swap it alone for another",
    "collet": "the collet: turn it in its seat, or swap it alone for another",
    "tool": "the tool: turn it in what holds it, or swap it alone for a ground pin",
}
WORTH = 0.1
"""Share of the limit from which it is worth knowing which of two parts adds it."""
UNKNOWN_MM: Mapping[str, float] = {
    "spindle": 0.01,
    "holder": 0.012,
    "collet": 0.015,
    "nut": 0.006,
    "tool": 0.004,
}
"""TIR that a piece nobody has measured may well add."""


def remedies(case: Case[Any, Any]) -> Advice:
    """See `Check.remedies`."""
    amiss = case.amiss("tool")
    if not amiss:
        return Advice(moves=[], leave=None)
    setup = case.setup
    if all(q.sort == "with" for q in amiss):
        names = [t.name for t in case.finding.tried if f"with:{t.piece}" in {q.key for q in amiss}]
        text = f"What is in now stays in. Keep {' and '.join(names)} for work that can do with it."
        return Advice(moves=[], leave=None, remarks=[plain(text)])
    asks, remarks = [], []
    if not case.latest("spindle_runout", "nose"):
        why = plain("The floor of it all is the spindle’s own: read it before anything is bought.")
        asks.append(Ask.of("spindle_runout", why))
    moves: list[Move] = []
    if setup.way == "index":
        moves = _best_seats(case)
    elif setup.way == "swap":
        moves = _best_piece(case)
    else:
        remarks.append(
            plain(
                "Wipe taper, collet, nut and shank, seat them again and read once more: a chip "
                "does more than most collets."
            )
        )
    nearer = most_telling(case)
    if nearer is not None:
        remarks.append(
            plain(
                f"What would tell most next is {TURNED[nearer]}. It splits best what is not known "
                "yet."
            )
        )
    return Advice(moves=moves, leave=None, remarks=remarks, asks=asks)


def most_telling(case: Case[Any, Any]) -> Joint | None:
    """The joint that splits most evenly what nobody knows yet; None where too little is left to be
    told apart."""
    setup = case.setup
    enough = (WORTH * case.tolerances["tool"]) ** 2
    groups: Sequence[Sequence[str]] = [["spindle", *setup.slots]]
    if setup.way == "index":
        groups = [link.slots for link in case.finding.links]
    best: tuple[float, Joint] | None = None
    for group in groups:
        for i, slot in enumerate(group):
            if i == 0 or slot == "nut":
                continue
            below, above = (
                sum(_unknown(case, s) ** 2 for s in part) for part in (group[:i], group[i:])
            )
            least = min(below, above)
            if least > max(enough, best[0] if best else 0.0):
                best = (least, slot)  # type: ignore[assignment]
    return best[1] if best else None


def _unknown(case: Case[Any, Any], slot: str) -> float:
    """What may still hide in a part of the chain (TIR, mm)."""
    if slot == "spindle":
        known = case.latest("spindle_runout", "nose")
        return known.values["nose"].expanded if known and known.fresh else UNKNOWN_MM[slot]
    if slot == "tool" and case.setup.what == "pin":
        return pin_bound_mm(case)
    own = getattr(case.pieces.get(case.setup.piece(slot)), "own_expanded_mm", None)
    return UNKNOWN_MM[slot] if own is None else float(own)


BY_EYE_DEG = 6.0
"""How well (95 %) a piece is turned to an angle by a mark and the eye."""


def _after(case: Case[Any, Any], left: Estimate, per_degree_mm: float = 0.0) -> Estimate:
    """What it should read then: a seat made anew scatters by itself, an angle is set by eye, and a
    pin that was told apart is in it again."""
    links, setup = case.finding.links, case.setup
    pin = links[-1].tir.most if links and setup.what == "pin" and "tool" in setup.joints else 0.0
    scatter = case.finding.spreads.get("seat")
    seen = scatter.k_s(case.setup.seat_mm / 4) if scatter else (2.0, case.setup.seat_mm / 4)
    seat = 2 * seen[0] * seen[1]
    big = combined(left.most - left.value, seat, BY_EYE_DEG * per_degree_mm) + pin
    return Estimate.within("length", left.value, big).between(left.value - big, left.value + big)


def _best_seats(case: Case[Any, Any]) -> list[Move]:
    tool = end_of(case)
    better = [s for s in case.finding.seats if s.tir.value < tool.estimate.value - 1e-9]
    better.sort(key=lambda s: s.tir.value)
    return [_best_seat(case, s, instead=i > 0) for i, s in enumerate(better) if s.degrees > 0.5]


def _best_seat(case: Case[Any, Any], seat: Seat, *, instead: bool) -> Move:
    tool = end_of(case)
    slot: Slot = seat.joint  # type: ignore[assignment]
    turn = plain(f"{seat.degrees:.0f}° on from its mark")
    last = case.setup.joints[-1]
    back = [plain(f"Turn {case.setup.title(last)} back to its mark.")] if last != slot else []
    return Move(
        key=f"seat_{seat.joint}",
        mechanism=MECHANISMS[slot],
        about=seat.joint,
        title=say("Seat {what} {turn}", what=seat.title, turn=turn),
        steps=[
            *back,
            plain("Loosen it, wipe both faces."),
            say("Turn it {turn}, the way the marks are counted, and close it again.", turn=turn),
            plain("Scribe or paint a mark across the joint there, so that it is found again."),
            plain("Read once more as it stands."),
        ],
        cautions=[ISOLATE, STILL_SHARP],
        amounts=[
            Amount(place=seat.title, x_mm=0.0, y_mm=0.0, turns=seat.degrees / 360, words=turn)
        ],
        instead=instead,
        predicted=[prediction(tool, _after(case, seat.tir, seat.per_degree_mm))],
        takes=[
            Take(
                quantity="tool",
                sort="tool",
                amount=tool.estimate.value - seat.tir.value,
            )
        ],
        notes=[_opposed()],
    )


def _opposed() -> Words:
    return plain(
        "It sets two errors against each other at this height: nearer the nose or further out they "
        "may differ."
    )


def _best_piece(case: Case[Any, Any]) -> list[Move]:
    now = case.setup.piece(case.setup.swapped)
    better = [
        t
        for t in case.finding.tried
        if t.piece != now
        and t.less is not None
        and t.less.visible
        and t.less.value > 0
        and not getattr(case.pieces.get(t.piece), "retired", False)
    ]
    return [_put_in(case, t, instead=i > 0) for i, t in enumerate(better[:3])]


def _put_in(case: Case[Any, Any], tried: Tried, *, instead: bool) -> Move:
    tool = end_of(case)
    setup = case.setup
    return Move(
        key=f"use_{tried.piece}",
        mechanism=MECHANISMS[setup.swapped],
        about=tried.piece,
        title=say("Put in {what}", what=tried.name),
        steps=[
            plain("Wipe taper, bore and nut."),
            say("Seat {what} at its mark and close it as hard as before.", what=tried.name),
            plain("Read once more as it stands."),
        ],
        cautions=[ISOLATE, STILL_SHARP],
        instead=instead,
        predicted=[prediction(tool, _after(case, tried.tir))],
        takes=[Take(quantity="tool", sort="tool", amount=tool.estimate.value - tried.tir.value)],
        notes=[
            say(
                "The one that is in now ran out by {now}. If it is done, say under Kit that it is "
                "retired: its record stays.",
                now=show(tool.estimate.value, 0.001),
            )
        ],
    )


def following(setup: ToolRunoutSetup, move: Move | None) -> ToolRunoutSetup:
    """After a move it is read as it stands, with what is in it then."""
    if move is None:
        return setup
    change: dict[str, Any] = {"way": "plain"}
    if move.key.startswith("use_"):
        change[setup.swapped] = move.about
    # what is not in the chain any more has no part in what is read of it
    return setup.model_copy(update=change).named(setup.names)
