"""Which tests take long: `python -m tests.slow` runs all but the browser's, and writes slow.txt.

What `bin/test --fast` leaves out is told by one rule, by the clock of whoever writes the list, and
never while tests run: a slow machine leaves out the same ones.
"""

from __future__ import annotations

import sys
import tempfile
from collections import defaultdict
from pathlib import Path

SLOW = Path(__file__).with_name("slow.txt")
"""Tests that `bin/test --fast` leaves out."""
AT_LEAST_S = 0.2
ALWAYS = "tests/api/test_travel.py::"
"""What is forgotten most easily is told by the short run as well."""


class Timed:
    """What pytest says of each test that it has run."""

    def __init__(self) -> None:
        self.took: dict[str, float] = defaultdict(float)

    def pytest_runtest_logreport(self, report: object) -> None:
        nodeid, seconds = report.nodeid, report.duration  # type: ignore[attr-defined]
        if report.when == "call":  # type: ignore[attr-defined]
            self.took[nodeid] += seconds


def timed() -> dict[str, float]:
    """Test → seconds, of a run in this process."""
    import pytest

    timer = Timed()
    with tempfile.TemporaryDirectory() as kept:
        args = ["-q", "-n", "2", "-o", f"cache_dir={kept}", "tests/core", "tests/api"]
        if pytest.main(args, plugins=[timer]) != 0:
            sys.exit("Some tests fail: the list is left as it was.")
    return timer.took


def main() -> None:
    took = timed()
    long = (t for t, s in took.items() if s >= AT_LEAST_S and not t.startswith(ALWAYS))
    slow = sorted(t.encode("unicode_escape").decode() for t in long)
    SLOW.write_text("\n".join(slow) + "\n", "utf-8")
    print(f"{len(slow)} of {len(took)} tests are slow: {sum(took.values()):.0f} s in all.")


if __name__ == "__main__":
    main()
