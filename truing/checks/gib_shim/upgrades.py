"""How stored findings of this kind came to later formats."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from truing.contract.upgrade import Steps

Data = dict[str, Any]


def _finding_to_2(data: Data) -> Data:
    lengths = {key: {**data[key], "measure": "length"} for key in ("missing", "shim")}
    return {**data, **lengths, "taper": {**data["taper"], "measure": "slope"}}


UPGRADES: Mapping[int, Steps] = {2: {"finding": _finding_to_2}}
