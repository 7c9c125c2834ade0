"""How stored findings of this kind came to later formats."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from truing.contract.upgrade import Steps

Data = dict[str, Any]


def _finding_to_2(data: Data) -> Data:
    """Places stood in the keys of two dictionaries; a reversal's stations begin with A or B."""
    read = {s["station"] for s in data["stations"]}

    def places(values: dict[str, float]) -> list[Data]:
        return [
            {"at_mm": float(key), "off_mm": off, "station": key if key in read else f"A{key}"}
            for key, off in values.items()
        ]

    return {
        **data,
        "bolts": places(data["off_mm"]),
        "edge_mm": places(data["edge_mm"]),
        "slope": {**data["slope"], "measure": "slope"},
        "straightness": {**data["straightness"], "measure": "length"},
    }


UPGRADES: Mapping[int, Steps] = {2: {"finding": _finding_to_2}}
