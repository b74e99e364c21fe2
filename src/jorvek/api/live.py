"""Live updates: each process looks for new events and tells its own listeners."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator
from datetime import timedelta

from jorvek.work.workshop import DatabaseAwayError, Workshop

POLL_SECONDS = 0.25
_HEARTBEAT_SECONDS = 10.0
_LOOK_BACK = timedelta(seconds=15)


class Live:
    """Tells listeners which run has reached which event.

    No broker is needed: every process polls the database, so a second process or machine
    sees the same. What is sent is only *that* a run went on; screens fetch the state.
    """

    def __init__(self, workshop: Workshop) -> None:
        self._workshop = workshop
        self._listeners: set[asyncio.Queue[str]] = set()
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
                self._known[run_id] = seq
                self._tell(json.dumps({"run_id": run_id, "seq": seq}))

    def _tell(self, message: str) -> None:
        for queue in self._listeners:
            queue.put_nowait(message)

    async def stream(self) -> AsyncIterator[str]:
        """Yield server-sent events until the listener goes."""
        queue: asyncio.Queue[str] = asyncio.Queue()
        self._listeners.add(queue)
        try:
            yield "retry: 1000\n\n: open\n\n"
            while True:
                try:
                    message = await asyncio.wait_for(queue.get(), _HEARTBEAT_SECONDS)
                except TimeoutError:
                    yield ": here\n\n"
                else:
                    yield f"event: run\ndata: {message}\n\n"
        finally:
            self._listeners.discard(queue)
