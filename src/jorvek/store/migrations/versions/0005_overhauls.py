"""the engine as a whole: overhauls with their logs, engine sheets, tools withdrawn, hours, follow-ups.

Revision ID: 0005
Revises: 0004
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.create_table(
        "overhaul",
        sa.Column("id", sa.String(length=36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("engine_id", sa.String(length=60, collation="utf8mb4_bin"), nullable=False),
        sa.Column("opened_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("open_engine", sa.String(length=60, collation="utf8mb4_bin"), nullable=True),
        sa.Column("head_seq", sa.Integer(), nullable=False),
        sa.Column("head_hash", sa.String(length=64, collation="utf8mb4_bin"), nullable=False),
        sa.Column("changed_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.ForeignKeyConstraint(["engine_id"], ["engine.id"]),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("open_engine"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
    op.create_index("ix_overhaul_changed_at", "overhaul", ["changed_at"])
    op.create_table(
        "overhaul_event",
        sa.Column("overhaul_id", sa.String(length=36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("seq", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("id", sa.String(length=36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("body", mysql.LONGTEXT(charset="utf8mb4", collation="utf8mb4_bin"), nullable=False),
        sa.Column("hash", sa.String(length=64, collation="utf8mb4_bin"), nullable=False),
        sa.ForeignKeyConstraint(["overhaul_id"], ["overhaul.id"]),
        sa.PrimaryKeyConstraint("overhaul_id", "seq"),
        sa.UniqueConstraint("id"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "sheet_revision",
        sa.Column("hash", sa.String(length=64, collation="utf8mb4_bin"), nullable=False),
        sa.Column("sheet_id", sa.String(length=60, collation="utf8mb4_bin"), nullable=False),
        sa.Column("revision", sa.String(length=6, collation="utf8mb4_bin"), nullable=False),
        sa.Column("engine_type", sa.String(length=120, collation="utf8mb4_bin"), nullable=False),
        sa.Column("body", mysql.LONGTEXT(charset="utf8mb4", collation="utf8mb4_bin"), nullable=False),
        sa.Column("imported_by", sa.String(length=36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("imported_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.ForeignKeyConstraint(["imported_by"], ["person.id"]),
        sa.PrimaryKeyConstraint("hash"),
        sa.UniqueConstraint("sheet_id", "revision", name="uq_sheet_revision"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "sheet_status",
        sa.Column("id", sa.BigInteger(), autoincrement=True, nullable=False),
        sa.Column("hash", sa.String(length=64, collation="utf8mb4_bin"), nullable=False),
        sa.Column("status", sa.String(length=12, collation="utf8mb4_bin"), nullable=False),
        sa.Column("by_id", sa.String(length=36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"]),
        sa.ForeignKeyConstraint(["hash"], ["sheet_revision.hash"]),
        sa.PrimaryKeyConstraint("id"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "tool_standing",
        sa.Column("id", sa.BigInteger(), autoincrement=True, nullable=False),
        sa.Column("tool_id", sa.String(length=20, collation="utf8mb4_bin"), nullable=False),
        sa.Column("withdrawn", sa.Boolean(), nullable=False),
        sa.Column("words", sa.String(length=1000, collation="utf8mb4_bin"), nullable=False),
        sa.Column("by_id", sa.String(length=36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"]),
        sa.ForeignKeyConstraint(["tool_id"], ["tool.id"]),
        sa.PrimaryKeyConstraint("id"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "engine_hours",
        sa.Column("id", sa.BigInteger(), autoincrement=True, nullable=False),
        sa.Column("engine_id", sa.String(length=60, collation="utf8mb4_bin"), nullable=False),
        sa.Column("hours", sa.Double(), nullable=False),
        sa.Column("on", sa.Date(), nullable=False),
        sa.Column("by_id", sa.String(length=36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"]),
        sa.ForeignKeyConstraint(["engine_id"], ["engine.id"]),
        sa.PrimaryKeyConstraint("id"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "follow_up_done",
        sa.Column("run_id", sa.String(length=36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("step", sa.String(length=80, collation="utf8mb4_bin"), nullable=False),
        sa.Column("words", sa.String(length=1000, collation="utf8mb4_bin"), nullable=False),
        sa.Column("by_id", sa.String(length=36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"]),
        sa.ForeignKeyConstraint(["run_id"], ["run.id"]),
        sa.PrimaryKeyConstraint("run_id", "step"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
