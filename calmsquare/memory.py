"""How the server keeps house with its memory."""

from __future__ import annotations

import gc

YOUNG = 50_000
"""Objects made before the collector looks for circles among them."""


def load_lightly() -> None:
    """Let the collector rest while the application is loaded: nothing of it is thrown away, and to
    walk through it forty times over took a third of a start."""
    gc.set_threshold(YOUNG, 20, 20)


def settle() -> None:
    """Set aside what was loaded for good, once all of it is there.

    An answer makes many small objects and hardly a circle of them, while the code, the models and
    the tables of the trade are half a million that never go: to walk through those again and again
    took up to a third of an answer's time.
    """
    gc.collect()
    gc.freeze()
