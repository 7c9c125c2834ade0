"""Two people change one description: what each changed stands, unless both changed the same."""

from __future__ import annotations

from math import isclose
from typing import Any

_GONE = object()


def merged(was: Any, now: Any, new: Any) -> tuple[Any, list[str]]:
    """JSON `new`, which somebody made of `was`, put into `now`, which others made of it meanwhile.

    With the dotted paths at which both changed the same otherwise; `new` stands there.
    """
    clashes: list[str] = []
    return _merged(was, now, new, "", clashes), clashes


def _merged(was: Any, now: Any, new: Any, path: str, clashes: list[str]) -> Any:
    if _same(new, was) or _same(new, now):
        return now
    if now == was:
        return new
    if isinstance(was, dict) and isinstance(now, dict) and isinstance(new, dict):
        found = {}
        for key in {**now, **new}:
            at = f"{path}.{key}" if path else key
            before, there, here = (d.get(key, _GONE) for d in (was, now, new))
            value = _merged(before, there, here, at, clashes)
            if value is not _GONE:
                found[key] = value
        return found
    lists = isinstance(was, list) and isinstance(now, list) and isinstance(new, list)
    if lists and len(was) == len(now) == len(new):
        return [
            _merged(before, there, here, f"{path}.{i}", clashes)
            for i, (before, there, here) in enumerate(zip(was, now, new, strict=True))
        ]
    clashes.append(path)
    return new


def _same(one: Any, other: Any) -> bool:
    """Equal; of lengths, as far as one that was shown in inches and read again is."""
    figures = all(isinstance(v, float | int) and not isinstance(v, bool) for v in (one, other))
    return bool(one == other or (figures and isclose(one, other, rel_tol=1e-9)))
