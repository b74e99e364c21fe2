"""Live updates: each process looks for new events and tells its own listeners."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncGenerator
from datetime import timedelta

from jorvek.work.workshop import DatabaseAwayError, Workshop

POLL_SECONDS = 0.25
_HEARTBEAT_SECONDS = 10.0
_LOOK_BACK = timedelta(seconds=15)


class _Listener:
    """What one listener has not been told yet: a run at most once, however slowly it listens."""

    def __init__(self) -> None:
        self._waiting: dict[str, int] = {}
        self._told = asyncio.Event()

    def tell(self, run_id: str, seq: int) -> None:
        """Have it told of a run; an earlier word about the same run is of no interest any more."""
        self._waiting[run_id] = seq
        self._told.set()

    async def news(self) -> dict[str, int]:
        """Return what there is to tell, once there is something."""
        await self._told.wait()
        self._told.clear()
        news, self._waiting = self._waiting, {}
        return news


class Live:
    """Tells listeners which run has reached which event.

    No broker is needed: every process polls the database, so a second process or machine
    sees the same. What is sent is only *that* a run went on; screens fetch the state.
    """

    def __init__(self, workshop: Workshop) -> None:
        self._workshop = workshop
        self._listeners: set[_Listener] = set()
        self._known: dict[str, int] = {}

    async def run(self) -> None:
        """Poll until cancelled."""
        while True:
            if self._listeners:
                await self._look()
            await asyncio.sleep(POLL_SECONDS)

    async def _look(self) -> None:
        since = self._workshop.clock() - _LOOK_BACK
        try:
            heads = await asyncio.to_thread(self._workshop.registers.heads_since, since)
        except DatabaseAwayError:
            return  # the next look tries again; listeners see their own requests fail meanwhile
        for run_id, seq in heads.items():
            if self._known.get(run_id) != seq:
                for listener in self._listeners:
                    listener.tell(run_id, seq)
        # A run that nobody worked on of late comes back only with another number.
        self._known = dict(heads)

    async def stream(self) -> AsyncGenerator[str]:
        """Yield server-sent events until the listener goes."""
        listener = _Listener()
        self._listeners.add(listener)
        try:
            yield "retry: 1000\n\n: open\n\n"
            while True:
                try:
                    news = await asyncio.wait_for(listener.news(), _HEARTBEAT_SECONDS)
                except TimeoutError:
                    yield ": here\n\n"
                else:
                    for run_id, seq in news.items():
                        yield f"event: run\ndata: {json.dumps({'run_id': run_id, 'seq': seq})}\n\n"
        finally:
            self._listeners.discard(listener)
