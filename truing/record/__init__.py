"""How the core's models are kept and read again: every stored shape with its kind and format.

`dump` writes a model as a JSON object that says what it is and in which format; `load` reads one of
any earlier format by a ladder of upgrades, and asks for no bounds: those were asked for when it
came in.
"""

from truing.record.ladder import (
    Unreadable,
    dump,
    dump_list,
    load,
    load_list,
    load_text,
    raised,
    stamped,
)
from truing.record.shapes import Lesson, Outcome, Snapshot, Summary, judged_anew

__all__ = [
    "Lesson",
    "Outcome",
    "Snapshot",
    "Summary",
    "Unreadable",
    "dump",
    "dump_list",
    "judged_anew",
    "load",
    "load_list",
    "load_text",
    "raised",
    "stamped",
]
