"""How stored findings of this kind came to later formats."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from truing.contract.upgrade import Steps

Data = dict[str, Any]


def _finding_to_2(data: Data) -> Data:
    """One place alone stands in no beam."""
    several = any(q["at_mm"] is not None for q in data["quantities"])

    def lean(fitted: Data | None) -> Data | None:
        if fitted is None:
            return None
        return {**fitted, "estimate": {**fitted["estimate"], "measure": "slope"}}

    places = [
        {
            **p,
            "at_mm": p["place_mm"] if several else None,
            "lean_x": lean(p["lean_x"]),
            "nod": lean(p["nod"]),
        }
        for p in data["places"]
    ]
    return {**data, "places": places}


UPGRADES: Mapping[int, Steps] = {2: {"finding": _finding_to_2}}
