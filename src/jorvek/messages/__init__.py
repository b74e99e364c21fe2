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


_NAMING = ("name", "against")
"""Parameters that may hold the core's name of an argument, which people know by other words."""


def _worded(name: str, value: str | float | None, language: str) -> str:
    if name == "part":
        return part_words(str(value), language)
    return _in_words(value, language) if name in _NAMING else _plain(value)


def part_words(part: str, language: str = "en") -> str:
    """Return what a part is called: its author's title, or the words of its kind, as ``shell`` or ``lower:shell``."""
    which, _, kind = part.rpartition(":")
    words = catalogue(language)["part"]
    assert isinstance(words, dict)
    known = words.get(kind)
    return f"{which} {known}".strip() if isinstance(known, str) else part


def _in_words(value: str | float | None, language: str) -> str:
    words = catalogue(language)["argument"]
    assert isinstance(words, dict)
    known = words.get(str(value))
    return known if isinstance(known, str) else _plain(value)


def _plain(value: str | float | None) -> str:
    if value is None:
        return "…"
    if isinstance(value, float):
        return f"{value:.6g}".replace("-", "−")
    return str(value)
