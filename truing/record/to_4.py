"""From format 3 to 4: what places and figures are called is kept in both systems, where it was one
text. A text of before is told in inches by the field that holds it (`InBoth`), as one that is
given today, so that only what a kind has changed of its own is left to do here."""

from __future__ import annotations

from typing import Any

from truing.contract.upgrade import Steps

Data = dict[str, Any]


def step(shape: str, data: Data, kind: str, own: Steps) -> Data:
    """One object of format 3 as format 4 writes it."""
    if shape == "outcome" and data.get("finding") and "finding" in own:
        return {**data, "finding": own["finding"](data["finding"])}
    return own[shape](data) if shape in own else data
