"""Remedies: the largest share that can be adjusted, the controller, or cutting from one side."""

from __future__ import annotations

from typing import cast

from truing.checks.common import STILL, after, prediction, slide_of
from truing.checks.lost_motion.evaluate import LostMotionFinding, doubtful, title_of
from truing.checks.lost_motion.links import ALL_LINKS, LAST, USUAL, Link, remedy_of
from truing.checks.lost_motion.setup import LostMotionSetup
from truing.contract.case import Case
from truing.contract.history import PastRound
from truing.contract.move import Advice, Change, Entry, LeaveIt, Move
from truing.machine import Drive, Slide
from truing.measure.estimate import Estimate
from truing.measure.words import plain, say, show
from truing.moves.changes import altered, take_of

MotionCase = Case[LostMotionSetup, LostMotionFinding]

AHEAD = (
    "The slide runs ahead when it turns round: the controller takes out more than there is. Less "
    "is the cure, and no spanner."
)
WHICH_WAY = (
    "The controller compensates already, and whether that is too little or too much only the sign "
    "tells. One look tells the sign: go a millimetre to the right, to the rear, or up, and see "
    "whether the dial counts up. Say so under More in Set up; the readings stay as they are."
)
CURED = 0.8
"""Share of a link's slack that a remedy usually takes out."""
COMPENSATE = "compensate"
_NOT_READ = (
    "Which link it is has not been read. Switch the links of this drive on in Set up, and begin at "
    "the slide: what is left then sits nearer to the hand."
)
_END_FLOAT = (
    "Which link it is has not been read. Switch the links on in Set up and read the end float "
    "first: it is quick, and tells bearing from nut."
)
_UNREAD: dict[Drive, str] = {"screw": _END_FLOAT, "ball_screw": _END_FLOAT}
UPRIGHT = "An upright slide falls when its nut or bearing is slack: support it first."


def _title(link: str, drive: Drive) -> str:
    """What was done to a link; of records that know it by another name, shortly."""
    return remedy_of(link, drive).title if link in ALL_LINKS else "Set it"


def done_in(past: PastRound, case: MotionCase) -> str:
    """What was done after an earlier round, shortly."""
    move = past.move
    if move is None or move.key not in (COMPENSATE, f"remedy:{move.about}"):
        return past.did or "read again"
    if move.key == COMPENSATE:
        return "Let the controller take it out"
    slide = case.machine.slide(case.setup.slide)
    return _title(move.about, slide.drive if slide else "screw")


def advise(case: MotionCase) -> Advice:
    """Mechanical cures by their share, largest first; then what needs no spanner."""
    slide = slide_of(case.machine, case.setup.slide)
    finding = case.finding
    if doubtful(case.setup):
        # a spanner is no cure for a controller that takes out too much
        return Advice(moves=[], leave=_one_side(case), remarks=[plain(WHICH_WAY)])
    shares = {k: e.value for k, e in finding.shares.items() if e.value > e.expanded}
    remarks = []
    if not shares:
        shares = {USUAL[slide.drive]: finding.mean.value}
        remarks.append(plain(_UNREAD.get(slide.drive, _NOT_READ)))
    done = [r.move.about for r in case.history.rounds if r.move]
    order = sorted(shares, key=lambda k: -shares[k])
    # the rest is whatever was not read: what moves the slide, until that has been read itself
    last = LAST[slide.drive]
    links = [last if k == "rest" and last not in shares else k for k in order]
    if finding.mean.value < -finding.mean.expanded:
        return Advice(moves=[_compensate(case, slide)], leave=None, remarks=[plain(AHEAD)])
    moves: list[Move] = []
    for link, key in zip(links, order, strict=True):
        if link == "rest" or any(m.about == link for m in moves):
            continue
        move = _cure(case, slide, link, shares[key], again=link in done)
        moves.append(move.model_copy(update={"instead": bool(moves)}))
    if case.machine.control == "controller":
        moves.append(_compensate(case, slide))
    return Advice(moves=moves, leave=_one_side(case), remarks=remarks)


def _cure(case: MotionCase, slide: Slide, link: str, share: float, *, again: bool) -> Move:
    remedy = remedy_of(cast(Link, link), slide.drive)
    q = case.finding.quantities[0]
    took = min(CURED * share, q.estimate.value)
    notes = [
        plain("One thing at a time, then read all of it again under the same conditions."),
    ]
    if again:
        notes.append(plain("This was set once already: if it comes to little again, it is worn."))
    return Move(
        key=f"remedy:{link}",
        mechanism=remedy.mechanism,
        about=link,
        part=case.setup.slide,
        title=say(
            "{title}: {share} sits in the {link}",
            title=remedy.title,
            share=show(share, 0.001),
            link=title_of(link),
        ),
        steps=[plain(s) for s in remedy.steps],
        cautions=[STILL, UPRIGHT],
        predicted=[prediction(q, after(q.estimate, q.estimate.value - took, 0.4))],
        takes=[take_of(q, took)],
        notes=notes,
    )


def _compensate(case: MotionCase, slide: Slide) -> Move:
    finding = case.finding
    value = max(0.0, case.setup.compensation_mm + finding.mean.value)
    q = finding.quantities[0]
    left = q.estimate.value - finding.mean.value
    # what the mean itself is not known to stays as well
    big = (q.estimate.expanded**2 + finding.mean.expanded**2) ** 0.5
    letter = slide.letter
    return Move(
        key=COMPENSATE,
        mechanism="drive_settings",
        about=finding.counts_up,
        part=case.setup.slide,
        instead=True,
        title=say("Let the controller take out {v}", v=show(value, 0.001)),
        steps=[
            say(
                "Enter {v} as the backlash of {axis}, and save it.",
                v=show(value, 0.001),
                axis=letter or "this axis",
            ),
            plain("Home the machine again, then read all places again."),
        ],
        cautions=[STILL],
        entries=[
            Entry(setting=f"backlash {letter}".strip(), value_mm=value, words=show(value, 0.001))
        ],
        predicted=[prediction(q, Estimate.within("length", left, big))],
        takes=[take_of(q, finding.mean.value)],
        changes=altered(
            Change(
                path=f"slides[direction={slide.direction}].compensation_mm",
                before=slide.compensation_mm,
                after=value,
            )
        ),
        notes=[
            say(
                "It takes out the mean and nothing else: {left} of unevenness stays, the slide "
                "still rattles in a climb cut, and circles keep a mark at each quarter.",
                left=show(finding.uneven.value, 0.001),
            )
        ],
    )


def _one_side(case: MotionCase) -> LeaveIt:
    return LeaveIt(
        text=say(
            "Or cut from one side only: always come to a figure the same way, past it by a full "
            "turn and back. {lost} then shows only where the direction changes, and climb milling "
            "is out.",
            lost=show(case.finding.quantities[0].estimate.value, 0.001),
        )
    )
