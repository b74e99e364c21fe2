"""Which servers of a site are at work on its tables."""

from __future__ import annotations

from typing import Final, NamedTuple
from uuid import uuid4

import sqlalchemy as sa

from jorvek.store import tables as t
from jorvek.store.database import Database

GONE_AFTER_S: Final = 20
"""Whoever has not been seen for so long is taken to have ended without saying so."""
_NOW: Final = sa.text("UTC_TIMESTAMP(6)")
"""The database's clock: those of several hosts differ."""


class Serving(NamedTuple):
    """A server at work."""

    host: str
    version: str


class Servers:
    """Those of a site; this one among them once it has said so."""

    def __init__(self, database: Database, host: str, version: str) -> None:
        self._db, self._me = database, Serving(host[:120], version)
        self._id = str(uuid4())

    def here(self) -> None:
        """Say that this one is at work still."""
        row = {"id": self._id, "host": self._me.host, "version": self._me.version, "seen_at": _NOW}

        def work(connection: sa.Connection) -> None:
            mine = t.serving.update().where(t.serving.c.id == self._id).values(seen_at=_NOW)
            if connection.execute(mine).rowcount == 0:
                connection.execute(t.serving.delete().where(_gone()))
                connection.execute(t.serving.insert().values(row))

        self._db.transact(work)

    def leave(self) -> None:
        """Say that this one ends."""
        self._db.transact(lambda c: c.execute(t.serving.delete().where(t.serving.c.id == self._id)))


def at_work(database: Database) -> list[Serving]:
    """Return the servers that are at work now, by host; none where the tables know of no servers yet."""
    if t.serving.name not in database.tables():
        return []
    query = sa.select(t.serving.c.host, t.serving.c.version).where(sa.not_(_gone())).order_by(t.serving.c.host)
    with database.reading() as connection:
        return [Serving(*row) for row in connection.execute(query)]


def _gone() -> sa.ColumnElement[bool]:
    return t.serving.c.seen_at < sa.text(f"UTC_TIMESTAMP(6) - INTERVAL {GONE_AFTER_S} SECOND")
