"""Enters the throw-away kind before anything has looked at the registry: its folder, its stand-in,
its guide, and its row in the course; nothing else."""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path

import truing.checks
import truing.standin.kinds
from truing import course
from truing.course import guide, kinds
from truing.course.kinds import CourseKind

HERE = Path(__file__).parent

truing.checks.__path__.append(str(HERE / "checks"))
truing.standin.kinds.__path__.append(str(HERE / "standin"))
FOLDER = Path(tempfile.mkdtemp())
for each in [*guide.FOLDER.glob("*.yaml"), *(HERE / "guides").glob("*.yaml")]:
    shutil.copy(each, FOLDER)
guide.FOLDER = FOLDER
ROW = CourseKind(
    "plate_tilt",
    "Plate",
    "Does the plate lie level?",
    "bed",
    ("feet", "board"),
    ("board",),
    lambda m: m.board is not None,
)
kinds.KINDS = course.KINDS = (*kinds.KINDS, ROW)
kinds._BY_KEY[ROW.key] = ROW
kinds._PLACE[ROW.key] = len(kinds.KINDS) - 1

from tests.api.conftest import owner, quick_passwords  # noqa: E402

__all__ = ["owner", "quick_passwords"]
