"""How a stored shape of an older format becomes one of the next.

Stored shapes are plain JSON objects. A step takes the object as the format before wrote it, and
returns it as its own format writes it. Steps are never changed once a release has written their
format; a new change is a new format with a step of its own.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

FORMAT = 4
"""Of everything that is stored now."""

Step = Callable[[dict[str, Any]], dict[str, Any]]
Steps = Mapping[str, Step]
"""By shape: machine, instrument, piece, setup, finding, judgement, advice, move, made …"""
