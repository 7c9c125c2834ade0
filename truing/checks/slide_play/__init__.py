"""Does anything shake in its slide? Push–pull play along the travel, and how freely it moves."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from truing.checks.common import Plain, at_place, default_places, expectation
from truing.checks.slide_play.advise import advise
from truing.checks.slide_play.evaluate import SlidePlayFinding, evaluate
from truing.checks.slide_play.setup import USUAL_MM, SlidePlaySetup, stations
from truing.contract.check import Tolerances
from truing.contract.gather import expected_mean
from truing.contract.judgement import Expectation, Judgement
from truing.contract.readings import Reading
from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.machine import Machine
from truing.measure.verdict import Verdict
from truing.measure.words import Words, plain, say, show


class SlidePlay(Plain[SlidePlaySetup, SlidePlayFinding]):
    """Play at each place is its own reading; the worst of them is judged."""

    key: ClassVar[str] = "slide_play"
    layout: ClassVar[Any] = "line"
    part_field: ClassVar[str | None] = "slide"
    limit_kinds: ClassVar[Any] = {"play": ("Play", "length")}
    setup_type = SlidePlaySetup
    finding_type = SlidePlayFinding
    evaluator = staticmethod(evaluate)
    adviser = staticmethod(advise)

    def propose(self, machine: Machine, part: str = "") -> SlidePlaySetup | None:
        slide = next((s for s in machine.slides if part in ("", s.direction)), None)
        if slide is None:
            return None
        return SlidePlaySetup.model_validate(
            {"slide": slide.direction, "places_mm": default_places(slide.travel_mm)}
        )

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"play": USUAL_MM}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return say(
            "the cutter can step aside by {play} when the cut changes sides: a slot that wide of "
            "its size, a mark where it turned.",
            play=show(tolerances["play"], 0.001),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return {"": ("plunger_dial", "lever_dial", "digital")}

    def stations(self, setup: SlidePlaySetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return stations(setup)

    def expect(
        self, setup: SlidePlaySetup, instrument: Instrument, tolerances: Tolerances
    ) -> Expectation | None:
        big = expected_mean(instrument, setup.passes).expanded_mm
        return expectation(big, tolerances["play"], "length")

    def judge(
        self, setup: SlidePlaySetup, finding: SlidePlayFinding, tolerances: Tolerances
    ) -> Judgement:
        found: list[tuple[Verdict, Words]] = []
        tight = [k for k, grade in finding.feels.items() if grade in ("stiff", "binds")]
        if tight:
            word = "binds" if "binds" in finding.feels.values() else "is stiff"
            where = " and ".join(at_place(float(k), setup.slide) for k in tight)
            found.append(("out", plain(f"It {word} at {where}: too tight there.")))
        return self.judged_with(super().judge(setup, finding, tolerances), found)


CHECK = SlidePlay()
