"""What the fast run leaves out are tests that there are."""

from __future__ import annotations

import re
from pathlib import Path

from tests.slow import SLOW

ROOT = Path(__file__).parents[2]


def test_every_test_that_is_left_out_is_there() -> None:
    told = {name.partition("[")[0] for name in SLOW.read_text("utf-8").splitlines()}
    assert len(told) > 50
    for name in told:
        path, _, test = name.partition("::")
        found = (ROOT / path).is_file() and (ROOT / path).read_text("utf-8")
        assert found, f"{path} is gone: run python -m tests.slow"
        assert re.search(rf"^ *def {test}\(", found, re.M), f"{name} is gone: run it anew"
