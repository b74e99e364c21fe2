"""Who looks on hears that a run went on, and a listener that sleeps costs nothing."""

from __future__ import annotations

import asyncio
import json
from uuid import uuid4

import pytest

from jorvek.api import live as live_updates
from jorvek.api.live import Live
from jorvek.core.run.log.commands import Note
from tests.conftest import World


def said(message: str) -> dict[str, object]:
    return dict(json.loads(message.partition("data: ")[2]))


def test_a_listener_hears_of_a_run_once_and_of_its_latest_event(world: World) -> None:
    first, second = world.started(joint="head-4"), world.started(joint="head-5")

    async def story() -> None:
        live = Live(world.workshop)
        awake, asleep = live.stream(lambda: True), live.stream(lambda: True)
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
        stream = live.stream(lambda: True)
        await anext(stream)
        await live._look()
        assert len(live._known) == 2, "the run and its engine"
        world.clock.forward(60)
        await live._look()
        assert live._known == {}
        await stream.aclose()

    asyncio.run(story())


def test_a_listener_whose_session_has_ended_hears_no_more(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(live_updates, "_ASKED_EVERY_SECONDS", 0.0)
    monkeypatch.setattr(live_updates, "_HEARTBEAT_SECONDS", 0.01)
    signed_in = True

    async def story() -> None:
        nonlocal signed_in
        live = Live(world.workshop)
        stream = live.stream(lambda: signed_in)
        assert (await anext(stream)).startswith("retry")
        assert await anext(stream) == ": here\n\n"
        signed_in = False
        with pytest.raises(StopAsyncIteration):
            await anext(stream)
        assert not live._listeners

    asyncio.run(story())
