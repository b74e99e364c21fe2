"""Taking in photographs: what is no picture is refused, and nothing of the camera's notes is kept."""

from __future__ import annotations

import ctypes
from contextlib import suppress
from io import BytesIO
from typing import Final

from PIL import Image, ImageOps, UnidentifiedImageError

from jorvek.core.refusal import Refusal
from jorvek.work.budget import PICTURES
from jorvek.work.workshop import Workshop

MAX_PHOTO_BYTES: Final = 10_000_000
_LONGEST_SIDE_PX: Final = 2400
_MOST_PIXELS: Final = 60_000_000
_FORMATS: Final = ("JPEG", "PNG", "WEBP")
_QUALITY: Final = 85


def take_in(workshop: Workshop, content: bytes) -> str:
    """Keep a photograph and return its name.

    The picture is drawn anew, upright: place, time and maker that a camera writes into the file are gone.

    Args:
        workshop: the workshop.
        content: what was sent.

    Raises:
        Refusal: ``photo_too_large``; ``busy``; ``no_photo`` for anything that is not a picture of a known kind.
    """
    if len(content) > MAX_PHOTO_BYTES:
        raise Refusal("photo_too_large", limit=MAX_PHOTO_BYTES // 1_000_000)
    out = BytesIO()
    with PICTURES.passed():
        try:
            _drawn_anew(content).save(out, "JPEG", quality=_QUALITY)
        finally:
            _give_back()
    return workshop.photos.keep(out.getvalue())


def _give_back() -> None:
    """Return to the machine what a picture took: the C library keeps freed memory for itself otherwise."""
    with suppress(AttributeError, OSError):
        ctypes.CDLL(None).malloc_trim(0)


def _drawn_anew(content: bytes) -> Image.Image:
    try:
        with Image.open(BytesIO(content), formats=_FORMATS) as sent:
            if sent.width * sent.height > _MOST_PIXELS:
                raise Refusal("photo_too_large", limit=MAX_PHOTO_BYTES // 1_000_000)
            # A camera's picture is unpacked at about the size it is kept at; what is upright is turned as a small one.
            sent.draft("RGB", (_LONGEST_SIDE_PX, _LONGEST_SIDE_PX))
            sent.thumbnail((_LONGEST_SIDE_PX, _LONGEST_SIDE_PX))
            upright = ImageOps.exif_transpose(sent).convert("RGB")
    except Refusal:
        raise
    except (UnidentifiedImageError, Image.DecompressionBombError, OSError, ValueError, SyntaxError) as error:
        raise Refusal("no_photo", allowed=", ".join(_FORMATS)) from error
    upright.info.clear()
    return upright


def size_of(workshop: Workshop, name: str) -> tuple[int, int] | None:
    """Return width and height in pixels of a kept photograph, None when there is none of that name."""
    try:
        with Image.open(BytesIO(workshop.photos.read(name)), formats=("JPEG",)) as kept:
            return kept.size
    except Refusal:
        return None
