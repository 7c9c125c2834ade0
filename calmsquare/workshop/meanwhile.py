"""A form that was open for a while overwrites nobody: what it changed is put among what others have
changed since."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from pydantic import BaseModel

from calmsquare.problems import Conflict
from truing.machine.merge import merged


def among_others(
    was: dict[str, Any], now: dict[str, Any], new: dict[str, Any], *models: type[BaseModel]
) -> dict[str, Any]:
    """`new`, which somebody made of `was`, put into what stands there `now`, all as JSON of one
    shape. Conflict where both changed the same, which is named by its title in `models`."""
    whole, clashes = merged(was, now, new)
    if clashes:
        raise changed_meanwhile(_titles(clashes, models))
    found: dict[str, Any] = whole
    return found


def changed_meanwhile(titles: Iterable[str]) -> Conflict:
    """Both changed this."""
    return Conflict(
        f"Somebody has changed the same while this page was open: {', '.join(titles)}. Open it in "
        "another window to see what they did, and begin there; nothing has been saved.",
        code="changed-meanwhile",
    )


def _titles(paths: Iterable[str], models: Iterable[type[BaseModel]]) -> list[str]:
    titles = {
        name: str(field.title)
        for model in models
        for name, field in model.model_fields.items()
        if field.title
    }
    heads = (next((s for s in path.split(".") if s != "spec"), path) for path in paths)
    return list(
        dict.fromkeys(titles.get(head, head.replace("_", " ").capitalize()) for head in heads)
    )
