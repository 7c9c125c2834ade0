"""What lies in the drawers of the Saltmarsh Shed."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.utils import timezone

from calmsquare.workshop.models import Instrument, Piece, ShimStock, Workshop
from truing.kit.instruments import (
    Caliper,
    DigitalIndicator,
    FeelerBlades,
    Level,
    LeverDial,
    PlungerDial,
    Rule,
    ScaleTrigger,
)
from truing.kit.tooling import Collet, Cutter, Cylinder, Holder, Nut, Pin, Square
from truing.record import dump


@dataclass
class Kit:
    """The instruments that its stories are read with."""

    lever: Instrument
    plunger: Instrument
    fine: Instrument
    level: Instrument
    tape: Instrument
    plate: Instrument
    beam: Instrument
    caliper: Instrument
    square: Piece
    pieces: dict[str, Piece]
    """By name."""

    def id(self, name: str) -> str:
        """The id of a piece of this name."""
        return str(self.pieces[name].pk)


def stocked(workshop: Workshop) -> Kit:
    """Put instruments, shims and pieces into the workshop."""
    today = timezone.now().date()

    def add(name: str, spec: Any, days_ago: int = 0, against: str = "") -> Instrument:
        if days_ago:
            compared = {"compared_on": today - timedelta(days=days_ago)}
            spec = spec.model_copy(update={**compared, "compared_with": against})
        return Instrument.objects.create(
            workshop=workshop, name=name, spec=dump("instrument", spec)
        )

    lever = add(
        "Lever dial 0.002",
        LeverDial(
            graduation_mm=0.002,
            divisions_per_turn=100,
            range_mm=0.2,
            repeatability_mm=0.001,
            unit="div",
            tip_angle_deg=12,
            hysteresis_mm=0.001,
        ),
        64,
        "a 1 mm gauge block",
    )
    plunger = add(
        "Plunger dial 0.01",
        PlungerDial(graduation_mm=0.01, range_mm=10, repeatability_mm=0.003, unit="mm"),
        64,
        "a 5 mm gauge block",
    )
    fine = add(
        "Plunger dial 0.001",
        PlungerDial(
            graduation_mm=0.001,
            range_mm=1,
            repeatability_mm=0.0005,
            unit="div",
            divisions_per_turn=200,
            hysteresis_mm=0.0004,
        ),
        64,
        "a 0.5 mm gauge block",
    )
    level = add(
        "Machine level 0.02",
        Level(sensitivity_mm_per_m=0.02, base_mm=200, repeatability_mm=0.0005, read_fraction=0.25),
        64,
        "itself, turned end for end",
    )
    caliper = add("Caliper 200", Caliper(resolution_mm=0.01, repeatability_mm=0.01, range_mm=200))
    add("Micrometer 25", Caliper(resolution_mm=0.001, repeatability_mm=0.001, range_mm=25))
    tape = add("Steel tape", Rule())
    beam = add(
        "Beam compass with a vernier",
        Rule(resolution_mm=0.02, repeatability_mm=0.03, range_mm=1500, error_mm=0.02),
    )
    plate = add(
        "Touch plate on Curlew",
        ScaleTrigger(
            resolution_mm=0.005, range_mm=120, repeatability_mm=0.005, error_mm=0.001, unit="mm"
        ),
    )
    add(
        "Inch plunger 0.001",
        PlungerDial(graduation_mm=0.0254, range_mm=25.4, repeatability_mm=0.006, unit="thou"),
    )
    add(
        "Digital 0.001",
        DigitalIndicator(resolution_mm=0.001, range_mm=12.7, repeatability_mm=0.002, unit="mm"),
    )
    add(
        "Quill scale with touch plate",
        ScaleTrigger(resolution_mm=0.005, range_mm=150, repeatability_mm=0.005, unit="mm"),
    )
    add(
        "Feeler blades 0.02",
        FeelerBlades(blade_step_mm=0.02, thickest_mm=2, repeatability_mm=0.01, unit="mm"),
    )
    for thickness, count, material in (
        (0.01, 6, "steel"),
        (0.02, 6, "steel"),
        (0.03, 8, "steel"),
        (0.05, 10, "steel"),
        (0.1, 10, "brass"),
        (0.2, 6, "brass"),
        (0.3, 4, "steel"),
        (0.5, 4, "brass"),
    ):
        ShimStock.objects.create(
            workshop=workshop, thickness_mm=thickness, count=count, material=material
        )

    pieces: dict[str, Piece] = {}
    for name, piece in (
        ("Ferry’s big square", Square(stated_mm=0.04, over_mm=200, mark="two punch dots")),
        ("Ground cylinder", Cylinder(stated_mm=0.01, taper_mm=0.004, over_mm=150)),
        ("ER 20 chuck", Holder(taper="2 Morse", series="ER 20", mark="red dot", price=42)),
        (
            "Home-made holder",
            Holder(taper="2 Morse", holds="fixed", remark="Turned in two settings."),
        ),
        ("Dunlin’s chuck", Holder(taper="1 Morse", series="ER 11", mark="blue dot", price=28)),
        ("ER 11 nut", Nut(series="ER 11", condition="sound", price=9)),
        *(
            (f"Boxed 6 mm {letter}", Collet(series="ER 11", size_mm=6, mark=mark, **more))
            for letter, mark, more in (
                ("A", "one dot", {"condition": "sound", "price": 4}),
                ("B", "two dots", {"condition": "rust", "price": 4}),
                ("C", "three dots", {"condition": "bruise", "price": 4}),
            )
        ),
        (
            "Ground 6 mm",
            Collet(series="ER 11", size_mm=6, mark="bought singly", condition="sound", price=14),
        ),
        ("6 mm ground pin", Pin(shank_mm=6, stated_mm=0.002, mark="in its tube")),
        ("6 mm collet", Collet(series="ER 20", size_mm=6)),
        ("10 mm collet", Collet(series="ER 20", size_mm=10, remark="A little rust inside.")),
        ("Brass cutter", Cutter(diameter_mm=6, teeth=2, shank_mm=6, most_rev_per_min=24000)),
    ):
        pieces[name] = Piece.objects.create(workshop=workshop, name=name, spec=dump("piece", piece))

    return Kit(
        lever=lever,
        plunger=plunger,
        fine=fine,
        level=level,
        tape=tape,
        plate=plate,
        beam=beam,
        caliper=caliper,
        square=pieces["Ferry’s big square"],
        pieces=pieces,
    )
