"""Rows whose past must show: what of them counts, and the mark that this program wrote them."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date, datetime
from typing import Any, Final

import sqlalchemy as sa

from jorvek.core.canonical import Json, canonical_text, sha256_hex
from jorvek.store import tables as t
from jorvek.store.database import Database

RECORDED: Final[Mapping[str, tuple[str, ...]]] = {
    "person": ("id", "name", "role", "pin_hash", "active"),
    "engine": ("id", "body", "added_at"),
    "tool": ("id", "body"),
    "procedure_revision": ("hash", "procedure_id", "revision", "body", "imported_by", "imported_at"),
    "procedure_status": ("id", "hash", "status", "by_id", "at"),
    "sheet_revision": ("hash", "sheet_id", "revision", "engine_type", "body", "imported_by", "imported_at"),
    "sheet_status": ("id", "hash", "status", "by_id", "at"),
    "tool_standing": ("id", "tool_id", "withdrawn", "words", "by_id", "at"),
    "engine_hours": ("id", "engine_id", "hours", "on", "by_id", "at"),
    "follow_up_done": ("run_id", "step", "words", "by_id", "at"),
    "brought_in": ("log_id", "by_id", "at"),
    "run": ("id", "engine_id", "joint_key", "procedure_hash", "started_at"),
    "overhaul": ("id", "engine_id", "opened_at"),
}
"""By table the columns that count. What changes by itself (tries at a PIN, units, a language, a log's head) is not
among them: a log has its own chain, and its heads are taken in by their sequence."""


def name_of(kind: str, row: sa.RowMapping) -> str:
    """Return by what name a row goes: its primary key."""
    return "/".join(str(row[column.name]) for column in t.metadata.tables[kind].primary_key.columns)


def digest_of(kind: str, row: sa.RowMapping) -> str:
    """Return the fingerprint of what counts in a row."""
    return sha256_hex(kind, canonical_text({name: _plain(row[name]) for name in RECORDED[kind]}))


def _plain(value: object) -> Json:
    if isinstance(value, datetime):
        return value.isoformat(timespec="microseconds")
    if isinstance(value, date):
        return value.isoformat()
    assert value is None or isinstance(value, str | int | float | bool)
    return value


def insert_recorded(database: Database, connection: sa.Connection, table: sa.Table, values: Mapping[str, Any]) -> None:
    """Insert a row, and note it for the site log in the same transaction."""
    key = connection.execute(table.insert().values(values)).inserted_primary_key
    assert key is not None
    _note(database, connection, table, dict(zip(table.primary_key.columns, key, strict=True)))


def note_changed(database: Database, connection: sa.Connection, table: sa.Table, key: str) -> None:
    """Note for the site log that a row has changed; belongs in the transaction that changed it."""
    (column,) = table.primary_key.columns
    _note(database, connection, table, {column: key})


def _note(database: Database, connection: sa.Connection, table: sa.Table, key: Mapping[sa.Column[Any], object]) -> None:
    # The hash covers the row as read back from the table, because that is what a later check reads.
    query = sa.select(table).where(*(column == value for column, value in key.items()))
    row = connection.execute(query).mappings().one()
    kind, name, digest = table.name, name_of(table.name, row), digest_of(table.name, row)
    values = {"kind": kind, "name": name, "digest": digest, "vouched": database.vouch(vouched_text(kind, name, digest))}
    connection.execute(t.site_pending.insert().values(values))


def vouched_text(kind: str, name: str, digest: str) -> str:
    """Return what is vouched for: that this program wrote this content of this row."""
    return f"{kind}\n{name}\n{digest}"
