"""what lists say of each run, kept beside it.

Revision ID: 0003
Revises: 0002
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.create_table(
        "run_digest",
        sa.Column("run_id", sa.String(length=36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("name", sa.String(length=20, collation="utf8mb4_bin"), nullable=False),
        sa.Column("program", sa.String(length=64, collation="utf8mb4_bin"), nullable=False),
        sa.Column("head_hash", sa.String(length=64, collation="utf8mb4_bin"), nullable=False),
        sa.Column("body", mysql.LONGTEXT(charset="utf8mb4", collation="utf8mb4_bin"), nullable=False),
        sa.ForeignKeyConstraint(["run_id"], ["run.id"]),
        sa.PrimaryKeyConstraint("run_id", "name"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
