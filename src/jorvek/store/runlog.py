"""The logs of the runs."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TypeAlias
from uuid import UUID

import sqlalchemy as sa
from sqlalchemy.exc import IntegrityError

from jorvek.core import CORE_VERSION
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.commands import CommandBase, command_digest
from jorvek.core.run.log.definition import Definition
from jorvek.core.run.log.fold import advance, begin
from jorvek.core.run.log.state import RunState
from jorvek.store import tables as t
from jorvek.store.database import Database
from jorvek.store.eventlog import Brought, EventLog, LogSnapshot, Stamp
from jorvek.store.recorded import insert_recorded
from jorvek.store.row_locks import RowLock, take

DefinitionOf = Callable[[sa.Connection, ev.RunStarted], Definition]
Snapshot: TypeAlias = LogSnapshot[RunState]
"""A run at one event."""


class RunLog(EventLog[RunState, ev.Event, ev.EventData]):
    """Reads and appends events of runs."""

    def __init__(self, database: Database, definition_of: DefinitionOf, cached_runs: int = 256) -> None:
        super().__init__(database, t.run, t.event, "run_id", "open_joint", cached_runs)
        self._definition_of = definition_of

    def _parse(self, body: str) -> ev.Event:
        return ev.Event.model_validate_json(body)

    def _missing(self, log_id: UUID) -> Refusal:
        return Refusal("no_such_run", run=str(log_id))

    def _begin(self, connection: sa.Connection, event: ev.Event) -> RunState:
        data = event.data
        if not isinstance(data, ev.RunStarted):
            raise Refusal("log_broken", seq=event.seq, why="first event is not a start")
        return begin(self._definition_of(connection, data), event)

    def _advance(self, state: RunState, event: ev.Event) -> RunState:
        return advance(state, event)

    def _event(self, log_id: UUID, seq: int, command: CommandBase, stamp: Stamp, data: ev.EventData) -> ev.Event:
        return ev.Event(
            run_id=log_id,
            seq=seq,
            id=command.id,
            core_version=CORE_VERSION,
            at=stamp.at,
            tablet_at=command.tablet_at,
            author=stamp.author,
            command=command_digest(command),
            data=data,
        )

    def start(
        self,
        run_id: UUID,
        data: ev.RunStarted,
        command: CommandBase,
        stamp: Stamp,
        locks: frozenset[RowLock] = frozenset(),
        settle: Callable[[ev.RunStarted], ev.RunStarted] = lambda data: data,
    ) -> Snapshot:
        """Open a run with its first event.

        Args:
            run_id: made by whoever starts it.
            data: what is started.
            command: what was asked.
            stamp: who, and when.
            locks: what is locked while it is decided.
            settle: refuses what must not be started as things stand, and adds what other runs say; asked under the
                locks.

        Raises:
            Refusal: from ``settle``; ``joint_taken`` when the joint has an open run, ``id_reused``.
        """

        def work(connection: sa.Connection) -> Snapshot:
            take(connection, locks)
            before = self._begun_before(connection, run_id, command)
            if before is not None:
                return before
            settled = settle(data)
            return self._first(connection, run_id, command, stamp, settled, _head(settled, stamp.at))

        try:
            snapshot = self._db.transact(work)
        except IntegrityError as error:
            if "open_joint" in str(error.orig):
                raise Refusal("joint_taken", joint=data.joint_label) from error
            raise Refusal("id_reused", id=str(command.id)) from error
        # Within a larger transaction the new state is published only when all of it is committed.
        self._db.when_committed(partial(self._keep, run_id, snapshot))
        return snapshot

    def restore(self, lines: list[tuple[str, str]], brought: Brought) -> Snapshot:
        """Write a whole exported run into this database, texts and hashes as they were; its procedure is here already.

        Args:
            lines: (canonical text, hash) of each event, in order.
            brought: who brings it in, and when.

        Raises:
            Refusal: ``log_broken`` when chain or sequence do not hold; ``id_reused`` when the
                run is here already.
        """
        stored = [self._stored(body, digest) for body, digest in lines]

        def work(connection: sa.Connection) -> Snapshot:
            snapshot = self._replay(connection, stored)
            first, state = stored[0].event, snapshot.state
            head = _head(state.started, first.at) | {
                "id": str(first.run_id),
                "head_seq": state.seq,
                "head_hash": snapshot.head_hash,
                "changed_at": state.last_at,
            }
            if state.status == "closed":
                head["open_joint"] = None
            insert_recorded(self._db, connection, t.run, head)
            rows = [self._row(first.run_id, s.event, s.body, s.hash) for s in stored]
            connection.execute(t.event.insert(), rows)
            self._note_brought(connection, first.run_id, brought)
            return snapshot

        try:
            return self._db.transact(work)
        except IntegrityError as error:
            raise Refusal("id_reused", id=str(stored[0].event.run_id)) from error


def _head(started: ev.RunStarted, at: object) -> dict[str, object]:
    """Return the columns of a run's head beyond those of every log."""
    return {
        "engine_id": started.engine.id,
        "joint_key": started.joint_key,
        "procedure_hash": started.procedure_hash,
        "started_at": at,
        "open_joint": f"{started.engine.id}/{started.joint_key}",
    }
