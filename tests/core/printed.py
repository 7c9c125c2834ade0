"""What really stands on the sheets of a PDF: its content is unpacked and its operators are
followed, with nothing of the program that wrote it."""

from __future__ import annotations

import base64
import re
import zlib
from dataclasses import dataclass, field

POINTS_PER_MM = 72 / 25.4
_STREAM = re.compile(rb"/Length \d+\s*>>\s*stream\r?\n(.*?)endstream", re.S)
_TOKEN = re.compile(rb"\((?:\\.|[^\\)])*\)|[^\s()]+")


@dataclass
class Sheet:
    """One page: straight lines and texts, in mm from its lower left corner."""

    lines: list[tuple[tuple[float, float], tuple[float, float]]] = field(default_factory=list)
    texts: list[str] = field(default_factory=list)

    @property
    def lengths(self) -> list[float]:
        return [((a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2) ** 0.5 for a, b in self.lines]


def sheets(pdf: bytes) -> list[Sheet]:
    """Every page of it."""
    assert pdf.startswith(b"%PDF-")
    assert pdf.rstrip().endswith(b"%%EOF")
    return [
        _followed(zlib.decompress(base64.a85decode(s.strip().removesuffix(b"~>"))))
        for s in _STREAM.findall(pdf)
    ]


def _followed(content: bytes) -> Sheet:
    sheet, operands = Sheet(), []
    at = (0.0, 0.0)
    for token in _TOKEN.findall(content):
        if token in (b"m", b"l"):
            x, y = (float(v) / POINTS_PER_MM for v in operands[-2:])
            if token == b"l":
                sheet.lines.append((at, (x, y)))
            at = (x, y)
        elif token == b"Tj":
            raw = operands[-1][1:-1]
            octal = re.sub(rb"\\(\d{3})", lambda m: bytes([int(m[1], 8)]), raw)
            sheet.texts.append(re.sub(rb"\\(.)", rb"\1", octal).decode("cp1252"))
        operands = [] if token.isalpha() else [*operands, token]
    return sheet
