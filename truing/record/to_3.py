"""From format 2 to 3: sizes that noise makes larger than they are come with limits, where they had
a floor beside their ±."""

from __future__ import annotations

from typing import Any

from truing.contract.upgrade import Steps

Data = dict[str, Any]


def step(shape: str, data: Data, kind: str, own: Steps) -> Data:
    """One object of format 2 as format 3 writes it."""
    if shape == "outcome" and data.get("finding"):
        finding = data["finding"]
        found = {**finding, "quantities": [_quantity(q) for q in finding["quantities"]]}
        return {**data, "finding": own["finding"](found) if "finding" in own else found}
    return own[shape](data) if shape in own else data


def _quantity(data: Data) -> Data:
    """The limits are those by which it was judged then."""
    floor = data.pop("floor", 0.0)
    if not floor:
        return data
    estimate = data["estimate"]
    size, big = abs(estimate["value"]), estimate["expanded"]
    limits = {"low": max(0.0, size - floor - big), "high": max(size, floor) + big}
    return {**data, "estimate": {**estimate, "limits": limits}}
