"""Names that run from right to left, and cells that a spreadsheet would take for a formula."""

from __future__ import annotations

import unicodedata

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jorvek.messages import isolated, say
from jorvek.reports.table import disarm

HEBREW = "\u05d0\u05d1\u05d2"
OVERRIDE = "\u202eevil"


def test_a_name_that_runs_the_other_way_leaves_what_follows_as_it_is() -> None:
    told = say("refusal.person_inside", {"name": HEBREW}, "en")
    assert f"\u2068{HEBREW}\u2069" in told


def test_a_mark_that_turns_what_follows_is_taken_out_of_what_is_shown() -> None:
    assert isolated(OVERRIDE) == "\u2068evil\u2069"


@given(st.text())
def test_what_runs_our_way_is_shown_as_it_is_and_nothing_leaks_out_of_the_rest(text: str) -> None:
    shown = isolated(text)
    other = any(unicodedata.bidirectional(one) in ("R", "AL", "RLE", "RLO", "RLI") for one in text)
    assert (shown == text) or shown.startswith("\u2068")
    if other:
        assert shown.count("\u2068") == shown.count("\u2069") == 1


@pytest.mark.parametrize("start", ["=", "+", "-", "@", "＝", "＋", "－", "＠", "\t=", " =", "\u3000＝", "\r", "'"])
def test_no_cell_begins_a_formula(start: str) -> None:
    assert disarm(f"{start}1+1").startswith("'")


def test_words_stay_as_they_are() -> None:
    assert disarm("Head 4, 20.9 %") == "Head 4, 20.9 %"
