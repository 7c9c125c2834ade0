"""The words for what can be wrong with a program, one place for all of them."""

from __future__ import annotations

from truing.measure.words import Words, plain, say, show
from truing.programs.motions import Odd
from truing.programs.read import shown_byte
from truing.programs.report import Tone
from truing.programs.tokens import BARE_NUMBER, NO_NUMBER, STRAY, TOO_LARGE, TOO_LONG, UNCLOSED

STATED: dict[Odd, str] = {
    Odd.UNITS: "It moves before it has stated its units. State G21 (mm) or G20 (inch) first.",
    Odd.DISTANCE: "It moves before it has stated G90 (places) or G91 (distances).",
    Odd.FEED_MODE: "It cuts before it has stated how feeds are meant: G94 (per minute).",
    Odd.OFFSET: "It moves before it has stated which zero it means: G54, say.",
    Odd.FIRST_MOTION: "Its first motion should be Z up, alone: where the cutter stands nobody "
    "knows.",
    Odd.OWN_ZERO: "G53 Z0 goes to the machine’s own zero, which is up on most machines: "
    "state where it lies.",
    Odd.AFTER_END: "What follows the end of the program is not run.",
    Odd.NO_END: "It has no end (M30 or M2).",
}
"""What a program should say, and does not."""

LOST: dict[Odd, str] = {
    Odd.ANOTHER_OFFSET: "It changes to another zero, G{v:g}: where that lies is not known here.",
    Odd.UNKNOWN_G: "G{v:g} is not followed.",
    Odd.UNKNOWN_M: "M{v:g} is not followed.",
    Odd.UNKNOWN_WORD: "The word {c} is not followed: a turning or further axis.",
    Odd.NOT_FOLLOWED: "Variables, subroutines and sums are not followed.",
    Odd.NEW_ZERO: "G{v:g} moves the zero while the program runs.",
    Odd.MACHINE_PLACE: "G53 moves to a place of the machine’s own, which is not known here.",
    Odd.LENGTH: "G{v:g} takes a tool’s length from the controller’s table, which is not known.",
    Odd.PROBED: "It probes: where that ends is not known beforehand.",
    Odd.TOOL_CHANGE: "The tool is changed and Z is not set anew: how deep it cuts is not known.",
    Odd.COMPENSATED: "G{v:g} leaves the cutter’s radius to the controller: the path is not known.",
    Odd.BLENDED: "G64 rounds corners and states no tolerance (P): by how much is not known.",
    Odd.BEYOND: "It goes on to more than a kilometre away: no machine does.",
    Odd.BLIND: "It goes on by distances (G91, line {v:.0f}) from a place that is not known: were "
    "places meant (G90)?",
    Odd.MALFORMED: "What stands here cannot be read, so what it would do is not known.",
}
"""What makes that which follows unknown."""

WRONG: dict[Odd, str] = {
    Odd.ARC_CENTRE: "An arc has no centre that could be meant.",
    Odd.NO_MODE: "It names a place and no motion: G0 or G1 is missing.",
    Odd.TWICE: "The letter {c} stands here twice.",
    Odd.TWO_OF_GROUP: "Two codes that exclude each other stand in one line.",
    Odd.STRAY: "{c} belongs to nothing in this line: another code was meant, or another word.",
    Odd.ROUNDS: "More than a thousand turns in one arc: P is wrong.",
    Odd.INVERSE: "In inverse time (G93) every motion needs its own F.",
}
CYCLES = (
    "A drilling cycle needs R above its Z, and both.",
    "A peck needs a Q above 0.",
    "More than a thousand pecks in one hole: Q is wrong.",
    "A drilling cycle outside the XY plane is not followed.",
)


def odd_words(what: Odd, value: float) -> tuple[Tone, Words]:
    """Tone and words for what following it brought up."""
    letter = chr(int(value)) if 65 <= value <= 90 else "?"
    if what in STATED:
        tone: Tone = "wrong" if what in (Odd.FIRST_MOTION, Odd.UNITS) else "ask"
        return tone, plain(STATED[what])
    if what in LOST:
        return "wrong", plain(LOST[what].format(v=value, c=letter))
    if what in WRONG:
        return "wrong", plain(WRONG[what].format(c=letter))
    if what == Odd.CYCLE:
        return "wrong", plain(CYCLES[int(value)])
    if what == Odd.VALUE:
        return "wrong", plain(f"{letter} is less than nothing.")
    template = (
        "The radii at both ends of an arc differ by {v}: it is not the arc that was meant."
        if what == Odd.ARC_RADII
        else "The radius of an arc is too small for its ends, by {v}."
    )
    return "danger", say(template, v=show(value, 0.001))


def trouble_words(column: int, what: int, byte: int) -> Words:
    """Words for what could not be read."""
    seen = shown_byte(byte)
    told = {
        NO_NUMBER: f"Column {column}: {seen} has no number. A letter and a number are expected.",
        STRAY: f"Column {column}: {seen} belongs to no word. A letter and a number are expected"
        + ("; decimals are set off by a point." if byte == ord(",") else "."),
        BARE_NUMBER: f"Column {column}: a number without a letter. A letter and a number are "
        "expected.",
        UNCLOSED: f"Column {column}: a comment is opened and not closed. A “)” is expected.",
        TOO_LARGE: f"Column {column}: {seen} has a number beyond anything a machine has. Up to "
        "1,000,000 is expected.",
        TOO_LONG: f"Column {column}: more words than a line can have. One block to a line is "
        "expected.",
    }
    return plain(told[what])
