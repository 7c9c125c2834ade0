"""The tin: collets of one series and size, ranked by what they were last read to run out by."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from truing.drawing.figures import RankedFigure, RankedRow
from truing.effects.runout import USUAL_MM, good_for
from truing.kit.tooling import Collet, Piece
from truing.measure.verdict import verdict
from truing.measure.words import Words, say, show, show_estimate

SORTS: Mapping[str, str] = {"true": "good", "too_close": "doubt", "out": "bad"}


def tins(collets: Sequence[tuple[str, Collet]]) -> list[RankedFigure]:
    """A ranked strip of each series and size of which any was read, from (name, collet); best
    first, those that were never read left out."""
    groups: dict[tuple[str, float], list[tuple[str, Collet]]] = {}
    for name, collet in collets:
        if collet.tir is not None:
            groups.setdefault((collet.series, collet.size_mm), []).append((name, collet))
    return [_tin(series, size, some) for (series, size), some in sorted(groups.items())]


def fit_for(piece: Piece) -> Words | None:
    """The cutters that may turn as a piece was last read to run out; None where that is not known,
    or where it is out of work."""
    tir = getattr(piece, "tir", None)
    if tir is None or getattr(piece, "retired", False):
        return None
    return good_for(tir, USUAL_MM)


def _tin(series: str, size_mm: float, some: Sequence[tuple[str, Collet]]) -> RankedFigure:
    rows = [_row(name, collet) for name, collet in some]
    return RankedFigure(
        title=say("{series}, {size}", series=series or "Collets", size=show(size_mm, 0.1)),
        rows=sorted(rows, key=lambda r: r.value_mm),
        limit_mm=USUAL_MM,
        limit_words=show(USUAL_MM, USUAL_MM / 10),
    )


def _row(name: str, collet: Collet) -> RankedRow:
    tir = collet.tir
    assert tir is not None
    sort = "retired" if collet.retired else SORTS[verdict(tir, USUAL_MM)]
    return RankedRow.model_validate(
        {
            "name": name,
            "value_mm": tir.value,
            "low_mm": tir.least,
            "high_mm": tir.most,
            "words": show_estimate(tir.value, tir.expanded, "length"),
            "good_for": good_for(tir, USUAL_MM),
            "sort": sort,
        }
    )
