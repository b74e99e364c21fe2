"""Each language says everything that English says, with the same figures in it, and in words of its own."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from itertools import pairwise
from pathlib import Path

import pytest

from jorvek import messages
from jorvek.messages import LANGUAGES, Tree, catalogue, say, speaking

OTHERS = tuple(one for one in LANGUAGES if one != "en")
SAME = {
    "de": {
        *("Band", "Enter", "Gas", "Minus", "Name", "Person {n}", "Plan"),
        *("normal", "normal {p}", "warm", "{text}. Name:"),
    },
    "es": {
        *("Gas", "Plan", "horizontal", "horizontal, mm", "nominal", "normal", "normal {p}", "protector"),
        *("vertical", "vertical, mm"),
    },
    "nb": {
        *("1 person", "Enter", "Hold", "Minus", "Over", "P — pause", "Pause", "Person {n}", "Plan", "Start"),
        *("Start: {title}", "Status", "hold", "normal", "over", "person", "side", "spiral"),
    },
}
"""Words that happen to be the same in English, looked at one by one."""
EVERYWHERE = {"CSV", "JSON", "Jorvek", "PDF", "PIN", "mm", "{n} min", "{h} h {min} min"}
WORDS = re.compile(r"[^\W\d_]{2,}")


def said(tree: Tree, place: str = "") -> Iterator[tuple[str, str]]:
    for key, value in tree.items():
        if isinstance(value, str):
            yield f"{place}{key}", value
        else:
            yield from said(value, f"{place}{key}.")


def figures(text: str) -> list[str]:
    return sorted(re.findall(r"\{[^}]*\}", text))


@pytest.mark.parametrize("language", OTHERS)
def test_nothing_is_missing_nothing_is_left_over_and_every_figure_is_there(language: str) -> None:
    english, other = dict(said(catalogue("en"))), dict(said(catalogue(language)))
    assert list(other) == list(english)
    odd = {key: text for key, text in other.items() if figures(text) != figures(english[key])}
    assert odd == {}
    assert {key for key, text in english.items() if not text} == {key for key, text in other.items() if not text}


@pytest.mark.parametrize("language", OTHERS)
def test_no_words_are_left_in_english(language: str) -> None:
    english, other = dict(said(catalogue("en"))), dict(said(catalogue(language)))
    alike = {
        text for key, text in other.items() if text == english[key] and WORDS.search(re.sub(r"\{[^}]*\}", "", text))
    }
    assert alike - EVERYWHERE == SAME[language], "each of them is looked at before it is allowed"


@pytest.mark.parametrize("language", OTHERS)
def test_what_is_told_apart_in_english_is_told_apart_in_every_language(language: str) -> None:
    """Two verdicts, two states, two conditions that read alike would be taken for each other."""
    for section in ("verdict", "state", "condition", "role", "isolation", "part_where", "by_rank"):
        english, other = catalogue("en")[section], catalogue(language)[section]
        assert isinstance(english, dict)
        assert isinstance(other, dict)
        assert len(set(map(str, other.values()))) == len(set(map(str, english.values()))), section


def test_catalogues_are_written_in_one_way() -> None:
    place = Path(messages.__file__).parent
    for language in LANGUAGES:
        text = (place / f"{language}.json").read_text(encoding="utf-8")
        assert text == json.dumps(json.loads(text), ensure_ascii=False, indent=2) + "\n"
    assert sorted(path.stem for path in place.glob("*.json")) == sorted(LANGUAGES)


def test_words_and_the_names_in_them_are_of_the_language_of_whoever_is_answered() -> None:
    refused = {"allowed": "chief, lead_hand"}
    told = []
    for language in LANGUAGES:
        token = speaking.set(language)
        told.append(say("refusal.not_your_right", refused))
        speaking.reset(token)
    assert "chief, lead hand" in told[0]
    assert "Chef, Vorarbeiter" in told[1]
    assert all(one != other for one, other in pairwise(told))
    assert say("refusal.not_your_right", refused) == told[0], "English where nobody chose"
