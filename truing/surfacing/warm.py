"""Have everything compiled and loaded before somebody waits for it."""

from __future__ import annotations

from truing.machine.board import Board
from truing.surfacing.facts import Facts
from truing.surfacing.plan import make
from truing.surfacing.wish import Wish


def warm() -> None:
    """Make a small plan, and let the checker read it."""
    facts = Facts(machine="", table_x_mm=60, table_y_mm=60, board=Board())
    make(Wish(heights="range", range_mm=0.2, diameter_mm=20), facts)
