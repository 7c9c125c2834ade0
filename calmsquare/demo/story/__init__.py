"""Demo data: the Saltmarsh Shed, where three friends build tide clocks and orreries.

All figures are invented. Readings come from the stand-in with a fixed seed and go through the same
services as anybody's, so the demo cannot drift from what the application does.
"""

from __future__ import annotations

from collections.abc import Sequence

from django.contrib.auth.models import User

from calmsquare.demo.story.avocet import avocet
from calmsquare.demo.story.curlew import accepted, curlew
from calmsquare.demo.story.dunlin import dunlin
from calmsquare.demo.story.jobs import jobs
from calmsquare.demo.story.shed import Shed
from calmsquare.workshop.models import Workshop

__all__ = ["seed"]


def seed(workshop: Workshop, people: Sequence[User]) -> None:
    """Fill an empty workshop; `people` are its owner, its maker and one who only looks."""
    shed = Shed(workshop, people)
    avocet(shed)
    curlew(shed)
    dunlin(shed)
    jobs(shed)
    accepted(shed)
    wanted(shed)


def wanted(shed: Shed) -> None:
    """What the friends found that they lack."""
    machines = {m.name: m for m in shed.workshop.machines.all()}
    shed.wanted(
        machines["Avocet"],
        "An indicator good to half a micron",
        "The lost motion left–right lies too near its limit for the dials there are.",
        sort="instrument",
        days_ago=2,
    )
    shed.wanted(
        machines["Curlew"],
        "Shims of 0.01 and 0.02 mm",
        "For the last hundredths under the second rail.",
        sort="shim",
        days_ago=3,
    )
