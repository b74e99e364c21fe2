"""What every printed sheet shares: templates, own fonts, printed codes, PDF."""

from __future__ import annotations

import io
from collections.abc import Mapping
from functools import cache
from pathlib import Path
from typing import Final

import segno
from jinja2 import Environment, FileSystemLoader, StrictUndefined, Template
from markupsafe import Markup

from jorvek.core.figures import Figure
from jorvek.messages import isolated, number_text, speaking

_HERE: Final = Path(__file__).parent
FONTS: Final = (_HERE / "fonts").as_uri()
"""Where the sheets find their fonts."""


def template(name: str) -> Template:
    """Return a template of this package; what it is not given is an error, what it is given is escaped."""
    return _environment().get_template(name)


@cache
def _environment() -> Environment:
    """Return what holds the templates, each read and compiled once; what depends on the reader is asked at each use."""
    environment = Environment(
        loader=FileSystemLoader(_HERE), autoescape=True, undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True
    )
    environment.finalize = lambda shown: isolated(shown) if type(shown) is str else shown
    environment.globals["language"] = speaking.get
    environment.filters["num"] = number_text
    return environment


def figure_text(figure: Figure | None) -> str:
    """Return a figure with its unit as the reader's language writes it; nothing where there is none."""
    return "" if figure is None else f"{number_text(figure.text)} {figure.unit}".strip()


def to_pdf(html: str, identifier: str, photos: Mapping[str, bytes] | None = None) -> bytes:
    """Return a sheet as PDF bytes; the same sheet gives the same pages.

    Args:
        html: the sheet.
        identifier: 32 hex digits that name its contents.
        photos: JPEG files by name, for the pictures in it.
    """
    # The printer is read with the first sheet: a server that prints none, and every command, goes without.
    from jorvek.reports.printer import printed

    return printed(html, bytes.fromhex(identifier), photos or {})


def code(address: str) -> Markup:
    """Return an address as a printed code."""
    out = io.BytesIO()
    segno.make(address, error="m").save(out, kind="svg", xmldecl=False, svgns=True, border=0, omitsize=True)
    return Markup(out.getvalue().decode())  # noqa: S704 — drawn by segno from an address of ours
