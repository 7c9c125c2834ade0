"""A tilt or twist in a map, told apart from that of what carries the board."""

from __future__ import annotations

from collections.abc import Iterator

from truing.checks.bed_map.evaluate import BedMapFinding
from truing.checks.bed_map.setup import BedMapSetup
from truing.contract.case import Case
from truing.contract.finding import shown
from truing.contract.move import Ask
from truing.machine import GANTRY_FORMS
from truing.machine.subject import Subject
from truing.measure.words import Words, plain, say, show_estimate

BedCase = Case[BedMapSetup, BedMapFinding]
COMPARES = ("gantry_level", "table_travel", "rail_twist")
WAYS = {"slope_x": "left to right", "slope_y": "front to rear"}


def beneath(case: BedCase) -> tuple[list[Words], list[Ask]]:
    """(what a reading of the frame says of it, what is to be read where there is none)."""
    remarks: list[Words] = []
    asks: dict[str, Ask] = {}
    for told in (*_gantry(case), *_table(case), *_rails(case)):
        if isinstance(told, Ask):
            asks.setdefault(told.kind, told)
        else:
            remarks.append(told)
    return remarks, list(asks.values())


def _seen(case: BedCase, key: str) -> bool:
    found = case.get(key)
    return found is not None and found.estimate.visible


def _gantry(case: BedCase) -> Iterator[Words | Ask]:
    """From above a board that is thick at one end and a gantry that hangs look alike."""
    if case.machine.lift is None or not _seen(case, "slope_x"):
        return
    level = case.elsewhere("gantry_level", "level")
    if level is None:
        why = (
            "A tilt to one side is the board’s or the gantry’s: from above the two look alike. "
            "Level the gantry before board is cut away for it."
        )
        yield Ask.of("gantry_level", plain(why))
        return
    yield say(
        "The gantry stands {v} from end to end, by its own reading: what is more than that of the "
        "tilt is the board’s.",
        v=show_estimate(level.value, level.expanded, "length", signed=True),
    )


def _table(case: BedCase) -> Iterator[Words | Ask]:
    """A board on a table that is moved under the spindle: the table's own slope comes first."""
    if case.machine.form in GANTRY_FORMS:
        return
    for key, way in WAYS.items():
        if not _seen(case, key):
            continue
        mapped, slope = case.get(key), case.elsewhere("table_travel", key)
        if slope is None or mapped is None:
            why = "A tilt is the board’s or the table’s: read the bare table over its travel."
            yield Ask.of("table_travel", plain(why))
            continue
        board = mapped.estimate - slope
        yield say(
            "The bare table rises by {t} {way} over its travel: of the map’s tilt {b} is the "
            "board’s.",
            t=show_estimate(slope.value, slope.expanded, "slope", signed=True),
            way=way,
            b=show_estimate(board.value, board.expanded, "slope", signed=True),
        )


def _rails(case: BedCase) -> Iterator[Words | Ask]:
    """Rails that are twisted print their twist on every map; a rise along them is told by
    nothing that rides on them."""
    if case.machine.rails is None:
        return
    if _seen(case, "slope_y"):
        yield plain(
            "Its rise from front to rear is the board’s, or that of the rails over the bed: "
            "nothing that rides on the rails tells the two apart."
        )
    if not _seen(case, "twist"):
        return
    # coarse is for what is cast under them, and says nothing so fine
    known = case.latest("rail_twist", "twist", Subject.part("fine").text)
    if known is None or not known.fresh:
        why = "A twist is the board’s or the rails’: see first that they lie in one plane."
        yield Ask.of("rail_twist", plain(why))
        return
    twist = known.values["twist"]
    if known.verdict == "true":
        text = "The rails lie in one plane, by their own reading ({t}): the twist is the board’s."
    else:
        text = (
            "The rails themselves do not lie in one plane ({t}): put that right before board is "
            "cut away for a twist."
        )
    yield say(text, t=shown(twist, signed=True))
