"""Tables. Rows of ``event`` and ``procedure_revision`` are written once and never changed."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects import mysql

_BIN = "utf8mb4_bin"


class UtcDateTime(sa.types.TypeDecorator[datetime]):
    """An aware UTC time with microseconds; naive values are refused."""

    impl = mysql.DATETIME(fsp=6)
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: sa.Dialect) -> datetime | None:
        """Turn an aware time into naive UTC for the column."""
        if value is None:
            return None
        if value.tzinfo is None:
            raise ValueError("a time without an offset cannot be stored")
        return value.astimezone(UTC).replace(tzinfo=None)

    def process_result_value(self, value: datetime | None, dialect: sa.Dialect) -> datetime | None:
        """Return the column's time as aware UTC."""
        return None if value is None else value.replace(tzinfo=UTC)


def _text(length: int) -> sa.String:
    return sa.String(length, collation=_BIN)


_LONG = mysql.LONGTEXT(charset="utf8mb4", collation=_BIN)
_OPTIONS: dict[str, Any] = {"mysql_engine": "InnoDB", "mysql_charset": "utf8mb4"}

metadata = sa.MetaData()

person = sa.Table(
    "person",
    metadata,
    sa.Column("id", _text(36), primary_key=True),
    sa.Column("name", _text(80), nullable=False, unique=True),
    sa.Column("role", _text(20), nullable=False),
    sa.Column("pin_hash", _text(200), nullable=False),
    sa.Column("active", sa.Boolean, nullable=False),
    sa.Column("units", _text(200), nullable=True),
    sa.Column("language", _text(8), nullable=True),
    **_OPTIONS,
)

pin_try = sa.Table(
    "pin_try",
    metadata,
    sa.Column("person_id", _text(36), primary_key=True),
    sa.Column("address", _text(60), primary_key=True),
    sa.Column("failures", sa.Integer, nullable=False),
    sa.Column("locked_until", UtcDateTime, nullable=True),
    sa.Column("at", UtcDateTime, nullable=False),
    **_OPTIONS,
)
"""Wrong PINs by whom they were for and where they came from; no record."""

session = sa.Table(
    "session",
    metadata,
    sa.Column("token_hash", _text(64), primary_key=True),
    sa.Column("person_id", _text(36), sa.ForeignKey("person.id"), nullable=False),
    sa.Column("expires_at", UtcDateTime, nullable=False),
    sa.Column("opened_at", UtcDateTime),
    **_OPTIONS,
)

engine = sa.Table(
    "engine",
    metadata,
    sa.Column("id", _text(60), primary_key=True),
    sa.Column("body", _LONG, nullable=False),
    sa.Column("added_at", UtcDateTime, nullable=False),
    **_OPTIONS,
)

tool = sa.Table(
    "tool",
    metadata,
    sa.Column("id", _text(20), primary_key=True),
    sa.Column("body", _LONG, nullable=False),
    **_OPTIONS,
)

procedure_revision = sa.Table(
    "procedure_revision",
    metadata,
    sa.Column("hash", _text(64), primary_key=True),
    sa.Column("procedure_id", _text(60), nullable=False),
    sa.Column("revision", _text(6), nullable=False),
    sa.Column("body", _LONG, nullable=False),
    sa.Column("imported_by", _text(36), sa.ForeignKey("person.id"), nullable=False),
    sa.Column("imported_at", UtcDateTime, nullable=False),
    sa.UniqueConstraint("procedure_id", "revision", name="uq_procedure_revision"),
    **_OPTIONS,
)

procedure_status = sa.Table(
    "procedure_status",
    metadata,
    sa.Column("id", sa.BigInteger, primary_key=True, autoincrement=True),
    sa.Column("hash", _text(64), sa.ForeignKey("procedure_revision.hash"), nullable=False),
    sa.Column("status", _text(12), nullable=False),
    sa.Column("by_id", _text(36), sa.ForeignKey("person.id"), nullable=False),
    sa.Column("at", UtcDateTime, nullable=False),
    **_OPTIONS,
)

run = sa.Table(
    "run",
    metadata,
    sa.Column("id", _text(36), primary_key=True),
    sa.Column("engine_id", _text(60), sa.ForeignKey("engine.id"), nullable=False),
    sa.Column("joint_key", _text(60), nullable=False),
    sa.Column("procedure_hash", _text(64), sa.ForeignKey("procedure_revision.hash"), nullable=False),
    sa.Column("started_at", UtcDateTime, nullable=False),
    sa.Column("open_joint", _text(130), nullable=True, unique=True),
    sa.Column("head_seq", sa.Integer, nullable=False),
    sa.Column("head_hash", _text(64), nullable=False),
    sa.Column("changed_at", UtcDateTime, nullable=False, index=True),
    sa.Index("ix_run_engine_changed", "engine_id", "changed_at"),
    sa.Index("ix_run_procedure_started", "procedure_hash", "started_at"),
    **_OPTIONS,
)
"""``open_joint`` holds engine and joint while the run is open, so that a joint has one open run."""

