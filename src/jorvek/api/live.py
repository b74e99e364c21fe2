"""Live updates: each process looks for new events and tells its own listeners."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncGenerator
from datetime import datetime, timedelta
from typing import Literal, TypeAlias

from jorvek.measures import STREAMS
from jorvek.work.workshop import DatabaseAwayError, Workshop

Sort: TypeAlias = Literal["run", "engine"]
POLL_SECONDS = 0.25
_HEARTBEAT_SECONDS = 10.0
_LOOK_BACK = timedelta(seconds=15)


class _Listener:
    """What one listener has not been told yet: a log at most once, however slowly it listens."""

    def __init__(self, session: str) -> None:
        self.session, self.ended, self.new = session, False, True
        self._waiting: dict[tuple[Sort, str], int] = {}
        self._told = asyncio.Event()

    def tell(self, log: tuple[Sort, str], seq: int) -> None:
        """Have it told of a run or an engine; an earlier word about the same one is of no interest any more."""
        self._waiting[log] = seq
        self._told.set()

    def end(self) -> None:
        """Have it hear nothing more: whoever listens is not signed in any more."""
        self.ended = True
        self._waiting = {}
        self._told.set()

    async def news(self) -> dict[tuple[Sort, str], int]:
        """Return what there is to tell, once there is something."""
        await self._told.wait()
        self._told.clear()
        news, self._waiting = self._waiting, {}
        return news


class Live:
    """Tells listeners which run, and which engine's overhaul, has reached which event.

    No broker is needed: every process polls the database, so a second process or machine
    sees the same. What is sent is only *that* a run went on; screens fetch the state.
    """

    def __init__(self, workshop: Workshop) -> None:
        self._workshop = workshop
        self._listeners: set[_Listener] = set()
        self._known: dict[tuple[Sort, str], int] = {}
        self._looked_at: datetime | None = None

    async def run(self) -> None:
        """Poll until cancelled."""
        while True:
            if self._listeners:
                await self._look()
            else:
                self._looked_at = None
            await asyncio.sleep(POLL_SECONDS)

    async def _look(self) -> None:
        now = self._workshop.clock()
        # Back from the last look that came to its end, however long ago: a busy machine looks seldom.
        since = min(now, self._looked_at or now) - _LOOK_BACK
        asked = {one.session for one in self._listeners}
        try:
            heads = await asyncio.to_thread(self._heads_since, since)
            # Before they are told: whoever has signed out meanwhile hears no more.
            standing = await asyncio.to_thread(self._standing, asked)
        except DatabaseAwayError:
            return  # the next look tries again; listeners see their own requests fail meanwhile
        news = {log: seq for log, seq in heads.items() if self._known.get(log) != seq}
        # Whoever began to listen meanwhile was signed in then.
        for listener in tuple(self._listeners):
            if listener.session in asked - standing:
                listener.end()
                continue
            # What the others know already, somebody who has just begun to listen may have missed.
            for log, seq in (heads if listener.new else news).items():
                listener.tell(log, seq)
            listener.new = False
        # A run that nobody worked on of late comes back only with another number.
        self._known, self._looked_at = dict(heads), now

    def _standing(self, sessions: set[str]) -> set[str]:
        return self._workshop.registers.standing(sessions, self._workshop.clock())

    def _heads_since(self, since: datetime) -> dict[tuple[Sort, str], int]:
        registers = self._workshop.registers
        heads: dict[tuple[Sort, str], int] = {}
        heads |= {("run", log): seq for log, seq in registers.heads_since(since).items()}
        heads |= {("engine", log): seq for log, seq in registers.overhaul_heads_since(since).items()}
        return heads

    async def stream(self, session: str) -> AsyncGenerator[str]:
        """Yield server-sent events until the listener goes, or is not signed in any more.

        Args:
            session: hash of the session that listens.
        """
        listener = _Listener(session)
        self._listeners.add(listener)
        STREAMS.inc()
        try:
            yield "retry: 1000\n\n: open\n\n"
            while not listener.ended:
                try:
                    news = await asyncio.wait_for(listener.news(), _HEARTBEAT_SECONDS)
                except TimeoutError:
                    yield ": here\n\n"
                else:
                    for (sort, log), seq in news.items():
                        name = "run_id" if sort == "run" else "overhaul_id"
                        yield f"event: {sort}\ndata: {json.dumps({name: log, 'seq': seq})}\n\n"
        finally:
            self._listeners.discard(listener)
            STREAMS.dec()
