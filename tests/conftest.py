"""Shared set-up: settings of hypothesis, and nothing else."""

from hypothesis import settings

# examples are bounded by number, never by the clock of a busy machine
settings.register_profile("here", deadline=None, derandomize=True)
settings.load_profile("here")
