"""A chain of pieces drawn: its turns, its axis, its vectors, and the tin."""

from __future__ import annotations

import math
from typing import Any

from truing.checks.tool_runout.finding import end_of
from truing.checks.turning import axis_figure, polar_figure
from truing.contract.case import Case
from truing.contract.finding import shown
from truing.drawing.figures import (
    ChainFigure,
    ChainLink,
    Figure,
    RankedFigure,
    RankedRow,
    TurnedLink,
)
from truing.effects.runout import good_for
from truing.measure.verdict import verdict
from truing.measure.words import capital, plain, say, show

ROUND = (0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5)
"""Lengths (mm) that show a scale."""


def figures(case: Case[Any, Any]) -> list[Figure]:
    """See `Check.figures`."""
    found: list[Figure] = [*_chain(case), *_tin(case)]
    circles = case.finding.circles
    found += polar_figure(plain("The first seat as it was read, the first mark up"), circles)
    leans = plain("The axis of what is held, from the face outward")
    return [*found, *axis_figure(leans, circles, [case.setup.judged_at_mm])]


def _chain(case: Case[Any, Any]) -> list[Figure]:
    links = case.finding.links
    if not links:
        return []
    limit = case.tolerances["tool"]
    best = min(case.finding.seats, key=lambda s: s.tir.value, default=None)
    tool = end_of(case)
    turned = None
    if best is not None and best.tir.value < tool.estimate.value - 1e-9 and best.degrees > 0.5:
        turned = TurnedLink(
            name=f"{capital(best.title)} {best.degrees:.0f}° on",
            after=next(i for i, k in enumerate(links) if k.joint == best.joint),
            x_mm=best.turned[0],
            y_mm=best.turned[1],
            words=shown(best.tir),
        )
    size = max(math.hypot(k.x_mm, k.y_mm) for k in links)
    scale = max((r for r in ROUND if r <= max(size, ROUND[0])), default=ROUND[0])
    return [
        ChainFigure(
            title=plain("Who adds what, end to end, seen along the spindle"),
            links=[
                ChainLink(name=capital(k.title), x_mm=k.x_mm, y_mm=k.y_mm, words=shown(k.tir))
                for k in links
            ],
            whole=shown(tool.estimate),
            turned=turned,
            limit_mm=limit / 2,
            limit_words=say("limit {limit} TIR", limit=show(limit, limit / 10)),
            scale_mm=scale,
            scale_words=show(scale, scale / 10),
        )
    ]


def _tin(case: Case[Any, Any]) -> list[Figure]:
    limit = case.tolerances["tool"]
    if not case.finding.tried:
        return []
    sorts: Any = {"true": "good", "too_close": "doubt", "out": "bad"}
    rows = [
        RankedRow(
            name=capital(t.name),
            value_mm=t.tir.value,
            low_mm=t.tir.least,
            high_mm=t.tir.most,
            words=shown(t.tir),
            good_for=good_for(t.tir, limit),
            sort="retired"
            if getattr(case.pieces.get(t.piece), "retired", False)
            else sorts[verdict(t.tir, limit)],
        )
        for t in case.finding.tried
    ]
    return [
        RankedFigure(
            title=plain("Best to worst, all else alike"),
            rows=rows,
            limit_mm=limit,
            limit_words=show(limit, limit / 10),
        )
    ]
