"""Running hours as read, and what was done of the work that runs had asked for later."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, datetime
from uuid import UUID

import sqlalchemy as sa
from sqlalchemy.exc import IntegrityError

from jorvek.core.refusal import Refusal
from jorvek.store import tables as t
from jorvek.store.database import Database
from jorvek.store.recorded import insert_recorded
from jorvek.store.row_locks import engine_lock, take


@dataclass(frozen=True)
class Hours:
    """Running hours of an engine as read: on which day, and entered when."""

    hours: float
    on: date
    at: datetime


class Upkeep:
    """Hours and follow-ups."""

    def __init__(self, database: Database) -> None:
        self._db = database

    def hours(self, engine_id: str) -> list[Hours]:
        """Return the readings of an engine, oldest first."""
        table = t.engine_hours.c
        query = sa.select(table.hours, table.on, table.at).where(table.engine_id == engine_id).order_by(table.id)
        with self._db.reading() as connection:
            return [Hours(float(row.hours), row.on, row.at) for row in connection.execute(query)]

    def read_hours(self, engine_id: str, read: Hours, person_id: UUID, demand: Callable[[list[Hours]], None]) -> None:
        """Write a reading.

        Raises:
            Refusal: from ``demand``, which is asked under the engine's lock with the readings before.
        """
        values = {"engine_id": engine_id, "hours": read.hours, "on": read.on, "by_id": str(person_id), "at": read.at}

        def work(connection: sa.Connection) -> None:
            take(connection, {engine_lock(engine_id)})
            demand(self.hours(engine_id))
            insert_recorded(self._db, connection, t.engine_hours, values)

        self._db.transact(work)

    def done(self) -> set[tuple[UUID, str]]:
        """Return the follow-ups that were done, by run and step."""
        with self._db.reading() as connection:
            rows = connection.execute(sa.select(t.follow_up_done.c.run_id, t.follow_up_done.c.step))
            return {(UUID(row.run_id), row.step) for row in rows}

    def note_done(self, run_id: UUID, step: str, words: str, person_id: UUID, now: datetime) -> None:
        """Write that a follow-up was done.

        Raises:
            Refusal: ``followed_up`` when it was already.
        """
        values = {"run_id": str(run_id), "step": step, "words": words, "by_id": str(person_id), "at": now}
        try:
            self._db.transact(lambda connection: insert_recorded(self._db, connection, t.follow_up_done, values))
        except IntegrityError as error:
            raise Refusal("followed_up") from error
