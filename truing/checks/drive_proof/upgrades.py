"""Findings of earlier formats as those of today."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from truing.contract.upgrade import Steps


def _finding_to_3(data: dict[str, Any]) -> dict[str, Any]:
    """A rung says what the slide really came up to; it used to count for its full value."""
    return {**data, "rungs": [{**r, "driven": r["value"]} for r in data["rungs"]]}


UPGRADES: Mapping[int, Steps] = {3: {"finding": _finding_to_3}}
