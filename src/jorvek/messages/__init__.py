"""The message catalogue, shared by screens, API errors and paper."""

from __future__ import annotations

import json
import re
import unicodedata
from collections.abc import Mapping
from contextvars import ContextVar
from datetime import datetime
from functools import lru_cache
from pathlib import Path
from typing import Final
from zoneinfo import ZoneInfo

from babel import Locale
from babel.dates import format_datetime
from babel.numbers import get_decimal_symbol

Tree = dict[str, "str | Tree"]


LANGUAGES: Final = ("en", "de", "es", "nb")
"""Languages that have a catalogue, by their codes (RFC 5646)."""

speaking: ContextVar[str] = ContextVar("speaking", default="en")
"""Language of whoever is answered; English where nobody chose."""

clock_zone: ContextVar[str] = ContextVar("clock_zone", default="UTC")
"""Time zone of the clocks that whoever is answered reads; that of the site."""


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
    if isinstance(node, dict) and "by" in node:
        node = node[_category((params or {}).get(str(node["by"])), node, language)]
    if not isinstance(node, str):
        raise KeyError(key)
    kinds = _parameters().get(key, {})
    for name, value in (params or {}).items():
        node = node.replace("{" + name + "}", isolated(_worded(kinds.get(name, ""), value, language)))
    return node.replace("{'@'}", "@").replace("{'|'}", "|")


_OTHER_WAY: Final = frozenset({"R", "AL", "RLE", "RLO", "RLI", "LRE", "LRO", "LRI", "FSI", "PDF", "PDI"})


def isolated(text: str) -> str:
    """Return words that run the other way so that what stands beside them keeps its own; any others as they are.

    Source: Unicode Standard Annex 9, 2.4.2 (first strong isolate).
    """
    if not any(unicodedata.bidirectional(letter) in _OTHER_WAY for letter in text):
        return text
    inner = "".join(letter for letter in text if letter not in "\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")
    return f"\u2068{inner}\u2069"


def _category(count: str | float | None, forms: Tree, language: str | None) -> str:
    """Return which form of a message a count takes: a form for each plural category of the language, ``by`` a figure.

    Source: the plural rules of the Unicode common locale data, by Babel.
    """
    try:
        category: str = _locale(language).plural_form(float(str(count)))
    except ValueError:
        return "other"
    return category if category in forms else "other"


def _locale(language: str | None) -> Locale:
    """Return how numbers, days and plurals are written in a language; the days of English as in Britain."""
    named = language or speaking.get()
    return Locale.parse("en_GB" if named == "en" else named)


@lru_cache(maxsize=1)
def _parameters() -> dict[str, dict[str, str]]:
    """Return of what type the parameters of messages are, where they are no figures: the file says it by message.

    ``part`` is a part by its title or its kind; ``given`` what somebody called something, in which 4.2 is no figure;
    anything else names the sections of the catalogue, in the order in which a word is looked for in them.
    """
    loaded: dict[str, dict[str, str]] = json.loads((Path(__file__).parent / "parameters.json").read_text("utf-8"))
    return loaded


_FIGURE = re.compile(r"([-−+±≈ ]*\d+)\.(\d+)( \S+|[°%])?")
_MOMENT = re.compile(r"\d{4}-\d{2}-\d{2}T\d{2}:\d{2}\S*(Z|[+-]\d{2}:\d{2})")


def number_text(text: str, language: str | None = None) -> str:
    """Return a figure, with or without its unit, with the decimal mark of a language; anything else as it is."""
    found = _FIGURE.fullmatch(text)
    return text if found is None else f"{found[1]}{get_decimal_symbol(_locale(language))}{found[2]}{found[3] or ''}"


def moment_text(at: datetime) -> str:
    """Return a moment by the clocks of whoever is answered, to the minute, with the zone: ``2 Mar 2026, 16:30 CET``."""
    here = at.astimezone(ZoneInfo(clock_zone.get()))
    return f"{format_datetime(here, 'd MMM y, HH:mm', tzinfo=here.tzinfo, locale=_locale(None))} {here:%Z}"


def _moment(value: str | float | None) -> str | None:
    """Return a moment that the core names in words; what somebody typed may look like one and be none."""
    if not isinstance(value, str) or not _MOMENT.fullmatch(value):
        return None
    try:
        return moment_text(datetime.fromisoformat(value))
    except (ValueError, OverflowError):
        return None


def _worded(kind: str, value: str | float | None, language: str | None) -> str:
    """Return a parameter as its type is said; a figure where none is named."""
    if kind == "part":
        return part_words(str(value), language)
    if kind == "given":
        return _plain(value)
    moment = _moment(value)
    shown = moment or number_text(value if isinstance(value, str) else _plain(value), language)
    return _in_words(tuple(kind.split()), shown, language)


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
