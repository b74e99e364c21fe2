"""The tablets that are in use at the engines, and when each was heard last."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

import sqlalchemy as sa
from sqlalchemy.dialects.mysql import insert

from jorvek.store import tables as t
from jorvek.store.database import Database


@dataclass(frozen=True)
class TabletRow:
    """A tablet: the hash of the session on it, who is signed in, and when it was heard last."""

    token_hash: str
    person_id: UUID
    person: str
    heard_at: datetime


class Tablets:
    """Where the tablets are."""

    def __init__(self, database: Database) -> None:
        self._db = database

    def here(self, token_hash: str, person_id: UUID, engine_id: str, now: datetime) -> None:
        """Write that a tablet is at an engine, and was heard."""
        values = {"token_hash": token_hash, "person_id": str(person_id), "engine_id": engine_id, "heard_at": now}
        statement = insert(t.tablet).values(values).on_duplicate_key_update(engine_id=engine_id, heard_at=now)
        self._db.transact(lambda connection: connection.execute(statement))

    def gone(self, token_hash: str) -> None:
        """Forget a tablet: somebody signed out on it."""
        statement = t.tablet.delete().where(t.tablet.c.token_hash == token_hash)
        self._db.transact(lambda connection: connection.execute(statement))

    def unheard(self, engine_id: str, since: datetime) -> list[TabletRow]:
        """Return the tablets at an engine that have not been heard since a moment, the longest silent first."""
        query = (
            sa.select(t.tablet, t.person.c.name)
            .join(t.person, t.person.c.id == t.tablet.c.person_id)
            .where(t.tablet.c.engine_id == engine_id, t.tablet.c.heard_at < since)
            .order_by(t.tablet.c.heard_at)
        )
        with self._db.reading() as connection:
            rows = connection.execute(query).all()
        return [TabletRow(row.token_hash, UUID(row.person_id), row.name, row.heard_at) for row in rows]
