"""The kinds of check that are built, one module or package each."""

from typing import Any

from truing.check import Check
from truing.checks.spindle_tram import SPINDLE_TRAM

ALL: dict[str, Check[Any, Any]] = {check.key: check for check in (SPINDLE_TRAM,)}
