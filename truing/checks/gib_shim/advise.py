"""Which shim of the stock goes behind the gib."""

from __future__ import annotations

from truing.checks.common import SHARP, prediction
from truing.checks.gib_shim.evaluate import GibShimFinding
from truing.checks.gib_shim.setup import GibShimSetup
from truing.contract.case import Case
from truing.contract.move import Advice, Move, PadStack
from truing.measure.estimate import Estimate, combined
from truing.measure.words import Words, plain, say, show
from truing.moves.changes import take_of, tin_of
from truing.moves.shims import empty_stock, sold_near
from truing.moves.wanted import wanted


def advise(case: Case[GibShimSetup, GibShimFinding]) -> Advice:
    """The thickest piece of the stock that is not above what is wanted; one alone, since two
    behind a gib slide on each other."""
    return Advice(moves=[_fit(case)], leave=None, remarks=[])


def _fit(case: Case[GibShimSetup, GibShimFinding]) -> Move:
    setup, finding = case.setup, case.finding
    there = [setup.fitted_mm] if setup.way == "fitted" else setup.there_mm
    height = finding.shim.value + sum(there)
    fits = sorted(
        {
            round(s.thickness_mm, 6)
            for s in case.stock
            if s.count > 0 and s.thickness_mm <= height + 1e-6
        }
    )
    q = next(q for q in finding.quantities if q.key == "shift")
    common = {
        "key": "gib_shim",
        "mechanism": "gibs",
        "part": setup.slide,
        "cautions": [SHARP, "An upright slide drops when its gib is out: support it first."],
        "wants_photo": True,
    }
    if not fits or fits[-1] <= sum(there) + 1e-6:
        return Move.model_validate(
            {
                **common,
                "title": plain("Put a shim behind the gib"),
                "steps": [plain("Get the stock first.")],
                "predicted": [],
                "takes": [],
                "needs": _needs(case, height),
                "wanted": [wanted("behind the gib", height)],
            }
        )
    chosen = fits[-1]
    took = (chosen - sum(there)) / finding.taper.value * 1000
    # what the taper is not known to, and what the piece is not as thick as it says
    tolerance = max(s.tolerance_mm for s in case.stock)
    doubt = combined(
        finding.taper.expanded / finding.taper.value * took,
        tolerance / finding.taper.value * 1000,
        q.estimate.expanded,
    )
    then = Estimate.within("length", q.estimate.value - took, doubt)
    smaller = fits[-2] if len(fits) > 1 else None
    notes: list[Words] = [
        plain("Before anything is cut, try a bare strip of the same stock behind the gib."),
    ]
    if smaller is not None:
        notes.append(
            say(
                "If it cranks stiff once the gib is in, take the next size down, {t}: it brings "
                "the gib back by {s}.",
                t=show(smaller, 0.001),
                s=show((smaller - sum(there)) / finding.taper.value * 1000, 0.1),
            )
        )
    stacks = [
        PadStack(
            pad="behind the gib",
            x_mm=0.0,
            y_mm=0.0,
            before_mm=list(there),
            after_mm=[chosen],
            words=show(chosen, 0.001),
        )
    ]
    return Move.model_validate(
        {
            **common,
            "title": say("Put {t} behind the gib", t=show(chosen, 0.001)),
            "steps": [
                plain("Photograph the gib’s screw as it stands, then take the gib out."),
                plain("Trace or print the template, stick it to the stock, and cut it out."),
                plain("Punch the oil holes in line with those of the gib; clear the screw."),
                plain("Oil it on to the back, the side that does not slide. Fold the tabs round."),
                plain(
                    "Put the gib back until it just drags, and measure how much further out it "
                    "now sits."
                ),
            ],
            "stacks": stacks,
            "tin": tin_of(stacks),
            "predicted": [prediction(q, then)],
            "takes": [take_of(q, took)],
            "notes": notes,
        }
    )


def _needs(case: Case[GibShimSetup, GibShimFinding], height: float) -> Words:
    if not any(s.count for s in case.stock):
        return plain(str(empty_stock(height)))
    near = sold_near(height, below=True)
    return say(
        "Nothing in the kit is at or below {w} and thicker than what is there. {n} is the nearest "
        "that is sold.",
        w=show(height, 0.001),
        n=show(near, 0.001),
    )
