"""Each language says everything that English says, with the same figures in it, and in words of its own."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from itertools import pairwise
from pathlib import Path

import pytest

from jorvek import messages
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.answers import told
from jorvek.core.run.log.commands import Conflict
from jorvek.messages import LANGUAGES, Tree, catalogue, clock_zone, number_text, say, speaking
from jorvek.settings import ROOT

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
        *("Enter", "Hold", "Minus", "Over", "P — pause", "Pause", "Person {n}", "Plan", "Start"),
        *("Start: {title}", "Status", "hold", "normal", "over", "person", "side", "spiral"),
    },
}
"""Words that happen to be the same in English, looked at one by one."""
EVERYWHERE = {"CSV", "JSON", "Jorvek", "PDF", "PIN", "mm", "{n} min", "{h} h {min} min"}
WORDS = re.compile(r"[^\W\d_]{2,}")


def said(tree: Tree, place: str = "") -> Iterator[tuple[str, str]]:
    for key, value in tree.items():
        if isinstance(value, str):
            # Which figure a message counts by is a name, no word.
            if key != "by" or "other" not in tree:
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


def test_what_is_counted_has_a_form_for_one_and_one_for_more_in_every_language() -> None:
    assert say("reason.used_up", {"times": 1, "allowed": 3}).startswith("tightened 1 time,")
    assert say("reason.used_up", {"times": "2", "allowed": 3}).startswith("tightened 2 times,")
    assert say("refusal.not_complete", {"holes": 0, "owed": 1}).startswith("Not finished: 0 calls")
    assert say("refusal.not_complete", {"holes": 1, "owed": 0}, "de").startswith("Nicht fertig: 1 Aufruf offen")
    for language in LANGUAGES:
        for forms in counting(catalogue(language)):
            assert set(forms) == {"by", "one", "other"}, "what the plural rules of these languages tell apart"
            assert "{" + str(forms["by"]) + "}" in str(forms["other"])


def counting(tree: Tree) -> Iterator[Tree]:
    for value in tree.values():
        if isinstance(value, dict):
            yield from [value] if {"by", "other"} <= set(value) else counting(value)


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
    assert sorted(path.stem for path in place.glob("*.json")) == sorted([*LANGUAGES, "parameters"])


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


@pytest.mark.parametrize(
    ("written", "in_german"),
    [
        ("621.028", "621,028"),
        ("621.028 mm", "621,028 mm"),
        ("−0.5°", "−0,5°"),
        ("1020 bar", "1020 bar"),
        ("rev 1.2.3", "rev 1.2.3"),
        ("M52x3.5", "M52x3.5"),
        ("2026-03-02", "2026-03-02"),
        ("", ""),
    ],
)
def test_a_figure_has_the_mark_of_the_language_and_nothing_else_is_touched(written: str, in_german: str) -> None:
    assert number_text(written, "de") == in_german
    assert number_text(written, "en") == written


def test_what_is_said_has_figures_of_the_language_and_the_clock_of_the_site() -> None:
    between = {"earliest": "2026-03-02T15:30:10+00:00", "latest": "2026-07-02T15:30:00+00:00"}
    here = clock_zone.set("Europe/Oslo")
    try:
        assert "between 2 Mar 2026, 16:30 CET and 2 Jul 2026, 17:30 CEST" in say("refusal.written_when", between)
    finally:
        clock_zone.reset(here)
    assert "between 2 Mar 2026, 15:30 UTC" in say("refusal.written_when", between)
    for typed in ("2026-99-99T99:99+00:00", "0001-01-01T00:00+14:00", "2026-03-02T16:30", "2026-03-02T16:30 or so"):
        assert typed in say("refusal.no_such_choice", {"got": typed, "allowed": "en"}), "looks like a moment, is none"
    sealed = {"lock": "4.2", "point": "turning_gear"}
    assert "4.2" in say("engine.entry.isolated", {**sealed, "permit": ""}, "de"), (
        "a lock is called 4.2 in every language"
    )


def test_a_language_is_offered_by_the_server_and_by_the_screens_alike() -> None:
    screens = (ROOT / "web" / "src" / "i18n.ts").read_text(encoding="utf-8")
    assert tuple(re.findall(r'\{ code: "(\w+)"', screens)) == LANGUAGES


@pytest.mark.parametrize(
    ("answer", "told_in"),
    [
        (ev.FeelerAnswer(enters=False), {"en": "does not enter", "de": "geht nicht hinein"}),
        (ev.TurnAnswer(to_mark=True), {"en": "to the mark", "de": "bis zur Marke"}),
        (ev.ValueAnswer(text="612.5", unit="bar"), {"en": "612.5 bar", "de": "612,5 bar"}),
        (ev.WordsAnswer(text="enters"), {"en": "enters", "de": "enters"}),
    ],
)
def test_whoever_was_second_hears_in_their_own_language_what_stands_there(
    answer: ev.Answer, told_in: dict[str, str]
) -> None:
    refused = Conflict("one/two", told(answer), "Lio Sandvik")
    for language, words in told_in.items():
        assert words in say("refusal.cell_taken", refused.params, language)


def message(key: str) -> str:
    node: str | Tree = catalogue("en")
    for part in key.split("."):
        assert isinstance(node, dict), key
        node = node[part]
    return str(node["other"]) if isinstance(node, dict) else node


def test_what_is_said_of_a_parameter_is_said_of_one_that_the_message_has() -> None:
    kinds = json.loads((Path(messages.__file__).parent / "parameters.json").read_text(encoding="utf-8"))
    for key, typed in kinds.items():
        text = message(key)
        for name, kind in typed.items():
            assert f"{{{name}}}" in text, (key, name)
            assert kind in ("part", "given") or all(isinstance(catalogue()[one], dict) for one in kind.split()), kind


def test_a_parameter_is_said_by_its_type_whatever_it_is_called() -> None:
    """The same name is a word of the core in one message and what somebody wrote in another."""
    wrong = {"role": "mechanic", "wanted": "lead_hand"}
    assert "lead hand" in say("refusal.not_your_signature", wrong)
    assert "Vorarbeiter" in say("refusal.not_your_signature", wrong, "de")
    range_short = {"tool": "TW-05", "range": "300 N·m", "wanted": "320.5 N·m"}
    assert "320,5 N·m" in say("refusal.tool_range", range_short, "de"), "a figure, with the mark of the language"
    assert "4.2" in say("engine.entry.isolated", {"lock": "4.2", "point": "fuel"}, "de"), "a name stays as it was given"
