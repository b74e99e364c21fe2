"""tablets in use at an engine, so that one that falls silent is known.

Revision ID: 0006
Revises: 0005
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.create_table(
        "tablet",
        sa.Column("token_hash", sa.String(length=64, collation="utf8mb4_bin"), nullable=False),
        sa.Column("person_id", sa.String(length=36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("engine_id", sa.String(length=60, collation="utf8mb4_bin"), nullable=False),
        sa.Column("heard_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.ForeignKeyConstraint(["engine_id"], ["engine.id"]),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"]),
        sa.PrimaryKeyConstraint("token_hash"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
    op.create_index("ix_tablet_engine_id", "tablet", ["engine_id"])
