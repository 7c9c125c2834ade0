"""How stored findings of this kind came to later formats."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from truing.contract.upgrade import Steps

Data = dict[str, Any]


def _finding_to_2(data: Data) -> Data:
    """Places stood in the keys of a dictionary."""

    def length(estimate: Data) -> Data:
        return {**estimate, "measure": "length"}

    return {
        **data,
        "places": [{"at_mm": float(k), "lost": length(e)} for k, e in data["lost"].items()],
        "mean": length(data["mean"]),
        "uneven": length(data["uneven"]),
        "shares": {link: length(e) for link, e in data["shares"].items()},
    }


UPGRADES: Mapping[int, Steps] = {2: {"finding": _finding_to_2}}
