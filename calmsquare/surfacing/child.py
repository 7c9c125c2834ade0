"""Check one program, in a process of its own that limits what it may take.

Its process is forked from a server that has everything loaded (`ready.py`). It reads a ground
(JSON) and a program from two files, and says through a pipe, in JSON, how far it is, and last what
came of it. Knows no database.
"""

from __future__ import annotations

import json
import resource
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from truing.measure.problem import Problem
from truing.programs import read
from truing.programs.check import check
from truing.programs.cite import cited
from truing.programs.ground import Ground
from truing.programs.picture import picture


def main(to: Connection, ground: Path, program: Path, most_seconds: int, most_bytes: int) -> None:
    """Run it: `most_seconds` of processor, `most_bytes` of address space."""
    resource.setrlimit(resource.RLIMIT_AS, (most_bytes, most_bytes))
    resource.setrlimit(resource.RLIMIT_CPU, (most_seconds, most_seconds + 5))

    def tell(**what: Any) -> None:
        to.send_bytes(json.dumps(what, allow_nan=False).encode())

    try:
        tell(share=0.05, line=0)
        on = Ground.model_validate_json(ground.read_text())
        data = program.read_bytes()
        motions = read(data, on.frames)
        report = check(
            motions, on, progress=lambda share, line: tell(share=0.1 + 0.7 * share, line=line)
        )
        tell(share=0.85, line=0)
        drawn = picture(motions.motions, on)
        # nobody has to read the program again for what is told of its lines
        report = report.model_copy(update={"cited": cited(data, (f.line for f in report.faults))})
        tell(report=report.model_dump(mode="json"), picture=drawn.model_dump(mode="json"))
    except Problem as problem:
        tell(problem=f"{problem.message} {problem.expected}")
    except MemoryError:
        tell(problem="It needs more memory than there is: split the program.")
