"""How stored findings of this kind came to later formats."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from truing.contract.upgrade import Steps

Data = dict[str, Any]


def _finding_to_2(data: Data) -> Data:
    slopes = {
        key: {**data[key], "measure": "slope"} if data[key] else None
        for key in ("slope_x", "slope_y", "own_error")
    }
    return {**data, **slopes, "twist": {**data["twist"], "measure": "twist"}}


UPGRADES: Mapping[int, Steps] = {2: {"finding": _finding_to_2}}
