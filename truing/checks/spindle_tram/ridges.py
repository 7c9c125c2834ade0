"""What ridges said of the same leans, beside the dial that counts."""

from __future__ import annotations

from truing.checks.spindle_tram.evaluate import TramCase
from truing.contract.finding import shown
from truing.measure.words import Words, say


def beside_the_ridges(case: TramCase) -> list[Words]:
    """Whether the ridges of the latest patches fit each lean; nothing where none are fresh."""
    found = []
    for key, axis in (("lean_x", "side to side"), ("nod", "front to back")):
        ridges = case.elsewhere("ridge_reading", key)
        swung = next(iter(case.of(key)), None)
        if ridges is None or swung is None:
            continue
        lean = swung.estimate
        fits = ridges.least <= lean.most and lean.least <= ridges.most
        # an estimate of nothing is one whose side the marks did not tell
        if fits and ridges.value and ridges.visible and lean.visible:
            fits = ridges.value * lean.value > 0
        found.append(
            say(
                "Ridges that were read before say {axis} {size}: {fits}",
                axis=axis,
                size=shown(ridges),
                fits="they agree."
                if fits
                else "they do not agree. The dial counts; but something gives under the cut, or "
                "the table is not flat where one of them was read.",
            )
        )
    return found
