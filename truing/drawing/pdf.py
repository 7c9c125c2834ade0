"""A drawing as PDF at full size, on one sheet of its own size or over several of a standard one."""

from __future__ import annotations

import io
import math
import re
from collections.abc import Sequence
from unicodedata import normalize, numeric

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from truing.drawing.shapes import Circle, Drawing, Line, Shape

MARGIN_MM = 10.0
OVERLAP_MM = 10.0
"""By how much neighbouring sheets repeat each other, to be glued."""
_WIDTH_MM = {"cut": 0.25, "mark": 0.18, "paper": 0.15}


_SPELT = {"−": "-", "≤": "<=", "≥": ">=", "→": "to", "″": " in", "′": " ft"}
_EIGHTHS = re.compile("(\\d?)([⅛⅜⅝⅞])")


def printable(text: str) -> str:
    """A text in the characters that the built-in fonts have: an eighth of a turn is spelt out, as
    a question mark in its place would be a wrong instruction; letters lose marks they cannot show.
    """
    text = _EIGHTHS.sub(lambda m: f"{m[1]}{m[1] and ' '}{numeric(m[2]) * 8:g}/8", text)
    text = "".join(_SPELT.get(c, c) for c in text)
    return "".join(_shown(c) for c in text)


def _shown(character: str) -> str:
    for form in (character, normalize("NFKD", character)):
        shown = form.encode("cp1252", "ignore").decode("cp1252")
        if shown:
            return shown
    return "?"


def to_pdf(drawing: Drawing) -> bytes:
    """PDF at 1:1 on A4, upright or across; what is larger runs over several sheets that overlap."""
    across = drawing.width_mm > A4[0] / mm - 2 * MARGIN_MM
    page = (A4[1], A4[0]) if across else A4
    room = [side / mm - 2 * MARGIN_MM for side in page]
    columns = _sheets(drawing.width_mm, room[0])
    rows = _sheets(drawing.height_mm, room[1])
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=page, invariant=True)
    canvas.setTitle(drawing.title)
    for row in range(rows):
        for column in range(columns):
            canvas.saveState()
            clip = canvas.beginPath()
            clip.rect(MARGIN_MM * mm, MARGIN_MM * mm, room[0] * mm, room[1] * mm)
            canvas.clipPath(clip, stroke=0)
            dx = MARGIN_MM - column * (room[0] - OVERLAP_MM)
            top = page[1] / mm - MARGIN_MM
            dy = top - drawing.height_mm + row * (room[1] - OVERLAP_MM)
            _draw(canvas, drawing.shapes, dx, dy)
            canvas.restoreState()
            if columns * rows > 1:
                canvas.setFont("Helvetica", 7)
                sheet = row * columns + column + 1
                canvas.drawString(
                    MARGIN_MM * mm,
                    4 * mm,
                    f"{printable(drawing.title)} – sheet {sheet} of {columns * rows}",
                )
            canvas.showPage()
    canvas.save()
    return out.getvalue()


def _sheets(size_mm: float, room_mm: float) -> int:
    if size_mm <= room_mm:
        return 1
    return 1 + math.ceil((size_mm - room_mm) / (room_mm - OVERLAP_MM))


def _draw(canvas: Canvas, shapes: Sequence[Shape], dx: float, dy: float) -> None:
    for shape in shapes:
        canvas.setLineWidth(_WIDTH_MM[shape.layer] * mm)
        if isinstance(shape, Line):
            path = canvas.beginPath()
            for i, (x, y) in enumerate(shape.points):
                (path.lineTo if i else path.moveTo)((x + dx) * mm, (y + dy) * mm)
            if shape.closed:
                path.close()
            canvas.drawPath(path)
        elif isinstance(shape, Circle):
            canvas.circle((shape.x_mm + dx) * mm, (shape.y_mm + dy) * mm, shape.radius_mm * mm)
        else:
            canvas.setFont("Helvetica", shape.size_mm * mm)
            at = (shape.x_mm + dx) * mm, (shape.y_mm + dy) * mm
            canvas.drawString(*at, printable(shape.text))
