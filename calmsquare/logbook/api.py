"""Routes of rounds that keep nothing, and of files."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Router
from pydantic import BaseModel

from calmsquare.logbook import prints, readings, services
from calmsquare.logbook.models import Photo
from calmsquare.logbook.schemas import PasteIn, PreviewIn, PreviewOut, StandinOut
from calmsquare.problems import answers
from calmsquare.workshop.scope import Scope
from truing.contract.cut import CutProgram
from truing.contract.paste import Pasted
from truing.contract.suggest import Suggestion

router = Router(tags=["logbook"])


class SetupTyped(BaseModel):
    """A set-up as far as it is filled in."""

    setup: dict[str, Any]


class StationIn(BaseModel):
    """A station by its key."""

    station: str


@router.post("/rounds/{uuid:round_id}/instruments", response=answers(Suggestion))
def suggest(request: HttpRequest, round_id: UUID, form: SetupTyped) -> Suggestion:
    """The instruments of the kit for a set-up, finest first; says so when none can decide."""
    return services.suggestion(Scope(request.user), round_id, form.setup)


@router.post("/rounds/{uuid:round_id}/paste", response=answers(Pasted))
def paste(request: HttpRequest, round_id: UUID, form: PasteIn) -> Pasted:
    """How a pasted column, file or log would be understood; nothing is kept."""
    return readings.paste(Scope(request.user), round_id, form)


@router.get("/rounds/{uuid:round_id}/drawing/{format}", response=answers(None))
def drawing(request: HttpRequest, round_id: UUID, format: prints.Format) -> HttpResponse:
    """What is to be printed at full size and cut out, as SVG, DXF or PDF."""
    return prints.drawing(Scope(request.user), round_id, format)


@router.get("/rounds/{uuid:round_id}/programs", response=answers(list[CutProgram]))
def programs(request: HttpRequest, round_id: UUID) -> list[CutProgram]:
    """What has to be cut before this round is read; none for most kinds."""
    return prints.programs(Scope(request.user), round_id)


@router.get("/rounds/{uuid:round_id}/programs/{key}", response=answers(None))
def program(
    request: HttpRequest, round_id: UUID, key: str, run: prints.Run = "cut"
) -> HttpResponse:
    """A program as a file: the cut, or the same raised, for a run in the air."""
    return prints.program(Scope(request.user), round_id, key, run)


@router.get("/rounds/{uuid:round_id}/sheet", response=answers(None))
def sheet(
    request: HttpRequest, round_id: UUID, move: str = "", system: prints.System = "metric"
) -> HttpResponse:
    """A move on one sheet, to be taken to the machine, as PDF."""
    return prints.sheet(Scope(request.user), round_id, move, system)


@router.post("/rounds/{uuid:round_id}/preview", response=answers(PreviewOut))
def preview(request: HttpRequest, round_id: UUID, form: PreviewIn) -> PreviewOut:
    """How what is being typed is understood; nothing is kept."""
    return readings.preview(Scope(request.user), round_id, form)


@router.post("/rounds/{uuid:round_id}/standin", response=answers(StandinOut))
def ask_standin(request: HttpRequest, round_id: UUID, form: StationIn) -> StandinOut:
    """What a practice machine's simulated indicator shows."""
    return readings.ask_standin(Scope(request.user), round_id, form.station)


@router.get("/photos/{uuid:photo_id}", include_in_schema=True, response=answers(None))
def read_photo(request: HttpRequest, photo_id: UUID, small: bool = False) -> HttpResponse:
    """The picture itself, as JPEG."""
    photo = Scope(request.user).get(Photo, photo_id, related=("file",))
    answer = HttpResponse(
        bytes(photo.file.small if small else photo.file.large), content_type="image/jpeg"
    )
    answer["Cache-Control"] = "private, max-age=31536000, immutable"
    answer["X-Content-Type-Options"] = "nosniff"
    return answer
