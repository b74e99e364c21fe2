"""What is sent from outside, damaged by a library that looks which way through the readers each damage takes.

Run with ``./jorvek bench readers WHAT SECONDS``, WHAT one of ``documents``, ``archives``, ``pictures``. A fault that
is no refusal, more than two seconds for one of them or more than 600 MB end the run, and what did it is kept beside.
"""

from __future__ import annotations

import io
import sys
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path
from zipfile import ZIP_DEFLATED, ZipFile

import atheris

with atheris.instrument_imports(include=["jorvek", "yaml", "zipfile", "PIL"]):
    from PIL import Image

    from jorvek.core.refusal import Refusal
    from jorvek.documents.yaml_reader import DocumentRefused
    from jorvek.local.drawn import drawn_photo
    from jorvek.settings import ROOT
    from jorvek.work.library.archive import _documents
    from jorvek.work.library.checking import checked_lines
    from jorvek.work.library.revisions import read_procedure
    from jorvek.work.runs.photos import _drawn_anew

SECONDS_EACH = 2
MOST_MB = 600


def read_document(raw: bytes) -> None:
    """Read a procedure as the library does, and check it."""
    checked_lines(raw)


def read_archive(raw: bytes) -> None:
    """Unpack an archive as the library does, and read what is in it."""
    for _, text in _documents(raw)[:1]:
        read_procedure(text)


def read_picture(raw: bytes) -> None:
    """Draw a picture anew as every photograph is."""
    _drawn_anew(raw)


def some_documents() -> Iterator[bytes]:
    """Yield the shipped procedures."""
    for place in ("procedures", "sheets", "world/engines"):
        yield from (file.read_bytes() for file in sorted((ROOT / place).glob("*.yaml")))


def some_archives() -> Iterator[bytes]:
    """Yield a few archives with small things in them."""
    documents = [file.read_bytes() for file in sorted((ROOT / "procedures").glob("*.yaml"))[:3]]
    for inside in ([b"kind: procedure"], documents[:1], [b"", b"x: [1, 2]"]):
        out = io.BytesIO()
        with ZipFile(out, "w", ZIP_DEFLATED) as archive:
            for k, text in enumerate(inside):
                archive.writestr(f"{k}.yaml", text)
        yield out.getvalue()


def some_pictures() -> Iterator[bytes]:
    """Yield small pictures of each kind that is taken in."""
    yield drawn_photo(1)
    small = Image.open(io.BytesIO(drawn_photo(2))).resize((40, 30))
    for kind in ("JPEG", "PNG", "WEBP"):
        out = io.BytesIO()
        small.save(out, kind)
        yield out.getvalue()


READERS: dict[str, tuple[Callable[[bytes], None], Callable[[], Iterator[bytes]]]] = {
    "documents": (read_document, some_documents),
    "archives": (read_archive, some_archives),
    "pictures": (read_picture, some_pictures),
}


def main(what: str, seconds: int) -> None:
    read, some = READERS[what]

    def one(raw: bytes) -> None:
        try:
            read(raw)
        except (Refusal, DocumentRefused):
            return

    with tempfile.TemporaryDirectory() as corpus:
        for k, raw in enumerate(some()):
            (Path(corpus) / str(k)).write_bytes(raw)
        limits = [f"-max_total_time={seconds}", f"-timeout={SECONDS_EACH}", f"-rss_limit_mb={MOST_MB}"]
        atheris.Setup([sys.argv[0], corpus, *limits, "-max_len=60000", "-print_final_stats=1", "-verbosity=1"], one)
        atheris.Fuzz()


if __name__ == "__main__":
    main(sys.argv[1], int(sys.argv[2]) if len(sys.argv) > 2 else 600)