row_lock = sa.Table(
    "latch",
    metadata,
    sa.Column("name", _text(130), primary_key=True),
    sa.Column("seq", sa.BigInteger, nullable=False),
    **_OPTIONS,
)
"""Locks on what more than one run shares; no record."""

run_digest = sa.Table(
    "run_digest",
    metadata,
    sa.Column("run_id", _text(36), sa.ForeignKey("run.id"), primary_key=True),
    sa.Column("name", _text(20), primary_key=True),
    sa.Column("program", _text(64), nullable=False),
    sa.Column("head_hash", _text(64), nullable=False),
    sa.Column("body", _LONG, nullable=False),
    **_OPTIONS,
)
"""What lists say of a closed run: no record, and thrown away whenever it does not fit."""

event = sa.Table(
    "event",
    metadata,
    sa.Column("run_id", _text(36), sa.ForeignKey("run.id"), primary_key=True),
    sa.Column("seq", sa.Integer, primary_key=True, autoincrement=False),
    sa.Column("id", _text(36), nullable=False, unique=True),
    sa.Column("body", _LONG, nullable=False),
    sa.Column("hash", _text(64), nullable=False),
    **_OPTIONS,
)
"""``body`` is the canonical text that the hash covers, byte for byte."""

overhaul = sa.Table(
    "overhaul",
    metadata,
    sa.Column("id", _text(36), primary_key=True),
    sa.Column("engine_id", _text(60), sa.ForeignKey("engine.id"), nullable=False),
    sa.Column("opened_at", UtcDateTime, nullable=False),
    sa.Column("open_engine", _text(60), nullable=True, unique=True),
    sa.Column("head_seq", sa.Integer, nullable=False),
    sa.Column("head_hash", _text(64), nullable=False),
    sa.Column("changed_at", UtcDateTime, nullable=False, index=True),
    **_OPTIONS,
)
"""``open_engine`` holds the engine while the overhaul is open, so that an engine has one open overhaul."""

overhaul_event = sa.Table(
    "overhaul_event",
    metadata,
    sa.Column("overhaul_id", _text(36), sa.ForeignKey("overhaul.id"), primary_key=True),
    sa.Column("seq", sa.Integer, primary_key=True, autoincrement=False),
    sa.Column("id", _text(36), nullable=False, unique=True),
    sa.Column("body", _LONG, nullable=False),
    sa.Column("hash", _text(64), nullable=False),
    **_OPTIONS,
)
"""``body`` is the canonical text that the hash covers, byte for byte."""

sheet_revision = sa.Table(
    "sheet_revision",
    metadata,
    sa.Column("hash", _text(64), primary_key=True),
    sa.Column("sheet_id", _text(60), nullable=False),
    sa.Column("revision", _text(6), nullable=False),
    sa.Column("engine_type", _text(120), nullable=False),
    sa.Column("body", _LONG, nullable=False),
    sa.Column("imported_by", _text(36), sa.ForeignKey("person.id"), nullable=False),
    sa.Column("imported_at", UtcDateTime, nullable=False),
    sa.UniqueConstraint("sheet_id", "revision", name="uq_sheet_revision"),
    **_OPTIONS,
)

sheet_status = sa.Table(
    "sheet_status",
    metadata,
    sa.Column("id", sa.BigInteger, primary_key=True, autoincrement=True),
    sa.Column("hash", _text(64), sa.ForeignKey("sheet_revision.hash"), nullable=False),
    sa.Column("status", _text(12), nullable=False),
    sa.Column("by_id", _text(36), sa.ForeignKey("person.id"), nullable=False),
    sa.Column("at", UtcDateTime, nullable=False),
    **_OPTIONS,
)

tool_standing = sa.Table(
    "tool_standing",
    metadata,
    sa.Column("id", sa.BigInteger, primary_key=True, autoincrement=True),
    sa.Column("tool_id", _text(20), sa.ForeignKey("tool.id"), nullable=False),
    sa.Column("withdrawn", sa.Boolean, nullable=False),
    sa.Column("words", _text(1000), nullable=False),
    sa.Column("by_id", _text(36), sa.ForeignKey("person.id"), nullable=False),
    sa.Column("at", UtcDateTime, nullable=False),
    **_OPTIONS,
)
"""That a tool was withdrawn, or taken back after it was checked; the newest row holds."""

