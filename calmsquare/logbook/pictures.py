"""Photos as they are kept: upright, no larger than needed, without where they were taken."""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass

from PIL import Image, ImageOps, UnidentifiedImageError

from truing.measure.problem import Problem

MOST_BYTES = 15_000_000
MOST_PIXELS = 60_000_000
"""Of a JPEG, which is read at half or a quarter of its size straight away."""
MOST_WHOLE_PIXELS = 25_000_000
"""Of what can only be read whole."""
LARGE_PX = 1600
SMALL_PX = 320
TYPES = ("JPEG", "PNG", "WEBP")


@dataclass(frozen=True)
class Picture:
    """A photo in two sizes, both JPEG and with nothing but the picture in them."""

    large: bytes
    small: bytes
    width: int
    height: int


def picture(data: bytes) -> Picture:
    """Take a photo in. Problem when it is too large or not a picture that can be read."""
    if len(data) > MOST_BYTES:
        raise Problem(
            f"This file has {len(data) / 1e6:.0f} MB.",
            expected=f"A photo of up to {MOST_BYTES / 1e6:.0f} MB.",
            field="photo",
        )
    with warnings.catch_warnings():
        warnings.simplefilter("error", Image.DecompressionBombWarning)
        try:
            opened = Image.open(io.BytesIO(data), formats=TYPES)
            most = MOST_PIXELS if opened.format == "JPEG" else MOST_WHOLE_PIXELS
            if opened.width * opened.height > most:
                raise Image.DecompressionBombError
            # made small before anything else, so that the whole of it lies in memory once at most
            opened.thumbnail((LARGE_PX, LARGE_PX))
            # the camera's note of which way is up is applied, then dropped with all other notes
            upright = ImageOps.exif_transpose(opened).convert("RGB")
        except (Image.DecompressionBombError, Image.DecompressionBombWarning):
            raise Problem(
                "This picture has too many pixels.",
                expected=f"A JPEG of up to {MOST_PIXELS / 1e6:.0f} million, a PNG or WebP of up to "
                f"{MOST_WHOLE_PIXELS / 1e6:.0f} million.",
                field="photo",
            ) from None
        except (UnidentifiedImageError, OSError, ValueError, SyntaxError):
            raise Problem(
                "This file is not a picture that can be read.",
                expected="A photo as JPEG, PNG or WebP.",
                field="photo",
            ) from None
    return Picture(
        large=_jpeg(upright),
        small=_jpeg(_fitted(upright, SMALL_PX)),
        width=upright.width,
        height=upright.height,
    )


def _fitted(image: Image.Image, px: int) -> Image.Image:
    copy = image.copy()
    copy.thumbnail((px, px))
    return copy


def _jpeg(image: Image.Image) -> bytes:
    out = io.BytesIO()
    bare = Image.new("RGB", image.size)
    bare.paste(image)
    bare.save(out, "JPEG", quality=82, optimize=True)
    return out.getvalue()
