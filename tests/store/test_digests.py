"""What lists say of the runs: worked out once, the same as from the log itself, and never older than the log."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from uuid import uuid4

import pytest
import sqlalchemy as sa

from jorvek.core.run.log.commands import NameCause
from jorvek.local.demo import DEMO_PIN, actor
from jorvek.store import run_summaries
from jorvek.store import tables as t
from jorvek.work.engine import berth, surveys
from jorvek.work.runs.same_kind_joints import rejected_pieces
from jorvek.work.workshop import Workshop
from tests.conftest import World


@contextmanager
def logs_read(shop: Workshop) -> Iterator[list[str]]:
    """Count the looks into the events of a run."""
    seen: list[str] = []

    def look(*called: object) -> None:
        if "FROM event" in str(called[2]).replace("\n", " "):
            seen.append(str(called[2]))

    sa.event.listen(shop.database.readers, "before_cursor_execute", look)
    yield seen
    sa.event.remove(shop.database.readers, "before_cursor_execute", look)


def everything(shop: Workshop) -> list[object]:
    """All that lists say, by people who may see all of it."""
    chief = actor(shop, "Ines Halloran")
    said: list[object] = [berth.berth(shop, chief), berth.runs_listed(shop), rejected_pieces(shop)]
    return [*said, surveys.strip_sheets(shop), surveys.gates_along(shop)]


def again(world: World) -> Workshop:
    """The server is started anew."""
    return Workshop(world.workshop.database, world.clock, photo_dir=world.workshop.photo_dir)


def closed_heads(world: World) -> None:
    """Head 4 is loosened, with a stud that goes for good, and tightened; both runs are closed."""
    chief = actor(world.workshop, "Ines Halloran")
    of = {r.id: r.hash for r in world.workshop.registers.revisions()}
    for name in ("tarnholt-7l34-head-loosen", "tarnholt-7l34-head-tighten"):
        player = world.player("Bram Okafor")
        player.start("unit-2", "head-4", of[name])
        player.play()
        for cell in [d for d in player.state().definition.cells if d.item == "decision"][:1]:
            player.photograph(cell.key)
        player.sign(chief, DEMO_PIN)
        player.play()
        player.close(chief)


def test_lists_say_what_the_logs_say_and_do_not_read_closed_ones_twice(world: World) -> None:
    closed_heads(world)
    open_run = world.started("Lio Sandvik", "head-5")
    open_run.play(lambda cell: cell.key == "first/raise")
    first = everything(world.workshop)
    with logs_read(world.workshop) as seen:
        assert everything(world.workshop) == first
    assert seen == []

    # A new server reads the open run, and nothing of the closed ones.
    anew = again(world)
    with logs_read(anew) as seen:
        assert everything(anew) == first
    assert len(seen) == 1

    # Without any digest the logs say the very same.
    with anew.database.engine.begin() as connection:
        connection.execute(t.run_digest.delete())
    assert everything(again(world)) == first


def test_a_reading_and_a_question_to_a_closed_run_are_seen_at_once(world: World) -> None:
    closed_heads(world)
    shop = world.workshop
    player = world.started("Lio Sandvik", "head-5")
    before = {run.run_id: run for run in berth.runs_listed(shop).runs}
    player.play(lambda cell: cell.key == "first/raise")
    after = {run.run_id: run for run in berth.runs_listed(shop).runs}
    assert (before[player.run_id].readings, after[player.run_id].readings > 5) == (0, True)

    # A cause named on head 5 asks head 4, whose run is closed; every server hears of it.
    other = again(world)
    everything(other)
    cell = next(iter(player.state().counting))
    named = NameCause(kind="name_cause", id=uuid4(), cell=cell, cause="Dirt under the nut")
    player.send(named)
    for each in (shop, other):
        home = berth.berth(each, actor(each, "Lio Sandvik"))
        assert [(w.joint, w.title) for w in home.waiting if w.what == "sister"] == [("Head 4", "Dirt under the nut")]
        (unit_2,) = (engine for engine in home.engines if engine.id == "unit-2")
        states = {joint.label: joint.state for joint in unit_2.joints}
        assert states["Head 4"] == "question"


STARTING = ("studs", "on_engine")
"""What a run begins with is worked out when one starts."""


def test_what_does_not_fit_or_another_program_worked_out_is_not_believed(
    world: World, monkeypatch: pytest.MonkeyPatch
) -> None:
    closed_heads(world)
    told = everything(world.workshop)
    with world.workshop.database.engine.begin() as connection:
        listed = sa.select(sa.func.count()).select_from(t.run_digest).where(t.run_digest.c.name.not_in(STARTING))
        count = connection.execute(listed).scalar_one()
        connection.execute(t.run_digest.update().values(body="{}"))
    assert count == 2 * 6, "six kinds of list"
    assert everything(again(world)) == told, "a damaged one is worked out again"
    with world.workshop.database.engine.begin() as connection:
        connection.execute(sa.text("UPDATE run_digest SET body = REPLACE(body, 'false', 'true')"))
    assert everything(again(world)) == told, "what somebody has written over is no summary of this program's"
    with world.workshop.database.engine.begin() as connection:
        connection.execute(t.run_digest.update().values(head_hash="0" * 64))
    assert everything(again(world)) == told, "one of another state is worked out again"
    with world.workshop.database.reading() as connection:
        before = set(connection.execute(sa.select(t.run_digest.c.program)).scalars())
    monkeypatch.setattr(run_summaries, "program", lambda: "another")
    anew = again(world)
    assert everything(anew) == told
    with anew.database.reading() as connection:
        lists = sa.select(t.run_digest.c.program).where(t.run_digest.c.name.not_in(STARTING))
        marks = set(connection.execute(lists).scalars())
    assert not marks & before, "each is marked anew"
