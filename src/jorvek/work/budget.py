"""What costs much memory or time is done a few at a time; who comes when too many wait is told when to come again."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import wraps
from threading import BoundedSemaphore, Lock
from typing import Final, ParamSpec, TypeVar

from jorvek.core.refusal import Refusal

P = ParamSpec("P")
R = TypeVar("R")


class Gate:
    """Lets a few through at once and a few more wait.

    Args:
        at_once: how many at once.
        waiting: how many may wait for them.
        seconds: after how long those that find it full come again.
    """

    def __init__(self, at_once: int, waiting: int, seconds: int) -> None:
        self._through = BoundedSemaphore(at_once)
        self._room, self._seconds = at_once + waiting, seconds
        self._inside, self._lock = 0, Lock()

    @contextmanager
    def passed(self) -> Iterator[None]:
        """Wait for one's turn, and hold it.

        Raises:
            Refusal: ``busy`` with the seconds after which to come again, when too many wait already.
        """
        with self._lock:
            if self._inside >= self._room:
                raise Refusal("busy", seconds=self._seconds)
            self._inside += 1
        try:
            with self._through:
                yield
        finally:
            with self._lock:
                self._inside -= 1

    def __call__(self, act: Callable[P, R]) -> Callable[P, R]:
        """Return an act that passes through here each time; it may refuse as ``busy``."""

        @wraps(act)
        def through(*args: P.args, **rest: P.kwargs) -> R:
            with self.passed():
                return act(*args, **rest)

        return through


class OneByOne:
    """Lets those who come under one name through one after the other; under different names nobody waits.

    Args:
        waiting: how many may wait in all.
        seconds: after how long those that find it full come again.
    """

    def __init__(self, waiting: int, seconds: int) -> None:
        self._most, self._seconds, self._lock = waiting, seconds, Lock()
        self._turns: dict[str, tuple[Lock, int]] = {}

    @contextmanager
    def turn(self, name: str) -> Iterator[None]:
        """Wait for one's turn under a name, and hold it.

        Raises:
            Refusal: ``busy`` with the seconds after which to come again, when too many wait already.
        """
        with self._lock:
            if sum(waiting for _, waiting in self._turns.values()) >= self._most:
                raise Refusal("busy", seconds=self._seconds)
            mine, waiting = self._turns.get(name, (Lock(), 0))
            self._turns[name] = (mine, waiting + 1)
        try:
            with mine:
                yield
        finally:
            with self._lock:
                waiting = self._turns[name][1] - 1
                if waiting:
                    self._turns[name] = (mine, waiting)
                else:
                    del self._turns[name]


HASHING: Final = Gate(at_once=2, waiting=8, seconds=2)
"""PINs: each takes 64 MiB for a moment."""
PICTURES: Final = Gate(at_once=1, waiting=8, seconds=5)
"""Photographs: one of sixty million points takes some hundred MB while it is drawn anew."""
PAPER: Final = Gate(at_once=1, waiting=8, seconds=5)
"""Sheets: several at once would keep readings waiting."""
DOCUMENTS: Final = Gate(at_once=1, waiting=4, seconds=5)
"""Documents and archives that are brought in, read and checked."""
SEARCHES: Final = Gate(at_once=2, waiting=14, seconds=2)
"""Looking for names, all through the site."""
SIGNING_IN: Final = OneByOne(waiting=64, seconds=2)
"""Tries at PINs, by the address they come from: whether one was right is known before the next one is counted."""
