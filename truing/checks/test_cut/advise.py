"""Where a piece that is not as it should be points to, and what accepts the machine."""

from __future__ import annotations

from truing.checks.test_cut.evaluate import CutCase, accepts
from truing.checks.test_cut.foretold import SUSPECTS, Compared, unmeasured
from truing.checks.test_cut.setup import FED
from truing.contract.finding import Quantity
from truing.contract.move import Advice, Ask, LeaveIt
from truing.course import course_kind
from truing.measure.verdict import verdict
from truing.measure.words import Words, plain, say, show

MOST_ASKED = 4
GROUPS = {"square": "square", "lost": "lost", "size": "scale", "thick": "thick"}
"""What an error by its limit points to, as in SUSPECTS. What is lost makes sizes, too: it comes
before them."""


def advise(case: CutCase) -> Advice:
    """No move is made on a piece: checks are, on what made it."""
    finding = case.finding
    asks: dict[str, Words] = {}
    for item in finding.compared:
        if not item.agrees:
            for kind in item.ask or [_kind_of(case, item)]:
                asks.setdefault(kind, _why(item))
    for key, group in GROUPS.items():
        amiss = case.amiss(key)
        if amiss:
            for kind in _about(case, group)[:2]:
                asks.setdefault(kind, _beyond(case, amiss[0]))
    if any(finding.grades.get(f"step_{f}") in ("just", "felt", "stops") for f in ("x", "y")):
        asks.setdefault(
            "ridge_reading", plain("The step between passes tells how the spindle leans.")
        )
    if finding.grades.get("sound") in ("sings", "chatters"):
        for kind in ("slide_play", "spindle_play"):
            if course_kind(kind).suits(case.machine):
                asks.setdefault(kind, plain("What is loose sings."))
    sure = accepts(case)
    return Advice(
        moves=[],
        leave=None if sure else LeaveIt(text=plain(LEAVE)),
        remarks=[*([] if sure else [_open(case)]), *_corrected(case)],
        asks=[Ask.of(kind, why) for kind, why in list(asks.items())[:MOST_ASKED]],
    )


def _corrected(case: CutCase) -> list[Words]:
    """What takes a scale out: no spanner does."""
    found = []
    scales = [q for axis in FED if (q := case.get(f"scale_{axis}")) and q.estimate.visible]
    # while something is lost where it turns round, sizes tell little of the screw
    for q in scales if case.amiss("size") and not case.amiss("lost") else []:
        off = q.estimate.value
        if case.machine.control == "controller":
            told = "{what}: multiply the steps per millimetre of that travel by {factor}."
        else:
            told = (
                "{what}: write a table of corrections for the handwheel, {each} for each "
                "{span}. It is the screw’s pitch, and no lost motion."
            )
        found.append(
            say(
                told,
                what=q.label,
                factor=f"{1 / (1 + off / 1000):.4f}",
                each=show(-off / 10, 0.001, signed=True),
                span=show(100, 1),
            )
        )
    return found


LEAVE = (
    "Or accept it as it is, with what is open named, for work that does not ask for it: under "
    "Machine."
)


def _beyond(case: CutCase, q: Quantity) -> Words:
    if q.tolerance_key and verdict(q.estimate, case.tolerances[q.tolerance_key]) == "out":
        return say("{what} is not within its limit.", what=q.label)
    return say("{what} cannot be told to be within its limit.", what=q.label)


def _kind_of(case: CutCase, item: Compared) -> str:
    """The check that foretold it, to be made anew where all else was measured."""
    return next(
        (k for k in SUSPECTS[item.key.partition("_")[0]] if course_kind(k).suits(case.machine)),
        "inspection",
    )


def _why(item: Compared) -> Words:
    return say("{what} came out otherwise than “{by}” foretold.", what=item.title, by=item.by)


def _about(case: CutCase, group: str) -> list[str]:
    """What an error points to: what nobody measured first, then what was."""
    open_ = unmeasured(case, group)
    suits = [k for k in SUSPECTS[group] if course_kind(k).suits(case.machine)]
    return list(dict.fromkeys([*open_, *suits]))


def _open(case: CutCase) -> Words:
    """Why it does not accept the machine yet."""
    finding = case.finding
    if finding.opens:
        first = ", ".join(finding.opens[:3])
        more = len(finding.opens) - 3
        rest = f" and {more} more" if more > 0 else ""
        return plain(f"Not read yet: {first}{rest}.")
    return plain("It does not accept the machine yet.")
