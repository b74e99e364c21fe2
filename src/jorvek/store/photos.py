"""Photographs: files named by the hash of their content, written once."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from jorvek.core.refusal import Refusal
from jorvek.store.files import Files

_PLACE: Final = "photo/"


@dataclass(frozen=True)
class PhotoStore:
    """Where the photographs are kept.

    Attributes:
        files: where they are kept, with everything else of the site.
        before: the directory in which older installations kept them; read, and not written to.
    """

    files: Files
    before: Path

    def keep(self, content: bytes) -> str:
        """Write a photograph for good and return its name; the same picture is kept once.

        Args:
            content: a JPEG file.
        """
        name = hashlib.sha256(content).hexdigest()
        self.files.change(_PLACE + name, lambda there: content if there is None else None)
        return name

    def read(self, name: str) -> bytes:
        """Return a kept photograph.

        Raises:
            Refusal: ``no_such_photo``; ``photo_altered`` when it is no longer what it was.
        """
        content = self.as_it_lies(name)
        if hashlib.sha256(content).hexdigest() != name:
            raise Refusal("photo_altered", photo=name[:12])
        return content

    def as_it_lies(self, name: str) -> bytes:
        """Return what is kept under a name, altered or not.

        Raises:
            Refusal: ``no_such_photo``.
        """
        content = self.files.read(_PLACE + name)
        if content is not None:
            return content
        try:
            return self._old(name).read_bytes()
        except OSError as error:
            raise Refusal("no_such_photo", photo=name[:12]) from error

    def names(self) -> list[str]:
        """Return the names of all kept photographs, altered ones included."""
        kept = {name.removeprefix(_PLACE) for name in self.files.names(_PLACE)}
        return sorted(kept | {file.stem for file in self.before.glob("??/*.jpg")})

    def _old(self, name: str) -> Path:
        return self.before / name[:2] / f"{name}.jpg"
