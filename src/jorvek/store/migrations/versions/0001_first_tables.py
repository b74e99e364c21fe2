"""first tables.

Revision ID: 0001
Revises:
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "engine",
        sa.Column("id", sa.String(length=60, collation="utf8mb4_bin"), nullable=False),
        sa.Column("body", mysql.LONGTEXT(charset="utf8mb4", collation="utf8mb4_bin"), nullable=False),
        sa.Column("added_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "person",
        sa.Column("id", sa.String(length=36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("name", sa.String(length=80, collation="utf8mb4_bin"), nullable=False),
        sa.Column("role", sa.String(length=20, collation="utf8mb4_bin"), nullable=False),
        sa.Column("pin_hash", sa.String(length=200, collation="utf8mb4_bin"), nullable=False),
        sa.Column("active", sa.Boolean(), nullable=False),
        sa.Column("failures", sa.Integer(), nullable=False),
        sa.Column("locked_until", mysql.DATETIME(fsp=6), nullable=True),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("name"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "tool",
        sa.Column("id", sa.String(length=20, collation="utf8mb4_bin"), nullable=False),
        sa.Column("body", mysql.LONGTEXT(charset="utf8mb4", collation="utf8mb4_bin"), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "procedure_revision",
        sa.Column("hash", sa.String(length=64, collation="utf8mb4_bin"), nullable=False),
        sa.Column("procedure_id", sa.String(length=60, collation="utf8mb4_bin"), nullable=False),
        sa.Column("revision", sa.String(length=6, collation="utf8mb4_bin"), nullable=False),
        sa.Column("body", mysql.LONGTEXT(charset="utf8mb4", collation="utf8mb4_bin"), nullable=False),
        sa.Column("imported_by", sa.String(length=36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("imported_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.ForeignKeyConstraint(
            ["imported_by"],
            ["person.id"],
        ),
        sa.PrimaryKeyConstraint("hash"),
        sa.UniqueConstraint("procedure_id", "revision", name="uq_procedure_revision"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "session",
        sa.Column("token_hash", sa.String(length=64, collation="utf8mb4_bin"), nullable=False),
        sa.Column("person_id", sa.String(length=36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("expires_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["person.id"],
        ),
        sa.PrimaryKeyConstraint("token_hash"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "procedure_status",
        sa.Column("id", sa.BigInteger(), autoincrement=True, nullable=False),
        sa.Column("hash", sa.String(length=64, collation="utf8mb4_bin"), nullable=False),
        sa.Column("status", sa.String(length=12, collation="utf8mb4_bin"), nullable=False),
        sa.Column("by_id", sa.String(length=36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False),
        sa.ForeignKeyConstraint(
            ["by_id"],
            ["person.id"],
        ),
        sa.ForeignKeyConstraint(
            ["hash"],
            ["procedure_revision.hash"],
        ),
        sa.PrimaryKeyConstraint("id"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "run",
        sa.Column("id", sa.String(length=36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("engine_id", sa.String(length=60, collation="utf8mb4_bin"), nullable=False),
        sa.Column("joint_key", sa.String(length=60, collation="utf8mb4_bin"), nullable=False),
        sa.Column("procedure_hash", sa.String(length=64, collation="utf8mb4_bin"), nullable=False),
        sa.Column("started_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("open_joint", sa.String(length=130, collation="utf8mb4_bin"), nullable=True),
        sa.Column("head_seq", sa.Integer(), nullable=False),
        sa.Column("head_hash", sa.String(length=64, collation="utf8mb4_bin"), nullable=False),
        sa.Column("changed_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.ForeignKeyConstraint(
            ["engine_id"],
            ["engine.id"],
        ),
        sa.ForeignKeyConstraint(
            ["procedure_hash"],
            ["procedure_revision.hash"],
        ),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("open_joint"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
    op.create_index(op.f("ix_run_changed_at"), "run", ["changed_at"], unique=False)
    op.create_table(
        "event",
        sa.Column("run_id", sa.String(length=36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("seq", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("id", sa.String(length=36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("body", mysql.LONGTEXT(charset="utf8mb4", collation="utf8mb4_bin"), nullable=False),
        sa.Column("hash", sa.String(length=64, collation="utf8mb4_bin"), nullable=False),
        sa.ForeignKeyConstraint(
            ["run_id"],
            ["run.id"],
        ),
        sa.PrimaryKeyConstraint("run_id", "seq"),
        sa.UniqueConstraint("id"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
