"""Who looks on hears that a run went on, and a listener that sleeps costs nothing."""

from __future__ import annotations

import asyncio
import json
from collections.abc import Callable
from typing import Never
from uuid import uuid4

import pytest

from jorvek.api.live import Live
from jorvek.core.run.log.commands import Note
from jorvek.local.demo import DEMO_PIN, actor
from jorvek.work.people import accounts
from jorvek.work.people.accounts import token_hash
from jorvek.work.workshop import DatabaseAwayError
from tests.conftest import World


def session(world: World) -> str:
    """A session that stands."""
    token, _ = accounts.sign_in(world.workshop, actor(world.workshop, "Bram Okafor").id, DEMO_PIN)
    return token_hash(token)


def raises(error: Exception) -> Callable[..., Never]:
    """A call that goes wrong."""

    def gone_wrong(*_: object) -> Never:
        raise error

    return gone_wrong


def said(message: str) -> dict[str, object]:
    return dict(json.loads(message.partition("data: ")[2]))


def test_a_listener_hears_of_a_run_once_and_of_its_latest_event(world: World) -> None:
    first, second = world.started(joint="head-4"), world.started(joint="head-5")

    async def story() -> None:
        live = Live(world.workshop)
        awake, asleep = live.stream(session(world)), live.stream(session(world))
        for stream in (awake, asleep):
            assert (await anext(stream)).startswith("retry")
        await live._look()
        heard = [said(await anext(awake)) for _ in range(3)]
        assert {one.get("run_id") for one in heard} == {str(first.run_id), str(second.run_id), None}
        assert [one["seq"] for one in heard if "overhaul_id" in one], "and of the engine on which they are"
        for _ in range(5):
            first.send(Note(kind="note", id=uuid4(), text="Seen"))
            await live._look()
        assert said(await anext(awake)) == {"run_id": str(first.run_id), "seq": first.state().seq}
        # Five events and two runs later the sleeper is told of two runs, each as it stands.
        late = {
            str(one["run_id"]): one["seq"] for one in [said(await anext(asleep)) for _ in range(3)] if "run_id" in one
        }
        assert late == {str(run.run_id): run.state().seq for run in (first, second)}
        await live._look()
        assert not any(listener._waiting for listener in live._listeners), "nothing new is told twice"
        for stream in (awake, asleep):
            await stream.aclose()
        assert not live._listeners

    asyncio.run(story())


def test_what_was_told_long_ago_is_forgotten(world: World) -> None:
    world.started(joint="head-4")

    async def story() -> None:
        live = Live(world.workshop)
        stream = live.stream(session(world))
        await anext(stream)
        await live._look()
        assert len(live._known) == 2, "the run and its engine"
        world.clock.forward(60)
        await live._look()
        world.clock.forward(60)
        await live._look()
        assert live._known == {}
        await stream.aclose()

    asyncio.run(story())


def test_after_signing_out_a_listener_hears_nothing_more_not_even_what_came_with_it(world: World) -> None:
    run = world.started(joint="head-4")
    token, _ = accounts.sign_in(world.workshop, actor(world.workshop, "Lio Sandvik").id, DEMO_PIN)

    async def story() -> None:
        live = Live(world.workshop)
        gone, stays = live.stream(token_hash(token)), live.stream(session(world))
        for stream in (gone, stays):
            assert (await anext(stream)).startswith("retry")
        await live._look()
        for _ in range(2):
            await anext(gone)
            await anext(stays)
        accounts.sign_out(world.workshop, token)
        run.send(Note(kind="note", id=uuid4(), text="Seen"))
        await live._look()
        with pytest.raises(StopAsyncIteration):
            await anext(gone)
        assert said(await anext(stays))["seq"] == run.state().seq
        await stays.aclose()
        assert not live._listeners

    asyncio.run(story())


def test_whoever_begins_to_listen_while_it_looks_is_told_too(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    world.started(joint="head-4")

    async def story() -> None:
        live = Live(world.workshop)
        first, second = live.stream(session(world)), live.stream(session(world))
        await anext(first)
        standing = live._standing

        def looks(sessions: set[str]) -> set[str]:
            asyncio.run_coroutine_threadsafe(anext(second), loop).result()
            return standing(sessions)

        loop = asyncio.get_running_loop()
        monkeypatch.setattr(live, "_standing", looks)
        await live._look()
        assert "run_id" in said(await anext(second)) or "run_id" in said(await anext(second))
        for stream in (first, second):
            await stream.aclose()

    asyncio.run(story())


def test_what_happened_while_it_could_not_look_is_told(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    run = world.started(joint="head-4")

    async def story() -> None:
        live = Live(world.workshop)
        stream = live.stream(session(world))
        await anext(stream)
        await live._look()
        for _ in range(2):
            await anext(stream)
        run.send(Note(kind="note", id=uuid4(), text="Seen"))
        world.clock.forward(20)
        with monkeypatch.context() as away:
            away.setattr(live, "_standing", raises(DatabaseAwayError("away")))
            await live._look()
        # Two minutes go by before the machine gets to it again.
        world.clock.forward(120)
        await live._look()
        assert said(await anext(stream)) == {"run_id": str(run.run_id), "seq": run.state().seq}
        await stream.aclose()

    asyncio.run(story())


def test_whoever_begins_to_listen_is_told_what_the_others_heard_just_before(world: World) -> None:
    run = world.started(joint="head-4")

    async def story() -> None:
        live = Live(world.workshop)
        first, second = live.stream(session(world)), live.stream(session(world))
        await anext(first)
        await live._look()
        await anext(second)
        await live._look()
        heard = [said(await anext(second)) for _ in range(2)]
        assert {"run_id": str(run.run_id), "seq": run.state().seq} in heard
        for stream in (first, second):
            await stream.aclose()

    asyncio.run(story())
