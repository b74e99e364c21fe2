"""A small touch gets a small answer: what changed between two views, and nothing lost on the way."""

from __future__ import annotations

import json
from typing import Any
from uuid import uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jorvek.core.run.log.commands import RedoWork
from jorvek.core.run.log.definition import define
from jorvek.core.run.log.fold import fold
from jorvek.core.run.rules.redo import redo_scope
from jorvek.core.run.views.bench import BenchView, bench_view
from jorvek.core.run.views.labels import View
from jorvek.work.runs.changes import Change, SentViews, Written, between, changes, written
from tests.core.paper_run import PaperRun

scalars = st.none() | st.booleans() | st.integers(-5, 5) | st.text(max_size=3)
values = st.recursive(
    scalars, lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.sampled_from("abcd"), inner, max_size=4)
)


def carried_out(before: Any, found: tuple[Change, ...]) -> Any:
    """What a tablet makes of what it knows."""
    holder = {"": json.loads(json.dumps(before))}
    for one in found:
        *way, last = ("", *one.place)
        at: Any = holder
        for key in way:
            at = at[key]
        match one.does:
            case "set" if isinstance(at, list) and last == len(at):
                at.append(one.value)
            case "set":
                at[last] = json.loads(json.dumps(one.value))
            case "drop":
                del at[last]
            case "cut":
                assert isinstance(one.value, int)
                del at[last][one.value :]
    return holder[""]


@given(values, values)
def test_what_changed_leads_from_any_view_to_any_other(before: Any, after: Any) -> None:
    found = tuple(changes(before, after))
    made = carried_out(before, found)
    assert json.dumps(made, sort_keys=True) == json.dumps(after, sort_keys=True)


@given(values)
def test_nothing_changed_is_nothing(value: Any) -> None:
    assert tuple(changes(value, json.loads(json.dumps(value)))) == ()


def test_true_is_not_one_and_zero_is_not_false() -> None:
    assert carried_out({"a": 1}, tuple(changes({"a": 1}, {"a": True}))) == {"a": True}
    assert [one.value for one in changes([0], [False])] == [False]
    assert [one.value for one in changes([1.0], [1])] == [1]


def shown(run: PaperRun) -> Written:
    return written(bench_view(run.events[0].run_id, run.state, run.looking()))


@pytest.mark.parametrize("name", ["corvane-v10-head-tighten", "tarnholt-7l34-head-tighten"])
def test_a_view_written_section_by_section_reads_as_one_written_whole(name: str) -> None:
    run = PaperRun(name)
    for _ in range(3):
        whole = bench_view(run.events[0].run_id, run.state, run.looking())
        assert json.loads(written(whole).text) == json.loads(whole.model_dump_json())
        assert BenchView.model_validate_json(written(whole).text) == whole
        run.play_one()


@pytest.mark.parametrize("name", ["corvane-v10-head-tighten", "tarnholt-7l34-head-tighten"])
def test_a_plain_pull_is_answered_in_less_than_three_kilobytes(name: str) -> None:
    run, sent, sizes = PaperRun(name), SentViews(), list[tuple[int, int]]()
    version = sent.keep(before := shown(run))
    for _ in range(60):
        run.play_one()
        now = shown(run)
        found = sent.since(version, now)
        made = json.loads(now.text) if found is None else carried_out(json.loads(before.text), found)
        assert made == json.loads(now.text)
        version, before = sent.keep(now), now
        whole = len(now.text)
        sizes.append((whole, whole if found is None else sum(len(one.model_dump_json()) for one in found)))
    middle = sorted(small for _, small in sizes)[len(sizes) // 2]
    assert middle <= 3000
    assert middle < sorted(whole for whole, _ in sizes)[len(sizes) // 2] / 3


class Said(View):
    """One thing said."""

    by: str


class Words(View):
    """A small view of its own."""

    seq: int
    words: str
    said: tuple[Said, ...] = ()


def words(seq: int, *by: str) -> Written:
    return written(Words(seq=seq, words="the first one of many", said=tuple(Said(by=one) for one in by)))


def test_a_list_of_views_grows_and_shrinks_entry_by_entry() -> None:
    for before, after in (((), ("a", "b")), (("a", "b", "c"), ("a",)), (("a", "b"), ("b", "b")), (("a",), ("a",))):
        old, new = words(1, *before), words(1, *after)
        assert carried_out(json.loads(old.text), tuple(between(old, new))) == json.loads(new.text)


def test_a_version_that_nobody_keeps_any_more_is_answered_whole() -> None:
    sent = SentViews()
    first = sent.keep(words(0))
    assert sent.since(first, words(1)) is not None
    assert sent.since(None, words(1)) is None
    assert sent.since("another", words(1)) is None
    for k in range(200):
        sent.keep(words(k + 1))
    assert sent.since(first, words(1)) is None


def test_what_is_carried_on_from_state_to_state_shows_what_a_run_read_anew_shows() -> None:
    """Strikes, work done again and a question in between: nothing that was worked out before outlives its reading."""
    run = PaperRun("tarnholt-7l34-head-tighten")
    run.play("first/nut/3")
    run.strike("first/nut/2")
    for _ in range(4):
        run.play_one()
        assert shown(run).text == shown_anew(run)
    run.play("second/raise")
    run.value("second/raise", "940", "bar")
    assert shown(run).text == shown_anew(run)
    run.play("length-after/length/3")
    scope = redo_scope(run.state, "length-after/length/2")
    run.send(RedoWork(kind="redo", id=uuid4(), cell="length-after/length/2", cells=scope, reason="Read badly"))
    assert shown(run).text == shown_anew(run)


def shown_anew(run: PaperRun) -> str:
    state = fold(define(run.state.definition.procedure), run.events)
    return written(bench_view(run.events[0].run_id, state, run.looking())).text
