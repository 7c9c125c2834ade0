"""Reading a program that moves a machine, ours or not: what it does, and what is wrong with it.

`read` makes motions of its bytes, `check` says what they come to on a stated board, `relief` what
they leave. Nothing here moves anything.
"""

from truing.programs.read import Program, read

__all__ = ["Program", "read"]
