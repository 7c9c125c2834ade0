"""The kinds of check that are built, and the types they bring to the record and the API.

A kind is built when the package `truing.checks.<key>` is there, which holds it as `CHECK`; its
place in the order is its row in the course. Nothing below this module knows the kinds.
"""

from __future__ import annotations

from functools import cache, reduce
from importlib import import_module
from importlib.util import find_spec
from operator import or_
from typing import TYPE_CHECKING, Annotated, Any

from pydantic import Field

from truing.contract.check import Check
from truing.contract.finding import Finding
from truing.contract.setup import Setup
from truing.course import KINDS


@cache
def registry() -> dict[str, Check[Any, Any]]:
    """Every kind of check that is built, by key, in the order of the course."""
    return {
        k.key: import_module(f"truing.checks.{k.key}").CHECK
        for k in KINDS
        if find_spec(f"truing.checks.{k.key}")
    }


def kind(key: str) -> Check[Any, Any]:
    """The kind with this key; KeyError if there is none."""
    return registry()[key]


if TYPE_CHECKING:
    AnySetup = Setup
    AnyFinding = Finding
else:

    def _union(types: list[Any]) -> Any:
        return Annotated[reduce(or_, types), Field(discriminator="kind")]

    AnySetup = _union([check.setup_type for check in registry().values()])
    AnyFinding = _union([check.finding_type for check in registry().values()])
