"""What usually lies on a bench to measure with, with the figures that such things usually have."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel

from truing.kit.instruments import (
    Caliper,
    DigitalIndicator,
    FeelerBlades,
    Instrument,
    Level,
    LeverDial,
    PlungerDial,
    Rule,
    ScaleTrigger,
)
from truing.measure.words import Words

System = Literal["metric", "inch"]
THOU_MM = 0.0254


class Usual(BaseModel):
    """An instrument as most have it; corrected once it is at hand."""

    name: str
    spec: Instrument
    reads: Words
    """The smallest difference that can be read off it."""


def usual(system: System) -> list[Usual]:
    """The usual instruments of people who read in millimetres, or in inches."""
    # a dial in inches is graduated in them: converted figures would be nobody's
    made: dict[str, Any]
    if system == "metric":
        made = {
            "Dial 0.01": PlungerDial(graduation_mm=0.01, range_mm=10),
            "Dial 0.001": PlungerDial(graduation_mm=0.001, range_mm=1, repeatability_mm=0.001),
            "Lever dial 0.01": LeverDial(graduation_mm=0.01, range_mm=0.8),
            "Lever dial 0.002": LeverDial(
                graduation_mm=0.002, range_mm=0.2, repeatability_mm=0.001
            ),
            "Digital indicator": DigitalIndicator(),
            "Feeler blades": FeelerBlades(),
            "Caliper": Caliper(resolution_mm=0.01, range_mm=150, repeatability_mm=0.02),
            "Micrometer": Caliper(resolution_mm=0.01, range_mm=25, repeatability_mm=0.003),
            "Engineer’s level": Level(sensitivity_mm_per_m=0.02),
            "Spirit level": Level(),
            "Scale readout": ScaleTrigger(),
            "Rule or tape": Rule(),
        }
    else:
        made = {
            "Dial 0.001 in": PlungerDial(
                graduation_mm=THOU_MM, range_mm=25.4, unit="thou", repeatability_mm=THOU_MM / 4
            ),
            "Lever dial 0.0005 in": LeverDial(
                graduation_mm=THOU_MM / 2, range_mm=30 * THOU_MM, unit="thou"
            ),
            "Lever dial 0.0001 in": LeverDial(
                graduation_mm=THOU_MM / 10,
                range_mm=8 * THOU_MM,
                unit="thou",
                repeatability_mm=0.001,
            ),
            "Digital indicator": DigitalIndicator(resolution_mm=THOU_MM / 2, unit="in"),
            "Feeler blades": FeelerBlades(
                blade_step_mm=2 * THOU_MM, thickest_mm=60 * THOU_MM, unit="thou"
            ),
            "Caliper": Caliper(
                resolution_mm=THOU_MM, range_mm=152.4, repeatability_mm=THOU_MM, unit="in"
            ),
            "Micrometer": Caliper(
                resolution_mm=THOU_MM / 10, range_mm=25.4, repeatability_mm=THOU_MM / 10, unit="in"
            ),
            # half a thou in a foot
            "Engineer’s level": Level(sensitivity_mm_per_m=THOU_MM / 2 / 0.3048),
            "Spirit level": Level(),
            "Scale readout": ScaleTrigger(resolution_mm=THOU_MM / 2, unit="in"),
            "Rule or tape": Rule(resolution_mm=25.4 / 64, unit="in"),
        }
    return [Usual(name=name, spec=spec, reads=spec.reads_words) for name, spec in made.items()]
