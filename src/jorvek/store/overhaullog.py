"""The logs of the overhauls."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from functools import partial
from typing import TypeAlias
from uuid import UUID

import sqlalchemy as sa
from sqlalchemy.exc import IntegrityError

from jorvek.core import CORE_VERSION
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.fold import advance, begin
from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.refusal import Refusal
from jorvek.core.run.log.commands import CommandBase, command_digest
from jorvek.store import tables as t
from jorvek.store.database import Database
from jorvek.store.eventlog import Brought, EventLog, LogSnapshot, Stamp
from jorvek.store.recorded import insert_recorded
from jorvek.store.row_locks import engine_lock, take

OverhaulSnapshot: TypeAlias = LogSnapshot[Overhaul]
"""An overhaul at one event."""


@dataclass(frozen=True)
class OverhaulRow:
    """An overhaul in a list."""

    id: UUID
    engine_id: str
    opened_at: datetime
    open: bool


class OverhaulLog(EventLog[Overhaul, ov.OverhaulEvent, ov.OverhaulData]):
    """Reads and appends events of overhauls."""

    def __init__(self, database: Database) -> None:
        super().__init__(database, t.overhaul, t.overhaul_event, "overhaul_id", "open_engine", 64)

    def _parse(self, body: str) -> ov.OverhaulEvent:
        return ov.OverhaulEvent.model_validate_json(body)

    def _missing(self, log_id: UUID) -> Refusal:
        return Refusal("no_such_overhaul", overhaul=str(log_id))

    def _begin(self, connection: sa.Connection, event: ov.OverhaulEvent) -> Overhaul:
        return begin(event)

    def _advance(self, state: Overhaul, event: ov.OverhaulEvent) -> Overhaul:
        return advance(state, event)

    def _event(
        self, log_id: UUID, seq: int, command: CommandBase, stamp: Stamp, data: ov.OverhaulData
    ) -> ov.OverhaulEvent:
        return ov.OverhaulEvent(
            overhaul_id=log_id,
            seq=seq,
            id=command.id,
            core_version=CORE_VERSION,
            at=stamp.at,
            tablet_at=command.tablet_at,
            author=stamp.author,
            command=command_digest(command),
            data=data,
        )

    def open(self, overhaul_id: UUID, data: ov.Opened, command: CommandBase, stamp: Stamp) -> OverhaulSnapshot:
        """Open an overhaul with its first event.

        Raises:
            Refusal: ``engine_taken`` when the engine has an open one, ``id_reused``.
        """

        def work(connection: sa.Connection) -> OverhaulSnapshot:
            take(connection, {engine_lock(data.engine.id)})
            before = self._begun_before(connection, overhaul_id, command)
            if before is not None:
                return before
            head: dict[str, object] = {
                "engine_id": data.engine.id,
                "opened_at": stamp.at,
                "open_engine": data.engine.id,
            }
            return self._first(connection, overhaul_id, command, stamp, data, head)

        try:
            snapshot = self._db.transact(work)
        except IntegrityError as error:
            if "open_engine" in str(error.orig):
                raise Refusal("engine_taken", engine=data.engine.name) from error
            raise Refusal("id_reused", id=str(command.id)) from error
        self._db.when_committed(partial(self._keep, overhaul_id, snapshot))
        return snapshot

    def restore(self, lines: list[tuple[str, str]], brought: Brought) -> OverhaulSnapshot:
        """Write a whole exported overhaul into this database, texts and hashes as they were.

        Args:
            lines: (canonical text, hash) of each event, in order.
            brought: who brings it in, and when.

        Raises:
            Refusal: ``log_broken`` when chain or sequence do not hold; ``id_reused`` when it is here already, or the
                engine has an open one.
        """
        stored = [self._stored(body, digest) for body, digest in lines]

        def work(connection: sa.Connection) -> OverhaulSnapshot:
            snapshot = self._replay(connection, stored)
            state = snapshot.state
            head = {
                "id": str(state.overhaul_id),
                "engine_id": state.opened.engine.id,
                "opened_at": state.opened_at,
                "open_engine": None if state.status == "closed" else state.opened.engine.id,
                "head_seq": state.seq,
                "head_hash": snapshot.head_hash,
                "changed_at": state.last_at,
            }
            insert_recorded(self._db, connection, t.overhaul, head)
            rows = [self._row(state.overhaul_id, s.event, s.body, s.hash) for s in stored]
            connection.execute(t.overhaul_event.insert(), rows)
            self._note_brought(connection, state.overhaul_id, brought)
            return snapshot

        try:
            return self._db.transact(work)
        except IntegrityError as error:
            raise Refusal("id_reused", id=str(stored[0].event.overhaul_id)) from error

    def open_on(self, engine_id: str) -> UUID | None:
        """Return the open overhaul of an engine."""
        query = sa.select(t.overhaul.c.id).where(t.overhaul.c.open_engine == engine_id)
        with self._db.reading() as connection:
            row = connection.execute(query).first()
        return None if row is None else UUID(row.id)

    def rows(self) -> list[OverhaulRow]:
        """Return all overhauls, newest first."""
        query = sa.select(t.overhaul).order_by(t.overhaul.c.opened_at.desc(), t.overhaul.c.id)
        with self._db.reading() as connection:
            return [
                OverhaulRow(UUID(row.id), row.engine_id, row.opened_at, row.open_engine is not None)
                for row in connection.execute(query)
            ]
