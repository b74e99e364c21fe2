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
    """A tablet in use at an engine.

    Attributes:
        token_hash: hash of the session on it.
        person: who is signed in, or was.
        heard_at: when it was heard last.
        run_id: the run that it showed then; None at the board.
        elsewhere_at: when the person signed in last, on whatever tablet; None where nobody knows.
    """

    token_hash: str
    person_id: UUID
    person: str
    engine_id: str
    heard_at: datetime
    run_id: UUID | None
    elsewhere_at: datetime | None


class Tablets:
    """Where the tablets are."""

    def __init__(self, database: Database) -> None:
        self._db = database

    def here(self, token_hash: str, person_id: UUID, engine_id: str, run_id: UUID | None, now: datetime) -> None:
        """Write that a tablet is at an engine, and was heard."""
        place = {"engine_id": engine_id, "heard_at": now, "run_id": None if run_id is None else str(run_id)}
        values = {"token_hash": token_hash, "person_id": str(person_id), **place}
        statement = insert(t.tablet).values(values).on_duplicate_key_update(place)
        self._db.transact(lambda connection: connection.execute(statement))

    def gone(self, token_hash: str) -> None:
        """Forget a tablet: it has left the engine."""
        statement = t.tablet.delete().where(t.tablet.c.token_hash == token_hash)
        self._db.transact(lambda connection: connection.execute(statement))

    def at(self, engine_id: str) -> list[TabletRow]:
        """Return the tablets at an engine, the longest silent first."""
        return self._found(t.tablet.c.engine_id == engine_id)

    def one(self, token_hash: str) -> TabletRow | None:
        """Return where a tablet is; None where it is at no engine."""
        return next(iter(self._found(t.tablet.c.token_hash == token_hash)), None)

    def _found(self, which: sa.ColumnElement[bool]) -> list[TabletRow]:
        last = (
            sa.select(sa.func.max(t.session.c.opened_at))
            .where(t.session.c.person_id == t.tablet.c.person_id, t.session.c.token_hash != t.tablet.c.token_hash)
            .scalar_subquery()
            .label("elsewhere_at")
        )
        query = (
            sa.select(t.tablet, t.person.c.name, sa.type_coerce(last, t.UtcDateTime).label("elsewhere_at"))
            .join(t.person, t.person.c.id == t.tablet.c.person_id)
            .where(which)
            .order_by(t.tablet.c.heard_at)
        )
        with self._db.reading() as connection:
            rows = connection.execute(query).all()
        return [
            TabletRow(
                row.token_hash,
                UUID(row.person_id),
                row.name,
                row.engine_id,
                row.heard_at,
                None if row.run_id is None else UUID(row.run_id),
                row.elsewhere_at,
            )
            for row in rows
        ]
