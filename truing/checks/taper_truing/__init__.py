"""How much must come off a holder's taper?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.common import expectation, prediction
from truing.checks.taper_truing.evaluate import (
    Pass,
    TaperTruingFinding,
    evaluate,
    is_clean,
    words_of,
)
from truing.checks.taper_truing.setup import PLACES, TITLES, TaperTruingSetup, stations
from truing.checks.taper_truing.sketch import passed, set_up
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.expected import expected_size
from truing.contract.judgement import Expectation, Judgement, Tolerances
from truing.contract.move import Advice, Amount, LeaveIt, Move, Take
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.drawing.figures import Bar, Figure, WaterfallFigure
from truing.drawing.sketches import SketchFigure
from truing.kit.tooling import Holder
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.estimate import Estimate, combined
from truing.measure.problem import Problem
from truing.measure.words import Words, plain, say, show

TaperCase = Case[TaperTruingSetup, TaperTruingFinding]
CAUTIONS = [
    "Lathe work: eyes, no gloves, no loose sleeves, the chuck key never left in. Read it with the "
    "lathe isolated, turned by hand.",
    "Hardened holders are ground, not turned: extraction, and the slides covered from the dust.",
    "A holder clamped crooked can shatter or fly. Soft jaws, and as little out as will do.",
]
SHARE = 0.2
"""How far a light pass may miss what was set, of itself."""


class TaperTruing(Check[TaperTruingSetup, TaperTruingFinding]):
    """Passes by what a taper runs out by on its own bore; see `geometry.md` in docs."""

    key: ClassVar[str] = "taper_truing"
    layout: ClassVar[Any] = "line"
    limit_kinds: ClassVar[Any] = {
        "taper": ("TIR along the taper", "length"),
        "bore": ("TIR of the bore that it is set up on", "length"),
    }
    setup_type = TaperTruingSetup
    finding_type = TaperTruingFinding

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> TaperTruingSetup | None:
        return TaperTruingSetup()

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"taper": 0.01, "bore": 0.005}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return say(
            "every tool in this holder runs out by {d} before it adds its own, and by more the "
            "further it sticks out.",
            d=show(tolerances["taper"], 0.001),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return {"": ("lever_dial", "plunger_dial", "digital")}

    def stations(self, setup: TaperTruingSetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return stations(setup)

    def expect(self, case: TaperCase) -> Expectation | None:
        holder = case.pieces.get(case.setup.holder)
        if holder is not None and not isinstance(holder, Holder):
            raise Problem(
                "That is no holder.", expected="Pick the holder that is trued.", field="holder"
            )
        big = expected_size(case, stations(case.setup))
        return expectation(big, case.tolerances["bore"], "length")

    def evaluate(self, case: TaperCase) -> TaperTruingFinding:
        return evaluate(case)

    def judge(self, case: TaperCase) -> Judgement:
        judged = super().judge(case)
        flat = case.finding.flat
        if is_clean(flat):
            return judged
        text = plain(f"A flat is left at the {TITLES[flat]}: it is not clean all round yet.")
        return judged.joined_by([("out", text)])

    def figures(self, case: TaperCase) -> list[Figure]:
        passes = case.finding.passes
        # nothing that has to come off
        if not passes or not case.amiss("taper"):
            return []
        worst = max(passes, key=lambda p: max(p.left_mm.values()))
        start = max(worst.left_mm.values()) + worst.advance_mm
        limit = case.tolerances["taper"]
        bars = [
            Bar(
                label="now",
                from_mm=0.0,
                to_mm=start,
                words=show(start, 0.001),
                sort="whole",
            )
        ]
        before = start
        for p in passes:
            left = max(p.left_mm.values())
            bars.append(
                Bar(
                    label=f"pass {p.number}",
                    from_mm=before,
                    to_mm=left,
                    words=show(left, 0.001),
                    sort="gain",
                )
            )
            before = left
        return [
            WaterfallFigure(
                title=plain("What each pass should leave of the runout"),
                bars=bars,
                limit_mm=limit,
                limit_words=show(limit, limit / 10),
            )
        ]

    def sketch(self, setup: TaperTruingSetup, machine: Machine) -> SketchFigure | None:
        return set_up(setup, machine)

    def move_sketch(self, move: Move, case: TaperCase) -> SketchFigure | None:
        return passed(move, case.machine)

    def remedies(self, case: TaperCase) -> Advice:
        setup, finding = case.setup, case.finding
        bore = case.amiss("bore")
        if bore:
            text = (
                "Bring its bore to run true first: four jaws, a tap of a soft hammer, until the "
                "dial in the bore keeps still. A cut now would make the taper as crooked as the "
                "set-up."
            )
            return Advice(moves=[], leave=None, remarks=[plain(text)])
        if not case.amiss("taper") and is_clean(finding.flat):
            return Advice(moves=[], leave=None)
        worst = max(q.estimate.value for q in case.of("taper"))
        leave = LeaveIt(
            text=say(
                "Or leave it: it adds up to {tir} to every tool that it holds. Its best seat in "
                "the spindle may take some of that back.",
                tir=show(worst, 0.001),
            )
        )
        passes = finding.passes or [
            Pass(number=1, advance_mm=setup.pass_mm, left_mm=dict.fromkeys(PLACES, 0.0))
        ]
        return Advice(moves=[self._pass(case, passes)], leave=leave)

    def _pass(self, case: TaperCase, passes: Sequence[Pass]) -> Move:
        setup, finding = case.setup, case.finding
        first = passes[0]
        needs = None
        if finding.deeper_mm > setup.room_mm:
            needs = say(
                "It would seat {deeper} deeper, and there is room for {room}: it cannot be trued "
                "as it is. Shorten it, if it may be shortened, or scrap it.",
                deeper=show(finding.deeper_mm, 0.01),
                room=show(setup.room_mm, 0.01),
            )
        told = [q for q in case.of("taper") if q.estimate.value > first.left_mm[_place(q.key)]]
        left = {q.key: first.left_mm[_place(q.key)] for q in told}
        return Move(
            key="pass",
            mechanism="holder",
            title=say("Take a light pass: {set}", set=_set(first.advance_mm, setup)),
            steps=self._steps(setup, first),
            cautions=CAUTIONS,
            amounts=[
                Amount(
                    place=f"pass {p.number} of {len(passes)}",
                    x_mm=0.0,
                    y_mm=0.0,
                    amount_mm=p.advance_mm,
                    words=_set(p.advance_mm, setup),
                    detail=words_of(p),
                )
                for p in passes
            ],
            predicted=[
                prediction(
                    q,
                    Estimate.within(
                        "length",
                        left[q.key],
                        combined(
                            q.estimate.expanded, q.estimate.expanded, SHARE * first.advance_mm
                        ),
                    ),
                )
                for q in told
            ],
            takes=[
                Take(
                    quantity=q.key,
                    sort=q.sort,
                    amount=q.estimate.value - left[q.key],
                )
                for q in told
            ],
            notes=[
                plain(
                    "If a reading is not what was foretold, stop: the bore has moved in the jaws, "
                    "or the slide was set on the wrong number."
                )
            ],
            wants_photo=not setup.cut_mm,
            needs=needs,
        )

    def _steps(self, setup: TaperTruingSetup, first: Pass) -> list[Words]:
        set_up = [
            plain(
                f"Set the top slide to {setup.slide_deg:.3f}°, half of the taper’s angle; run a "
                "dial along a taper that is known to be good, until it keeps still."
            ),
            plain(
                "Blue it, start the lathe, and bring the tool up until it just marks the high "
                "side. Zero the dial of the cross slide there."
            ),
        ]
        return [
            *([] if setup.cut_mm else set_up),
            say(
                "Bring the cross slide on by {set}, and take the pass with the top slide from end "
                "to end.",
                set=_set(first.advance_mm, setup),
            ),
            plain("Stop the lathe and isolate it. Do not touch the jaws. Read all places again."),
        ]

    def following(self, setup: TaperTruingSetup, move: Move | None) -> TaperTruingSetup:
        if move is None or move.key != "pass":
            return setup
        cut = round(setup.cut_mm + move.amounts[0].amount_mm, 6)
        return setup.model_copy(update={"cut_mm": cut})


def _place(key: str) -> str:
    return key.partition("@")[2]


def _set(advance_mm: float, setup: TaperTruingSetup) -> Words:
    """What the dial is set on by: the number of this lathe first, then the other."""
    radius, diameter = show(advance_mm, 0.001), show(2 * advance_mm, 0.001)
    if setup.dial == "diameter":
        return say("{d} on its diameter dial, which is {r} on the radius", d=diameter, r=radius)
    return say("{r} on its dial, which is {d} on the diameter", d=diameter, r=radius)


CHECK = TaperTruing()
