"""Check one program, in a process of its own that limits what it may take.

Reads a ground (JSON) and a program from two files; says on its standard output, a line of JSON
each, how far it is, and last what came of it. Knows no database.
"""

from __future__ import annotations

import json
import resource
import sys
from pathlib import Path
from typing import Any


def main(ground_file: str, program_file: str, seconds: str, most_bytes: str) -> None:
    """Run it."""
    resource.setrlimit(resource.RLIMIT_AS, (int(most_bytes), int(most_bytes)))
    resource.setrlimit(resource.RLIMIT_CPU, (int(seconds), int(seconds) + 5))
    from truing.measure.problem import Problem
    from truing.programs import read
    from truing.programs.check import check
    from truing.programs.ground import Ground
    from truing.programs.picture import picture

    try:
        _tell(share=0.05)
        on = Ground.model_validate_json(Path(ground_file).read_text())
        program = read(Path(program_file).read_bytes())
        report = check(program, on, progress=lambda done: _tell(share=0.1 + 0.7 * done))
        drawn = picture(program.motions, on)
        _tell(report=report.model_dump(mode="json"), picture=drawn.model_dump(mode="json"))
    except Problem as problem:
        _tell(problem=f"{problem.message} {problem.expected}")
    except MemoryError:
        _tell(problem="It needs more memory than there is: split the program.")


def _tell(**what: Any) -> None:
    sys.stdout.write(json.dumps(what, allow_nan=False) + "\n")
    sys.stdout.flush()


if __name__ == "__main__":
    main(*sys.argv[1:])
