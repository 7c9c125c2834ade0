"""Setups and findings of all registered kinds, as discriminated unions for the API's schema."""

from __future__ import annotations

from functools import reduce
from operator import or_
from typing import TYPE_CHECKING, Annotated, Any

from pydantic import Field

from truing.check import Finding, Setup, registry

if TYPE_CHECKING:
    AnySetup = Setup
    AnyFinding = Finding
else:

    def _union(types: list[Any]) -> Any:
        # one type alone is no union, and pydantic refuses a discriminator on it
        if len(types) == 1:
            return types[0]
        return Annotated[reduce(or_, types), Field(discriminator="kind")]

    AnySetup = _union([check.setup_type for check in registry().values()])
    AnyFinding = _union([check.finding_type for check in registry().values()])
