"""Values as indented lines: a difference between two of them can be read."""

from __future__ import annotations

import math
import zlib
from collections.abc import Iterator
from datetime import datetime
from typing import Any

from pydantic import BaseModel

from truing.measure.words import Words

LINE = 200
"""What stands on one line."""


def number(value: float) -> str:
    """Four figures; what is nothing but rounding is nothing."""
    return "0" if abs(value) < 1e-7 else f"{value:.4g}"


def inline(value: Any) -> str | None:
    """A value that stands on one line; None for what is a tree of its own."""
    if isinstance(value, Words):
        return value.metric if value.metric == value.inch else f"{value.metric} | {value.inch}"
    if isinstance(value, bool) or value is None:
        return str(value)
    if isinstance(value, int | float):
        return number(value) if math.isfinite(value) else str(value)
    if isinstance(value, str | datetime):
        return str(value)
    if isinstance(value, list | tuple) and not any(isinstance(v, Words) for v in value):
        items = [inline(v) for v in value]
        text = "[" + ", ".join(i or "" for i in items) + "]"
        plain = len(text) < 160 or not any(isinstance(v, BaseModel) for v in value)
        return text if plain and None not in items else None
    if isinstance(value, BaseModel):
        parts = [(n, inline(getattr(value, n))) for n in type(value).model_fields]
        known = [(n, p) for n, p in parts if p not in ("None", "", "[]", "False")]
        text = ", ".join(f"{n} {p}" for n, p in known)
        return text if all(p is not None for _, p in known) and len(text) < LINE else None
    return None


def tree(name: str, value: Any, depth: int = 0) -> Iterator[str]:
    """A value as indented lines; what is empty is left out."""
    pad = "  " * depth
    text = inline(value)
    if text in ("None", "", "[]", "False"):
        return
    if text is not None:
        yield f"{pad}{name}: {text}"
        return
    yield f"{pad}{name}:"
    if isinstance(value, BaseModel):
        for field in type(value).model_fields:
            yield from tree(field, getattr(value, field), depth + 1)
    elif isinstance(value, dict):
        for key, item in value.items():
            yield from tree(str(key), item, depth + 1)
    else:
        for item in value:
            yield from tree("-", item, depth + 1)


def sum_of(name: str, value: Any) -> str:
    """One line for a whole tree: how much it says, and a check sum by which any text or number that
    becomes another shows. What it is that changed has to be looked for in the tree."""
    said = list(leaves(value))
    texts = [leaf for leaf in said if isinstance(leaf, str)]
    numbers = [number(leaf) for leaf in said if not isinstance(leaf, str)]
    told = zlib.crc32("|".join([*texts, *numbers]).encode())
    return f"{name}: {sum(map(len, texts))} letters, {len(numbers)} numbers, {told:08x}"


def leaves(value: Any) -> Iterator[str | float]:
    """Texts, numbers and flags of a tree, in order."""
    if isinstance(value, BaseModel):
        value = value.model_dump()
    if isinstance(value, dict):
        value = value.values()
    elif isinstance(value, str):
        yield value
        return
    elif isinstance(value, int | float):
        yield value if math.isfinite(value) else 0.0
        return
    elif not isinstance(value, list | tuple):
        return
    for item in value:
        yield from leaves(item)
