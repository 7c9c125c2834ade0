"""What every request has to be before anything looks at it: text that can be kept, figures that are
figures, times that can be."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from typing import Annotated, Any

from django.http import HttpRequest
from django.utils import timezone
from ninja.parser import Parser
from pydantic import AfterValidator

from calmsquare.problems import FieldError, Invalid
from truing.measure.names import tidied

EARLIEST = datetime(2000, 1, 1, tzinfo=UTC)
AHEAD = timedelta(days=2)
"""How far a clock may be ahead of ours, time zones and all."""


def _can_be(at: datetime) -> datetime:
    aware = at if timezone.is_aware(at) else timezone.make_aware(at)
    try:
        fits = EARLIEST <= aware.astimezone(UTC) <= timezone.now() + AHEAD
    except OverflowError:
        fits = False
    if not fits:
        raise ValueError("That is no time at which it can have been. Check the clock and the year.")
    return at


Moment = Annotated[datetime, AfterValidator(_can_be)]
"""When something happened, as a browser says it."""


MOST_NAMES = 20_000
"""Of fields in a body, all told. Each that is not known costs its own words of refusal; a batch of
five hundred readings has six thousand."""


class Door(Parser):
    """Reads a body of JSON. Invalid when it holds text that no database keeps, or no number, or
    more fields than anybody fills in."""

    def parse_body(self, request: HttpRequest) -> Any:
        names = 0

        def counted(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
            nonlocal names
            names += len(pairs)
            if names > MOST_NAMES:
                told = f"More than {MOST_NAMES:,} fields are not read at once."
                raise Invalid([FieldError(field="", message=told, expected="Send less of it.")])
            return dict(pairs)

        try:
            text = request.body.decode()
        except UnicodeDecodeError:
            raise Invalid([_unfit("")]) from None
        try:
            # every field has its colon: where there are few, nothing needs to be counted
            many = text.count(":") > MOST_NAMES
            body = json.loads(
                text, parse_constant=_no_number, object_pairs_hook=counted if many else None
            )
            # what is no text of a database can only have come by an escape
            for path, found in _texts(body, "") if "\\u" in text else ():
                if not can_be_kept(found):
                    raise Invalid([_unfit(path)])
            if _HIDDEN.search(text):
                _tidy(body)
        except RecursionError:
            told = "What was sent lies one in another too deeply to be read."
            raise Invalid([FieldError(field="", message=told)]) from None
        return body

    def parse_querydict(self, data: Any, list_fields: list[str], request: HttpRequest) -> Any:
        for name, values in data.lists():
            if not all(can_be_kept(v) for v in values if isinstance(v, str)):
                raise Invalid([_unfit(name)])
        return super().parse_querydict(data, list_fields, request)


_HIDDEN = re.compile(
    r"\\[bfnrt]|\\u00[01789][0-9a-fA-F]|\\u(?:061[cC]|200[bBeEfF]|202[89a-eA-E]|206[0-9]|[fF]{2})"
    "|[\N{ARABIC LETTER MARK}\u200b\u200e\u200f\u2028-\u202e\u2060-\u2069\ufeff\x7f-\x9f]"
)
"""Where a body may hold a sign that nobody sees."""


def _tidy(value: Any) -> None:
    """Tidy every name in a body, wherever it stands."""
    if isinstance(value, dict):
        for key, item in value.items():
            if key == "name" and isinstance(item, str):
                value[key] = tidied(item)
            else:
                _tidy(item)
    elif isinstance(value, list):
        for item in value:
            _tidy(item)


def can_be_kept(text: str) -> bool:
    """Whether a database takes this text: no character NUL, no half of a pair."""
    try:
        text.encode()
    except UnicodeEncodeError:
        return False
    return "\x00" not in text


def _texts(value: Any, path: str) -> Iterator[tuple[str, str]]:
    if isinstance(value, str):
        yield path, value
    elif isinstance(value, dict):
        for key, item in value.items():
            at = f"{path}.{key}" if path else str(key)
            yield at, str(key)
            yield from _texts(item, at)
    elif isinstance(value, list):
        for i, item in enumerate(value):
            yield from _texts(item, f"{path}.{i}")


def _unfit(path: str) -> FieldError:
    return FieldError(
        field=path.encode("ascii", "replace").decode().replace("\x00", "?"),
        message="There is a character in it that cannot be kept.",
        expected="Type it anew; it may have come along when it was pasted.",
    )


def _no_number(name: str) -> float:
    raise Invalid([FieldError(field="", message=f"{name} is no number.")])
