"""Field types of setups, instruments and machines: parsed once, here, with hints for the form.

A form draws one of about nine kinds of field from the JSON schema and these hints:
`length` (typed text with a unit), `lengths`, `clocks`, `degrees`, `integer`, `number`, `choice`,
`choices` (several of them), `switch`, `text`. `when` shows a field only while another has one of
the given values; `advanced` folds it away behind sensible values; `needs` asks it only of machines
that have the part; `fills` says what else is filled in when one of a choice is picked.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping
from datetime import date
from typing import Annotated, Any

from pydantic import BaseModel, BeforeValidator, Field, WithJsonSchema
from pydantic_core import PydanticCustomError

from truing.measure.clock import clock_label, parse_clocks, parse_degrees
from truing.measure.lengths import parse_length, parse_lengths
from truing.measure.problem import Problem
from truing.measure.words import MM_PER_INCH, Words, plain, show, stated


def refusing(parse: Callable[[str], Any]) -> Callable[[Any], Any]:
    """Let pydantic report a Problem as that field's error, in the same words."""

    def validate(value: Any) -> Any:
        if not isinstance(value, str):
            return value
        try:
            return parse(value)
        except Problem as problem:
            raise PydanticCustomError(
                "unreadable", "{message}", {"message": str(problem), "expected": problem.expected}
            ) from None

    return validate


_NUMBER = {"type": "number"}
_NUMBER_OR_TEXT = {"anyOf": [{"type": "number"}, {"type": "string"}]}

Mm = Annotated[
    float,
    BeforeValidator(refusing(lambda text: parse_length(text).mm)),
    WithJsonSchema(_NUMBER, mode="serialization"),
    WithJsonSchema(_NUMBER_OR_TEXT, mode="validation"),
]
"""A length in mm; also accepts what people type ("7 in", "180 mm", "1,5")."""


MmList = Annotated[
    list[Mm],
    BeforeValidator(refusing(parse_lengths)),
    WithJsonSchema({"type": "array", "items": _NUMBER}, mode="serialization"),
    WithJsonSchema(
        {"anyOf": [{"type": "array", "items": _NUMBER_OR_TEXT}, {"type": "string"}]},
        mode="validation",
    ),
]
"""Lengths in mm; also accepts one text with commas between ("-12, 0, 12 in")."""


Clocks = Annotated[
    list[float],
    BeforeValidator(refusing(parse_clocks)),
    WithJsonSchema(
        {"anyOf": [{"type": "array", "items": {"type": "number"}}, {"type": "string"}]},
        mode="validation",
    ),
]
"""Clock positions as hours in (0, 12]; also accepts one text ("12, 1:30, 3")."""


Degrees = Annotated[
    list[float],
    BeforeValidator(refusing(parse_degrees)),
    WithJsonSchema(
        {"anyOf": [{"type": "array", "items": {"type": "number"}}, {"type": "string"}]},
        mode="validation",
    ),
]
"""Angles in degrees, one after the other; also accepts one text ("0, 75, 150")."""


def _no_day(value: Any) -> Any:
    return None if value == "" else value


Day = Annotated[date | None, BeforeValidator(_no_day)]
"""A date; an empty text is none."""


_SCHEMAS: dict[type[BaseModel], dict[str, Any]] = {}


def form_schema(model: type[BaseModel]) -> dict[str, Any]:
    """JSON schema of a model's form: worked out once, so not to be written to."""
    if model not in _SCHEMAS:
        _SCHEMAS[model] = model.model_json_schema(mode="validation")
    return _SCHEMAS[model]


def hint(prompt: str = "", **more: Any) -> dict[str, Any]:
    """What the form needs beyond the JSON schema, under one key."""
    inch = stated(prompt).inch
    told = {"prompt": prompt, **({"prompt_inch": inch} if inch != prompt else {})}
    return {"x-form": {**told, **more}}


def length(
    title: str,
    default: Any = ...,
    *,
    prompt: str = "",
    ge: float | None = None,
    gt: float | None = None,
    le: float | None = None,
    **more: Any,
) -> Any:
    """A length field in mm with its bounds."""
    return Field(
        default,
        title=title,
        ge=ge,
        gt=gt,
        le=le,
        allow_inf_nan=False,
        json_schema_extra=hint(prompt, field="length", **more),
    )


