"""Files out of a zip that somebody sent: never more than is allowed, whatever the zip says of itself."""

from __future__ import annotations

import io
import struct
import zipfile
import zlib
from collections.abc import Callable
from dataclasses import dataclass

_MOST_RATIO = 100
"""Text packs to a tenth; what unpacks to a hundred times its size was made for that."""
_PACKED = (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED)
_LITTLE = 10_000
"""Below so many bytes the ratio says nothing."""


class NotAZipError(ValueError):
    """It cannot be read as a zip."""


class TooMuchError(ValueError):
    """It holds more than is taken."""


@dataclass(frozen=True)
class Most:
    """How much is taken: files, bytes of one, bytes of all together."""

    files: int
    each: int
    together: int


def members(raw: bytes, wanted: Callable[[str], bool], most: Most) -> list[tuple[str, bytes]]:
    """Return the wanted files of a zip, in its order.

    Args:
        raw: the zip.
        wanted: tells by its name whether a file is.
        most: how much is taken; one byte more of a file is read, so that whoever reads it sees that it is too long.

    Raises:
        NotAZipError: when it is damaged, or packed in a way that is not read.
        TooMuchError: when it holds too much, or packs it too tightly.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(raw)) as archive:
            infos = [info for info in archive.infolist() if wanted(info.filename)]
            if len(infos) > most.files or sum(info.file_size for info in infos) > most.together:
                raise TooMuchError
            if any(_too_tight(info) for info in infos):
                raise TooMuchError
            if any(info.compress_type not in _PACKED for info in infos):
                raise NotAZipError("packed in a way that is not read")
            return [(info.filename, _read(archive, info, most.each + 1)) for info in infos]
    except (NotAZipError, TooMuchError):
        raise
    # What the library raises over a damaged archive: the last two of the line for flags and ways it does not read.
    except (
        *(zipfile.BadZipFile, zipfile.LargeZipFile, zlib.error, struct.error, NotImplementedError, RuntimeError),
        *(OSError, EOFError, ValueError, IndexError, OverflowError),
    ) as error:
        raise NotAZipError(str(error)) from error


def _too_tight(info: zipfile.ZipInfo) -> bool:
    return info.file_size > _LITTLE and info.file_size > info.compress_size * _MOST_RATIO


def _read(archive: zipfile.ZipFile, info: zipfile.ZipInfo, at_most: int) -> bytes:
    with archive.open(info) as member:
        return member.read(at_most)
