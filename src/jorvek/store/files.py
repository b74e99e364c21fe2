"""Files in the database: every server of a site reaches them, on whatever node it is."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

import sqlalchemy as sa

from jorvek.store import tables as t
from jorvek.store.database import Database
from jorvek.store.row_locks import file_lock, take

_PART_BYTES: Final = 1_000_000
"""A server takes statements of a certain length only."""


class Files:
    """Whole files by their names, each in parts."""

    def __init__(self, database: Database) -> None:
        self._db = database

    def read(self, name: str) -> bytes | None:
        """Return what a file holds; None where there is none of the name.

        Raises:
            DatabaseAwayError: when the database does not answer.
        """
        query = sa.select(t.kept_file.c.content).where(t.kept_file.c.name == name).order_by(t.kept_file.c.part)
        with self._db.reading() as connection:
            parts = connection.execute(query).scalars().all()
        return b"".join(parts) if parts else None

    def has(self, name: str) -> bool:
        """Tell whether there is a file of a name."""
        query = sa.select(sa.literal(1)).where(t.kept_file.c.name == name, t.kept_file.c.part == 0)
        with self._db.reading() as connection:
            return connection.execute(query).first() is not None

    def names(self, start: str) -> list[str]:
        """Return the names that begin so, sorted."""
        column = t.kept_file.c.name
        query = sa.select(column).where(column.startswith(start, autoescape=True), t.kept_file.c.part == 0)
        with self._db.reading() as connection:
            return list(connection.execute(query.order_by(column)).scalars())

    def keep(self, name: str, content: bytes) -> None:
        """Put a file there, whole, in the place of what the name held before."""
        self.change(name, lambda _: content)

    def change(self, name: str, act: Callable[[bytes | None], bytes | None]) -> bool:
        """Let what a file is to hold be worked out from what it holds; nobody else changes it meanwhile.

        Args:
            name: of the file.
            act: given the content, or None where there is no file; returns the new one, or None to leave it.

        Returns:
            Whether it was changed.
        """

        def work(connection: sa.Connection) -> bool:
            take(connection, {file_lock(name)})
            content = act(self.read(name))
            if content is None:
                return False
            connection.execute(t.kept_file.delete().where(t.kept_file.c.name == name))
            starts = range(0, max(len(content), 1), _PART_BYTES)
            rows = [{"name": name, "part": k, "content": content[at : at + _PART_BYTES]} for k, at in enumerate(starts)]
            connection.execute(t.kept_file.insert(), rows)
            return True

        return self._db.transact(work)

    def drop(self, name: str) -> None:
        """Throw a file away, if it is there."""
        self._db.transact(lambda c: c.execute(t.kept_file.delete().where(t.kept_file.c.name == name)))
