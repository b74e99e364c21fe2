"""Photographs: files named by the hash of their content, written once."""

from __future__ import annotations

import hashlib
import os
from dataclasses import dataclass
from pathlib import Path
from uuid import uuid4

from jorvek.core.refusal import Refusal


@dataclass(frozen=True)
class PhotoStore:
    """The directory that keeps the photographs; several servers share it, or a copy of it."""

    root: Path

    def keep(self, content: bytes) -> str:
        """Write a photograph for good and return its name; the same picture is kept once.

        Args:
            content: a JPEG file.
        """
        name = hashlib.sha256(content).hexdigest()
        path = self._path(name)
        if path.exists():
            return name
        path.parent.mkdir(parents=True, exist_ok=True)
        part = path.with_suffix(f".{uuid4().hex}.part")
        with part.open("wb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        part.replace(path)
        _settle(path.parent)
        return name

    def read(self, name: str) -> bytes:
        """Return a kept photograph.

        Raises:
            Refusal: ``no_such_photo``; ``photo_altered`` when the file is no longer what it was.
        """
        try:
            content = self._path(name).read_bytes()
        except OSError as error:
            raise Refusal("no_such_photo", photo=name[:12]) from error
        if hashlib.sha256(content).hexdigest() != name:
            raise Refusal("photo_altered", photo=name[:12])
        return content

    def files(self) -> list[Path]:
        """Return the files of all kept photographs as they are, altered ones included."""
        return sorted(self.root.glob("??/*.jpg"))

    def _path(self, name: str) -> Path:
        return self.root / name[:2] / f"{name}.jpg"


def _settle(directory: Path) -> None:
    """A file's new name is on the disk only once its directory is."""
    handle = os.open(directory, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
