"""Adding a kind of check touches its folder, its stand-in, its guide and its row in the course.

A throw-away kind does just that, in a process of its own, since the registry is made once.
"""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]


def test_a_kind_is_added_by_four_things_and_goes_all_the_way() -> None:
    base, _, _ = os.environ["DATABASE_URL"].rpartition("/")
    worker = os.environ.get("PYTEST_XDIST_WORKER", "")
    env = {k: v for k, v in os.environ.items() if not k.startswith("PYTEST_")}
    env["DATABASE_URL"] = f"{base}/throwaway{worker}"
    got = subprocess.run(
        [sys.executable, "-m", "pytest", "-p", "no:xdist", "--create-db", "tests/throwaway"],
        cwd=ROOT,
        env=env,
        capture_output=True,
        text=True,
        check=False,
    )
    assert got.returncode == 0, got.stdout[-6000:] + got.stderr[-2000:]
    assert " passed" in got.stdout
