"""Engine sheets: revisions that never change, and who approved or withdrew them."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from uuid import UUID

import sqlalchemy as sa
from sqlalchemy.exc import IntegrityError

from jorvek.core.refusal import Refusal
from jorvek.core.sheet.document import EngineSheet
from jorvek.store import tables as t
from jorvek.store.database import Database
from jorvek.store.recorded import insert_recorded
from jorvek.store.row_locks import LIBRARY, take


@dataclass(frozen=True)
class SheetRow:
    """A revision with its newest status."""

    hash: str
    sheet: EngineSheet
    imported_by: UUID
    status: str
    status_by: str


@lru_cache(maxsize=64)
def _parsed(body: str) -> EngineSheet:
    return EngineSheet.model_validate(json.loads(body))


class Sheets:
    """The engine sheets."""

    def __init__(self, database: Database) -> None:
        self._db = database

    def add(self, sheet: EngineSheet, person_id: UUID, now: datetime) -> str:
        """Write a revision as a draft and return its content address.

        Raises:
            Refusal: ``sheet_known`` for the same content, ``revision_taken`` when the letter stands for other content.
        """
        digest = sheet.content_hash()
        values = {
            "hash": digest,
            "sheet_id": sheet.id,
            "revision": sheet.revision,
            "engine_type": sheet.engine_type,
            "body": sheet.canonical(),
            "imported_by": str(person_id),
            "imported_at": now,
        }

        def work(connection: sa.Connection) -> None:
            take(connection, {LIBRARY})
            known = connection.execute(sa.select(t.sheet_revision.c.hash).where(t.sheet_revision.c.hash == digest))
            if known.first() is not None:
                raise Refusal("sheet_known", title=sheet.title, revision=sheet.revision)
            insert_recorded(self._db, connection, t.sheet_revision, values)
            insert_recorded(self._db, connection, t.sheet_status, _status(digest, "draft", person_id, now))

        try:
            self._db.transact(work)
        except IntegrityError as error:
            raise Refusal("revision_taken", title=sheet.title, revision=sheet.revision) from error
        return digest

    def set_status(
        self, digest: str, status: str, person_id: UUID, now: datetime, demand: Callable[[SheetRow], None]
    ) -> None:
        """Add a status beside a revision; earlier ones stay.

        Raises:
            Refusal: ``no_such_sheet``; from ``demand``, which is asked under the lock.
        """

        def work(connection: sa.Connection) -> None:
            take(connection, {LIBRARY})
            demand(self.row(digest))
            insert_recorded(self._db, connection, t.sheet_status, _status(digest, status, person_id, now))

        self._db.transact(work)

    def row(self, digest: str) -> SheetRow:
        """Return one revision.

        Raises:
            Refusal: ``no_such_sheet``.
        """
        found = next((row for row in self.rows() if row.hash == digest), None)
        if found is None:
            raise Refusal("no_such_sheet", hash=digest[:12])
        return found

    def body_of(self, digest: str) -> EngineSheet:
        """Return a revision's contents.

        Raises:
            Refusal: ``no_such_sheet``.
        """
        query = sa.select(t.sheet_revision.c.body).where(t.sheet_revision.c.hash == digest)
        with self._db.reading() as connection:
            row = connection.execute(query).first()
        if row is None:
            raise Refusal("no_such_sheet", hash=digest[:12])
        return _parsed(row.body)

    def rows(self) -> list[SheetRow]:
        """Return all revisions with their newest status, by name and revision."""
        newest = sa.select(sa.func.max(t.sheet_status.c.id)).group_by(t.sheet_status.c.hash)
        joined = t.sheet_revision.join(t.sheet_status, t.sheet_status.c.hash == t.sheet_revision.c.hash).join(
            t.person, t.person.c.id == t.sheet_status.c.by_id
        )
        query = (
            sa.select(t.sheet_revision, t.sheet_status.c.status, t.person.c.name)
            .select_from(joined)
            .where(t.sheet_status.c.id.in_(newest))
            .order_by(t.sheet_revision.c.sheet_id, t.sheet_revision.c.revision)
        )
        with self._db.reading() as connection:
            rows = connection.execute(query).all()
        return [SheetRow(r.hash, _parsed(r.body), UUID(r.imported_by), r.status, r.name) for r in rows]

    def approved_for(self, engine_type: str) -> str | None:
        """Return the newest approved revision for an engine type; None where there is none."""
        newest = sa.select(sa.func.max(t.sheet_status.c.id)).group_by(t.sheet_status.c.hash)
        query = (
            sa.select(t.sheet_status.c.hash)
            .select_from(t.sheet_status.join(t.sheet_revision, t.sheet_revision.c.hash == t.sheet_status.c.hash))
            .where(
                t.sheet_status.c.id.in_(newest),
                t.sheet_status.c.status == "approved",
                t.sheet_revision.c.engine_type == engine_type,
            )
            .order_by(t.sheet_status.c.id.desc())
        )
        with self._db.reading() as connection:
            row = connection.execute(query).first()
        return None if row is None else str(row.hash)


def _status(digest: str, status: str, person_id: UUID, now: datetime) -> dict[str, object]:
    return {"hash": digest, "status": status, "by_id": str(person_id), "at": now}
