"""Spindle or column? A lean to the table is the lean of the travel that carries the head, and what
the head stands askew on it: the head is turned for the second, shims mend the first."""

from __future__ import annotations

from dataclasses import dataclass

from truing.checks.spindle_tram.evaluate import TramCase
from truing.contract.finding import Quantity
from truing.contract.known import Known
from truing.contract.move import Ask, Move
from truing.drawing.figures import Bar, WaterfallFigure
from truing.machine.subject import Subject
from truing.measure.estimate import Estimate
from truing.measure.verdict import VERDICT_WORDS, Verdict, verdict
from truing.measure.words import Words, plain, say, show, show_estimate

WAYS = {"lean_x": "left_right", "nod": "front_back"}
SQUARE = "travel_square"


@dataclass(frozen=True)
class Split:
    """A lean of the spindle to the table, in the two parts that it is made of (mm/m)."""

    quantity: Quantity
    travel: Estimate
    """What lifts the head, to the table."""
    to_work: Estimate
    """The same, to the travel that carries the work: what Square travel judges."""
    limit: float | None
    """What that may be."""

    @property
    def head(self) -> Estimate:
        """The head on its travel."""
        return self.quantity.estimate - self.travel

    def judged(self, estimate: Estimate) -> Verdict | None:
        """How the travel is judged, or would be."""
        return verdict(estimate, self.limit) if self.limit else None


def read_before(case: TramCase, q: Quantity) -> Known | None:
    """The latest round of Square travel on what lifts the head, along this lean."""
    lifts = case.machine.lifts
    if not lifts or q.sort not in WAYS:
        return None
    riser = "head" if "head" in lifts else lifts[0]
    return case.latest(SQUARE, "to_table", Subject.part(f"{riser}_{WAYS[q.sort]}").text)


def split(case: TramCase, q: Quantity) -> Split | None:
    """The two parts of a lean; None where the travel was not read, or was touched since."""
    known = read_before(case, q)
    if known is None or not known.fresh:
        return None
    return Split(
        quantity=q,
        travel=known.values["to_table"],
        to_work=known.values["square"],
        limit=known.limits.get("square"),
    )


def told(found: Split, *, head_turns: bool, knee: bool = False) -> Words:
    """Both parts in figures, and which of them to mend."""
    q = found.quantity
    parts = say(
        "Of the {name}, {whole}, {lifts} has {travel}; the other {head} is the head on its travel."
        if not knee
        else "Of the {name}, {whole}, {lifts} has {travel}; the other {head} is the head.",
        lifts="the knee’s travel" if knee else "the column’s travel",
        name="nod" if q.sort == "nod" else "lean",
        whole=_signed(q.estimate),
        travel=_signed(found.travel),
        head=_signed(found.head),
    )
    advice = _on_a_knee(found, head_turns) if knee else _advice(found, head_turns)
    return parts + plain(" " + advice)


def _signed(x: Estimate) -> Words:
    return show_estimate(x.value, x.expanded, "slope", signed=True)


def _size(x: Estimate) -> Words:
    return show(x.value, x.expanded or 0.001, "slope", signed=True)


def _advice(found: Split, head_turns: bool) -> str:
    square = found.judged(found.to_work) in ("true", None)
    if square and head_turns:
        return (
            "The travel is square to the work: turn the head, which leaves it so. Shims under the "
            "column would spoil it."
        )
    if square:
        return (
            "The travel is square to the work: shims under the column would mend the spindle and "
            "spoil the travel. Shims between head and column mend the spindle alone; else leave it "
            "for work that is not deep, and shim for work that is faced with wide cutters."
        )
    if head_turns:
        return (
            "The travel is out by itself, which only shims under the column mend: do that first, "
            "by “Square travel”, and then turn the head for the rest."
        )
    return (
        "The travel is out as well: shims under the column move both by the same amount. See below "
        "what each becomes; where they ask for different shims, the deep work decides."
    )


def _on_a_knee(found: Split, head_turns: bool) -> str:
    square = found.judged(found.to_work) in ("true", None)
    head = (
        "turn the head, which leaves it so"
        if head_turns
        else "shims between column and head mend the spindle alone"
    )
    if square:
        return f"The knee goes square to the work: {head}."
    return (
        "The knee goes askew by itself: look at its gib, and for chips between knee and column. "
        f"Then {head.removesuffix(', which leaves it so')} for the rest."
        if head_turns
        else "The knee goes askew by itself: look at its gib, and for chips between knee and "
        f"column. For the rest, {head}."
    )


def with_travel(move: Move, found: list[Split]) -> Move:
    """The move, with what it makes of the travel."""
    notes = []
    for part in found:
        name = "front to back" if part.quantity.sort == "nod" else "side to side"
        now = _signed(part.to_work)
        taken = move.taken(part.quantity.key) if move.mechanism == "column_base" else 0.0
        if not taken:
            notes.append(say("The travel, {name}, stays as it is: {now}.", name=name, now=now))
            continue
        then = part.to_work.shifted(-taken)
        verdict_then = part.judged(then)
        notes.append(
            say(
                "The travel, {name}, goes with it: from {now} to {then}{judged}.",
                name=name,
                now=now,
                then=_signed(then),
                judged=f" ({VERDICT_WORDS[verdict_then].lower()})" if verdict_then else "",
            )
        )
    return move.model_copy(update={"notes": [*move.notes, *notes]})


def ask(case: TramCase, q: Quantity) -> Ask:
    """That the travel is to be read, and what both answers would mean."""
    known = read_before(case, q)
    why = say(
        "Whether it is the head or the column {how}. If the travel is square, the whole of {size} "
        "lies between head and column, and shims under the column would put the travel out by as "
        "much. If the travel leans by the same, shims mend both at once.",
        how="is not known any more: the travel was touched since it was read"
        if known
        else "is not known: the travel has not been read",
        size=show(abs(q.estimate.value), q.estimate.expanded or 0.01, "slope"),
    )
    return Ask.of(SQUARE, why)


def figure(found: Split, limit: float, *, knee: bool = False) -> WaterfallFigure:
    """Both parts, one after the other, to the whole."""
    whole, travel = found.quantity.estimate, found.travel
    # drawn to one side, whichever way it leans
    side = -1.0 if whole.value < 0 else 1.0
    name = "nod" if found.quantity.sort == "nod" else "lean"
    return WaterfallFigure(
        title=plain(f"Where the {name} comes from"),
        bars=[
            Bar(
                label=f"the {'knee' if knee else 'column'}’s travel to the table",
                from_mm=0.0,
                to_mm=side * travel.value,
                words=_size(travel),
                sort="share",
            ),
            Bar(
                label="the head" if knee else "the head on its travel",
                from_mm=side * travel.value,
                to_mm=side * whole.value,
                words=_size(found.head),
                sort="deduced",
            ),
            Bar(
                label=f"the {name} of the spindle to the table",
                from_mm=0.0,
                to_mm=side * whole.value,
                words=_size(whole),
                sort="whole",
            ),
        ],
        limit_mm=limit,
        limit_words=show(limit, limit / 10, "slope"),
    )
