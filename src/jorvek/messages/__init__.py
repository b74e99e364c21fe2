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
        node = node.replace("{" + name + "}", _plain(value))
    return node.replace("{'@'}", "@").replace("{'|'}", "|")


def _plain(value: str | float | None) -> str:
    if value is None:
        return "…"
    if isinstance(value, float):
        return f"{value:.6g}".replace("-", "−")
    return str(value)
