"""The order of the work: stages, kinds, what has gone stale, what is next, what fits tonight."""

from truing.course.kinds import KINDS, CourseKind, course_kind
from truing.course.stages import STAGES, Stage, StageKey

__all__ = ["KINDS", "STAGES", "CourseKind", "Stage", "StageKey", "course_kind"]
