"""Names as they are told, drawn and written into files."""

from __future__ import annotations

import unicodedata

_JOINERS = "\u200c\u200d"
"""Some scripts, and some pictures, are not written without them."""


def tidied(name: str) -> str:
    """A name in one line, without the signs that nobody sees: they turn the text about it round,
    or break the line of a calendar that it is written into."""
    seen = "".join(" " if c in "\t\r\n\u2028\u2029" else c for c in name)
    kept = "".join(c for c in seen if c in _JOINERS or unicodedata.category(c) not in ("Cc", "Cf"))
    return " ".join(kept.split()) if kept != name else name
