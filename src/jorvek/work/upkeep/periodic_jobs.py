"""What a server does by itself, every few seconds, for as long as it serves."""

from __future__ import annotations

import socket
from collections.abc import Callable
from threading import Event, Thread
from typing import Final

import structlog

from jorvek import __version__
from jorvek.store.serving import Servers
from jorvek.work.workshop import Workshop

_log = structlog.get_logger()
HERE_EVERY_S: Final = 5.0


class Attending:
    """Does one thing again and again in a thread of its own; a fault is told, and it goes on."""

    def __init__(self, name: str, every_s: float, act: Callable[[], object]) -> None:
        self._name, self._every_s, self._act = name, every_s, act
        self._stop = Event()
        self._thread = Thread(target=self._run, name=name, daemon=True)

    def start(self) -> None:
        """Begin."""
        self._thread.start()

    def stop(self) -> None:
        """End, when what is being done is done."""
        self._stop.set()
        self._thread.join()

    def once(self) -> None:
        """Do it now."""
        try:
            self._act()
        except Exception as error:
            _log.warning(self._name, what=f"{type(error).__name__}: {error}")

    def _run(self) -> None:
        while not self._stop.wait(self._every_s):
            self.once()


def servers_of(workshop: Workshop) -> Servers:
    """Return the servers of the site, with this one as its host names it."""
    return Servers(workshop.database, socket.gethostname(), __version__)
