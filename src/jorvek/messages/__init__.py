"""The message catalogue, shared by screens, API errors and paper."""

from __future__ import annotations

import json
from functools import lru_cache
from pathlib import Path

Tree = dict[str, "str | Tree"]


@lru_cache(maxsize=8)
def catalogue(language: str = "en") -> Tree:
    """Return the catalogue of a language."""
    loaded: Tree = json.loads((Path(__file__).parent / f"{language}.json").read_text(encoding="utf-8"))
    return loaded


def known(key: str, language: str = "en") -> bool:
    """Tell whether the catalogue has a message."""
    try:
        say(key, language=language)
    except (KeyError, TypeError, IndexError):
        return False
    return True


def say(key: str, params: dict[str, str | int | float | None] | None = None, language: str = "en") -> str:
    """Return a message with its figures filled in.

    Args:
        key: place in the catalogue, parts joined by dots.
        params: figures by name.
        language: language code.

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


_SECTION_OF = {
    "name": "argument",
    "against": "argument",
    "stands": "condition",
    "wanted": "condition",
    "point": "isolation",
    "first": "isolation",
    "why": "sweep",
}
"""Parameters that may hold the core's names of things, which people know by other words, and where those stand."""
_PARTS = ("part", "what")


def _worded(name: str, value: str | float | None, language: str) -> str:
    if name in _PARTS:
        return part_words(str(value), language)
    section = _SECTION_OF.get(name)
    return _plain(value) if section is None else _in_words(section, value, language)


def part_words(part: str, language: str = "en") -> str:
    """Return what a part is called: its author's title, or the words of its kind, as ``shell`` or ``lower:shell``."""
    which, _, kind = part.rpartition(":")
    words = catalogue(language)["part"]
    assert isinstance(words, dict)
    known = words.get(kind)
    return f"{which} {known}".strip() if isinstance(known, str) else part


def _in_words(section: str, value: str | float | None, language: str) -> str:
    """Return the words of a name, or of each of several between commas; what the catalogue does not know stays."""
    words = catalogue(language)[section]
    assert isinstance(words, dict)
    if not isinstance(value, str):
        return _plain(value)
    known = ((one, words.get(one)) for one in value.split(", "))
    return ", ".join(text if isinstance(text, str) else one for one, text in known)


def _plain(value: str | float | None) -> str:
    if value is None:
        return "…"
    if isinstance(value, float):
        return f"{value:.6g}".replace("-", "−")
    return str(value)
