"""How stored findings of this kind came to later formats."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from truing.contract.upgrade import Steps

Data = dict[str, Any]


def _finding_to_2(data: Data) -> Data:
    """Places stood in the keys of a dictionary."""
    lengths = {key: {**data[key], "measure": "length"} for key in ("taper", "wave")}
    bolts = [{"at_mm": float(key), "off_mm": off} for key, off in data["off_mm"].items()]
    return {**data, **lengths, "bolts": bolts}


UPGRADES: Mapping[int, Steps] = {2: {"finding": _finding_to_2}}
