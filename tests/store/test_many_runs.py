"""Years of runs: what is held of them in memory is what stands in the tables, and lists hand out a part."""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from datetime import timedelta
from uuid import UUID

import pytest
import sqlalchemy as sa
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jorvek.store import runindex
from jorvek.store import tables as t
from jorvek.store.database import Database
from jorvek.store.runindex import NewestRuns, RunIndex, RunRow, run_rows
from jorvek.work.engine import berth
from jorvek.work.engine.berth import runs_listed
from jorvek.work.engine.surveys import strip_sheets
from tests.conftest import START, World


def as_it_stands(database: Database) -> list[RunRow]:
    with database.reading() as connection:
        return run_rows(connection)


def values(world: World, number: int, minutes: float, changed: float) -> dict[str, object]:
    """A run as a row: when it was begun and changed, in minutes after the start."""
    return {
        "id": str(UUID(int=number)),
        "engine_id": ("unit-2", "unit-4", "unit-5")[number % 3],
        "joint_key": f"head-{number % 5}",
        "procedure_hash": world.procedure,
        "started_at": START + timedelta(minutes=minutes),
        "open_joint": None if number % 2 else f"joint-{number}",
        "head_seq": 1,
        "head_hash": f"{number:064d}",
        "changed_at": START + timedelta(minutes=changed),
    }


ACTS = st.lists(
    st.tuples(
        st.sampled_from(("begin", "go_on", "bring_in", "take_away", "look")),
        st.integers(0, 11),
        st.integers(-600, 600),
    ),
    min_size=1,
    max_size=25,
)


