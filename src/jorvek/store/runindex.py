"""The heads of all runs, held in memory and brought up to what has changed: years of them are not read for a look."""

from __future__ import annotations

import zlib
from collections.abc import Collection, Iterable
from datetime import UTC, datetime, timedelta
from functools import reduce
from operator import xor
from threading import Lock
from typing import Final, NamedTuple
from uuid import UUID

import sqlalchemy as sa

from jorvek.store import tables as t
from jorvek.store.database import Database

_LATE_AT_MOST: Final = timedelta(minutes=2)
"""By so much a head may become visible later than its time says: clocks differ, and a commit takes its time."""
_NEWEST_FIRST: Final = (t.run.c.started_at.desc(), t.run.c.id)
_CHECK: Final = sa.select(sa.func.bit_xor(sa.func.crc32(sa.func.concat(t.run.c.id, t.run.c.head_hash))))


class RunRow(NamedTuple):
    """A run in a list."""

    id: UUID
    engine_id: str
    joint_key: str
    procedure_hash: str
    started_at: datetime
    head_seq: int
    head_hash: str
    open: bool
    changed_at: datetime


def run_rows(connection: sa.Connection, engine_id: str | None = None, since: datetime | None = None) -> list[RunRow]:
    """Read heads, newest run first: all of them, those on an engine, or those changed since a time."""
    query = sa.select(t.run).order_by(*_NEWEST_FIRST)
    if engine_id is not None:
        query = query.where(t.run.c.engine_id == engine_id)
    if since is not None:
        query = query.where(t.run.c.changed_at >= since)
    return [_row(row) for row in connection.execute(query)]


def run_rows_by(connection: sa.Connection, procedures: Collection[str], but_on: str, most: int) -> list[RunRow]:
    """Read the newest heads by procedures, those on one engine aside."""
    query = sa.select(t.run).where(t.run.c.procedure_hash.in_(procedures), t.run.c.engine_id != but_on)
    return [_row(row) for row in connection.execute(query.order_by(*_NEWEST_FIRST).limit(most))]


_REMEMBERED: Final = 200
"""So many changes are remembered for those who look seldom."""


class RunIndex:
    """All heads, newest run first. The database alone is the authority."""

    def __init__(self, database: Database) -> None:
        self._db, self._lock = database, Lock()
        self._held = _Held({}, 0, 0)

    def rows(self) -> list[RunRow]:
        """Return all heads as they stand now; inside a transaction as they stand for that transaction.

        Raises:
            DatabaseAwayError: when the database does not answer.
        """
        if self._db.in_transaction():
            # Rows of an open transaction are not cached: nobody else may see them.
            with self._db.reading() as connection:
                return list(self._brought_up(connection, self._held).rows.values())
        return list(self._newest().rows.values())

    def _newest(self) -> _Held:
        """Bring up what is held, one look after the other: two versions of one number would hide a change."""
        with self._lock, self._db.reading() as connection:
            self._held = self._brought_up(connection, self._held)
            return self._held

    def changed_since(self, version: int) -> tuple[int, list[RunRow], bool]:
        """Return what has changed since a look, for whoever keeps something that is worked out of all heads.

        Args:
            version: what this returned the last time; any other number the first time.

        Returns:
            The version now, the heads that have changed, and whether these are all there are: then whatever was worked
                out before counts no more. Inside a transaction it is as of the last look outside of one.

        Raises:
            DatabaseAwayError: when the database does not answer.
        """
        held = self._held if self._db.in_transaction() else self._newest()
        known = held.changes_since(version)
        return held.version, list(held.rows.values()) if known is None else known, known is None

    def _brought_up(self, connection: sa.Connection, held: _Held) -> _Held:
        if held.rows:
            changed = run_rows(connection, since=held.newest - _LATE_AT_MOST)
            merged = _merged(held, changed)
            # Imported runs have older times, and a restore removes runs: the newest time alone does not tell.
            if merged.check == connection.execute(_CHECK).scalar_one():
                return merged
        return _merged(_Held({}, 0, held.version + 1), run_rows(connection))


class _Held:
    """Heads by their runs, newest first, and what the server works out of the same ones.

    So it is known of every look that none of them is older than it stands there.
    """

    def __init__(
        self, rows: dict[UUID, RunRow], check: int, version: int = 0, journal: tuple[tuple[RunRow, ...], ...] = ()
    ) -> None:
        self.rows, self.check, self.version, self._journal = rows, check, version, journal
        self.newest = max((row.changed_at for row in rows.values()), default=datetime.min.replace(tzinfo=UTC))

    def with_changes(self, rows: dict[UUID, RunRow], check: int, changed: tuple[RunRow, ...]) -> _Held:
        """Return the next version."""
        journal = (*self._journal, changed)[-_REMEMBERED:] if self.rows else ()
        return _Held(rows, check, self.version + 1, journal)

    def changes_since(self, version: int) -> list[RunRow] | None:
        """Return what has changed since a version; None where that is not remembered."""
        behind = self.version - version
        if not 0 <= behind <= len(self._journal):
            return None
        return [row for changed in self._journal[len(self._journal) - behind :] for row in changed]


def _merged(held: _Held, changed: Iterable[RunRow]) -> _Held:
    changes = {row.id: row for row in changed if held.rows.get(row.id) != row}
    if not changes:
        return held
    before = [held.rows[name] for name in changes if name in held.rows]
    check = reduce(xor, (_of_one(row) for row in (*before, *changes.values())), held.check)
    both = {**held.rows, **changes}
    if len(before) < len(changes):
        listed = sorted(both.values(), key=lambda row: str(row.id))
        both = {row.id: row for row in sorted(listed, key=lambda row: row.started_at, reverse=True)}
    return held.with_changes(both, check, tuple(changes.values()))


class NewestRuns:
    """Of every joint its newest run, and all that are open; kept up with what changes."""

    def __init__(self, index: RunIndex) -> None:
        self._index, self._version, self._lock = index, -1, Lock()
        self._newest: dict[tuple[str, str], RunRow] = {}
        self._open: dict[UUID, RunRow] = {}

    def look(self) -> tuple[dict[tuple[str, str], RunRow], list[RunRow]]:
        """Return the newest run by engine and joint, and the open runs, newest first."""
        with self._lock:
            self._version, changed, anew = self._index.changed_since(self._version)
            if anew:
                self._newest, self._open = {}, {}
            for row in changed:
                self._take(row)
            return dict(self._newest), sorted(self._open.values(), key=_newest_first)

    def _take(self, row: RunRow) -> None:
        joint = row.engine_id, row.joint_key
        known = self._newest.get(joint)
        if known is None or known.id == row.id or _newest_first(row) < _newest_first(known):
            self._newest[joint] = row
        if row.open:
            self._open[row.id] = row
        else:
            self._open.pop(row.id, None)


def _newest_first(row: RunRow) -> tuple[float, str]:
    return -row.started_at.timestamp(), str(row.id)


def _of_one(row: RunRow) -> int:
    return zlib.crc32(f"{row.id}{row.head_hash}".encode())


def _row(row: sa.Row[tuple[object, ...]]) -> RunRow:
    return RunRow(
        UUID(row.id),
        row.engine_id,
        row.joint_key,
        row.procedure_hash,
        row.started_at,
        row.head_seq,
        row.head_hash,
        row.open_joint is not None,
        row.changed_at,
    )
