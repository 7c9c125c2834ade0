"""How stored findings of this kind came to later formats."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from truing.contract.upgrade import Steps

Data = dict[str, Any]


def _finding_to_2(data: Data) -> Data:
    """Places stood in the keys of two dictionaries."""
    middle = data["middle"]
    return {
        **data,
        "middle": {**middle, "measure": "length"} if middle else None,
        "places": [
            {
                "at_mm": float(key),
                "station": key,
                "play": {**play, "measure": "length"},
                "feel": data["feels"].get(key, ""),
            }
            for key, play in data["play"].items()
        ],
    }


UPGRADES: Mapping[int, Steps] = {2: {"finding": _finding_to_2}}
