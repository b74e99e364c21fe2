"""that a log was brought in from another installation, by whom and when.

Revision ID: 0009
Revises: 0008
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    op.create_table(
        "brought_in",
        sa.Column("log_id", sa.String(36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("by_id", sa.String(36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"]),
        sa.PrimaryKeyConstraint("log_id"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
