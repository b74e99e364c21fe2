"""The message catalogue, shared by screens, API errors and paper."""

from __future__ import annotations

import json
from collections.abc import Mapping
from contextvars import ContextVar
from functools import lru_cache
from pathlib import Path
from typing import Final

Tree = dict[str, "str | Tree"]


LANGUAGES: Final = ("en", "de", "es", "nb")
"""Languages that have a catalogue, by their codes (RFC 5646)."""

speaking: ContextVar[str] = ContextVar("speaking", default="en")
"""Language of whoever is answered; English where nobody chose."""


@lru_cache(maxsize=8)
def _read(language: str) -> Tree:
    loaded: Tree = json.loads((Path(__file__).parent / f"{language}.json").read_text(encoding="utf-8"))
    return loaded


def catalogue(language: str | None = None) -> Tree:
    """Return the catalogue of a language; that of whoever is answered when none is named."""
    return _read(language or speaking.get())


def known(key: str, language: str | None = None) -> bool:
    """Tell whether the catalogue has a message."""
    try:
        say(key, language=language)
    except (KeyError, TypeError, IndexError):
        return False
    return True


def say(key: str, params: Mapping[str, str | int | float | None] | None = None, language: str | None = None) -> str:
    """Return a message with its figures filled in.

    Args:
        key: place in the catalogue, parts joined by dots.
        params: figures by name.
        language: language code; that of whoever is answered when None.

    Raises:
        KeyError: when the catalogue has no such message, which is a fault of the program.
    """
    node: str | Tree = catalogue(language)
    for part in key.split("."):
        if not isinstance(node, dict):
            raise KeyError(key)
        node = node[part]
    if not isinstance(node, str):
        raise KeyError(key)
    for name, value in (params or {}).items():
        node = node.replace("{" + name + "}", _worded(name, value, language))
    return node.replace("{'@'}", "@").replace("{'|'}", "|")


_SECTIONS_OF = {
    "name": ("argument",),
    "against": ("argument",),
    "stands": ("condition",),
    "wanted": ("condition", "role"),
    "role": ("role",),
    "allowed": ("role",),
    "point": ("isolation",),
    "first": ("isolation",),
    "why": ("sweep",),
}
"""Parameters that may hold the core's names of things, which people know by other words, and where those stand."""
_PARTS = ("part", "what")


def _worded(name: str, value: str | float | None, language: str | None) -> str:
    if name in _PARTS:
        return part_words(str(value), language)
    return _in_words(_SECTIONS_OF.get(name, ()), value, language)


def part_words(part: str, language: str | None = None) -> str:
    """Return what a part is called: its author's title, or the words of its kind, as ``shell`` or ``lower:shell``."""
    which, _, kind = part.rpartition(":")
    words = catalogue(language)["part"]
    assert isinstance(words, dict)
    known = words.get(kind)
    return f"{which} {known}".strip() if isinstance(known, str) else part


def _in_words(sections: tuple[str, ...], value: str | float | None, language: str | None) -> str:
    """Return the words of a name, or of each of several between commas; what the catalogue does not know stays."""
    if not isinstance(value, str) or not sections:
        return _plain(value)
    return ", ".join(_word(sections, one, language) for one in value.split(", "))


def _word(sections: tuple[str, ...], name: str, language: str | None) -> str:
    for section in sections:
        words = catalogue(language)[section]
        assert isinstance(words, dict)
        known = words.get(name)
        if isinstance(known, str):
            return known
    return name


def _plain(value: str | float | None) -> str:
    if value is None:
        return "…"
    if isinstance(value, float):
        return f"{value:.6g}".replace("-", "−")
    return str(value)
