"""`dump` and `load`: what is kept, with its shape and format, and the ladder it is read by."""

from __future__ import annotations

import json
from collections.abc import Sequence
from functools import lru_cache
from typing import Any

from pydantic import BaseModel, ValidationError

from truing.contract.history import MoveMade
from truing.contract.move import Advice, Move, Prediction
from truing.contract.upgrade import FORMAT
from truing.jobs import Job
from truing.jobs.made import Made
from truing.jobs.made import Outcome as CameOutOf
from truing.kit.instruments import Instrument
from truing.kit.tooling import Piece
from truing.machine import Machine
from truing.measure.lenient import read_back
from truing.programs.ground import Ground
from truing.programs.picture import Picture
from truing.programs.report import Report
from truing.record import to_2, to_3, to_4
from truing.record.shapes import Lesson, Outcome, Snapshot, Summary
from truing.registry import registry
from truing.surfacing.done import Done
from truing.surfacing.foreign import Stated
from truing.surfacing.plan import Surfacing
from truing.surfacing.wish import Wish

_TYPES: dict[str, Any] = {
    "machine": Machine,
    "instrument": Instrument,
    "piece": Piece,
    "outcome": Outcome,
    "lesson": Lesson,
    "summary": Summary,
    "snapshot": Snapshot,
    "advice": Advice,
    "move": Move,
    "made": MoveMade,
    "prediction": Prediction,
    "wish": Wish,
    "surfacing": Surfacing,
    "done": Done,
    "stated": Stated,
    "ground": Ground,
    "report": Report,
    "picture": Picture,
    "job": Job,
    "making": Made,
    "came_out": CameOutOf,
}
"""Of every shape that is no set-up; those are their kind's own."""


_STEPS = {2: to_2.step, 3: to_3.step, 4: to_4.step}
"""What makes an object of the format before one of this format."""


MOST_KEPT = 2048
"""Records that a process remembers as read: those of some two hundred machines."""


class Unreadable(ValueError):
    """A record that no step of the ladder makes readable: it was not written by this program, or
    something damaged it."""


def dump(shape: str, value: BaseModel) -> dict[str, Any]:
    """A model as it is kept."""
    return stamped(shape, value.model_dump(mode="json"))


def stamped(shape: str, data: dict[str, Any]) -> dict[str, Any]:
    """What another process of this program has dumped of a model, as it is kept."""
    return {"shape": shape, "format": FORMAT, **data}


def dump_list(shape: str, values: Sequence[BaseModel]) -> dict[str, Any]:
    """Several models of one shape as they are kept."""
    items = [v.model_dump(mode="json") for v in values]
    return {"shape": shape, "format": FORMAT, "items": items}


def load(shape: str, data: Any, kind: str = "") -> Any:
    """What was kept, in whatever format; `kind` of check for what belongs to one.

    Unreadable when it cannot be made out.
    """
    return _read(shape, raised(shape, data, kind), kind)


@lru_cache(maxsize=MOST_KEPT)
def load_text(shape: str, text: str, kind: str = "") -> Any:
    """As `load`, of the JSON text that it stands in the record as. A text is made out once and its
    model is shared by all who ask again: nobody changes it. Unreadable as in `load`."""
    return load(shape, json.loads(text), kind)


def raised(shape: str, data: Any, kind: str = "") -> dict[str, Any]:
    """What was kept as an object of today's format, for one who looks at a word of it only.
    Unreadable as in `load`."""
    if not isinstance(data, dict):
        raise Unreadable(f"A stored {shape} is no object.")
    return _raised(shape, data, int(data.get("format", 1)), kind)


def load_list(shape: str, data: Any, kind: str = "") -> list[Any]:
    """Several of one shape. Unreadable as in `load`."""
    # format 1 kept a bare list
    items = data if isinstance(data, list) else data.get("items", [])
    since = 1 if isinstance(data, list) else int(data.get("format", 1))
    return [_read(shape, _raised(shape, item, since, kind), kind) for item in items]


def _raised(shape: str, data: dict[str, Any], since: int, kind: str) -> dict[str, Any]:
    """The object as the format of today writes it."""
    own = registry()[kind].upgrades if kind in registry() else {}
    try:
        for number in range(since + 1, FORMAT + 1):
            data = _STEPS[number](shape, data, kind, own.get(number, {}))
    except (KeyError, TypeError, AttributeError) as error:
        raise Unreadable(f"A stored {shape} of format {since} is damaged: {error!r}.") from error
    return data


def _read(shape: str, data: dict[str, Any], kind: str) -> Any:
    try:
        if shape == "setup":
            return read_back(registry()[kind].setup_type, data)
        return read_back(_TYPES[shape], data)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        at = ".".join(str(p) for p in first["loc"])
        raise Unreadable(f"A stored {shape} cannot be read at {at}: {first['msg']}.") from error
