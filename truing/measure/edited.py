"""Files that a practitioner edits: YAML read into a model, with what is wrong told by its place."""

from __future__ import annotations

from pathlib import Path
from typing import TypeVar

import yaml
from pydantic import BaseModel, ValidationError

from truing.measure.problem import Problem

Model = TypeVar("Model", bound=BaseModel)


def read_edited(path: Path, model: type[Model], compare: str, **more: str) -> Model:
    """A file as a model, with `more` fields that do not stand in it. Problem, naming the file and
    the place in it, when it is missing or cannot be used; `compare` says what to hold it against.
    """
    try:
        return model.model_validate({**yaml.safe_load(path.read_text("utf-8")), **more})
    except FileNotFoundError:
        raise Problem(f"There is no file {path.name}.", expected="Write one.") from None
    except (yaml.YAMLError, TypeError) as error:
        raise Problem(f"{path.name} cannot be read: {error}.", expected="Valid YAML.") from None
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        at = ".".join(str(p) for p in first["loc"] if p != "[key]")
        raise Problem(
            f"{path.name}, at {at or 'the top'}: {first['msg']}.",
            expected=f"Compare it with {compare}.",
            field=at,
        ) from None
