"""Which tools are withdrawn, by whom and why; every change stays."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

import sqlalchemy as sa

from jorvek.store import tables as t
from jorvek.store.database import Database
from jorvek.store.recorded import insert_recorded
from jorvek.store.row_locks import take, tool_lock


@dataclass(frozen=True)
class Standing:
    """The newest word on a tool."""

    tool_id: str
    withdrawn: bool
    words: str
    by: str
    at: datetime


class ToolStandings:
    """Words on tools."""

    def __init__(self, database: Database) -> None:
        self._db = database

    def now(self) -> dict[str, Standing]:
        """Return the newest word on each tool of which there is one."""
        newest = sa.select(sa.func.max(t.tool_standing.c.id)).group_by(t.tool_standing.c.tool_id)
        joined = t.tool_standing.join(t.person, t.person.c.id == t.tool_standing.c.by_id)
        query = sa.select(t.tool_standing, t.person.c.name).select_from(joined).where(t.tool_standing.c.id.in_(newest))
        with self._db.reading() as connection:
            rows = connection.execute(query).all()
        return {r.tool_id: Standing(r.tool_id, bool(r.withdrawn), r.words, r.name, r.at) for r in rows}

    def say(
        self, tool_id: str, words: str, person_id: UUID, now: datetime, *, withdrawn: bool, demand: Callable[[], None]
    ) -> None:
        """Withdraw a tool, or take it back.

        Raises:
            Refusal: from ``demand``, which is asked under the tool's lock.
        """
        values = {"tool_id": tool_id, "withdrawn": withdrawn, "words": words, "by_id": str(person_id), "at": now}

        def work(connection: sa.Connection) -> None:
            take(connection, {tool_lock(tool_id)})
            demand()
            insert_recorded(self._db, connection, t.tool_standing, values)

        self._db.transact(work)
