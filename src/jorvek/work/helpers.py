"""Processes beside the server, for what takes so long that no reading may wait for it.

Reading the program, its solver and its printer takes seconds. It is done once, by a process that waits to be asked and
then forks: it has no thread and no connection that could be in the middle of something.
"""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from multiprocessing.context import ForkServerProcess
from threading import Condition, Thread
from typing import Final, ParamSpec
from uuid import UUID

from jorvek.store.database import DatabaseAwayError

Given = ParamSpec("Given")
_ASKED: Final = multiprocessing.get_context("forkserver")
_ASKED.set_forkserver_preload(
    ["jorvek.work.plan.search", "jorvek.planning.solve", "jorvek.work.paper.dossiers", "weasyprint"]
)
"""What the helpers do, and the heavy libraries that they alone need: the server reads none of them."""


def helper(work: Callable[Given, None], *args: Given.args, **kwargs: Given.kwargs) -> ForkServerProcess:
    """Return a process that does some work once it is started, and is ended when the server is stopped in order.

    Args:
        work: a function of a module; it gets nothing of the server but what it is given.
        args: what it is given; numbers and texts.
        kwargs: as ``args``.
    """
    return _ASKED.Process(target=work, args=args, kwargs=kwargs, daemon=True)


@dataclass(eq=False)
class _Turn:
    """Somebody's place in a queue.

    Attributes:
        name: what it works for.
        process: does it.
        started: it is its turn.
        runs: the process runs.
        dropped: it was taken back.
    """

    name: UUID
    process: ForkServerProcess
    started: bool = False
    runs: bool = False
    dropped: bool = False


class HelperQueue:
    """Lets a few helpers of a kind work at once; the others wait for their turn, in sight, and may be taken back.

    Args:
        at_once: how many.
    """

    def __init__(self, at_once: int) -> None:
        self._at_once, self._turns, self._moved = at_once, list[_Turn](), Condition()

    def put(
        self,
        name: UUID,
        process: ForkServerProcess,
        waits: Callable[[], None] = lambda: None,
        ended: Callable[[int | None], None] = lambda _: None,
    ) -> None:
        """Have a helper started when it is its turn; one of the same name before it is taken back.

        Args:
            name: what it works for.
            process: made by ``helper``, not started.
            waits: called every few seconds while it waits.
            ended: called with its exit code when it has ended by itself, or was killed.
        """
        turn = _Turn(name, process)
        with self._moved:
            # Of two that come at once one ends the other.
            self._take_back(name)
            self._turns.append(turn)
        Thread(target=self._serve, args=(turn, waits, ended), daemon=True).start()

    def drop(self, name: UUID) -> None:
        """Take back what is done under a name, whether it waits or works; nobody waits for its end."""
        with self._moved:
            self._take_back(name)

    def _take_back(self, name: UUID) -> None:
        for turn in self._turns:
            if turn.name == name and not turn.dropped:
                turn.dropped = True
                if turn.runs:
                    turn.process.terminate()
        self._moved.notify_all()

    def holds(self, name: UUID) -> bool:
        """Tell whether something under a name waits or works."""
        with self._moved:
            return any(one.name == name and not one.dropped for one in self._turns)

    def before(self, name: UUID) -> int:
        """Return how many wait or work before something that waits; 0 once it works, or where there is none."""
        with self._moved:
            standing = [one for one in self._turns if not one.dropped]
            place = next((k for k, one in enumerate(standing) if one.name == name), 0)
            return 0 if not standing or standing[place].started else place

    def _serve(self, turn: _Turn, waits: Callable[[], None], ended: Callable[[int | None], None]) -> None:
        try:
            while not (self._begun(turn) or turn.dropped):
                # What cannot be said while the database is away is said the next time.
                with suppress(DatabaseAwayError):
                    waits()
            if turn.started:
                # Reading the program for the first helper takes seconds: nobody who asks for a place waits for that.
                turn.process.start()
                with self._moved:
                    turn.runs = True
                    if turn.dropped:
                        turn.process.terminate()
                turn.process.join()
        finally:
            # Whatever becomes of it, it does not stand in the way of those behind it.
            with self._moved:
                self._turns.remove(turn)
                self._moved.notify_all()
        if turn.started and not turn.dropped:
            with suppress(DatabaseAwayError):
                ended(turn.process.exitcode)

    def _begun(self, turn: _Turn) -> bool:
        """Tell that it is somebody's turn; wait a few seconds for that."""

        def may_go() -> bool:
            standing = [one for one in self._turns if not one.dropped]
            return turn.dropped or turn in standing[: self._at_once]

        with self._moved:
            if not self._moved.wait_for(may_go, timeout=_LOOK_EVERY_S) or turn.dropped:
                return False
            turn.started = True
            return True


_LOOK_EVERY_S: Final = 5.0
SOLVING: Final = HelperQueue(at_once=max(1, (os.cpu_count() or 2) - 1))
"""Plans that are looked for: one processor is left for readings."""
PRINTING: Final = HelperQueue(at_once=1)
"""Dossiers: each takes a few hundred MB while it is drawn."""
