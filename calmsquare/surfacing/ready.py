"""What the server that checks are forked from imports before the first of them: a check's code,
loaded and compiled, so that none waits for it."""

from calmsquare.surfacing import child
from truing.surfacing.warm import warm

__all__ = ["child"]

warm()
