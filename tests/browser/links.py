"""A cable between a tablet and its server that can be cut, or hold back what goes one way."""

from __future__ import annotations

import asyncio
import threading
from collections.abc import Coroutine
from contextlib import suppress
from typing import Any, Literal

from jorvek.local.mariadb import free_port

Way = Literal["asked", "answered"]


class Link:
    """Passes bytes on between a port of its own and the server's port.

    ``cut`` breaks every connection and takes no new one. ``hold`` keeps back what goes one way;
    ``mend`` lets everything through again, what was held back first: it arrives late.
    """

    def __init__(self, server_port: int) -> None:
        self.port, self._server_port = free_port(), server_port
        self.address = f"http://127.0.0.1:{self.port}"
        self._cut = False
        self._loop = asyncio.new_event_loop()
        self._open = {"asked": asyncio.Event(), "answered": asyncio.Event()}
        self._writers: set[asyncio.StreamWriter] = set()
        threading.Thread(target=self._loop.run_forever, daemon=True).start()
        self._do(self._listen())

    def _do(self, work: Coroutine[Any, Any, None]) -> None:
        asyncio.run_coroutine_threadsafe(work, self._loop).result(5)

    async def _listen(self) -> None:
        for way in self._open.values():
            way.set()
        await asyncio.start_server(self._pass, "127.0.0.1", self.port)

    async def _pass(self, from_tablet: asyncio.StreamReader, to_tablet: asyncio.StreamWriter) -> None:
        self._writers.add(to_tablet)
        to_server: asyncio.StreamWriter | None = None
        try:
            if self._cut:
                return
            from_server, to_server = await asyncio.open_connection("127.0.0.1", self._server_port)
            self._writers.add(to_server)
            await asyncio.gather(
                self._pump(from_tablet, to_server, "asked"), self._pump(from_server, to_tablet, "answered")
            )
        except OSError:
            pass  # the server is dead, or the tablet is: the other side sees the cable end
        finally:
            for writer in (to_tablet, to_server):
                if writer is not None:
                    self._writers.discard(writer)
                    writer.transport.abort()

    async def _pump(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter, way: Way) -> None:
        while chunk := await reader.read(65536):
            await self._open[way].wait()
            writer.write(chunk)
            await writer.drain()
        raise ConnectionResetError

    def cut(self) -> None:
        """Break everything, and take no new connection."""

        async def work() -> None:
            self._cut = True
            for writer in tuple(self._writers):
                writer.transport.abort()

        self._do(work())

    def hold(self, way: Way) -> None:
        """Keep back what is asked, or what is answered."""

        async def work() -> None:
            self._open[way].clear()

        self._do(work())

    def mend(self) -> None:
        """Let everything through again."""

        async def work() -> None:
            self._cut = False
            for way in self._open.values():
                way.set()

        with suppress(TimeoutError):
            self._do(work())
