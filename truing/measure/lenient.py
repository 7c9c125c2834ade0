"""Reading back what was accepted once, without asking again whether it may be so.

Bounds belong to input: what a person typed was checked when it came in. A limit that is tightened
later must not make a record unreadable, so that stored values are read with the models' types and
nothing else: no bounds, no lengths, no rules across fields, no complaint about fields of another
time.
"""

from __future__ import annotations

from functools import cache
from typing import Any, TypeVar

from pydantic import BaseModel, TypeAdapter
from pydantic_core import SchemaValidator

_BOUNDS = frozenset(
    {"ge", "gt", "le", "lt", "multiple_of", "min_length", "max_length", "pattern", "allow_inf_nan"}
)
_RULES = frozenset({"function-after", "function-wrap"})

M = TypeVar("M", bound=BaseModel)


def _without_rules(schema: Any) -> Any:
    """The core schema with every bound and every rule taken out, to any depth."""
    if isinstance(schema, list):
        return [_without_rules(item) for item in schema]
    if isinstance(schema, tuple):
        return tuple(_without_rules(item) for item in schema)
    if not isinstance(schema, dict):
        return schema
    # a mapping of field names to schemas may have a field that is called type
    node = isinstance(schema.get("type"), str)
    if node and schema["type"] in _RULES:
        inner = _without_rules(schema["schema"])
        # other places may refer to it by the name it has as a whole
        return {**inner, "ref": schema["ref"]} if "ref" in schema else inner
    found = {
        key: value if key in ("metadata", "serialization", "default") else _without_rules(value)
        for key, value in schema.items()
        if not (node and key in _BOUNDS)
    }
    if node and schema["type"] == "model-fields":
        found["extra_behavior"] = "ignore"
    config = found.get("config")
    if node and isinstance(config, dict) and "extra_fields_behavior" in config:
        found["config"] = {**config, "extra_fields_behavior": "ignore"}
    return found


@cache
def _validator(type_: Any) -> SchemaValidator:
    schema = TypeAdapter(type_).core_schema
    # nested models must not fall back on their own validators, which know the bounds
    return SchemaValidator(_without_rules(schema), _use_prebuilt=False)


def read_back(type_: Any, data: Any) -> Any:
    """`data` as this model, or union of models, without its bounds. ValidationError only where a
    value is missing or of another type."""
    return _validator(type_).validate_python(data)
