"""How stored findings of this kind came to later formats."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from truing.contract.upgrade import Steps

Data = dict[str, Any]


def _finding_to_2(data: Data) -> Data:
    """End and way across stood in the keys of two dictionaries."""
    ways = {"v": "up and down", "h": "in and out"}
    labels = {q["key"]: str(q["label"]) for q in data["quantities"]}
    return {
        **data,
        "blocks": [
            {
                "quantity": key,
                "end": int(key[0]),
                "way": labels.get(key, "").partition(", ")[2] or ways[key[1]],
                "off": {**off, "measure": "length"},
                "middle_mm": data["middle_mm"][key],
            }
            for key, off in data["off"].items()
        ],
    }


UPGRADES: Mapping[int, Steps] = {2: {"finding": _finding_to_2}}
