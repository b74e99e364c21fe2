"""Server time that never runs backwards: set back, it stands still until caught up with; set forward, it says so."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from datetime import datetime, timedelta
from typing import Final

import structlog

_log = structlog.get_logger()
_BARELY: Final = timedelta(seconds=2)
"""Clocks of servers that follow one time source differ by less."""
_FAR: Final = timedelta(seconds=30)
"""Between two looks a clock that is only kept right gains less on the machine's own counter."""
_SAID_FOR: Final = timedelta(days=1)
"""So long a jump forward is shown: whoever comes on the next shift still sees it."""


def counted_s() -> float:
    """Return the seconds since the machine was started, its sleep among them: nobody sets that counter."""
    return time.clock_gettime(time.CLOCK_BOOTTIME)


class SteadyClock:
    """A clock that stands still where its source was set back, and says how far the source was set.

    Attributes:
        behind: by how much the source is behind what has been said already; zero in order.
        jumps: how often and how far it was set, in words, until that is written down.
    """

    def __init__(
        self,
        source: Callable[[], datetime],
        newest: datetime | None = None,
        counter_s: Callable[[], float] | None = None,
    ) -> None:
        """Follow a source, from the newest moment that stands in the logs on.

        Args:
            source: the clock that somebody may set.
            newest: the newest moment that stands in the logs.
            counter_s: seconds that nobody sets, to tell a jump forward by; without it none is seen.
        """
        self._source, self._counter_s, self._lock = source, counter_s, threading.Lock()
        self._read = source()
        self._counted_s = counter_s() if counter_s is not None else 0.0
        self._latest = newest or self._read
        self._forward: tuple[datetime, timedelta] | None = None
        self.behind = timedelta(0)
        self.jumps: tuple[str, ...] = ()

    def __call__(self) -> datetime:
        """Return server time, never earlier than before."""
        with self._lock:
            now = self._source()
            self._look_forward(now)
            if now >= self._latest:
                self._latest, self.behind = now, timedelta(0)
                return now
            behind = self._latest - now
            if behind > _BARELY and self.behind <= _BARELY:
                seconds, stands_at = round(behind.total_seconds()), self._latest.isoformat()
                _log.warning("clock_set_back", seconds=seconds, stands_at=stands_at)
                self.jumps = (*self.jumps, f"server clock set back by {seconds} s; time stands still at {stands_at}")
                self._forward = None
            self.behind = behind
            return self._latest

    def _look_forward(self, now: datetime) -> None:
        """Hold what the source has gained since the last look against the counter."""
        if self._counter_s is None:
            return
        counted_s = self._counter_s()
        gained = (now - self._read) - timedelta(seconds=counted_s - self._counted_s)
        self._read, self._counted_s = now, counted_s
        if gained > _FAR:
            seconds = round(gained.total_seconds())
            _log.warning("clock_set_forward", seconds=seconds, to=now.isoformat())
            self.jumps = (*self.jumps, f"server clock set forward by {seconds} s, to {now.isoformat()}")
            self._forward = (now, gained)

    def written_down(self, jumps: tuple[str, ...]) -> None:
        """Take note that jumps stand in the site log."""
        with self._lock:
            self.jumps = self.jumps[len(jumps) :]

    @property
    def behind_s(self) -> float | None:
        """By how many seconds the source is behind; None in order."""
        return self.behind.total_seconds() if self.behind > _BARELY else None

    @property
    def forward_s(self) -> float | None:
        """By how many seconds the source was set forward during the last day; None where it was not."""
        if self._forward is None or self._read - self._forward[0] > _SAID_FOR:
            return None
        return self._forward[1].total_seconds()
