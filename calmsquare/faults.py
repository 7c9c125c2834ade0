"""A page never fails whole for one bad record: it shows the rest, and names the one."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterable
from typing import TypeVar

from pydantic import BaseModel

log = logging.getLogger(__name__)

Item = TypeVar("Item")
Shown = TypeVar("Shown")


class Fault(BaseModel):
    """A record that cannot be shown."""

    what: str
    """The record, as people know it."""
    text: str


def each(
    items: Iterable[Item],
    show: Callable[[Item], Shown],
    name: Callable[[Item], str],
    faults: list[Fault],
) -> list[Shown]:
    """What `show` makes of each item; one that it cannot show goes to `faults` by its name."""
    shown = []
    for item in items:
        try:
            shown.append(show(item))
        except Exception:  # whatever is wrong with it must not take the others along
            what = name(item)
            log.exception("%s cannot be shown", what)
            text = f"{what} cannot be shown: something in its record cannot be read any more."
            faults.append(Fault(what=what, text=f"{text} Nothing of it has been changed."))
    return shown
