"""What the kit screen shows: instruments, shim stock, tooling, squares and cylinders."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any
from uuid import UUID

from pydantic import BaseModel

from calmsquare.workshop.models import Instrument, Piece, Role, ShimStock
from calmsquare.workshop.scope import Scope
from calmsquare.workshop.services import ShimForm, instrument_spec, piece_spec
from truing.contract.tin import fit_for, tins
from truing.drawing.figures import RankedFigure
from truing.kit.instruments import INSTRUMENT_TITLES
from truing.kit.instruments import Instrument as InstrumentSpec
from truing.kit.tooling import PIECE_TITLES, Collet
from truing.kit.tooling import Piece as PieceSpec
from truing.measure.fields import form_schema, proposed_lengths, shown_lengths
from truing.measure.words import Words, show


class InstrumentOut(BaseModel):
    """An instrument of the kit."""

    id: UUID
    name: str
    type: str
    type_title: str
    spec: InstrumentSpec
    shown: dict[str, Words]
    reads: Words
    """The smallest difference it shows."""
    archived: bool


class PieceOut(BaseModel):
    """A holder, collet or tool, a square or cylinder."""

    id: UUID
    name: str
    type: str
    type_title: str
    spec: PieceSpec
    shown: dict[str, Words]
    found: Words | None
    """What checks have found of it."""
    good_for: Words | None
    """The cutters that may turn as it was last read to run out; None where that is not known."""
    archived: bool


class ShimOut(BaseModel):
    """A thickness in the tin."""

    id: UUID
    thickness_mm: float
    words: Words
    count: int
    material: str
    tolerance_mm: float


class KitForm(BaseModel):
    """The form for one type of instrument or piece."""

    type: str
    title: str
    form_schema: dict[str, Any]
    shown: dict[str, Words]


class KitOut(BaseModel):
    """Instruments, shim stock and pieces, and the forms to add to them."""

    instruments: list[InstrumentOut]
    """Also those put away, which come last."""
    shims: list[ShimOut]
    pieces: list[PieceOut]
    forms: list[KitForm]
    tins: list[RankedFigure]
    """Collets of one series and size, ranked by what they were read to run out by."""
    piece_forms: list[KitForm]
    shim_schema: dict[str, Any]
    can_write: bool


def instrument_out(instrument: Instrument) -> InstrumentOut:
    """An instrument as shown."""
    spec = instrument_spec(instrument.spec)
    return InstrumentOut(
        id=instrument.pk,
        name=instrument.name,
        type=spec.type,
        type_title=INSTRUMENT_TITLES[spec.type],
        spec=spec,
        shown=shown_lengths(spec),
        reads=spec.reads_words,
        archived=instrument.archived,
    )


def piece_out(piece: Piece) -> PieceOut:
    """A piece of the kit as shown."""
    spec = piece_spec(piece.spec)
    return PieceOut(
        id=piece.pk,
        name=piece.name,
        type=spec.type,
        type_title=PIECE_TITLES[spec.type],
        spec=spec,
        shown=shown_lengths(spec),
        found=spec.found,
        good_for=fit_for(spec),
        archived=piece.archived,
    )


def shim_out(shim: ShimStock) -> ShimOut:
    """A thickness as shown."""
    return ShimOut(
        id=shim.pk,
        thickness_mm=shim.thickness_mm,
        words=show(shim.thickness_mm, 0.001),
        count=shim.count,
        tolerance_mm=shim.tolerance_mm,
        material=shim.material,
    )


def kit(scope: Scope, workshop_id: UUID) -> KitOut:
    """The kit of a workshop."""
    role = scope.role(workshop_id)
    instruments = scope.all(Instrument).filter(workshop_id=workshop_id)
    pieces = scope.all(Piece).filter(workshop_id=workshop_id)
    shims = scope.all(ShimStock).filter(workshop_id=workshop_id)
    in_order = ("archived", "created_at", "pk")
    return KitOut(
        instruments=[instrument_out(i) for i in instruments.order_by(*in_order)],
        shims=[shim_out(s) for s in shims],
        pieces=[piece_out(p) for p in pieces.order_by(*in_order)],
        tins=_tins(pieces.order_by("created_at", "pk")),
        forms=[
            _form(instrument_spec({"type": t}), INSTRUMENT_TITLES[t]) for t in INSTRUMENT_TITLES
        ],
        piece_forms=[_form(piece_spec({"type": t}), PIECE_TITLES[t]) for t in PIECE_TITLES],
        shim_schema=form_schema(ShimForm),
        can_write=role != Role.VIEWER,
    )


def _tins(pieces: Iterable[Piece]) -> list[RankedFigure]:
    known = [(p.name, piece_spec(p.spec)) for p in pieces if not p.archived]
    return tins([(name, spec) for name, spec in known if isinstance(spec, Collet)])


def _form(usual: InstrumentSpec | PieceSpec, title: str) -> KitForm:
    return KitForm(
        type=usual.type,
        title=title,
        form_schema=form_schema(type(usual)),
        shown=proposed_lengths(usual),
    )
