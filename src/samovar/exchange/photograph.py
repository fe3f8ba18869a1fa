"""A photograph from a file: turned upright, scaled for a page, without what its camera noted of place and person."""

from __future__ import annotations

import io
from dataclasses import dataclass
from pathlib import Path

from samovar.exchange.problems import InputError

LARGEST_PX = 2000
"""The longer side that is kept: enough for a page's width in print at 250 dots an inch."""
MOST_BYTES = 80_000_000
MOST_PIXELS = 120_000_000
"""A larger picture is no photograph for a review, and would take all memory."""
QUALITY = 86
"""Of JPEG: above it files grow, and nobody sees why."""
FORMATS = {"JPEG": "jpg", "PNG": "png", "WEBP": "jpg", "TIFF": "jpg", "MPO": "jpg"}
"""What is read, and what it is kept as."""


@dataclass(frozen=True, slots=True)
class Taken:
    """A picture as it is kept: its kind (`jpg`, `png`) and its bytes."""

    kind: str
    image: bytes


def read_photograph(path: Path) -> Taken:
    """Read a photograph.

    Raises:
        InputError: there is no such file, it is no picture, or too large.
    """
    from PIL import Image, ImageOps, UnidentifiedImageError

    if not path.is_file():
        raise InputError(f"{path}: there is no such file; name a JPEG, PNG, WebP or TIFF picture")
    if path.stat().st_size > MOST_BYTES:
        raise InputError(f"{path}: over {MOST_BYTES // 1_000_000} MB; scale it down first")
    try:
        with Image.open(path) as opened:
            if opened.format not in FORMATS:
                raise InputError(f"{path}: {opened.format} is not read; save it as JPEG or PNG")
            if opened.width * opened.height > MOST_PIXELS:
                raise InputError(
                    f"{path}: over {MOST_PIXELS // 1_000_000} million pixels; scale it down first"
                )
            kind = FORMATS[opened.format]
            upright = ImageOps.exif_transpose(opened).convert(
                "RGBA" if kind == "png" and "A" in opened.getbands() else "RGB"
            )
    except (
        UnidentifiedImageError,
        OSError,
        ValueError,
        SyntaxError,
        Image.DecompressionBombError,
    ) as problem:
        raise InputError(f"{path}: cannot be read as a picture; save it again as JPEG or PNG") from problem
    upright.thumbnail((LARGEST_PX, LARGEST_PX))
    out = io.BytesIO()
    if kind == "png":
        upright.save(out, "PNG", optimize=True)
    else:
        upright.save(out, "JPEG", quality=QUALITY)
    return Taken(kind, out.getvalue())


def scaled(image: bytes, width_px: int) -> bytes:
    """A kept picture no wider than this, in its own kind."""
    from PIL import Image

    with Image.open(io.BytesIO(image)) as opened:
        if opened.width <= width_px:
            return image
        kind = opened.format or "JPEG"
        small = opened.resize((width_px, round(opened.height * width_px / opened.width)))
    out = io.BytesIO()
    small.save(out, kind, **({"quality": QUALITY} if kind == "JPEG" else {"optimize": True}))
    return out.getvalue()