engine_hours = sa.Table(
    "engine_hours",
    metadata,
    sa.Column("id", sa.BigInteger, primary_key=True, autoincrement=True),
    sa.Column("engine_id", _text(60), sa.ForeignKey("engine.id"), nullable=False),
    sa.Column("hours", sa.Double, nullable=False),
    sa.Column("on", sa.Date, nullable=False),
    sa.Column("by_id", _text(36), sa.ForeignKey("person.id"), nullable=False),
    sa.Column("at", UtcDateTime, nullable=False),
    **_OPTIONS,
)
"""Running hours as read, with their date; the newest row holds."""

tablet = sa.Table(
    "tablet",
    metadata,
    sa.Column("token_hash", _text(64), primary_key=True),
    sa.Column("person_id", _text(36), sa.ForeignKey("person.id"), nullable=False),
    sa.Column("engine_id", _text(60), sa.ForeignKey("engine.id"), nullable=False, index=True),
    sa.Column("heard_at", UtcDateTime, nullable=False),
    sa.Column("run_id", _text(36)),
    **_OPTIONS,
)
"""Tablets in use at an engine, by the session on them."""

brought_in = sa.Table(
    "brought_in",
    metadata,
    sa.Column("log_id", _text(36), primary_key=True),
    sa.Column("by_id", _text(36), sa.ForeignKey("person.id"), nullable=False),
    sa.Column("at", UtcDateTime, nullable=False),
    **_OPTIONS,
)
"""That a run or an overhaul was brought in from another installation: nothing in it was signed here."""

follow_up_done = sa.Table(
    "follow_up_done",
    metadata,
    sa.Column("run_id", _text(36), sa.ForeignKey("run.id"), primary_key=True),
    sa.Column("step", _text(80), primary_key=True),
    sa.Column("words", _text(1000), nullable=False),
    sa.Column("by_id", _text(36), sa.ForeignKey("person.id"), nullable=False),
    sa.Column("at", UtcDateTime, nullable=False),
    **_OPTIONS,
)
"""That work which a run had asked for later was done."""

kept_file = sa.Table(
    "kept_file",
    metadata,
    sa.Column("name", _text(160), primary_key=True),
    sa.Column("part", sa.Integer, primary_key=True, autoincrement=False),
    sa.Column("content", mysql.MEDIUMBLOB, nullable=False),
    **_OPTIONS,
)
"""Photographs, plans under way and printed dossiers, in parts."""

serving = sa.Table(
    "serving",
    metadata,
    sa.Column("id", _text(36), primary_key=True),
    sa.Column("host", _text(120), nullable=False),
    sa.Column("version", _text(20), nullable=False),
    sa.Column("seen_at", UtcDateTime, nullable=False),
    **_OPTIONS,
)
"""Servers at work on these tables, and when each was there last, by the database's own clock."""

site_pending = sa.Table(
    "site_pending",
    metadata,
    sa.Column("id", sa.BigInteger, primary_key=True, autoincrement=True),
    sa.Column("kind", _text(30), nullable=False),
    sa.Column("name", _text(160), nullable=False),
    sa.Column("digest", _text(64), nullable=False),
    sa.Column("vouched", _text(64), nullable=False),
    **_OPTIONS,
)
"""What was written and is not in the site log yet; ``vouched`` shows that this program wrote it."""

site_entry = sa.Table(
    "site_entry",
    metadata,
    sa.Column("place", sa.BigInteger, primary_key=True, autoincrement=False),
    sa.Column("kind", _text(30), nullable=False),
    sa.Column("name", _text(160), nullable=False),
    sa.Column("seq", sa.Integer, nullable=True),
    sa.Column("body", _LONG, nullable=False),
    sa.Index("ix_site_entry_kind_name", "kind", "name", "seq"),
    **_OPTIONS,
)
"""The leaves of the site log's tree, in their order from 0; ``body`` is what the tree covers, byte for byte."""

site_root = sa.Table(
    "site_root",
    metadata,
    sa.Column("size", sa.BigInteger, primary_key=True, autoincrement=False),
    sa.Column("body", _LONG, nullable=False),
    sa.Column("signature", _text(128), nullable=False),
    sa.Column("parts", _LONG, nullable=False),
    **_OPTIONS,
)
"""Signed roots; ``parts`` are the roots of the tree's whole parts, from which it goes on."""

site_key = sa.Table(
    "site_key",
    metadata,
    sa.Column("id", _text(16), primary_key=True),
    sa.Column("public_key", _text(64), nullable=False),
    **_OPTIONS,
)
"""Public parts of the keys that have signed roots here."""
