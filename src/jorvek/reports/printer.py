"""The printer: a sheet as PDF pages, with its own fonts and photographs and nothing else."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Final
from urllib.parse import unquote, urlsplit

from weasyprint import HTML
from weasyprint.urls import URLFetcher, URLFetcherResponse

_HERE: Final = Path(__file__).parent
_PHOTO_SCHEME: Final = "photo:"
"""How a sheet names a photograph that it is given."""


def printed(html: str, identifier: bytes, photos: Mapping[str, bytes]) -> bytes:
    """Return a sheet as PDF bytes.

    Args:
        html: the sheet.
        identifier: names its contents within the file.
        photos: JPEG files by name, for the pictures in it.
    """
    document = HTML(string=html, base_url=str(_HERE), url_fetcher=_OwnFiles(photos))
    pdf = document.write_pdf(pdf_identifier=identifier)
    assert isinstance(pdf, bytes)
    return pdf


class _OwnFiles(URLFetcher):  # type: ignore[misc]  # the library has no types
    """Let the sheet load its own fonts and photographs and nothing else; a missing one stops the rendering."""

    def __init__(self, photos: Mapping[str, bytes]) -> None:
        super().__init__(allowed_protocols=("file",), fail_on_errors=True)
        self._photos = photos

    def fetch(self, url: str, headers: dict[str, str] | None = None) -> URLFetcherResponse:
        if url.startswith(_PHOTO_SCHEME):
            return URLFetcherResponse(
                url, self._photos[url.removeprefix(_PHOTO_SCHEME)], {"Content-Type": "image/jpeg"}
            )
        if _HERE not in Path(unquote(urlsplit(url).path)).resolve().parents:
            raise ValueError("a sheet loads nothing from outside")
        return super().fetch(url, headers)
