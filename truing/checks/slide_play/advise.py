"""How far to turn which gib screw, and when to leave them alone."""

from __future__ import annotations

import math

from truing.checks.common import ISOLATE, after, at_place, prediction, slide_of
from truing.checks.slide_play.evaluate import SlidePlayFinding
from truing.checks.slide_play.setup import SlidePlaySetup
from truing.contract.case import Case
from truing.contract.move import Advice, Amount, LeaveIt, Move
from truing.machine import Slide
from truing.measure.words import Words, plain, say, show
from truing.moves.changes import take_of

LEAVE_MM = 0.003
"""Play that the tightest place keeps, so that it still slides."""


def closes_per_turn_mm(slide: Slide, setup: SlidePlaySetup) -> float:
    """How much play one turn of a gib screw takes off the reading: a strip is pressed by the
    screw's pitch, a tapered gib is driven along by it."""
    reading = math.cos(math.radians(setup.reading_deg))
    if slide.gib == "tapered":
        return slide.gib_pitch_mm * setup.taper_mm_per_m / 1000 / reading
    return slide.gib_pitch_mm * math.cos(math.radians(setup.screw_deg)) / reading


def advise(case: Case[SlidePlaySetup, SlidePlayFinding]) -> Advice:
    slide = slide_of(case.machine, case.setup.slide)
    finding, limit = case.finding, case.tolerances["play"]
    tight = any(p.feel in ("stiff", "binds") for p in finding.places)
    loosest = max(p.play.value for p in finding.places)
    tightest = min(p.play.value for p in finding.places)
    # half of the limit at the loosest place, if the tightest can give that much
    take = min(loosest - limit / 2, tightest - LEAVE_MM)
    if tight:
        # no further than half of the limit at the loosest place, and by as little as it slides at
        take = min(loosest - limit / 2, -LEAVE_MM)
    if slide.gib in ("carriages", "none"):
        what = "Carriages" if slide.gib == "carriages" else "A bush on a bar"
        return Advice(
            moves=[],
            leave=_leave(loosest),
            remarks=[plain(f"{what} cannot be set: larger balls, more preload, or a new one.")],
        )
    if slide.gib == "tapered" and case.setup.at_its_end and not tight:
        return Advice(
            moves=[],
            leave=_leave(loosest),
            remarks=[
                plain(
                    "The gib cannot go in further. “Shim behind a gib” tells how thick a shim "
                    "brings it back into its range."
                )
            ],
        )
    if take <= 0 and not tight:
        stays = show(loosest - max(tightest - LEAVE_MM, 0.0), 0.001)
        return Advice(
            moves=[],
            leave=_leave(loosest),
            remarks=[
                say(
                    "The tightest place has nothing left to give: this is wear, not setting. Set "
                    "there, {stays} would stay in the loosest place. Scraping or a new gib cures "
                    "it.",
                    stays=stays,
                )
            ],
        )
    return Advice(
        moves=[_turn(case, slide, take)],
        leave=_leave(loosest) if not tight else None,
        remarks=[],
    )


def angle_words(turns: float) -> str:
    """A turn of a gib's screw to the degree: an eighth of one may be all that there is to set."""
    whole, part = divmod(round(abs(turns) * 360), 360)
    told = [f"{whole} turn{'s' * (whole > 1)}"] if whole else []
    return " and ".join([*told, *([f"{part}°"] if part or not whole else [])])


def clock_hand(turns: float) -> str:
    """How long a minute hand takes for the same turn, to the minute."""
    minutes = round(abs(turns) * 60)
    if not minutes:
        return "less than a minute"
    hours, rest = divmod(minutes, 60)
    told = [f"{hours} hour{'s' * (hours > 1)}"] if hours else []
    return " and ".join([*told, *([f"{rest} minute{'s' * (rest > 1)}"] if rest else [])])


