"""Shims under rails: the move that brings them on to one plane, from heights and stock."""

from __future__ import annotations

from collections.abc import Sequence

from truing.contract.move import Amount, Change, PadStack
from truing.drawing.figures import PlanFigure, Spot, plan_figure
from truing.kit.shims import Shim
from truing.machine import Pad
from truing.measure.problem import Problem
from truing.measure.words import Words, join, plain, say, show
from truing.moves.changes import altered
from truing.moves.flatness import off_plane
from truing.moves.heights import LevelPlan, plan_heights
from truing.moves.wanted import wanted_stacks


def stack_words(before: Sequence[float], after: Sequence[float]) -> Words:
    """A stack as it is told: its height and its pieces, or that it goes."""
    if not after:
        return plain("take the shims out" if before else "nothing")
    return say("{total} ({pieces})", total=_height(after), pieces=_pieces(after))


def pad_stacks(pads: Sequence[Pad], stacks: Sequence[Sequence[float]]) -> list[PadStack]:
    """Stacks by pad, before and after."""
    return [
        PadStack(
            pad=pad.name,
            x_mm=pad.x_mm,
            y_mm=pad.y_mm,
            before_mm=pad.shims_mm,
            after_mm=list(stack),
            words=stack_words(pad.shims_mm, stack),
        )
        for pad, stack in zip(pads, stacks, strict=True)
    ]


def packed(
    pads: Sequence[Pad], heights_mm: Sequence[float], stock: Sequence[Shim], most_pieces: int
) -> tuple[LevelPlan | None, Words | None]:
    """The plan for these heights, or why there is none."""
    try:
        plan = plan_heights(pads, heights_mm, stock, most_pieces=most_pieces)
    except Problem as problem:
        return None, plain(str(problem))
    now = off_plane(pads, heights_mm)[1]
    if plan.off_plane_mm > now - 0.001:
        text = say(
            "No shim in the kit makes this better than {now} off the plane, with at most {n} in a "
            "stack. Thinner stock would.",
            now=show(now, 0.001),
            n=most_pieces,
        )
        return plan, text
    return plan, None


def wanted_packs(pads: Sequence[Pad], heights_mm: Sequence[float]) -> list[Amount]:
    """What brings pads of these heights on to the plane that they are nearest to."""
    return wanted_stacks(pads, [-left for left in off_plane(pads, heights_mm)[0]])


def pack_changes(stacks: Sequence[PadStack]) -> list[Change]:
    """What these stacks change of the packs under a machine's rails: one of them for each place."""
    return altered(*(_pack_change(s) for s in stacks))


def _pack_change(stack: PadStack) -> Change:
    def pack(shims_mm: list[float]) -> dict[str, object] | None:
        if not shims_mm:
            return None
        return {"name": stack.pad, "x_mm": stack.x_mm, "y_mm": stack.y_mm, "shims_mm": shims_mm}

    return Change(
        path=f"rails.packs[x_mm={stack.x_mm:g},y_mm={stack.y_mm:g}]",
        before=pack(stack.before_mm),
        after=pack(stack.after_mm),
    )


def stack_plan(title: str, stacks: Sequence[PadStack]) -> PlanFigure:
    """What goes where, seen from above."""
    return plan_figure(plain(title), [_spot(s) for s in stacks])


def _spot(stack: PadStack) -> Spot:
    same = sorted(stack.before_mm) == sorted(stack.after_mm)
    detail = None
    if same:
        words = (
            say("stays at {t}", t=_height(stack.before_mm))
            if same and stack.before_mm
            else (plain("nothing"))
        )
    else:
        words = _height(stack.after_mm) if stack.after_mm else plain("take it out")
        told = []
        if len(stack.after_mm) > 1:
            told.append(_pieces(stack.after_mm))
        if stack.before_mm:
            told.append(say("instead of {t}", t=_height(stack.before_mm)))
        detail = join(told, ", ") if told else None
    return Spot(
        label=stack.pad,
        x_mm=stack.x_mm,
        y_mm=stack.y_mm,
        words=words,
        detail=detail,
        sort="stay" if same else "shim",
    )


def _height(stack: Sequence[float]) -> Words:
    return show(sum(stack), 0.001)


def _pieces(stack: Sequence[float]) -> Words:
    each = [show(t, 0.001, unit=False) for t in stack]
    return Words(metric=" + ".join(w.metric for w in each), inch=" + ".join(w.inch for w in each))
