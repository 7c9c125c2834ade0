"""Machine code for what goes through a program step by step, kept for the next start.

What a compiled function calls is compiled into it. numba keeps one for as long as its own file is
as it was, whatever became of the files that it calls: after an update an old step would go on in
its callers. Here all is kept together, under what all of this package's files say, and goes with
them.
"""

from __future__ import annotations

import hashlib
import shutil
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numba

_HERE = Path(__file__).parent
_WEEK_S = 7 * 86400
config: Any = numba.config


def _kept() -> Path:
    """The folder of these very files' machine code; those of files that were go after a week, in
    which whoever began with them has ended."""
    said = hashlib.sha256()
    for path in sorted(_HERE.glob("*.py")):
        said.update(path.read_bytes())
    base = Path(config.CACHE_DIR or _HERE / "__pycache__")
    found = base / f"compiled-{said.hexdigest()[:16]}"
    if not found.exists():
        for old in base.glob("compiled-*/"):
            if time.time() - old.stat().st_mtime > _WEEK_S:
                shutil.rmtree(old, ignore_errors=True)
    return found


KEPT = _kept()


def compiled(function: Callable[..., Any]) -> Any:
    """The function as machine code, made when it is called first and kept where that can be."""
    before = config.CACHE_DIR
    config.CACHE_DIR = str(KEPT)
    try:
        return numba.njit(cache=True)(function)
    finally:
        config.CACHE_DIR = before
