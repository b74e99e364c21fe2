"""Server time that never runs backwards: set back, it stands still until it is caught up with."""

from __future__ import annotations

import threading
from collections.abc import Callable
from datetime import datetime, timedelta
from typing import Final

import structlog

_log = structlog.get_logger()
_BARELY: Final = timedelta(seconds=2)
"""Clocks of servers that follow one time source differ by less."""


class SteadyClock:
    """A clock that stands still where its source was set back, and says by how much.

    Attributes:
        behind: by how much the source is behind what has been said already; zero in order.
        jumps: how often and how far it was set back, in words, until that is written down.
    """

    def __init__(self, source: Callable[[], datetime], newest: datetime | None = None) -> None:
        """Follow a source, from the newest moment that stands in the logs on."""
        self._source, self._lock = source, threading.Lock()
        self._latest = newest or source()
        self.behind = timedelta(0)
        self.jumps: tuple[str, ...] = ()

    def __call__(self) -> datetime:
        """Return server time, never earlier than before."""
        with self._lock:
            now = self._source()
            if now >= self._latest:
                self._latest, self.behind = now, timedelta(0)
                return now
            behind = self._latest - now
            if behind > _BARELY and self.behind <= _BARELY:
                seconds, stands_at = round(behind.total_seconds()), self._latest.isoformat()
                _log.warning("clock_set_back", seconds=seconds, stands_at=stands_at)
                self.jumps = (*self.jumps, f"server clock set back by {seconds} s; time stands still at {stands_at}")
            self.behind = behind
            return self._latest

    def written_down(self, jumps: tuple[str, ...]) -> None:
        """Take note that jumps stand in the site log."""
        with self._lock:
            self.jumps = self.jumps[len(jumps) :]

    @property
    def behind_s(self) -> float | None:
        """By how many seconds the source is behind; None in order."""
        return self.behind.total_seconds() if self.behind > _BARELY else None
