"""What people, notes, photos and moves look like wherever they are shown."""

from __future__ import annotations

from calmsquare.logbook.models import Move, Note, Photo
from calmsquare.logbook.schemas import NeedleIn
from calmsquare.screens.schemas import MoveOut, NoteOut, PhotoOut
from calmsquare.workshop.people import name_of
from truing.measure.words import Words, plain


def note_out(note: Note) -> NoteOut:
    """A remark as shown."""
    return NoteOut(
        id=note.pk,
        text=note.text,
        written_at=note.written_at,
        by=name_of(note.by),
        taken_back=note.taken_back_at is not None,
    )


def photo_out(photo: Photo) -> PhotoOut:
    """A photo as shown, without its picture."""
    return PhotoOut(
        id=photo.pk,
        machine_id=photo.machine_id,
        caption=photo.caption,
        width=photo.width,
        height=photo.height,
        at=photo.at,
        by=name_of(photo.by),
        taken_back=photo.taken_back_at is not None,
    )


def _said(move: Move) -> Words:
    if move.advised:
        return Words.model_validate(move.advised["title"])
    return plain(move.said)


def move_out(move: Move) -> MoveOut:
    """What was done, as shown."""
    return MoveOut(
        id=move.pk,
        said=_said(move),
        note=move.said if move.advised else "",
        needle=[NeedleIn.model_construct(**n) for n in move.needle],
        made_at=move.made_at,
        by=name_of(move.by),
        taken_back=move.taken_back_at is not None,
    )
