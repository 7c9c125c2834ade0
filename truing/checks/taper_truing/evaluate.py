"""From swings along a taper, turned on its good bore, to what has to come off.

A section of radius R that stands off by e reaches from R − e to R + e: TIR = 2e. The tool, set to
the taper, touches first where e is greatest, on the high side; advanced by a on the radius it
leaves there TIR − a, and is clean all round at a = TIR, when the radius has come down by e: the
diameter by TIR. A section that stands off less is reached later, by half of what it lacks.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Literal

from pydantic import BaseModel

from truing.checks.taper_truing.setup import (
    BORE,
    CLEAN,
    FLAT,
    PLACES,
    TITLES,
    UNCUT,
    TaperTruingSetup,
    stations,
)
from truing.checks.turning import swing_of
from truing.contract.case import Case
from truing.contract.finding import Finding, Note, Quantity, quantity, shown
from truing.contract.gather import gather
from truing.contract.readings import GradeReading
from truing.measure.estimate import Estimate
from truing.measure.problem import Problem
from truing.measure.words import Words, plain, say, show


class Pass(BaseModel):
    """One pass of the tool (mm on the radius), and what is left after it by place."""

    number: int
    advance_mm: float
    left_mm: dict[str, float]


class TaperTruingFinding(Finding):
    """What a taper runs out by, and what has to come off."""

    kind: Literal["taper_truing"] = "taper_truing"
    passes: list[Pass]
    """Until it is clean."""
    off_mm: float
    """What the diameter loses in all, from the first touch."""
    deeper_mm: float
    """How much further it seats then."""
    flat: str = UNCUT


TaperCase = Case[TaperTruingSetup, TaperTruingFinding]


def evaluate(case: TaperCase) -> TaperTruingFinding:
    """See `Check.evaluate`."""
    setup = case.setup
    got = gather(case, [s for s in stations(setup) if s.reads == "length"])
    missing = [p for p in PLACES if not got.has(p)]
    if missing:
        raise Problem(
            f"The {TITLES[missing[0]]} has not been read yet.",
            expected="It is clean only when both ends and the middle are.",
            field="readings",
        )
    swings = {
        key: swing_of(got, key, setup.per_shown(key)) for key in (BORE, *PLACES) if got.has(key)
    }
    now = {p: swings[p].value for p in PLACES}
    worst = max(now.values())
    off = setup.cut_mm + worst
    deeper = off * setup.one_in
    # set up by a bore that runs out itself, the taper may stand off by as much
    bore = swings.get(BORE)
    held = bore.value if bore and bore.visible else 0.0
    told = [_told(p, swings[p].widened(held)) for p in PLACES]
    if BORE in swings:
        told.append(_bore(swings[BORE]))
    big = max(swings[p].expanded for p in PLACES)
    told += [
        _aside("off", "Comes off the diameter in all", Estimate.within("length", off, big)),
        _aside(
            "deeper",
            "It then seats deeper by",
            Estimate.within("length", deeper, big * setup.one_in),
        ),
    ]
    seen = [r.grade for r in case.readings if isinstance(r, GradeReading) and r.station == FLAT]
    return TaperTruingFinding(
        quantities=told,
        **got.told("The swings stand, but check the dial’s clamp.", more=_doubts(setup, swings)),
        lines=_lines(setup, off, deeper),
        passes=planned(now, setup.cut_mm, setup.pass_mm),
        off_mm=off,
        deeper_mm=deeper,
        flat=seen[-1] if seen else UNCUT,
    )


def after(now: Mapping[str, float], cut_mm: float, advance_mm: float) -> dict[str, float]:
    """What each place (TIR, mm) runs out by when the tool goes on by `advance_mm`, `cut_mm` after
    it first touched: a place that it has not reached yet lacks half of what it stood off less."""
    worst = max(now.values())
    left = {}
    for place, tir in now.items():
        gap = max(0.0, (worst - tir - cut_mm) / 2)
        left[place] = max(0.0, tir - max(0.0, advance_mm - gap))
    return left


def planned(now: Mapping[str, float], cut_mm: float, pass_mm: float) -> list[Pass]:
    """Even passes, none deeper than `pass_mm`, until nothing is left; at most a hundred."""
    worst = max(now.values())
    count = min(100, math.ceil(worst / pass_mm - 1e-9))
    found = []
    for n in range(count):
        advance = worst / count
        found.append(
            Pass(
                number=n + 1,
                advance_mm=advance,
                left_mm=after(now, cut_mm, advance * (n + 1)),
            )
        )
    return found


def _told(place: str, tir: Estimate) -> Quantity:
    return quantity(
        f"tir@{place}",
        f"TIR, {TITLES[place]}",
        tir,
        say("The {where} runs out by {tir} TIR.", where=TITLES[place], tir=shown(tir)),
        gain=1.0,
        tolerance_key="taper",
        sort="tir",
        signed=False,
    )


def _bore(tir: Estimate) -> Quantity:
    return quantity(
        BORE,
        "TIR of the bore that it is set up on",
        tir,
        say("The bore that it is set up on runs out by {tir} TIR.", tir=shown(tir)),
        gain=1.0,
        tolerance_key="bore",
        signed=False,
    )


def _aside(key: str, label: str, estimate: Estimate) -> Quantity:
    return quantity(key, label, estimate, None, gain=1.0, tolerance_key=None, signed=False)


def _doubts(setup: TaperTruingSetup, swings: Mapping[str, Estimate]) -> list[Note]:
    middle = swings["middle"].value
    ends = [swings[p].value for p in ("thin", "thick")]
    big = swings["middle"].expanded + max(swings[p].expanded for p in ("thin", "thick"))
    if not setup.cut_mm and middle > max(ends) + big:
        text = (
            "The middle runs out by more than either end: a taper whose axis is straight cannot. "
            "Look for a bruise there, or read it again."
        )
        return [Note(tone="look", text=plain(text), station="middle")]
    return []


def _lines(setup: TaperTruingSetup, off: float, deeper: float) -> list[Words]:
    what = say(
        "When it is clean {off} has come off its diameter, and it seats {deeper} deeper.",
        off=show(off, 0.001),
        deeper=show(deeper, 0.01),
    )
    room = show(setup.room_mm, 0.01)
    if deeper > setup.room_mm:
        return [what + say(" There is room for {room} only.", room=room)]
    return [what + say(" There is room for {room}.", room=room)]


def words_of(pass_: Pass, places: Sequence[str] = PLACES) -> Words:
    """What is left after a pass, along the taper."""
    parts = [show(pass_.left_mm[p], 0.001) for p in places]
    return say("then {a} thin, {b} middle, {c} thick", a=parts[0], b=parts[1], c=parts[2])


def is_clean(flat: str) -> bool:
    """Whether no flat was seen."""
    return flat in (CLEAN, UNCUT)
