"""Which shims go under which corner, or place, of the rails."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from truing.checks.common import ISOLATE, SHARP, after, prediction
from truing.checks.rail_twist.evaluate import RailTwistFinding, grown_from
from truing.checks.rail_twist.setup import DIAGONALS, RailTwistSetup, stations
from truing.checks.rails import SUPPORT, pads_at, rails_of
from truing.contract.case import Case
from truing.contract.move import Advice, Move, PadStack
from truing.machine import Pad, Rails
from truing.measure.words import Words, plain, say, show
from truing.moves.changes import take_of, tin_of
from truing.moves.packs import pack_changes, packed, pad_stacks, stack_plan, wanted_packs

TwistCase = Case[RailTwistSetup, RailTwistFinding]
GATE = (
    "Before anything is cast or glued on: the figures are to be fresh, and photographed. It cannot "
    "be undone; see “Steps that cannot be undone” on the machine’s screen."
)


def advise(case: TwistCase) -> Advice:
    """Shims from the stock, all corners together."""
    rails = rails_of(case.machine)
    remarks = [plain(GATE)] if case.setup.stage == "coarse" else []
    as_told = _shim(case, rails)
    if case.setup.way == "stations" or not rails.packs:
        return Advice(moves=[as_told], leave=None, remarks=remarks)
    if grown_from(case.finding.twist, case.history) is None:
        return Advice(moves=[as_told], leave=None, remarks=remarks)
    # where they really lie only who looks can tell; it is drawn from there, either way
    crossed = _shim(case, rails, crossed=True)
    meant = as_told.model_copy(
        update={
            "instead": True,
            "title": plain("If they lie where they were meant to: ") + as_told.title,
        }
    )
    return Advice(moves=[crossed, meant], leave=None, remarks=remarks)


def _crossed(pads: Sequence[Pad]) -> list[Pad]:
    """The same corners with what lies there under the other diagonal, across the rails."""
    lies = {p.name: p.shims_mm for p in pads}
    return [p.model_copy(update={"shims_mm": lies[_OVER[p.name]]}) for p in pads]


_OVER = {
    "front left": "front right",
    "front right": "front left",
    "rear left": "rear right",
    "rear right": "rear left",
}


def _corner_pads(case: TwistCase, rails: Rails) -> list[Pad]:
    """The four corners as pads, at the bolts nearest to where they were read."""
    margin = max(0.0, (rails.length_mm - case.setup.length_mm) / 2)
    low, high = margin, rails.length_mm - margin
    front_back = rails.runs == "front_back"
    # corners by name: across is left–right where the rails run front to back, else the other way
    return pads_at(
        rails,
        [
            ("first", low, "front left"),
            ("second" if front_back else "first", low if front_back else high, "front right"),
            ("first" if front_back else "second", high if front_back else low, "rear left"),
            ("second", high, "rear right"),
        ],
    )


def _shim(case: TwistCase, rails: Rails, *, crossed: bool = False) -> Move:
    """The shims for these heights, from what lies there as it is recorded, or `crossed` over."""
    finding = case.finding
    if case.setup.way == "stations":
        plan_of = {s.key: s for s in stations(case.setup)}
        keys = list(finding.heights_mm)
        pads = pads_at(
            rails,
            [(s.which or "first", s.along_mm, s.label.metric) for s in (plan_of[k] for k in keys)],
        )
    else:
        pads = _corner_pads(case, rails)
        keys = [p.name for p in pads]
    recorded = pads
    if crossed:
        pads = _crossed(pads)
    heights = [finding.heights_mm[k] for k in keys]
    plan, why_not = packed(pads, heights, case.stock, rails.most_pieces)
    q = finding.quantities[0]
    if plan is None:
        return Move(
            key="rail_heights",
            mechanism="rail_packs",
            title=plain("Shim under the rails"),
            steps=[plain("Get the stock first.")],
            cautions=[SHARP],
            predicted=[],
            takes=[take_of(q, q.estimate.value)],
            needs=why_not,
            wanted=wanted_packs(pads, heights),
        )
    stacks = pad_stacks(pads, plan.stacks_mm)
    if case.setup.way == "stations":
        left = max(plan.left_mm) - min(plan.left_mm)
    else:
        left = _twist_of(dict(zip(keys, plan.left_mm, strict=True)))
    doubt = max([s.tolerance_mm for s in case.stock] or [0.003])
    then = after(q.estimate, left, 0.1)
    big = (then.expanded**2 + 2 * doubt**2) ** 0.5
    notes = [_effect(case, left)]
    if finding.low:
        one, other = DIAGONALS[finding.low]
        notes.append(
            say(
                "By hand: {w} under both of {a} and {b}, or {w2} under one of them. Under the "
                "other diagonal it grows by as much.",
                w=show(abs(finding.twist.value), 0.001),
                w2=show(2 * abs(finding.twist.value), 0.001),
                a=one,
                b=other,
            )
        )
    return Move(
        key="rail_heights:crossed" if crossed else "rail_heights",
        mechanism="rail_packs",
        title=_where(pads) + _title(finding, stacks) if crossed else _title(finding, stacks),
        steps=[
            plain("Note and photograph the shims that are there."),
            plain("Slacken one corner at a time and lift the rail no more than the shim needs."),
            plain("Put each stack under the whole seat, round the bolt, as drawn."),
            plain("Tighten in turn, crosswise, and read all of it again."),
        ],
        cautions=[ISOLATE, SUPPORT, SHARP],
        stacks=stacks,
        figures=[stack_plan("What goes where, seen from above", stacks)],
        predicted=[prediction(q, then.model_copy(update={"u": big / 2, "expanded": big}))],
        takes=[take_of(q, q.estimate.value - left)],
        # of the record, which has them where they were meant to be
        changes=pack_changes(pad_stacks(recorded, plan.stacks_mm)),
        tin=tin_of(stacks),
        notes=notes,
        wants_photo=True,
        needs=why_not,
        wanted=wanted_packs(pads, heights) if why_not else [],
    )


def _where(pads: Sequence[Pad]) -> Words:
    lies = " and ".join(p.name for p in pads if p.shims_mm)
    return plain(f"If they lie under {lies}: ")


def _twist_of(left: dict[str, float]) -> float:
    b = [left[c] for c in DIAGONALS["B"]]
    a = [left[c] for c in DIAGONALS["A"]]
    return sum(b) / 2 - sum(a) / 2


def _title(finding: RailTwistFinding, stacks: Sequence[PadStack]) -> Words:
    """What the stacks do to the diagonals: raise the low one, or lower the high one."""
    added = {s.pad: sum(s.after_mm) - sum(s.before_mm) for s in stacks}
    if not any(abs(v) > 1e-6 for v in added.values()):
        return plain("The stock does not reach it")
    if not finding.low:
        return plain("Shim under the rails, as drawn")
    high: Literal["A", "B"] = "B" if finding.low == "A" else "A"
    up = sum(added[c] for c in DIAGONALS[finding.low])
    down = -sum(added[c] for c in DIAGONALS[high])
    if up >= down:
        return plain("Raise the diagonal " + "–".join(DIAGONALS[finding.low]))
    return plain("Lower the diagonal " + "–".join(DIAGONALS[high]) + ": it has shims to spare")


def _effect(case: TwistCase, left: float) -> Words:
    """What stays with the shims really chosen, and what it does."""
    if abs(left) < 0.0005:
        return plain("With these shims nothing stays that could be read.")
    lean = 2 * abs(left) / case.setup.apart_mm * 1000
    return say(
        "With these shims {left} stays: a bridge leans by {lean} more at one end than at the "
        "other.",
        left=show(abs(left), 0.001),
        lean=show(lean, 0.001, "slope"),
    )