def _leave(loosest: float) -> LeaveIt:
    return LeaveIt(
        text=say(
            "Or leave it: lock the slides that stand still in a cut, cut from one side, and reckon "
            "with {play} where the cut changes sides.",
            play=show(loosest, 0.001),
        )
    )


def _turn(case: Case[SlidePlaySetup, SlidePlayFinding], slide: Slide, take: float) -> Move:
    setup, finding = case.setup, case.finding
    q = finding.quantities[0]
    closing = take > 0
    if slide.gib == "rollers":
        turns, words = 0.0, plain("until the shake just goes" if closing else "a touch back")
        detail = say("about {t} of play", t=show(abs(take), 0.001))
    else:
        turns = abs(take) / closes_per_turn_mm(slide, setup)
        sense = "in" if closing else "back"
        words = plain(f"{angle_words(turns)} {sense}")
        detail = say(
            "as a clock’s hand in {hand}, {t} of play",
            hand=clock_hand(turns),
            t=show(abs(take), 0.001),
        )
    n = 1 if slide.gib == "tapered" else slide.gib_screws
    turned = "roller" if slide.gib == "rollers" else "screw"
    reach = slide.travel_mm / 3
    amounts = [
        Amount(
            place=f"adjusting {turned}" if n == 1 else f"{turned} {i + 1}",
            x_mm=0.0 if n == 1 else -reach + 2 * reach * i / (n - 1),
            y_mm=0.0,
            turns=turns if closing else -turns,
            amount_mm=take,
            words=words,
            detail=detail,
        )
        for i in range(n)
    ]
    name = {"strip": "gib screws", "tapered": "tapered gib", "rollers": "rollers"}[slide.gib]
    steps = [
        say("Put the slide at its tightest place, {place}.", place=_tightest(case)),
        plain(_how_turned(slide, closing)),
        plain(f"Hold each {_HELD[slide.gib]} while you nip its lock nut: it turns with it."),
        plain("Run the whole travel: it must stay free to both stops. Then read all places again."),
    ]
    notes: list[Words] = []
    if slide.gib != "rollers":
        # by feel: where it drags there is no play left
        tightest = min(p.play.value for p in finding.places)
        back = max(LEAVE_MM, tightest - take) / closes_per_turn_mm(slide, setup)
        notes.append(
            plain(
                f"By feel instead: snug it until the slide just drags over its whole travel, back "
                f"off by {angle_words(back)}, and try."
            )
        )
    after_play = q.estimate.value - take
    if finding.middle and finding.middle.value > finding.middle.expanded:
        notes.append(
            say(
                "About {stays} of play will stay where it is worn.",
                stays=show(after_play, 0.001),
            )
        )
    return Move(
        key="gib",
        mechanism="gibs",
        part=setup.slide,
        title=plain(f"{'Close' if closing else 'Ease'} the {name}: ") + words,
        steps=steps,
        cautions=[ISOLATE, "An upright slide drops when its gib is slack: support the head."],
        amounts=amounts,
        predicted=[prediction(q, after(q.estimate, after_play, 0.3))],
        takes=[take_of(q, take)],
        notes=notes,
    )


_HELD = {"strip": "screw", "tapered": "screw", "rollers": "eccentric"}


def _how_turned(slide: Slide, closing: bool) -> str:
    if slide.gib == "tapered":
        return "Slacken the lock screw at the other end by as much, then turn this one."
    if slide.gib == "rollers":
        far = "the shake at its roller just goes" if closing else "its roller just turns by hand"
        return f"Slacken the lock nuts. Turn each eccentric until {far}, from the middle outwards."
    return "Slacken the lock nuts. Turn each screw by the figure, from the middle outwards."


def _tightest(case: Case[SlidePlaySetup, SlidePlayFinding]) -> Words:
    least = min(case.finding.places, key=lambda p: p.play.value)
    tight = [p for p in case.finding.places if p.feel in ("stiff", "binds")]
    return at_place((tight[0] if tight else least).at_mm, case.setup.slide)
