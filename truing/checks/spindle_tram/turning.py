"""Moves that turn a part: a head, a bracket on its plate, an end plate of a gantry."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from truing.checks.common import ISOLATE, after, prediction
from truing.checks.spindle_tram.evaluate import TramCase
from truing.checks.spindle_tram.setup import stations
from truing.contract.finding import Quantity
from truing.contract.move import Act, Move, Target, Way
from truing.contract.setup import Station
from truing.machine import Gantry
from truing.machine.mechanisms import Mechanism
from truing.measure.words import Words, goes, plain, say, show
from truing.moves.changes import take_of
from truing.moves.pivot import LEAST_LEVER, TAP_SCATTER, Aim, aim, needle_change_mm

SUPPORT_HEAD = "The head can swing or drop when its bolts are loose: support it."
SUPPORT_GANTRY = "Support the beam before an end plate is loosened; mind the pinch points."


def turn(case: TramCase, q: Quantity, axis: str) -> Move:
    """Turn the head or the bracket so that this lean goes, with needle targets."""
    head = case.machine.head
    bracket = case.machine.bracket
    by_head = head is not None and (head.turns if axis == "lean_x" else head.nods)
    mechanism: Mechanism = "head_pivot" if by_head else "bracket_pivot"
    if head is not None and by_head:
        pivot = head.pivot_x_mm if axis == "lean_x" else head.pivot_y_mm
    else:
        pivot = bracket.pivot_x_mm if bracket else 0.0
    aimed = aim(q.key, q.estimate.value, mechanism, case.history)
    take_off = q.estimate.value - aimed.aim
    to = TO[axis, take_off > 0]
    part = "head" if by_head else "spindle bracket"
    targets = _targets(case, axis, pivot, lambda s: (q.key, take_off))
    act = _tap(case, "the top", to, targets, take_off)
    steps = [
        plain(f"Support the {part}. Slacken its bolts until it just moves, the pivot bolt last."),
        act.words,
        plain(f"Nip the bolts in turn, a little each; {_look(case)}."),
        plain(f"Tighten in turn; {_look(case)} again, then measure the whole round."),
    ]
    return Move(
        key=f"{mechanism}:{axis}",
        mechanism=mechanism,
        title=plain(f"Turn the {part}: top to the {to}"),
        steps=steps,
        acts=[act],
        cautions=[ISOLATE, SUPPORT_HEAD],
        targets=targets,
        predicted=[prediction(q, after(q.estimate, aimed.left, TAP_SCATTER))],
        takes=[take_of(q, take_off)],
        notes=_aim_notes(aimed, not targets and case.setup.way != "scrape"),
    )


TO: dict[tuple[str, bool], Way] = {
    ("lean_x", True): "left",
    ("lean_x", False): "right",
    ("nod", True): "front",
    ("nod", False): "rear",
}
"""Where the top goes to lose a lean that is above nothing, or below."""


def _tap(case: TramCase, end: str, to: Way, targets: Sequence[Target], take_off: float) -> Act:
    """The tap itself, by the needle at the best lever; by its size where there is no needle."""
    if targets:
        return Act(end=end, way=to, target=targets[0])
    swing = 2 * case.setup.radius_mm
    return Act(end=end, way=to, by_mm=abs(take_off) * swing / 1000, over_mm=swing)


def _aim_notes(aimed: Aim, no_target: bool) -> list[Words]:
    notes: list[Words] = []
    if aimed.shift:
        notes.append(
            say(
                "Tightening has moved this machine by {s} on average; the target allows for it.",
                s=show(aimed.shift, abs(aimed.shift) / 10, "slope", signed=True),
            )
        )
    if aimed.share_left:
        notes.append(
            plain(
                "Earlier taps "
                + (
                    f"left about {aimed.share_left:.0%} undone: the target goes past zero."
                    if aimed.share_left > 0
                    else f"went about {-aimed.share_left:.0%} too far: the target stops short."
                )
            )
        )
    if no_target:
        notes.append(plain("The tip stands over the pivot and shows nothing there: move the dial."))
    return notes


def _targets(
    case: TramCase,
    axis: str,
    pivot_mm: float,
    take_off_at: Callable[[Station], tuple[str, float]],
) -> list[Target]:
    """Needle targets from every station with a lever on the pivot, the best lever first;
    `take_off_at` says which quantity is told there and what it is to lose."""
    plan = {s.key: s for s in stations(case.setup)}
    if case.setup.way == "scrape":
        # one rod that touches somewhere: there is no needle to bring to a target
        return []
    found: list[tuple[float, Target]] = []
    for mean in case.finding.stations:
        station = plan[mean.station]
        along = station.x_mm if axis == "lean_x" else station.y_mm
        lever = abs(along - pivot_mm)
        if lever < LEAST_LEVER * case.setup.radius_mm:
            continue
        told, take_off = take_off_at(station)
        per_shown = case.setup.sign * case.instrument.true_mm(1.0)
        shown = needle_change_mm(take_off, along, pivot_mm) / per_shown
        start = case.setup.sign * mean.repeats_mm[-1] / case.instrument.true_mm(1.0)
        start -= case.finding.zero_mm  # as the dial stands now
        found.append(
            (
                lever,
                Target(
                    station=station.key,
                    label=station.label,
                    from_mm=start,
                    to_mm=start + shown,
                    words=_target_words(case, start, start + shown),
                    quantity=told,
                    per_mm=per_shown / (along - pivot_mm) * 1000,
                    lever_mm=along - pivot_mm,
                    pushed_in=shown * per_shown > 0,
                ),
            )
        )
    return [t for _, t in sorted(found, key=lambda item: -item[0])]


def _look(case: TramCase) -> str:
    """How it is read while it is moved."""
    told = {
        "swing": f"read {case.instrument.shown_by}",
        "trigger": "touch",
        "scrape": "see where it scrapes",
    }
    return told.get(case.setup.way, "measure the gap")


def _target_words(case: TramCase, start_mm: float, to_mm: float) -> Words:
    what = {"swing": case.instrument.shown_by, "trigger": "where it touches"}.get(
        case.setup.way, "the gap"
    )
    signed = case.setup.way in ("swing", "trigger")
    read = case.instrument.as_read
    return goes(what, read(start_mm, signed=signed), read(to_mm, signed=signed))


def twist_end_plate(case: TramCase, gantry: Gantry, side: str, nod: float, width: float) -> Move:
    """Twist one end plate by the nod (mm/m) that the beam has there; `width` between plates, mm."""
    mechanism: Mechanism = "end_plate_left" if side == "left" else "end_plate_right"

    def weight(x_mm: float) -> float:
        """Share of this plate's twist that arrives at x along a beam held at both ends."""
        from_left = (x_mm - gantry.left_plate_x_mm) / width
        return 1 - from_left if side == "left" else from_left

    aimed = aim(f"plate_{side}", nod, mechanism, case.history)
    take_off = nod - aimed.aim
    nods = {q.at_mm: q.key for q in case.of("nod")}
    targets = _targets(
        case,
        "nod",
        gantry.fixed_bolt_y_mm,
        lambda s: (nods.get(s.at_mm, "nod"), take_off * weight(s.at_mm or 0.0)),
    )
    # the arm nearest to this plate sees most of its twist
    targets.sort(key=lambda t: -abs(t.to_mm - t.from_mm))
    to = TO["nod", take_off > 0]
    act = _tap(case, "the top", to, targets, take_off)
    touched = [(q, weight(q.at_mm or 0.0)) for q in case.of("nod")]
    return Move(
        key=mechanism,
        mechanism=mechanism,
        title=plain(f"Twist the {side} end plate: top to the {to}"),
        steps=[
            plain(f"Support the beam. Slacken the {side} end plate, all but its fixed bolt."),
            act.words,
            plain("Tighten in turn and read again. Then the other end, then this one once more."),
        ],
        acts=[act],
        cautions=[ISOLATE, SUPPORT_GANTRY],
        targets=targets,
        predicted=[
            prediction(q, after(q.estimate, q.estimate.value - (nod - aimed.left) * w, TAP_SCATTER))
            for q, w in touched
        ],
        takes=[take_of(q, take_off * w) for q, w in touched],
        notes=_aim_notes(aimed, not targets and case.setup.way != "scrape"),
    )
