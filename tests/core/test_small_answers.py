"""A small touch gets a small answer: what changed between two views, and nothing lost on the way."""

from __future__ import annotations

import json
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jorvek.core.run.views.bench import bench_view
from jorvek.work.runs.changes import Change, SentViews, changes
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
    assert [one.value for one in changes([0], [False])] == [[False]]


def text_of(run: PaperRun) -> str:
    return bench_view(run.events[0].run_id, run.state, run.looking()).model_dump_json()


@pytest.mark.parametrize("name", ["corvane-v10-head-tighten", "tarnholt-7l34-head-tighten"])
def test_a_plain_pull_is_answered_in_less_than_three_kilobytes(name: str) -> None:
    run, sent, sizes = PaperRun(name), SentViews(), list[tuple[int, int]]()
    version = sent.keep(text_of(run))
    for _ in range(60):
        run.play_one()
        text = text_of(run)
        found = sent.since(version, text)
        made = json.loads(text) if found is None else carried_out(json.loads(sent._texts[version]), found)
        assert made == json.loads(text)
        version = sent.keep(text)
        sizes.append((len(text), len(text) if found is None else sum(len(one.model_dump_json()) for one in found)))
    middle = sorted(small for _, small in sizes)[len(sizes) // 2]
    assert middle <= 3000
    assert middle < sorted(whole for whole, _ in sizes)[len(sizes) // 2] / 3


def test_a_version_that_nobody_keeps_any_more_is_answered_whole() -> None:
    sent = SentViews()
    first = sent.keep('{"seq":0,"words":"the first one of many"}')
    assert sent.since(first, '{"seq":1,"words":"the first one of many"}') is not None
    assert sent.since(None, '{"seq":1}') is None
    assert sent.since("another", '{"seq":1}') is None
    for k in range(200):
        sent.keep(f'{{"seq":{k + 1}}}')
    assert sent.since(first, '{"seq":1,"words":"the first one of many"}') is None