@given(acts=ACTS)
@settings(max_examples=40, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_what_is_held_is_what_stands_whatever_happens_and_whatever_its_times_say(
    world: World, acts: list[tuple[str, int, int]]
) -> None:
    database = world.workshop.database
    index, goes_on = RunIndex(database), 0
    newest, seldom = NewestRuns(index), NewestRuns(index)
    with database.engine.begin() as connection:
        connection.execute(t.run.delete())
    for act, number, minutes in acts:
        here = t.run.c.id == str(UUID(int=number))
        with database.engine.begin() as connection:
            known = connection.execute(sa.select(t.run.c.id).where(here)).first() is not None
            match act:
                case "begin" | "bring_in" if not known:
                    # What is brought in was changed long ago.
                    changed = minutes if act == "begin" else minutes - 100_000
                    connection.execute(t.run.insert(), values(world, number, minutes, changed))
                case "go_on" if known:
                    goes_on += 1
                    head = {"head_seq": goes_on, "head_hash": f"{goes_on:064x}", "open_joint": None}
                    connection.execute(t.run.update().where(here).values(head))
                case "take_away":
                    connection.execute(t.run.delete().where(here))
        if act == "look":
            assert index.rows() == as_it_stands(database)
            assert newest.look() == newest_of(as_it_stands(database))
    assert index.rows() == as_it_stands(database)
    assert newest.look() == seldom.look() == newest_of(as_it_stands(database))


def newest_of(rows: list[RunRow]) -> tuple[dict[tuple[str, str], RunRow], list[RunRow]]:
    """The newest run of every joint, and the open ones, worked out from all of them."""
    newest: dict[tuple[str, str], RunRow] = {}
    for row in rows:
        newest.setdefault((row.engine_id, row.joint_key), row)
    return newest, [row for row in rows if row.open]


def test_whoever_looks_after_more_changes_than_are_remembered_looks_at_everything(
    world: World, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(runindex, "_REMEMBERED", 3)
    database = world.workshop.database
    index = RunIndex(database)
    with database.engine.begin() as connection:
        connection.execute(t.run.insert(), [values(world, n, n, n) for n in range(1, 6)])
    first, everything, anew = index.changed_since(-1)
    assert (len(everything), anew) == (5, True)

    def go_on(n: int) -> None:
        with database.engine.begin() as connection:
            here, later = t.run.c.id == str(UUID(int=1)), START + timedelta(minutes=n)
            connection.execute(t.run.update().where(here).values(head_seq=n, head_hash=f"{n:064d}", changed_at=later))
        index.rows()

    for n in (11, 12, 13):
        go_on(n)
    now, changed, anew = index.changed_since(first)
    assert ([row.head_seq for row in changed], anew) == ([11, 12, 13], False)
    assert index.changed_since(now) == (now, [], False)
    go_on(14)
    _, changed, anew = index.changed_since(first)
    assert (len(changed), anew) == (5, True)


def test_what_is_not_committed_is_seen_by_nobody_else(world: World) -> None:
    database = world.workshop.database
    index = RunIndex(database)
    assert index.rows() == []

    class GivenUpError(Exception):
        pass

    def work(connection: sa.Connection) -> None:
        connection.execute(t.run.insert(), values(world, 1, 0, 0))
        assert [row.id for row in index.rows()] == [UUID(int=1)], "whoever decides sees what it has written itself"
        raise GivenUpError

    with pytest.raises(GivenUpError):
        database.transact(work)
    assert index.rows() == []


@contextmanager
def rows_read(database: Database) -> Iterator[list[int]]:
    """Count the heads that come over the wire at each question for them."""
    found: list[int] = []

    def look(_: object, cursor: object, statement: str, *rest: object) -> None:
        if "FROM run" in statement.replace("\n", " ") and "bit_xor" not in statement:
            found.append(cursor.rowcount)  # type: ignore[attr-defined]  # a cursor of the driver

    sa.event.listen(database.readers, "after_cursor_execute", look)
    yield found
    sa.event.remove(database.readers, "after_cursor_execute", look)


def test_a_second_look_reads_what_has_changed_and_no_more(world: World) -> None:
    database = world.workshop.database
    with database.engine.begin() as connection:
        connection.execute(t.run.insert(), [values(world, n, n, n) for n in range(1, 301)])
    index = RunIndex(database)
    with rows_read(database) as read:
        assert len(index.rows()) == 300
        assert len(index.rows()) == 300
    assert read[0] == 300
    assert read[1] <= 3, "those of the last two minutes, which may have become visible late"


def played_heads(world: World, *joints: str) -> None:
    for joint in joints:
        world.started("Lio Sandvik", joint).play(lambda cell: cell.kind == "tool_issue")
        world.clock.forward(60)


def test_records_are_found_by_words_engine_and_state(world: World) -> None:
    shop = world.workshop
    played_heads(world, "head-4", "head-5", "head-6")
    everything = runs_listed(shop)
    assert [run.joint for run in everything.runs] == ["Head 6", "Head 5", "Head 4"]
    assert [(one.id, one.name) for one in everything.engines] == [("unit-2", "Unit 2")]
    assert [run.joint for run in runs_listed(shop, words="sandvik HEAD 5").runs] == ["Head 5"]
    assert runs_listed(shop, words="sandvik head 9").found == 0
    assert runs_listed(shop, words=f"{START:%Y-%m-%d}").found == 3
    assert runs_listed(shop, words=f"{START:%d.%m.%Y}").found == 3
    assert runs_listed(shop, words=f"{START:%d %b}").found == 3, "as it stands on the screen"
    assert runs_listed(shop, engine_id="unit-4").runs == ()
    assert runs_listed(shop, engine_id="unit-2", state="open").found == 3
    assert runs_listed(shop, state="closed").found == 0
    assert runs_listed(shop, state="exceptions").found == sum(run.exceptions > 0 for run in everything.runs)


def test_the_newest_are_handed_out_and_how_many_there_are_is_said(
    world: World, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(berth, "_MOST_LISTED", 2)
    played_heads(world, "head-4", "head-5", "head-6")
    for words in ("", "sandvik"):
        listed = runs_listed(world.workshop, words=words)
        assert [run.joint for run in listed.runs] == ["Head 6", "Head 5"]
        assert listed.found == 3


def test_strips_are_those_of_the_engine_that_was_worked_on_last_and_has_any(world: World) -> None:
    shop, summaries = world.workshop, {r.id: r.hash for r in world.workshop.registers.revisions()}
    loosened = world.player("Lio Sandvik")
    loosened.start("grey-plover", "main-3", summaries["ulvane-5x46-main-loosen"])
    loosened.play(lambda cell: cell.key == "free/free/E")
    world.clock.forward(60)
    world.started("Lio Sandvik", "head-4")
    shown = strip_sheets(shop)
    assert (shown.engine, len(shown.sheets)) == ("grey-plover", 1)
    assert {one.id for one in shown.engines} == {"grey-plover", "unit-2"}
    assert strip_sheets(shop, "unit-2").sheets == ()
    assert strip_sheets(shop, "nowhere").sheets == ()
    assert strip_sheets(shop, "grey-plover") == shown


def test_many_who_look_at_once_while_runs_change_miss_none_of_the_changes(world: World) -> None:
    """A follower that was handed a version once is told of whatever is not in it, however the looks cross."""
    database = world.workshop.database
    with database.engine.begin() as connection:
        connection.execute(t.run.insert(), [values(world, n, n, n) for n in range(1, 6)])
    index = RunIndex(database)
    followers = [NewestRuns(index) for _ in range(4)]

    def go_on(k: int) -> None:
        for n in range(25):
            here = t.run.c.id == str(UUID(int=k + 1))
            change = {"head_seq": n + 2, "head_hash": f"{k}{n:063d}", "changed_at": START + timedelta(minutes=10)}
            with database.engine.begin() as connection:
                connection.execute(t.run.update().where(here).values(change))
            followers[k].look()

    with ThreadPoolExecutor(4) as pool:
        list(pool.map(go_on, range(4)))
    for follower in followers:
        assert follower.look() == newest_of(as_it_stands(database))
