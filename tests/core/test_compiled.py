"""What is compiled, against what is written."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

from truing.programs import compiled, follow, relief, sweep, timing, tokens

INNER = "from .compiled import compiled\n\n\n@compiled\ndef share(x):\n    return x * {n}\n"
OUTER = (
    INNER.replace("share", "both")
    .replace("x * {n}", "share(x) + 1")
    .replace("\n\n\n", "\nfrom .inner import share\n\n\n")
)


def test_what_calls_another_file_is_compiled_anew_when_that_one_changes(tmp_path: Path) -> None:
    """What is called is compiled into its caller: kept by the caller's own file alone, an older
    step would go on cutting after the program was brought up to date."""
    package = tmp_path / "parts"
    package.mkdir()
    (package / "__init__.py").touch()
    shutil.copy(compiled.__file__, package)
    (package / "outer.py").write_text(OUTER)
    asked = "from parts.outer import both; print(both(10), *both.stats.cache_hits.values())"

    def told(n: int) -> str:
        (package / "inner.py").write_text(INNER.format(n=n))
        ran = subprocess.run(
            [sys.executable, "-c", asked], cwd=tmp_path, capture_output=True, text=True, check=True
        )
        return ran.stdout.strip()

    assert [told(2), told(2), told(3)] == ["21", "21 1", "31"]
    kept = list((package / "__pycache__").glob("compiled-*/"))
    assert len(kept) == 2
    # who still runs with yesterday's may go on; what belonged to files of long ago goes
    os.utime(kept[0], (0, 0))
    assert told(5) == "51"
    assert [folder.exists() for folder in kept] == [False, True]


def test_all_that_is_compiled_is_kept_that_way() -> None:
    functions = [
        f
        for module in (follow, relief, sweep, timing, tokens)
        for f in vars(module).values()
        if hasattr(f, "py_func")
    ]
    assert len(functions) > 40
    assert {Path(f.stats.cache_path).parent for f in functions} == {compiled.KEPT}
