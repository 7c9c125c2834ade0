"""What an instrument can show, and how far its readings can be trusted."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from truing.kit.instruments.base import Question
from truing.kit.instruments.dials import DigitalIndicator, Indicator, LeverDial, PlungerDial
from truing.kit.instruments.level import Level
from truing.kit.instruments.needle import DialPosition, dial_reading, needle_at
from truing.kit.instruments.scales import Caliper, FeelerBlades, Rule, ScaleTrigger

__all__ = [
    "INSTRUMENT_TITLES",
    "Caliper",
    "DialPosition",
    "DigitalIndicator",
    "FeelerBlades",
    "Indicator",
    "Instrument",
    "Level",
    "LeverDial",
    "PlungerDial",
    "Question",
    "Rule",
    "ScaleTrigger",
    "dial_reading",
    "needle_at",
]

Instrument = Annotated[
    PlungerDial
    | LeverDial
    | DigitalIndicator
    | FeelerBlades
    | ScaleTrigger
    | Level
    | Caliper
    | Rule,
    Field(discriminator="type"),
]

INSTRUMENT_TITLES: dict[str, str] = {
    "plunger_dial": "Dial indicator, plunger",
    "lever_dial": "Dial indicator, lever",
    "digital": "Digital indicator",
    "feeler": "Feeler blades",
    "scale_trigger": "Scale readout with a trigger",
    "level": "Spirit level",
    "caliper": "Micrometer or caliper",
    "rule": "Rule or tape",
}
