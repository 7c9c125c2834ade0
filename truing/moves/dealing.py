"""Stacks for many pads from a tin that runs short: dealt out by trying, pad after pad."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from truing.moves.pads import SAME_MM, Stacks

MOST_TRIED = 300
"""Stacks that are laid out before a plane is given up."""
HALVINGS = 6
"""Of what is between the nearest that a plane allows and the nearest that was dealt out."""
BETTER = 0.97
"""What another plane has to promise at least, as a share of the best so far."""


class Dealer:
    """Deals out the pieces there are so that every pad gets a stack near the height it wants."""

    def __init__(self, stacks: Stacks) -> None:
        self._pieces = stacks.pieces
        # every stack, not one for each height: where one piece has run out another may be left
        self._heights = np.repeat(stacks.heights, [len(of) for of in stacks.of])
        self._stacks = [tuple(Counter(stack).items()) for of in stacks.of for stack in of]

    def deal(self, wanted_mm: NDArray[np.float64], within_mm: float) -> list[list[float]] | None:
        """A stack for each pad, within so much of what it wants, from pieces that last; None where
        none were found in `MOST_TRIED` steps. The pad with the fewest to choose from comes first,
        and takes back what leaves another with none."""
        low = np.searchsorted(self._heights, wanted_mm - within_mm - SAME_MM)
        high = np.searchsorted(self._heights, wanted_mm + within_mm + SAME_MM)
        if (low == high).any():
            return None
        order = np.argsort(high - low, kind="stable")
        left = dict(self._pieces)
        chosen: dict[int, tuple[tuple[float, int], ...]] = {}
        tried = 0

        def serve(turn: int) -> bool:
            nonlocal tried
            if turn == len(order):
                return True
            pad = int(order[turn])
            for stack in self._stacks[low[pad] : high[pad]]:
                if any(left[t] < n for t, n in stack):
                    continue
                tried += 1
                if tried > MOST_TRIED:
                    return False
                for t, n in stack:
                    left[t] -= n
                chosen[pad] = stack
                if serve(turn + 1):
                    return True
                for t, n in stack:
                    left[t] += n
            return False

        if not serve(0):
            return None
        return [
            sorted((t for t, n in chosen[pad] for _ in range(n)), reverse=True)
            for pad in range(len(wanted_mm))
        ]


def dealt(
    dealer: Dealer,
    planes_mm: NDArray[np.float64],
    reach_mm: Sequence[float],
    off: Callable[[Sequence[Sequence[float]]], float],
    best: list[list[float]],
    enough_mm: float,
) -> list[list[float]]:
    """The best so far, or stacks that bring all pads nearer to one plane. `planes_mm` are the
    heights that pads want under planes to be tried (planes × pads), `reach_mm` how near to each of
    them a full tin would bring them."""
    least = off(best)
    for wanted, reach in zip(planes_mm, reach_mm, strict=True):
        if least <= enough_mm:
            break
        low, high = reach, BETTER * least
        if low >= high:
            continue
        within = high
        for _ in range(HALVINGS):
            stacks = dealer.deal(wanted, within)
            if stacks is None:
                low = within
            else:
                high = min(within, off(stacks))
                if high < least:
                    best, least = stacks, high
            if stacks is None and within >= BETTER * least:
                break
            within = (low + high) / 2
    return best
