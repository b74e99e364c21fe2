"""Every table in one archive, as it stood at one moment, and back again."""

from __future__ import annotations

import io
import json
from collections.abc import Callable, Iterator
from datetime import date, datetime
from decimal import Decimal
from typing import Any, Final
from zipfile import ZipFile

import sqlalchemy as sa
from sqlalchemy.exc import InterfaceError, OperationalError, StatementError

from jorvek.core.refusal import Refusal
from jorvek.store import tables as t
from jorvek.store.database import Database
from jorvek.store.shadow_schema import replace_tables

FORMAT: Final = "jorvek-backup/1"
_HEAD: Final = "backup.json"
_LEFT_OUT: Final = frozenset(
    {"alembic_version", "session", "run_digest", "latch", "tablet", "pin_try", "kept_file", "serving"}
)
"""Sessions end with a restore: everybody signs in anew. Digests are worked out again; photographs lie beside."""
_ROWS_AT_ONCE: Final = 500


def write_tables(database: Database, archive: ZipFile, now: datetime) -> dict[str, int]:
    """Write all tables as they stand at one moment; people may go on working meanwhile.

    Args:
        database: where they are.
        archive: an open archive to write into.
        now: time of the backup, for its label.

    Returns:
        Rows by table.

    Raises:
        DatabaseAwayError: when the database does not answer.
    """
    rows: dict[str, int] = {}
    with database.at_one_moment() as connection:
        found = sa.MetaData()
        found.reflect(connection)
        revision = connection.execute(sa.text("SELECT version_num FROM alembic_version")).scalar_one()
        for table in found.sorted_tables:
            if table.name not in _LEFT_OUT:
                rows[table.name] = _write(connection, table, archive)
    label = {"format": FORMAT, "at": now.isoformat(), "revision": revision, "rows": rows}
    archive.writestr(_HEAD, json.dumps(label, indent=1, sort_keys=True))
    return rows


def _write(connection: sa.Connection, table: sa.Table, archive: ZipFile) -> int:
    count = 0
    query = sa.select(table).order_by(*table.primary_key.columns)
    with archive.open(f"tables/{table.name}.jsonl", "w", force_zip64=True) as out:
        for row in connection.execution_options(yield_per=_ROWS_AT_ONCE).execute(query).mappings():
            out.write(json.dumps(dict(row), default=_plain, sort_keys=True).encode() + b"\n")
            count += 1
    return count


def _plain(value: object) -> str | float:
    if isinstance(value, datetime):
        return value.isoformat(timespec="microseconds")
    if isinstance(value, date):
        return value.isoformat()
    if isinstance(value, Decimal):
        # The server then sends the number with all its digits.
        return float(value)
    raise TypeError(f"{type(value).__name__} is in no table of ours")


def read_tables(
    database: Database, archive: ZipFile, also: Callable[[Database], object], *, over: bool
) -> dict[str, int]:
    """Fill a database from an archive, at the version it was written at, and bring it to the newest.

    All of it is made ready beside the tables in use; those stand until the last moment.

    Args:
        database: where to; empty, unless told otherwise.
        archive: an open archive.
        also: brings what belongs to the tables in beside them, before they take their place.
        over: whether what is there now may be thrown away.

    Returns:
        Rows by table.

    Raises:
        Refusal: ``no_backup`` for another file; ``backup_too_new`` for one of a newer program;
            ``not_empty`` when there is something there; those of ``replace_tables``; nothing is changed then.
        DatabaseAwayError: when the database does not answer.
    """
    label = _label(archive)
    if str(label["revision"]) not in database.revisions():
        raise Refusal("backup_too_new", revision=str(label["revision"]))
    if database.in_use() and not over:
        raise Refusal("not_empty")
    _demand_whole(archive, label["rows"])

    def fill(ready: Database) -> None:
        ready.migrate(str(label["revision"]))
        with ready.engine.begin() as connection:
            found = sa.MetaData()
            found.reflect(connection)
            for table in found.sorted_tables:
                if table.name in label["rows"]:
                    _fill(connection, table, archive)
        ready.migrate()
        also(ready)

    replace_tables(database, fill)
    return dict(label["rows"])


def _fill(connection: sa.Connection, table: sa.Table, archive: ZipFile) -> None:
    try:
        for batch in _batches(table, archive):
            connection.execute(table.insert(), batch)
    except (ValueError, TypeError, AttributeError, StatementError) as error:
        # A server that does not answer is reported as such, not as a fault of the archive.
        if isinstance(error, OperationalError | InterfaceError):
            raise
        raise Refusal("no_backup", why=f"a row of {table.name} does not fit") from error


def _demand_whole(archive: ZipFile, rows: dict[str, int]) -> None:
    """Count the rows before anything is thrown away for them."""
    for name, count in rows.items():
        try:
            with archive.open(f"tables/{name}.jsonl") as file:
                found = sum(1 for _ in file)
        except KeyError:
            found = -1
        if found != count:
            raise Refusal("no_backup", why=f"rows of {name} are missing")


def _label(archive: ZipFile) -> dict[str, Any]:
    try:
        label = json.loads(archive.read(_HEAD))
    except (KeyError, ValueError) as error:
        raise Refusal("no_backup", why="it has no label") from error
    if not isinstance(label, dict) or label.get("format") != FORMAT:
        raise Refusal("no_backup", why="its format is another one")
    rows = label.get("rows")
    if not isinstance(label.get("revision"), str) or not isinstance(rows, dict):
        raise Refusal("no_backup", why="its label does not say what it holds")
    unknown = sorted(set(rows) - set(t.metadata.tables))
    if unknown:
        raise Refusal("no_backup", why=f"it names tables that nobody knows: {', '.join(map(str, unknown))}")
    return label


def _batches(table: sa.Table, archive: ZipFile) -> Iterator[list[dict[str, Any]]]:
    read: dict[str, Callable[[str], date]] = {
        c.name: datetime.fromisoformat if isinstance(c.type, sa.DateTime) else date.fromisoformat
        for c in table.columns
        if isinstance(c.type, sa.DateTime | sa.Date)
    }
    names = {c.name for c in table.columns}
    batch: list[dict[str, Any]] = []
    with archive.open(f"tables/{table.name}.jsonl") as file:
        for line in io.TextIOWrapper(file, encoding="utf-8"):
            row = json.loads(line)
            if set(row) != names:
                raise ValueError("columns of another table")
            batch.append(row | {name: parse(row[name]) for name, parse in read.items() if row[name] is not None})
            if len(batch) == _ROWS_AT_ONCE:
                yield batch
                batch = []
    if batch:
        yield batch