def choice(
    title: str, default: Any, labels: Mapping[Any, str], *, prompt: str = "", **more: Any
) -> Any:
    """One of a few named ways."""
    return Field(
        default,
        title=title,
        json_schema_extra=hint(prompt, field="choice", labels=dict(labels), **more),
    )


def choices(
    title: str, default: list[Any], labels: Mapping[Any, str], *, prompt: str = "", **more: Any
) -> Any:
    """Any of a few named ways, in the order of the labels."""
    least, most = more.pop("min_length", 0), more.pop("max_length", None)
    return Field(
        default_factory=lambda: list(default),
        title=title,
        min_length=least,
        max_length=most,
        json_schema_extra=hint(prompt, field="choices", labels=dict(labels), **more),
    )


def proposed_lengths(model: BaseModel) -> dict[str, Words]:
    """As `shown_lengths`, of what nobody has stated yet: round in inches as it is in mm."""
    return shown_lengths(model, told=rounded)


def shown_lengths(
    model: BaseModel, prefix: str = "", told: Callable[[float], Words] | None = None
) -> dict[str, Words]:
    """Every length, clock position and angle of a model as text in both systems, by dotted path."""
    told = told or exact
    found: dict[str, Words] = {}
    for name, info in type(model).model_fields.items():
        path = f"{prefix}{name}"
        value = getattr(model, name)
        extra = info.json_schema_extra
        form: Any = extra.get("x-form", {}) if isinstance(extra, dict) else {}
        kind = form.get("field") if isinstance(form, dict) else None
        if kind == "length" and value is not None:
            found[path] = told(value)
        elif kind == "clocks":
            found[path] = plain(", ".join(clock_label(h) for h in value))
        elif kind == "degrees":
            found[path] = plain(", ".join(f"{d:g}" for d in value))
        elif kind == "lengths":
            texts = [told(v) for v in value]
            found[path] = Words(
                metric=", ".join(t.metric for t in texts), inch=", ".join(t.inch for t in texts)
            )
        elif isinstance(value, BaseModel):
            found |= shown_lengths(value, f"{path}.", told)
        elif isinstance(value, list):
            for i, item in enumerate(value):
                if isinstance(item, BaseModel):
                    found |= shown_lengths(item, f"{path}.{i}.", told)
    return found


def filled(model: BaseModel | None, names: Iterable[str]) -> dict[str, Any]:
    """What these fields of a form are filled in with, as text: lengths in both systems."""
    if model is None:
        return {}
    shown = shown_lengths(model)
    return {n: shown[n].model_dump() if n in shown else getattr(model, n) for n in names}


_STEPS_IN = ((10.0, 0.5), (1.0, 0.25), (0.1, 0.05))
"""From so many inches on, to what a length that nobody has stated is rounded."""
_SERIES = (1.0, 2.0, 5.0, 10.0)


def rounded(mm: float) -> Words:
    """A length that nobody has stated: in inches the round one nearest to it."""
    inch = abs(mm) / MM_PER_INCH
    step = next((step for least, step in _STEPS_IN if inch >= least), None)
    if step is None and inch > 0:
        # as things are graduated: one, two or five of a tenth, a hundredth, a thou …
        decade = 10.0 ** math.floor(math.log10(inch))
        round_in = decade * min(_SERIES, key=lambda n: abs(n - inch / decade))
    else:
        round_in = round(inch / step) * step if step else 0.0
    return Words(
        metric=exact(mm).metric, inch=exact(math.copysign(round_in, mm) * MM_PER_INCH).inch
    )


def inch_step(mm: float) -> float:
    """To what a length is told in inches: a tenth of a thou, or three digits where that is less;
    in mm."""
    inch = abs(mm) / MM_PER_INCH
    decimals = 4 if inch >= 0.1 or inch == 0 else 3 - math.ceil(math.log10(inch))
    return MM_PER_INCH * 10.0**-decimals


def exact(mm: float) -> Words:
    """A stated length: in mm with as many digits as it has, up to a tenth of a micrometre; in
    inches to a tenth of a thou, and to three digits where that is less."""

    def trim(text: str) -> str:
        number, unit = text.rsplit(" ", 1)
        return f"{number.rstrip('0').rstrip('.') if '.' in number else number} {unit}"

    full = show(mm, 1e-4).metric, show(mm, inch_step(mm)).inch
    return Words(metric=trim(full[0]), inch=trim(full[1]))
