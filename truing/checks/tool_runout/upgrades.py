"""How stored findings of this kind came to later formats."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from truing.contract.upgrade import Steps

Data = dict[str, Any]


def _finding_to_4(data: Data) -> Data:
    """What results are called holds what pieces are called: no size in it is told otherwise."""

    def kept(q: Data) -> Data:
        if q["key"].startswith("tir@"):
            return q
        return {**q, "label": {"metric": q["label"], "inch": q["label"]}}

    return {**data, "quantities": [kept(q) for q in data["quantities"]]}


UPGRADES: Mapping[int, Steps] = {4: {"finding": _finding_to_4}}
